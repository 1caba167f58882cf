-- +goose Up

-- What lists and the strip need so that none of them reads all open lines.

-- Part of a number or name is found by its groups of three letters. The indexes are on what is written in small letters, so that they are not
-- taken for finding a whole number, which the plain ones do in a hundredth of the time.
CREATE EXTENSION IF NOT EXISTS pg_trgm;
CREATE INDEX sales_order_number_part ON sales_order USING gin (lower(number) gin_trgm_ops);
CREATE INDEX sales_order_ref_part ON sales_order USING gin (lower(customer_ref) gin_trgm_ops);
CREATE INDEX item_part ON item USING gin (lower(sku) gin_trgm_ops, lower(name) gin_trgm_ops);
CREATE INDEX customer_part ON customer USING gin (lower(code) gin_trgm_ops, lower(name) gin_trgm_ops);
CREATE INDEX shipment_part ON shipment USING gin (lower(number) gin_trgm_ops, lower(tracking) gin_trgm_ops);
CREATE INDEX pick_list_part ON pick_list USING gin (lower(number) gin_trgm_ops);
CREATE INDEX inbound_part ON inbound USING gin (lower(ref) gin_trgm_ops);

-- A list is read in the order of an index. What an order is worth changes when it is entered or changed, not with its moves.
CREATE INDEX sales_order_channel ON sales_order (channel, number);
CREATE INDEX sales_order_tier ON sales_order (tier, number);
CREATE INDEX sales_order_wanted_number ON sales_order (wanted, number);
CREATE INDEX sales_order_entered_number ON sales_order (entered_at, number);
DROP INDEX sales_order_wanted, sales_order_entered;
CREATE INDEX customer_name ON customer (name, id);
CREATE INDEX customer_tier ON customer (tier, name);
CREATE INDEX order_count_value ON order_count (value_minor, order_id);
CREATE INDEX order_count_margin ON order_count ((CASE WHEN value_minor = 0 THEN 1 ELSE (value_minor - cost_minor)::numeric / value_minor END), order_id);

-- Of a line that is not finished, where and when it is wanted stands beside its counts, so that one index finds it. It changes with the line.
ALTER TABLE line_count ADD COLUMN order_id bigint, ADD COLUMN item_id bigint, ADD COLUMN warehouse_id bigint, ADD COLUMN ship_by date, ADD COLUMN tier integer;
ALTER TABLE line_count DISABLE TRIGGER USER;
UPDATE line_count n SET order_id = l.order_id, item_id = l.item_id, warehouse_id = l.warehouse_id, ship_by = l.ship_by, tier = o.tier
    FROM order_line l JOIN sales_order o ON o.id = l.order_id WHERE l.id = n.line_id;
ALTER TABLE line_count ENABLE TRIGGER USER;
ALTER TABLE line_count ALTER COLUMN order_id SET NOT NULL, ALTER COLUMN item_id SET NOT NULL, ALTER COLUMN warehouse_id SET NOT NULL,
    ALTER COLUMN ship_by SET NOT NULL, ALTER COLUMN tier SET NOT NULL;
DROP INDEX line_count_live;
CREATE INDEX line_count_day ON line_count (ship_by, line_id) WHERE delivered + dropped < ordered;
CREATE INDEX line_count_tier ON line_count (tier, ship_by, line_id) WHERE delivered + dropped < ordered;
CREATE INDEX line_count_item ON line_count (item_id, warehouse_id, ship_by, line_id) WHERE delivered + dropped < ordered;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION line_starts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    INSERT INTO line_count (line_id, order_id, item_id, warehouse_id, ship_by, tier)
        SELECT l.id, l.order_id, l.item_id, l.warehouse_id, l.ship_by, o.tier FROM fresh l JOIN sales_order o ON o.id = l.order_id;
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- The same of an order, by which lists sort.
ALTER TABLE order_count ADD COLUMN number text, ADD COLUMN customer_id bigint, ADD COLUMN channel text, ADD COLUMN tier integer, ADD COLUMN wanted date, ADD COLUMN currency text, ADD COLUMN ship_rule text;
UPDATE order_count n SET number = o.number, customer_id = o.customer_id, channel = o.channel, tier = o.tier, wanted = o.wanted, currency = o.currency, ship_rule = o.ship_rule
    FROM sales_order o WHERE o.id = n.order_id;
