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

-- What a statement did to the counts is added up once for each item and warehouse, and from that for the strip.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION strip_counts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    WITH changed AS (
        SELECT item_id, warehouse_id, units(by * open) AS wanted, units(by * (open > 0)::int) AS wanting, units(by * (open - promised)) AS open,
            units(by * (open > promised)::int) AS open_lines, units(by * promised) AS promised, units(by * (promised > 0)::int) AS promised_lines,
            units(by * allocated) AS allocated, units(by * (allocated > 0)::int) AS allocated_lines,
            units(by * released) AS released, units(by * (released > 0)::int) AS released_lines,
            units(by * picked) AS picked, units(by * (picked > 0)::int) AS picked_lines, units(by * packed) AS packed,
            units(by * (packed > 0)::int) AS packed_lines, units(by * shipped) AS shipped, units(by * (shipped > 0)::int) AS shipped_lines
        FROM (SELECT 1::bigint AS by, * FROM now_counted UNION ALL SELECT -1::bigint, * FROM was_counted) x GROUP BY 1, 2
    ), wants AS (
        INSERT INTO wanting_part (item_id, warehouse_id, units, lines)
            SELECT item_id, warehouse_id, wanted, wanting FROM changed WHERE wanted <> 0 OR wanting <> 0
    )
    INSERT INTO strip_part (open, open_lines, promised, promised_lines, allocated, allocated_lines, released, released_lines, picked, picked_lines,
            packed, packed_lines, shipped, shipped_lines)
        SELECT units(open), units(open_lines), units(promised), units(promised_lines), units(allocated), units(allocated_lines),
            units(released), units(released_lines), units(picked), units(picked_lines), units(packed), units(packed_lines), units(shipped),
            units(shipped_lines)
        FROM changed;
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- That promises name a warehouse is looked up once for all that a statement writes, not once for each.
ALTER TABLE promise DROP CONSTRAINT promise_warehouse_id_fkey;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION promise_stands() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    nowhere bigint;
BEGIN
    IF EXISTS (SELECT 1 FROM fresh f WHERE NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = f.line_id AND l.order_id = f.order_id AND l.item_id = f.item_id)) THEN
        RAISE EXCEPTION 'a promise names what is not in order_line' USING ERRCODE = 'foreign_key_violation', CONSTRAINT = 'promise_names_order_line';
    END IF;
    IF EXISTS (SELECT 1 FROM fresh f WHERE f.now_units <> (SELECT coalesce(sum(x.qty), 0) FROM jsonb_to_recordset(f.now) AS x (qty numeric))
            OR EXISTS (SELECT 1 FROM jsonb_to_recordset(f.now) AS x (qty numeric) WHERE x.qty NOT BETWEEN 1 AND 9000000000000000000 OR x.qty <> trunc(x.qty))) THEN
        RAISE EXCEPTION 'the units of a promise are not the sum of its parts' USING ERRCODE = 'check_violation', CONSTRAINT = 'promised_units_are_the_sum';
    END IF;
    INSERT INTO command_awaited SELECT DISTINCT f.command_id FROM fresh f WHERE NOT EXISTS (SELECT 1 FROM command c WHERE c.id = f.command_id) ON CONFLICT DO NOTHING;
    DELETE FROM promise p USING fresh f WHERE p.line_id = f.line_id;
    WITH promised AS (INSERT INTO promise (line_id, order_id, item_id, warehouse_id, day, qty)
        SELECT f.line_id, f.order_id, f.item_id, x.warehouse, x.day, sum(x.qty)
        FROM fresh f, jsonb_to_recordset(f.now) AS x (warehouse bigint, day date, qty bigint) GROUP BY 1, 2, 3, 4, 5 RETURNING warehouse_id)
    SELECT warehouse_id INTO nowhere FROM (SELECT DISTINCT warehouse_id FROM promised) p
        WHERE NOT EXISTS (SELECT 1 FROM warehouse w WHERE w.id = p.warehouse_id) LIMIT 1;
    IF nowhere IS NOT NULL THEN
        RAISE EXCEPTION 'a promise names what is not in warehouse' USING ERRCODE = 'foreign_key_violation', CONSTRAINT = 'promise_names_warehouse';
    END IF;
    -- Thousands of promises that change with moves of the same command are counted together with them: a row that changes twice costs twice.
    IF current_setting('journeyman.moves_follow', true) = 'yes' OR EXISTS (SELECT 1 FROM promise_awaited a WHERE a.command_id IN (SELECT command_id FROM fresh)) THEN
        INSERT INTO promise_awaited SELECT f.command_id, min(f.id) FROM fresh f GROUP BY 1 ON CONFLICT DO NOTHING;
        RETURN NULL;
    END IF;
    UPDATE line_count c SET promised = f.now_units, version = f.id FROM fresh f WHERE c.line_id = f.line_id;
    PERFORM 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh) ORDER BY order_id FOR NO KEY UPDATE;
    UPDATE order_count c SET promised = c.promised + f.units, version = greatest(c.version, f.id)
    FROM (SELECT order_id, sum(now_units - was_units) AS units, max(id) AS id FROM fresh GROUP BY 1) f WHERE c.order_id = f.order_id;
    RETURN NULL;
END $$;
-- +goose StatementEnd
