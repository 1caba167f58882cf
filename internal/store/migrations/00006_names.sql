-- +goose Up

-- What an entry names is looked up for all entries of a statement at once. A foreign key looks once for
-- each entry and each key, and holds the row that is named: for a hundred thousand moves that took longer than all
-- the rest, and moves of one item waited for each other's marks on it.
--
-- Nothing is lost by it: what may be named is never deleted and keeps its key, which is refused below to
-- everybody, so that what was found stays found.

ALTER TABLE journal
    DROP CONSTRAINT journal_command_id_fkey,
    DROP CONSTRAINT journal_item_id_fkey,
    DROP CONSTRAINT journal_warehouse_id_fkey,
    DROP CONSTRAINT journal_package_id_fkey,
    DROP CONSTRAINT journal_inbound_id_fkey,
    DROP CONSTRAINT journal_kind_from_station_to_station_cause_fkey,
    DROP CONSTRAINT journal_line_id_order_id_item_id_fkey,
    DROP CONSTRAINT journal_task_id_line_id_fkey,
    DROP CONSTRAINT journal_bin_id_warehouse_id_fkey;
ALTER TABLE promise_entry
    DROP CONSTRAINT promise_entry_command_id_fkey,
    DROP CONSTRAINT promise_entry_line_id_order_id_item_id_fkey;
-- What follows is written by the triggers alone, from what they have looked up or from the rows themselves.
ALTER TABLE promise DROP CONSTRAINT promise_line_id_order_id_item_id_fkey;
ALTER TABLE line_at DROP CONSTRAINT line_at_line_id_fkey, DROP CONSTRAINT line_at_warehouse_id_fkey;
ALTER TABLE line_count DROP CONSTRAINT line_count_line_id_fkey;
ALTER TABLE order_count DROP CONSTRAINT order_count_order_id_fkey;

-- +goose StatementBegin
CREATE FUNCTION named_stays() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'entries of the journal name what stands in %: % is refused', TG_TABLE_NAME, TG_OP USING ERRCODE = 'foreign_key_violation';
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
DO $do$
DECLARE
    t    text;
    cols text;
BEGIN
    FOR t, cols IN VALUES ('command', 'id'), ('item', 'id'), ('warehouse', 'id'), ('bin', 'id, warehouse_id'), ('package', 'id'), ('inbound', 'id'),
        ('pick_task', 'id, line_id'), ('sales_order', 'id'), ('order_line', 'id, order_id, item_id'), ('move_rule', 'kind, from_station, to_station, cause')
    LOOP
        EXECUTE format('CREATE TRIGGER named_stays BEFORE DELETE OR TRUNCATE OR UPDATE OF %s ON %I FOR EACH STATEMENT EXECUTE FUNCTION named_stays()', cols, t);
    END LOOP;
END $do$;
-- +goose StatementEnd

-- A command is written when it ends, once. Entries that were written before it wait for it here.
CREATE TABLE command_awaited (
    command_id bigint PRIMARY KEY REFERENCES command DEFERRABLE INITIALLY DEFERRED
);

-- +goose StatementBegin
CREATE FUNCTION journal_names() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    few   constant bigint := 40;
    wrong text;