ALTER TABLE order_count ALTER COLUMN number SET NOT NULL, ALTER COLUMN customer_id SET NOT NULL, ALTER COLUMN channel SET NOT NULL,
    ALTER COLUMN tier SET NOT NULL, ALTER COLUMN wanted SET NOT NULL, ALTER COLUMN currency SET NOT NULL, ALTER COLUMN ship_rule SET NOT NULL;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION order_starts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    INSERT INTO order_count (order_id, number, customer_id, channel, tier, wanted, currency, ship_rule)
        SELECT id, number, customer_id, channel, tier, wanted, currency, ship_rule FROM fresh;
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION order_moves() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE order_count SET number = NEW.number, customer_id = NEW.customer_id, channel = NEW.channel, tier = NEW.tier, wanted = NEW.wanted, currency = NEW.currency,
        ship_rule = NEW.ship_rule WHERE order_id = NEW.id;
    UPDATE line_count SET tier = NEW.tier WHERE order_id = NEW.id AND line_id IN (SELECT id FROM order_line WHERE order_id = NEW.id) AND tier <> NEW.tier;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER order_moves AFTER UPDATE OF number, customer_id, channel, tier, wanted, currency, ship_rule ON sales_order FOR EACH ROW
    WHEN ((OLD.number, OLD.customer_id, OLD.channel, OLD.tier, OLD.wanted, OLD.currency, OLD.ship_rule)
        IS DISTINCT FROM (NEW.number, NEW.customer_id, NEW.channel, NEW.tier, NEW.wanted, NEW.currency, NEW.ship_rule))
    EXECUTE FUNCTION order_moves();

-- What is picked and waits to be packed.
CREATE INDEX line_at_picked ON line_at (line_id, warehouse_id) WHERE picked > 0;

-- How many units and lines stand at each station, and how many open units and lines each item has in each warehouse, as sums of rows that are
-- only added: nobody waits for a row that somebody else adds to. What has been added is now and then put together (compact_counts).
CREATE TABLE strip_part (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    open            bigint NOT NULL, -- without a promise
    open_lines      bigint NOT NULL,
    promised        bigint NOT NULL,
    promised_lines  bigint NOT NULL,
    allocated       bigint NOT NULL,
    allocated_lines bigint NOT NULL,
    released        bigint NOT NULL,
    released_lines  bigint NOT NULL,
    picked          bigint NOT NULL,
    picked_lines    bigint NOT NULL,
    packed          bigint NOT NULL,
    packed_lines    bigint NOT NULL,
    shipped         bigint NOT NULL,
    shipped_lines   bigint NOT NULL
);
CREATE TABLE wanting_part (
    item_id      bigint NOT NULL,
    warehouse_id bigint NOT NULL,
    units        bigint NOT NULL,
    lines        bigint NOT NULL
);
CREATE INDEX wanting_part_of ON wanting_part (item_id, warehouse_id);
CREATE VIEW wanting AS SELECT item_id, warehouse_id, sum(units)::bigint AS units, sum(lines)::bigint AS lines FROM wanting_part GROUP BY 1, 2;

-- Units that arrived, by day.
CREATE TABLE delivered_part (
    day   date NOT NULL,
    units bigint NOT NULL
);
CREATE INDEX delivered_part_day ON delivered_part (day);

INSERT INTO strip_part (open, open_lines, promised, promised_lines, allocated, allocated_lines, released, released_lines, picked, picked_lines, packed, packed_lines, shipped, shipped_lines)
    SELECT coalesce(sum(open - promised), 0), count(*) FILTER (WHERE open > promised), coalesce(sum(promised), 0), count(*) FILTER (WHERE promised > 0),
        coalesce(sum(allocated), 0), count(*) FILTER (WHERE allocated > 0), coalesce(sum(released), 0), count(*) FILTER (WHERE released > 0),
        coalesce(sum(picked), 0), count(*) FILTER (WHERE picked > 0), coalesce(sum(packed), 0), count(*) FILTER (WHERE packed > 0),
        coalesce(sum(shipped), 0), count(*) FILTER (WHERE shipped > 0)
    FROM line_count;
INSERT INTO wanting_part SELECT item_id, warehouse_id, sum(open), count(*) FROM line_count WHERE open > 0 GROUP BY 1, 2;
INSERT INTO delivered_part SELECT (c.at AT TIME ZONE 'UTC')::date, sum(j.qty) FROM journal j JOIN command c ON c.id = j.command_id WHERE j.kind = 'deliver' GROUP BY 1;

