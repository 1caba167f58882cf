-- +goose Up

-- A hold on a customer: each of its orders is on hold while it stands, those that come later, too.
CREATE TABLE customer_hold (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    customer_id bigint NOT NULL REFERENCES customer,
    kind        text NOT NULL CHECK (kind IN ('credit', 'coordinator')),
    note        text NOT NULL CHECK (note <> ''),
    placed_by   bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    lifted_by   bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED
);
CREATE UNIQUE INDEX customer_hold_standing ON customer_hold (customer_id) WHERE lifted_by IS NULL;
GRANT SELECT, INSERT ON customer_hold TO journeyman_app;
GRANT UPDATE (lifted_by) ON customer_hold TO journeyman_app;

-- On an order it is a hold of a kind of its own beside those of the order itself: one can be lifted while the other stands.
ALTER TABLE hold
    ADD COLUMN customer_hold_id bigint REFERENCES customer_hold,
    DROP CONSTRAINT hold_kind_check,
    ADD CONSTRAINT hold_kind_check CHECK (kind IN ('approval', 'credit', 'coordinator', 'customer')),
    ADD CONSTRAINT hold_of_a_customer_names_it CHECK ((kind = 'customer') = (customer_hold_id IS NOT NULL));
CREATE INDEX hold_customer ON hold (customer_hold_id, order_id) WHERE customer_hold_id IS NOT NULL;

-- An order of which there is something to send is on hold while its customer is, however it came to that: entered, imported, or reopened.
-- Whoever places such a hold holds the customer's row still; an order that had nothing to send until now waits for it, or is waited for: so
-- one of the two sees the other.
-- +goose StatementBegin
CREATE FUNCTION held_with_customer() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    PERFORM 1 FROM customer c WHERE c.id IN (
        SELECT n.customer_id FROM now_counted n JOIN was_counted w ON w.order_id = n.order_id
        WHERE w.shipped + w.delivered + w.dropped = w.ordered AND n.shipped + n.delivered + n.dropped < n.ordered
    ) ORDER BY c.id FOR KEY SHARE;
    INSERT INTO hold (order_id, kind, note, placed_by, customer_hold_id)
        SELECT n.order_id, 'customer', h.note, h.placed_by, h.id FROM now_counted n JOIN customer_hold h ON h.customer_id = n.customer_id
        WHERE h.lifted_by IS NULL AND n.shipped + n.delivered + n.dropped < n.ordered
            AND NOT EXISTS (SELECT 1 FROM hold x WHERE x.order_id = n.order_id AND x.customer_hold_id = h.id);
    RETURN NULL;
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION held_with_customer() FROM PUBLIC;
CREATE TRIGGER held_with_customer AFTER UPDATE ON order_count REFERENCING OLD TABLE AS was_counted NEW TABLE AS now_counted
    FOR EACH STATEMENT EXECUTE FUNCTION held_with_customer();