BEGIN
    IF (SELECT count(*) FROM (SELECT 1 FROM fresh LIMIT few + 1) x) <= few THEN
        SELECT x.missing INTO wrong FROM (SELECT CASE
            WHEN NOT EXISTS (SELECT 1 FROM move_rule r WHERE r.kind = f.kind AND r.from_station = f.from_station AND r.to_station = f.to_station AND r.cause = f.cause) THEN 'move_rule'
            WHEN f.line_id IS NULL AND NOT EXISTS (SELECT 1 FROM item i WHERE i.id = f.item_id) THEN 'item'
            WHEN f.line_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = f.line_id AND l.order_id = f.order_id AND l.item_id = f.item_id) THEN 'order_line'
            WHEN f.warehouse_id IS NOT NULL AND f.bin_id IS NULL AND NOT EXISTS (SELECT 1 FROM warehouse w WHERE w.id = f.warehouse_id) THEN 'warehouse'
            WHEN f.bin_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM bin b WHERE b.id = f.bin_id AND b.warehouse_id = f.warehouse_id) THEN 'bin'
            WHEN f.task_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM pick_task t WHERE t.id = f.task_id AND t.line_id = f.line_id) THEN 'pick_task'
            WHEN f.package_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM package p WHERE p.id = f.package_id) THEN 'package'
            WHEN f.inbound_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM inbound n WHERE n.id = f.inbound_id) THEN 'inbound'
            END AS missing FROM fresh f) x
        WHERE x.missing IS NOT NULL LIMIT 1;
    ELSE -- planned anew for the number of rows there are
        EXECUTE $q$
            SELECT x.missing FROM (
                SELECT 'move_rule' AS missing FROM (SELECT DISTINCT kind, from_station, to_station, cause FROM fresh) f
                WHERE NOT EXISTS (SELECT 1 FROM move_rule r WHERE r.kind = f.kind AND r.from_station = f.from_station AND r.to_station = f.to_station AND r.cause = f.cause)
                UNION ALL
                SELECT 'item' FROM (SELECT DISTINCT item_id FROM fresh WHERE line_id IS NULL) f WHERE NOT EXISTS (SELECT 1 FROM item i WHERE i.id = f.item_id)
                UNION ALL
                SELECT 'order_line' FROM fresh f WHERE f.line_id IS NOT NULL
                    AND NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = f.line_id AND l.order_id = f.order_id AND l.item_id = f.item_id)
                UNION ALL
                SELECT 'warehouse' FROM (SELECT DISTINCT warehouse_id FROM fresh WHERE warehouse_id IS NOT NULL) f
                WHERE NOT EXISTS (SELECT 1 FROM warehouse w WHERE w.id = f.warehouse_id)
                UNION ALL
                SELECT 'bin' FROM (SELECT DISTINCT bin_id, warehouse_id FROM fresh WHERE bin_id IS NOT NULL) f
                WHERE NOT EXISTS (SELECT 1 FROM bin b WHERE b.id = f.bin_id AND b.warehouse_id = f.warehouse_id)
                UNION ALL
                SELECT 'pick_task' FROM fresh f WHERE f.task_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM pick_task t WHERE t.id = f.task_id AND t.line_id = f.line_id)
                UNION ALL
                SELECT 'package' FROM (SELECT DISTINCT package_id FROM fresh WHERE package_id IS NOT NULL) f WHERE NOT EXISTS (SELECT 1 FROM package p WHERE p.id = f.package_id)
                UNION ALL
                SELECT 'inbound' FROM (SELECT DISTINCT inbound_id FROM fresh WHERE inbound_id IS NOT NULL) f WHERE NOT EXISTS (SELECT 1 FROM inbound n WHERE n.id = f.inbound_id)
            ) x LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NOT NULL THEN
        RAISE EXCEPTION 'an entry of the journal names what is not in %', wrong USING ERRCODE = 'foreign_key_violation', CONSTRAINT = 'journal_names_' || wrong;
    END IF;
    INSERT INTO command_awaited SELECT DISTINCT f.command_id FROM fresh f WHERE NOT EXISTS (SELECT 1 FROM command c WHERE c.id = f.command_id) ON CONFLICT DO NOTHING;
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- Triggers fire in the order of their names: this one first.
CREATE TRIGGER journal_an_entry_names_what_is AFTER INSERT ON journal REFERENCING NEW TABLE AS fresh
    FOR EACH STATEMENT EXECUTE FUNCTION journal_names();

-- The sum of bigint is numeric, which takes three times as long; the sum of units is theirs.
CREATE AGGREGATE units(bigint) (SFUNC = int8pl, STYPE = bigint, INITCOND = '0');

-- Of the columns, those that are touched: as they are named, as they are added up from moves (f) by their rule (r), and as that (d) is added to
-- the count (c). Each begins with a comma.
CREATE FUNCTION added_up(touched text[], columns text, OUT names text, OUT sums text, OUT sets text) LANGUAGE sql IMMUTABLE AS $$
    SELECT coalesce(string_agg(format(', %I', x), ''), ''), coalesce(string_agg(format(', units(f.qty * r.%1$I) AS %1$I', x), ''), ''),
        coalesce(string_agg(format(', %1$I = c.%1$I + d.%1$I', x), ''), '')
    FROM string_to_table(columns, ', ') x WHERE x = ANY (touched)
$$;

-- The same as before, written out whole: a few entries are counted in their order; for many only what they touch is
-- added up, and rows of line_at are added with their units.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION journal_counts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    few         constant bigint := 40;
    many        boolean := false;
    held_orders boolean := false;
    placed      bigint;
    touched     text[];
    a           record;
    f           record;
