-- +goose Up

-- What is due comes in the order in which it is released: by ship-by day, then by tier.
DROP INDEX line_count_day;
CREATE INDEX line_count_due ON line_count (ship_by, tier, line_id) WHERE delivered + dropped < ordered;

-- The ship rule of its order stands beside a line's counts, too: only of an order that goes whole has the order to be looked at.
ALTER TABLE line_count ADD COLUMN ship_rule text;
ALTER TABLE line_count DISABLE TRIGGER USER;
UPDATE line_count n SET ship_rule = o.ship_rule FROM sales_order o WHERE o.id = n.order_id;
ALTER TABLE line_count ENABLE TRIGGER USER;
ALTER TABLE line_count ALTER COLUMN ship_rule SET NOT NULL;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION line_starts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    INSERT INTO line_count (line_id, order_id, item_id, warehouse_id, ship_by, tier, ship_rule)
        SELECT l.id, l.order_id, l.item_id, l.warehouse_id, l.ship_by, o.tier, o.ship_rule FROM fresh l JOIN sales_order o ON o.id = l.order_id;
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION order_moves() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE order_count SET number = NEW.number, customer_id = NEW.customer_id, channel = NEW.channel, tier = NEW.tier, wanted = NEW.wanted, currency = NEW.currency,
        ship_rule = NEW.ship_rule WHERE order_id = NEW.id;
    UPDATE line_count SET tier = NEW.tier, ship_rule = NEW.ship_rule
        WHERE line_id IN (SELECT id FROM order_line WHERE order_id = NEW.id) AND (tier, ship_rule) IS DISTINCT FROM (NEW.tier, NEW.ship_rule);
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- What has a number and a name is found by parts of either: they stand together, in small letters, with one index for both.
ALTER TABLE item ADD COLUMN found_by text NOT NULL GENERATED ALWAYS AS (lower(sku || E'\n' || name)) STORED;
ALTER TABLE customer ADD COLUMN found_by text NOT NULL GENERATED ALWAYS AS (lower(code || E'\n' || name)) STORED;
ALTER TABLE sales_order ADD COLUMN found_by text NOT NULL GENERATED ALWAYS AS (lower(number || E'\n' || customer_ref)) STORED;
DROP INDEX item_part, customer_part, sales_order_number_part, sales_order_ref_part;
CREATE INDEX item_part ON item USING gin (found_by gin_trgm_ops);
CREATE INDEX customer_part ON customer USING gin (found_by gin_trgm_ops);
CREATE INDEX sales_order_part ON sales_order USING gin (found_by gin_trgm_ops);

-- Which orders have an item or a customer, and which items an order has, is read from an index alone.
DROP INDEX order_line_item, sales_order_customer;
CREATE INDEX order_line_item ON order_line (item_id, warehouse_id) INCLUDE (order_id);
CREATE INDEX sales_order_customer ON sales_order (customer_id, wanted) INCLUDE (id);
ALTER TABLE order_line DROP CONSTRAINT order_line_order_id_line_no_key,
    ADD CONSTRAINT order_line_order_id_line_no_key UNIQUE (order_id, line_no) INCLUDE (item_id);

-- What is wanted of an item has changed, too, where nothing but who wants it or when has: such a row adds nothing, and says so. By these rows
-- it is known of which items it has to be worked out again who goes short.
ALTER TABLE wanting_part ADD COLUMN id bigint GENERATED ALWAYS AS IDENTITY;
-- +goose StatementBegin
CREATE FUNCTION order_wants_otherwise() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    changed bigint := CASE TG_TABLE_NAME WHEN 'hold' THEN (to_jsonb(NEW) ->> 'order_id')::bigint ELSE (to_jsonb(NEW) ->> 'id')::bigint END;
BEGIN
    INSERT INTO wanting_part (item_id, warehouse_id, units, lines)
        SELECT DISTINCT l.item_id, l.warehouse_id, 0, 0 FROM order_line l JOIN line_count n ON n.line_id = l.id WHERE l.order_id = changed AND n.open > 0;
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION line_wants_otherwise() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    INSERT INTO wanting_part (item_id, warehouse_id, units, lines) VALUES (NEW.item_id, NEW.warehouse_id, 0, 0);
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER wants_otherwise AFTER INSERT OR UPDATE ON hold FOR EACH ROW EXECUTE FUNCTION order_wants_otherwise();
CREATE TRIGGER wants_otherwise AFTER UPDATE OF number, tier, urgency, entered_at ON sales_order FOR EACH ROW
    WHEN ((OLD.number, OLD.tier, OLD.urgency, OLD.entered_at) IS DISTINCT FROM (NEW.number, NEW.tier, NEW.urgency, NEW.entered_at))
    EXECUTE FUNCTION order_wants_otherwise();
CREATE TRIGGER wants_otherwise AFTER UPDATE OF ship_by, price_minor ON order_line FOR EACH ROW
    WHEN ((OLD.ship_by, OLD.price_minor) IS DISTINCT FROM (NEW.ship_by, NEW.price_minor)) EXECUTE FUNCTION line_wants_otherwise();
REVOKE ALL ON FUNCTION order_wants_otherwise(), line_wants_otherwise() FROM PUBLIC;
