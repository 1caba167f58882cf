-- +goose Up

-- What was promised to whom for when. Like moves, promises are written once: each entry says what a
-- line's promises were and are from then on; the newest entry of a line is what stands. Entries share
-- their numbers with the journal, so that a line's version tells of both.

CREATE TABLE promise_entry (
    id         bigint PRIMARY KEY DEFAULT nextval('journal_id_seq'),
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    line_id    bigint NOT NULL,
    order_id   bigint NOT NULL,
    item_id    bigint NOT NULL,
    was        jsonb NOT NULL, -- a list of {"warehouse": key, "day": "2027-03-01", "qty": 3}, by day
    now        jsonb NOT NULL,
    was_units  bigint NOT NULL CHECK (was_units >= 0),
    now_units  bigint NOT NULL CHECK (now_units >= 0),
    cause      text NOT NULL CHECK (cause IN ('promised', 'kept by allocating', 'fewer are open', 'taken back')),
    UNIQUE (command_id, line_id),
    FOREIGN KEY (line_id, order_id, item_id) REFERENCES order_line (id, order_id, item_id)
);
CREATE INDEX promise_entry_line ON promise_entry (line_id, id);

-- What stands now.
CREATE TABLE promise (
    line_id      bigint NOT NULL,
    order_id     bigint NOT NULL,
    item_id      bigint NOT NULL,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    day          date NOT NULL,
    qty          bigint NOT NULL CHECK (qty > 0),
    PRIMARY KEY (line_id, warehouse_id, day),
    FOREIGN KEY (line_id, order_id, item_id) REFERENCES order_line (id, order_id, item_id)
);
CREATE INDEX promise_cell ON promise (item_id, warehouse_id, day);
CREATE INDEX promise_day ON promise (day);

ALTER TABLE line_count ADD COLUMN promised bigint NOT NULL DEFAULT 0,
    ADD CONSTRAINT promised_units_are_open CHECK (promised BETWEEN 0 AND open);
ALTER TABLE order_count ADD COLUMN promised bigint NOT NULL DEFAULT 0;

-- +goose StatementBegin
CREATE FUNCTION promise_stands() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    DELETE FROM promise p USING fresh f WHERE p.line_id = f.line_id;
    INSERT INTO promise (line_id, order_id, item_id, warehouse_id, day, qty)
        SELECT f.line_id, f.order_id, f.item_id, x.warehouse, x.day, sum(x.qty)
        FROM fresh f, jsonb_to_recordset(f.now) AS x (warehouse bigint, day date, qty bigint) GROUP BY 1, 2, 3, 4, 5;
    UPDATE line_count c SET promised = f.now_units, version = f.id FROM fresh f WHERE c.line_id = f.line_id;
    PERFORM 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh) ORDER BY order_id FOR NO KEY UPDATE;
    UPDATE order_count c SET promised = c.promised + f.units, version = greatest(c.version, f.id)
    FROM (SELECT order_id, sum(now_units - was_units) AS units, max(id) AS id FROM fresh GROUP BY 1) f WHERE c.order_id = f.order_id;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER promise_stands AFTER INSERT ON promise_entry REFERENCING NEW TABLE AS fresh
    FOR EACH STATEMENT EXECUTE FUNCTION promise_stands();
CREATE TRIGGER promise_entry_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON promise_entry
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

-- A receipt that was given another day: who, when and why is told by the command.
CREATE TABLE due_change (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    inbound_id bigint NOT NULL REFERENCES inbound,
    was        date NOT NULL,
    now        date NOT NULL CHECK (now <> was)
);
CREATE INDEX due_change_inbound ON due_change (inbound_id, id);
CREATE TRIGGER due_change_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON due_change
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

-- How long each service takes, in working days, from a warehouse to its customers.
CREATE TABLE service (
    code         text PRIMARY KEY,
    name         text NOT NULL,
    transit_days integer NOT NULL CHECK (transit_days BETWEEN 0 AND 60)
);
INSERT INTO service (code, name, transit_days) VALUES
    ('parcel', 'Parcel', 2), ('overnight', 'Overnight', 1), ('pallet', 'Pallet', 3), ('counter', 'Collected at the counter', 0);

GRANT SELECT ON promise_entry, promise, due_change, service TO journeyman_app;
GRANT INSERT ON promise_entry, due_change TO journeyman_app;
GRANT USAGE ON SEQUENCE journal_id_seq TO journeyman_app;