-- +goose StatementBegin
CREATE FUNCTION strip_counts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    INSERT INTO strip_part (open, open_lines, promised, promised_lines, allocated, allocated_lines, released, released_lines, picked, picked_lines,
            packed, packed_lines, shipped, shipped_lines)
        SELECT units(n.open - n.promised - o.open + o.promised), units((n.open > n.promised)::int::bigint - (o.open > o.promised)::int),
            units(n.promised - o.promised), units((n.promised > 0)::int::bigint - (o.promised > 0)::int),
            units(n.allocated - o.allocated), units((n.allocated > 0)::int::bigint - (o.allocated > 0)::int),
            units(n.released - o.released), units((n.released > 0)::int::bigint - (o.released > 0)::int),
            units(n.picked - o.picked), units((n.picked > 0)::int::bigint - (o.picked > 0)::int),
            units(n.packed - o.packed), units((n.packed > 0)::int::bigint - (o.packed > 0)::int),
            units(n.shipped - o.shipped), units((n.shipped > 0)::int::bigint - (o.shipped > 0)::int)
        FROM now_counted n JOIN was_counted o USING (line_id);
    INSERT INTO wanting_part
        SELECT x.item_id, x.warehouse_id, sum(x.units), sum(x.lines)
        FROM (SELECT item_id, warehouse_id, open AS units, (open > 0)::int AS lines FROM now_counted
            UNION ALL SELECT item_id, warehouse_id, -open, -(open > 0)::int FROM was_counted) x
        GROUP BY 1, 2 HAVING sum(x.units) <> 0 OR sum(x.lines) <> 0;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER strip_counts AFTER UPDATE ON line_count REFERENCING OLD TABLE AS was_counted NEW TABLE AS now_counted
    FOR EACH STATEMENT EXECUTE FUNCTION strip_counts();

-- Where and when a line is wanted is carried to its counts.
-- +goose StatementBegin
CREATE FUNCTION line_moves() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE line_count SET warehouse_id = NEW.warehouse_id, ship_by = NEW.ship_by WHERE line_id = NEW.id;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER line_moves AFTER UPDATE OF warehouse_id, ship_by ON order_line FOR EACH ROW
    WHEN (OLD.warehouse_id <> NEW.warehouse_id OR OLD.ship_by <> NEW.ship_by) EXECUTE FUNCTION line_moves();

-- Puts together what was added, if there is much of it. Whoever reads meanwhile sees the same sums.
-- +goose StatementBegin
CREATE FUNCTION compact_counts() RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    IF NOT pg_try_advisory_xact_lock(7201007) THEN
        RETURN; -- somebody is at it
    END IF;
    IF (SELECT count(*) FROM (SELECT 1 FROM strip_part LIMIT 101) x) > 100 THEN
        WITH gone AS (DELETE FROM strip_part RETURNING *)
        INSERT INTO strip_part (open, open_lines, promised, promised_lines, allocated, allocated_lines, released, released_lines, picked, picked_lines,
            packed, packed_lines, shipped, shipped_lines)
        SELECT sum(open), sum(open_lines), sum(promised), sum(promised_lines), sum(allocated), sum(allocated_lines), sum(released), sum(released_lines),
            sum(picked), sum(picked_lines), sum(packed), sum(packed_lines), sum(shipped), sum(shipped_lines) FROM gone HAVING count(*) > 0;
        WITH gone AS (DELETE FROM wanting_part w USING (SELECT item_id, warehouse_id FROM wanting_part GROUP BY 1, 2 HAVING count(*) > 1) x
            WHERE w.item_id = x.item_id AND w.warehouse_id = x.warehouse_id RETURNING w.*)
        INSERT INTO wanting_part SELECT item_id, warehouse_id, sum(units), sum(lines) FROM gone GROUP BY 1, 2 HAVING sum(units) <> 0 OR sum(lines) <> 0;
        WITH gone AS (DELETE FROM delivered_part d USING (SELECT day FROM delivered_part GROUP BY 1 HAVING count(*) > 1) x WHERE d.day = x.day RETURNING d.*)
        INSERT INTO delivered_part SELECT day, sum(units) FROM gone GROUP BY 1;
    END IF;
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION compact_counts() FROM PUBLIC;
GRANT EXECUTE ON FUNCTION compact_counts() TO journeyman_app;
GRANT SELECT ON strip_part, wanting_part, wanting, delivered_part TO journeyman_app;
GRANT INSERT ON delivered_part TO journeyman_app;