BEGIN
    FOR f IN
        SELECT j.*, j.qty * r.on_hand AS on_hand, j.qty * r.held AS held, j.qty * r.binned AS binned, r.in_house, j.qty * r.ordered AS ordered,
            j.qty * r.open AS open, j.qty * r.allocated AS allocated, j.qty * r.released AS released, j.qty * r.picked AS picked,
            j.qty * r.packed AS packed, j.qty * r.shipped AS shipped, j.qty * r.delivered AS delivered, j.qty * r.dropped AS dropped
        FROM (SELECT *, count(*) OVER () AS n, bool_or(kind IN ('bin out', 'bin in')) OVER () AS bins FROM fresh LIMIT few + 1) j
            JOIN move_rule r USING (kind, from_station, to_station, cause)
        ORDER BY j.id
    LOOP
        IF f.n > 1 AND NOT held_orders THEN
            IF f.n > few OR f.bins THEN -- units that change their bin are right only in sum
                many := true;
                EXIT;
            END IF;
            -- Nobody holds orders before: take them one after another.
            PERFORM 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh) ORDER BY order_id FOR NO KEY UPDATE;
            held_orders := true;
        END IF;
        -- One statement for what most moves touch: three would cost half as much again.
        IF f.line_id IS NOT NULL AND f.in_house THEN
            WITH cell AS (
                UPDATE stock_cell c SET on_hand = c.on_hand + f.on_hand, held = c.held + f.held, binned = c.binned + f.binned, allocated = c.allocated + f.allocated,
                    released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, version = f.id
                WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id
            ), place AS (
                UPDATE line_at p SET allocated = p.allocated + f.allocated, released = p.released + f.released, picked = p.picked + f.picked, packed = p.packed + f.packed
                WHERE p.line_id = f.line_id AND p.warehouse_id = f.warehouse_id RETURNING 1
            ), line AS (
                UPDATE line_count c SET open = c.open + f.open, allocated = c.allocated + f.allocated, released = c.released + f.released,
                    picked = c.picked + f.picked, packed = c.packed + f.packed, shipped = c.shipped + f.shipped, dropped = c.dropped + f.dropped, version = f.id
                WHERE c.line_id = f.line_id
            )
            UPDATE order_count c SET open = c.open + f.open, allocated = c.allocated + f.allocated, released = c.released + f.released,
                picked = c.picked + f.picked, packed = c.packed + f.packed, shipped = c.shipped + f.shipped, dropped = c.dropped + f.dropped, version = f.id
            WHERE c.order_id = f.order_id RETURNING (SELECT count(*) FROM place) INTO placed;
            IF placed = 0 THEN -- the line is held: nobody else adds it
                INSERT INTO line_at (line_id, warehouse_id, allocated, released, picked, packed)
                VALUES (f.line_id, f.warehouse_id, f.allocated, f.released, f.picked, f.packed);
            END IF;
        ELSIF f.line_id IS NOT NULL THEN
            UPDATE line_count c SET ordered = c.ordered + f.ordered, open = c.open + f.open, shipped = c.shipped + f.shipped,
                delivered = c.delivered + f.delivered, dropped = c.dropped + f.dropped, version = f.id
            WHERE c.line_id = f.line_id;
            UPDATE order_count c SET ordered = c.ordered + f.ordered, open = c.open + f.open, shipped = c.shipped + f.shipped,
                delivered = c.delivered + f.delivered, dropped = c.dropped + f.dropped, version = f.id
            WHERE c.order_id = f.order_id;
        ELSIF f.in_house THEN
            LOOP
                UPDATE stock_cell c SET on_hand = c.on_hand + f.on_hand, held = c.held + f.held, binned = c.binned + f.binned,
                    allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, version = f.id
                WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id;
                EXIT WHEN FOUND;
                INSERT INTO stock_cell (item_id, warehouse_id) VALUES (f.item_id, f.warehouse_id) ON CONFLICT DO NOTHING;
            END LOOP;
        END IF;
        IF f.bin_id IS NOT NULL THEN
            LOOP
                UPDATE bin_stock b SET qty = b.qty + f.binned, held = b.held + f.held
                WHERE b.item_id = f.item_id AND b.warehouse_id = f.warehouse_id AND b.bin_id = f.bin_id;
                EXIT WHEN FOUND;
                INSERT INTO bin_stock (item_id, warehouse_id, bin_id) VALUES (f.item_id, f.warehouse_id, f.bin_id) ON CONFLICT DO NOTHING;
            END LOOP;
        END IF;
        IF f.inbound_id IS NOT NULL THEN
            UPDATE inbound i SET received = i.received + f.qty WHERE i.id = f.inbound_id;
        END IF;
        IF f.ordered <> 0 THEN
            UPDATE order_count c SET value_minor = c.value_minor + f.ordered * l.price_minor, cost_minor = c.cost_minor + f.ordered * l.cost_minor
            FROM order_line l WHERE l.id = f.line_id AND c.order_id = f.order_id;
        END IF;
        IF f.task_id IS NOT NULL AND f.kind <> 'release' THEN
            UPDATE pick_task t SET picked = t.picked + f.qty * (f.kind = 'pick')::int, short = t.short + f.qty * (f.kind = 'short')::int,
                recalled = t.recalled + f.qty * (f.kind = 'recall')::int
            WHERE t.id = f.task_id;
        END IF;
        IF f.package_id IS NOT NULL AND f.packed <> 0 AND f.kind NOT IN ('dispatch', 'void') THEN
            LOOP
                UPDATE package_line p SET qty = p.qty + f.packed WHERE p.package_id = f.package_id AND p.line_id = f.line_id;
                EXIT WHEN FOUND;
                INSERT INTO package_line (package_id, line_id) VALUES (f.package_id, f.line_id) ON CONFLICT DO NOTHING;
            END LOOP;
        END IF;
    END LOOP;
    IF NOT many THEN
        RETURN NULL;
    END IF;

    EXECUTE $q$
        INSERT INTO stock_cell (item_id, warehouse_id)
        SELECT DISTINCT f.item_id, f.warehouse_id FROM fresh f WHERE f.warehouse_id IS NOT NULL
            AND NOT EXISTS (SELECT 1 FROM stock_cell c WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id)
        ORDER BY 1, 2 ON CONFLICT DO NOTHING $q$;
    -- Added up is only what these moves touch.
    touched := ARRAY(
        SELECT DISTINCT v.col FROM (SELECT DISTINCT kind, from_station, to_station, cause FROM fresh) f JOIN move_rule r USING (kind, from_station, to_station, cause)
            CROSS JOIN LATERAL (VALUES ('on_hand', r.on_hand), ('held', r.held), ('binned', r.binned), ('ordered', r.ordered), ('open', r.open), ('allocated', r.allocated),
                ('released', r.released), ('picked', r.picked), ('packed', r.packed), ('shipped', r.shipped), ('delivered', r.delivered), ('dropped', r.dropped)) v (col, n)
        WHERE v.n <> 0);
    a := added_up(touched, 'on_hand, held, allocated, released, picked, packed, binned');
    EXECUTE format($q$
        UPDATE stock_cell c SET version = d.version%s
        FROM (SELECT f.item_id, f.warehouse_id, max(f.id) AS version%s
              FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) WHERE r.in_house GROUP BY 1, 2) d
        WHERE c.item_id = d.item_id AND c.warehouse_id = d.warehouse_id $q$, a.sets, a.sums);

    IF EXISTS (SELECT 1 FROM fresh WHERE bin_id IS NOT NULL) THEN
        -- The row first, then the change: a fall must never be judged before the row it falls from is there.
        EXECUTE $q$
            INSERT INTO bin_stock (item_id, warehouse_id, bin_id)
            SELECT DISTINCT f.item_id, f.warehouse_id, f.bin_id FROM fresh f WHERE f.bin_id IS NOT NULL ORDER BY 1, 2, 3
            ON CONFLICT DO NOTHING $q$;
        EXECUTE $q$
            UPDATE bin_stock b SET qty = b.qty + d.qty, held = b.held + d.held
            FROM (SELECT f.item_id, f.warehouse_id, f.bin_id, units(f.qty * r.binned) AS qty, units(f.qty * r.held) AS held
                  FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) WHERE f.bin_id IS NOT NULL GROUP BY 1, 2, 3) d
            WHERE b.item_id = d.item_id AND b.warehouse_id = d.warehouse_id AND b.bin_id = d.bin_id $q$;
    END IF;

    IF EXISTS (SELECT 1 FROM fresh WHERE line_id IS NOT NULL) THEN
        a := added_up(touched, 'ordered, open, allocated, released, picked, packed, shipped, delivered, dropped');
        EXECUTE format($q$
            UPDATE line_count c SET version = d.version%s
            FROM (SELECT f.line_id, max(f.id) AS version%s
                  FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) WHERE f.line_id IS NOT NULL GROUP BY 1) d
            WHERE c.line_id = d.line_id $q$, a.sets, a.sums);
        PERFORM 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh) ORDER BY order_id FOR NO KEY UPDATE;
        EXECUTE format($q$
            UPDATE order_count c SET version = d.version%s
            FROM (SELECT f.order_id, max(f.id) AS version%s
                  FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) WHERE f.order_id IS NOT NULL GROUP BY 1) d
            WHERE c.order_id = d.order_id $q$, a.sets, a.sums);

        a := added_up(touched, 'allocated, released, picked, packed');
        IF a.sets <> '' AND EXISTS (SELECT 1 FROM fresh WHERE line_id IS NOT NULL AND warehouse_id IS NOT NULL) THEN
            EXECUTE format($q$
                UPDATE line_at c SET %s
                FROM (SELECT f.line_id, f.warehouse_id%s FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)
                      WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL GROUP BY 1, 2) d
                WHERE c.line_id = d.line_id AND c.warehouse_id = d.warehouse_id $q$, substr(a.sets, 3), a.sums);
            -- Where the line stands for the first time, the row is added with its units.
            EXECUTE format($q$
                INSERT INTO line_at (line_id, warehouse_id%s)
                SELECT f.line_id, f.warehouse_id%s FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)
                WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL
                    AND NOT EXISTS (SELECT 1 FROM line_at p WHERE p.line_id = f.line_id AND p.warehouse_id = f.warehouse_id)
                GROUP BY 1, 2 ORDER BY 1, 2 $q$, a.names, a.sums);
        END IF;

        IF EXISTS (SELECT 1 FROM fresh WHERE kind IN ('enter', 'reduce')) THEN
            EXECUTE $q$
                UPDATE order_count c SET value_minor = c.value_minor + d.value_minor, cost_minor = c.cost_minor + d.cost_minor
                FROM (SELECT f.order_id, units(f.qty * r.ordered * l.price_minor) AS value_minor, units(f.qty * r.ordered * l.cost_minor) AS cost_minor
                      FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) JOIN order_line l ON l.id = f.line_id
                      WHERE r.ordered <> 0 GROUP BY 1) d
                WHERE c.order_id = d.order_id $q$;
        END IF;

        IF EXISTS (SELECT 1 FROM fresh WHERE task_id IS NOT NULL AND kind <> 'release') THEN
            EXECUTE $q$
                UPDATE pick_task t SET picked = t.picked + d.picked, short = t.short + d.short, recalled = t.recalled + d.recalled
                FROM (SELECT task_id, sum(qty * (kind = 'pick')::int) AS picked, sum(qty * (kind = 'short')::int) AS short,
                          sum(qty * (kind = 'recall')::int) AS recalled
                      FROM fresh WHERE task_id IS NOT NULL AND kind <> 'release' GROUP BY task_id) d
                WHERE t.id = d.task_id $q$;
        END IF;

        IF EXISTS (SELECT 1 FROM fresh WHERE package_id IS NOT NULL AND (kind = 'pack' OR from_station = 'packed' AND kind <> 'dispatch')) THEN
            EXECUTE $q$
                INSERT INTO package_line (package_id, line_id)
                SELECT DISTINCT f.package_id, f.line_id FROM fresh f WHERE f.package_id IS NOT NULL ORDER BY 1, 2
                ON CONFLICT DO NOTHING $q$;
            EXECUTE $q$
                UPDATE package_line p SET qty = p.qty + d.qty
                FROM (SELECT f.package_id, f.line_id, units(f.qty * r.packed) AS qty FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)
                      WHERE f.package_id IS NOT NULL AND f.kind NOT IN ('dispatch', 'void') GROUP BY 1, 2) d
                WHERE p.package_id = d.package_id AND p.line_id = d.line_id AND d.qty <> 0 $q$;
        END IF;
    END IF;

    IF EXISTS (SELECT 1 FROM fresh WHERE inbound_id IS NOT NULL) THEN
        UPDATE inbound i SET received = i.received + d.qty
        FROM (SELECT inbound_id, sum(qty) AS qty FROM fresh WHERE inbound_id IS NOT NULL GROUP BY inbound_id) d
        WHERE i.id = d.inbound_id;
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE OR REPLACE FUNCTION promise_stands() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    IF EXISTS (SELECT 1 FROM fresh f WHERE NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = f.line_id AND l.order_id = f.order_id AND l.item_id = f.item_id)) THEN
        RAISE EXCEPTION 'a promise names what is not in order_line' USING ERRCODE = 'foreign_key_violation', CONSTRAINT = 'promise_names_order_line';
    END IF;
    INSERT INTO command_awaited SELECT DISTINCT f.command_id FROM fresh f WHERE NOT EXISTS (SELECT 1 FROM command c WHERE c.id = f.command_id) ON CONFLICT DO NOTHING;
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

-- Room for all rows of a page to change once without leaving it: the indexes stay as they are.
ALTER TABLE line_count SET (fillfactor = 45);
ALTER TABLE order_count SET (fillfactor = 45);

GRANT SELECT ON command_awaited TO journeyman_app;
