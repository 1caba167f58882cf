-- +goose Up

-- What entries name is looked up where they are counted, promises are counted together with the moves that they change with, and
-- what all entries of a statement have in common is looked at once.

DROP TRIGGER IF EXISTS journal_an_entry_names_what_is ON journal;
DROP FUNCTION IF EXISTS journal_names();

-- +goose StatementBegin
CREATE OR REPLACE FUNCTION entry_names_nothing(missing text) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'an entry of the journal names what is not in %', missing USING ERRCODE = 'foreign_key_violation', CONSTRAINT = 'journal_names_' || missing;
END $$;
-- +goose StatementEnd

-- Promises of a command that count together with its moves, which are yet to come (see promise_stands): from that entry on.
DROP TABLE IF EXISTS promise_awaited;
CREATE TABLE promise_awaited (
    command_id bigint PRIMARY KEY,
    entry_id   bigint NOT NULL
);
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION moves_came() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    IF EXISTS (SELECT 1 FROM promise_awaited a WHERE a.command_id = NEW.command_id) THEN
        RAISE EXCEPTION 'promises of command % wait for moves that did not come', NEW.command_id USING ERRCODE = 'integrity_constraint_violation';
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE CONSTRAINT TRIGGER moves_came AFTER INSERT ON promise_awaited DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION moves_came();

-- Of the columns, those that the rules touch: as they are named, as they are added up from moves (f) by their rule (r; if there is one for all, by what it
-- says), and as that (d) is added to the count (c). Each begins with a comma.
DROP FUNCTION IF EXISTS added_up(text[], text), added_up(move_rule[], text);
CREATE FUNCTION added_up(rules move_rule[], columns text, OUT names text, OUT sums text, OUT sets text) LANGUAGE sql STABLE AS $$
    SELECT coalesce(string_agg(format(', %I', x), ''), ''),
        coalesce(string_agg(format(', units(f.qty * %s) AS %I', CASE WHEN cardinality(rules) = 1 THEN format('(%s)', by_rule[1]) ELSE format('r.%I', x) END, x), ''), ''),
        coalesce(string_agg(format(', %1$I = c.%1$I + coalesce(d.%1$I, 0)', x), ''), '')
    FROM string_to_table(columns, ', ') x, LATERAL (SELECT array_agg(to_jsonb(r) ->> x) AS by_rule FROM unnest(rules) r) t
    WHERE by_rule <> array_fill('0'::text, ARRAY[cardinality(rules)])
$$;

-- The same as before, written out whole: what entries name is looked up; a few are counted in their order; for many
-- only what they touch is added up, and rows of line_at are added with their units. The query over the few has no
-- parameters, so that it is planned once.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION journal_counts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    many        boolean := false;
    held_orders boolean := false;
    placed      bigint;
    there       bigint;
    wrong       text;
    rules       move_rule[]; -- by which they move
    moves       text := 'fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)';
    indoors     text := 'r.in_house';
    commands    bigint[];
    since       bigint;
    version     text := 'd.version';
    -- Of promises that were written before the moves: those to be joined to the moves of a line and of an order, and what they set.
    of_line     text := '';
    of_order    text := '';
    line_sets   text := '';
    order_sets  text := '';
    have        record;
    a           record;
    f           record;
BEGIN
    FOR f IN
        SELECT j.*, j.qty * r.on_hand AS on_hand, j.qty * r.held AS held, j.qty * r.binned AS binned, r.in_house, j.qty * r.ordered AS ordered,
            j.qty * r.open AS open, j.qty * r.allocated AS allocated, j.qty * r.released AS released, j.qty * r.picked AS picked,
            j.qty * r.packed AS packed, j.qty * r.shipped AS shipped, j.qty * r.delivered AS delivered, j.qty * r.dropped AS dropped,
            EXISTS (SELECT 1 FROM command c WHERE c.id = j.command_id) AS ended,
            CASE
                WHEN r.kind IS NULL THEN 'move_rule'
                WHEN j.line_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = j.line_id AND l.order_id = j.order_id AND l.item_id = j.item_id) THEN 'order_line'
            END AS missing
        FROM (SELECT *, count(*) OVER () AS n, bool_or(kind IN ('bin out', 'bin in')) OVER () AS bins FROM (SELECT * FROM fresh LIMIT 41) x) j
            LEFT JOIN move_rule r USING (kind, from_station, to_station, cause)
        ORDER BY j.id
    LOOP
        IF f.n > 1 AND NOT held_orders THEN
            IF f.n > 40 OR f.bins THEN -- units that change their bin are right only in sum
                many := true;
                EXIT;
            END IF;
            -- Nobody holds orders before: take them one after another.
            PERFORM 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh) ORDER BY order_id FOR NO KEY UPDATE;
            held_orders := true;
        END IF;
        -- A statement of its own for each: one for all would lock every table that it could look at.
        IF f.missing IS NULL AND f.line_id IS NULL THEN
            IF NOT EXISTS (SELECT 1 FROM item i WHERE i.id = f.item_id) THEN f.missing := 'item'; END IF;
        END IF;
        IF f.bin_id IS NOT NULL THEN
            IF NOT EXISTS (SELECT 1 FROM bin b WHERE b.id = f.bin_id AND b.warehouse_id = f.warehouse_id) THEN f.missing := coalesce(f.missing, 'bin'); END IF;
        ELSIF f.warehouse_id IS NOT NULL AND (f.line_id IS NULL OR NOT f.in_house) THEN -- else its stock is looked at below
            IF NOT EXISTS (SELECT 1 FROM warehouse w WHERE w.id = f.warehouse_id) THEN f.missing := coalesce(f.missing, 'warehouse'); END IF;
        END IF;
        IF f.task_id IS NOT NULL THEN
            IF NOT EXISTS (SELECT 1 FROM pick_task t WHERE t.id = f.task_id AND t.line_id = f.line_id) THEN f.missing := coalesce(f.missing, 'pick_task'); END IF;
        END IF;
        IF f.package_id IS NOT NULL THEN
            IF NOT EXISTS (SELECT 1 FROM package p WHERE p.id = f.package_id) THEN f.missing := coalesce(f.missing, 'package'); END IF;
        END IF;
        IF f.inbound_id IS NOT NULL THEN
            IF NOT EXISTS (SELECT 1 FROM inbound n WHERE n.id = f.inbound_id) THEN f.missing := coalesce(f.missing, 'inbound'); END IF;
        END IF;
        IF f.missing IS NOT NULL THEN
            PERFORM entry_names_nothing(f.missing);
        END IF;
        IF NOT f.ended THEN
            INSERT INTO command_awaited VALUES (f.command_id) ON CONFLICT DO NOTHING;
        END IF;
        -- One statement for what most moves touch: three would cost half as much again.
        IF f.line_id IS NOT NULL AND f.in_house THEN
            WITH cell AS (
                UPDATE stock_cell c SET on_hand = c.on_hand + f.on_hand, held = c.held + f.held, binned = c.binned + f.binned, allocated = c.allocated + f.allocated,
                    released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, version = f.id
                WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id RETURNING 1
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
            WHERE c.order_id = f.order_id RETURNING (SELECT count(*) FROM place), (SELECT count(*) FROM cell) INTO placed, there;
            IF there = 0 THEN -- stock names an item and a warehouse that are there
                PERFORM entry_names_nothing('warehouse');
            END IF;
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

    -- What there is to look for, in one look.
    SELECT bool_or(line_id IS NOT NULL) AS lines, bool_or(line_id IS NULL) AS stock, bool_or(bin_id IS NOT NULL) AS bins, bool_or(task_id IS NOT NULL) AS tasks,
        bool_or(package_id IS NOT NULL) AS packages, bool_or(inbound_id IS NOT NULL) AS inbound, bool_or(line_id IS NOT NULL AND warehouse_id IS NOT NULL) AS places
        INTO have FROM fresh;
    SELECT array_agg(r), CASE WHEN bool_or(r.kind IS NULL) THEN 'move_rule' END INTO rules, wrong
    FROM (SELECT DISTINCT kind, from_station, to_station, cause FROM fresh) f LEFT JOIN move_rule r USING (kind, from_station, to_station, cause);
    IF wrong IS NULL AND have.lines THEN
        EXECUTE $q$ SELECT 'order_line' FROM fresh f WHERE f.line_id IS NOT NULL
            AND NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = f.line_id AND l.order_id = f.order_id AND l.item_id = f.item_id) LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NULL AND have.stock THEN
        EXECUTE $q$ SELECT 'item' FROM (SELECT DISTINCT item_id FROM fresh WHERE line_id IS NULL) f
            WHERE NOT EXISTS (SELECT 1 FROM item i WHERE i.id = f.item_id) LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NULL THEN
        EXECUTE $q$ SELECT 'warehouse' FROM (SELECT DISTINCT warehouse_id FROM fresh WHERE warehouse_id IS NOT NULL) f
            WHERE NOT EXISTS (SELECT 1 FROM warehouse w WHERE w.id = f.warehouse_id) LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NULL AND have.bins THEN
        EXECUTE $q$ SELECT 'bin' FROM (SELECT DISTINCT bin_id, warehouse_id FROM fresh WHERE bin_id IS NOT NULL) f
            WHERE NOT EXISTS (SELECT 1 FROM bin b WHERE b.id = f.bin_id AND b.warehouse_id = f.warehouse_id) LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NULL AND have.tasks THEN
        EXECUTE $q$ SELECT 'pick_task' FROM fresh f WHERE f.task_id IS NOT NULL
            AND NOT EXISTS (SELECT 1 FROM pick_task t WHERE t.id = f.task_id AND t.line_id = f.line_id) LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NULL AND have.packages THEN
        EXECUTE $q$ SELECT 'package' FROM (SELECT DISTINCT package_id FROM fresh WHERE package_id IS NOT NULL) f
            WHERE NOT EXISTS (SELECT 1 FROM package p WHERE p.id = f.package_id) LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NULL AND have.inbound THEN
        EXECUTE $q$ SELECT 'inbound' FROM (SELECT DISTINCT inbound_id FROM fresh WHERE inbound_id IS NOT NULL) f
            WHERE NOT EXISTS (SELECT 1 FROM inbound n WHERE n.id = f.inbound_id) LIMIT 1 $q$ INTO wrong;
    END IF;
    IF wrong IS NOT NULL THEN
        PERFORM entry_names_nothing(wrong);
    END IF;
    IF cardinality(rules) = 1 THEN -- nothing to look up for each of them
        moves := 'fresh f';
        indoors := rules[1].in_house::text;
    END IF;
    commands := ARRAY(SELECT DISTINCT command_id FROM fresh);
    INSERT INTO command_awaited SELECT x FROM unnest(commands) x WHERE NOT EXISTS (SELECT 1 FROM command c WHERE c.id = x) ON CONFLICT DO NOTHING;
    WITH a AS (DELETE FROM promise_awaited WHERE command_id = ANY (commands) RETURNING entry_id) SELECT min(entry_id) INTO since FROM a;
    IF since IS NOT NULL THEN
        version := 'greatest(d.version, d.promised_by)';
        of_line := format('FULL JOIN (SELECT line_id, id AS promised_by, now_units AS promised FROM promise_entry WHERE command_id = ANY (%L) AND id >= %s) p USING (line_id)', commands, since);
        line_sets := ', promised = coalesce(d.promised, c.promised)';
        of_order := format('FULL JOIN (SELECT order_id, max(id) AS promised_by, units(now_units - was_units) AS promised FROM promise_entry
            WHERE command_id = ANY (%L) AND id >= %s GROUP BY 1) p USING (order_id)', commands, since);
        order_sets := ', promised = c.promised + coalesce(d.promised, 0)';
    END IF;

    EXECUTE $q$
        INSERT INTO stock_cell (item_id, warehouse_id)
        SELECT DISTINCT f.item_id, f.warehouse_id FROM fresh f WHERE f.warehouse_id IS NOT NULL
            AND NOT EXISTS (SELECT 1 FROM stock_cell c WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id)
        ORDER BY 1, 2 ON CONFLICT DO NOTHING $q$;
    -- Added up is only what these moves touch.
    a := added_up(rules, 'on_hand, held, allocated, released, picked, packed, binned');
    EXECUTE format($q$
        UPDATE stock_cell c SET version = d.version%s
        FROM (SELECT f.item_id, f.warehouse_id, max(f.id) AS version%s FROM %s WHERE %s GROUP BY 1, 2) d
        WHERE c.item_id = d.item_id AND c.warehouse_id = d.warehouse_id $q$, a.sets, a.sums, moves, indoors);

    IF have.bins THEN
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

    IF have.lines OR of_line <> '' THEN
        a := added_up(rules, 'ordered, open, allocated, released, picked, packed, shipped, delivered, dropped');
        EXECUTE format($q$
            UPDATE line_count c SET version = %s%s%s
            FROM (SELECT * FROM (SELECT f.line_id, max(f.id) AS version%s FROM %s WHERE f.line_id IS NOT NULL GROUP BY 1) m %s) d
            WHERE c.line_id = d.line_id $q$, version, a.sets, line_sets, a.sums, moves, of_line);
        EXECUTE format('SELECT 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh%s) ORDER BY order_id FOR NO KEY UPDATE',
            CASE WHEN of_order <> '' THEN format(' UNION SELECT order_id FROM promise_entry WHERE command_id = ANY (%L)', commands) END);
        EXECUTE format($q$
            UPDATE order_count c SET version = %s%s%s
            FROM (SELECT * FROM (SELECT f.order_id, max(f.id) AS version%s FROM %s WHERE f.order_id IS NOT NULL GROUP BY 1) m %s) d
            WHERE c.order_id = d.order_id $q$, version, a.sets, order_sets, a.sums, moves, of_order);

        a := added_up(rules, 'allocated, released, picked, packed');
        IF a.sets <> '' AND have.places THEN
            EXECUTE format($q$
                UPDATE line_at c SET %s
                FROM (SELECT f.line_id, f.warehouse_id%s FROM %s WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL GROUP BY 1, 2) d
                WHERE c.line_id = d.line_id AND c.warehouse_id = d.warehouse_id $q$, substr(a.sets, 3), a.sums, moves);
            -- Where the line stands for the first time, the row is added with its units.
            EXECUTE format($q$
                INSERT INTO line_at (line_id, warehouse_id%s)
                SELECT f.line_id, f.warehouse_id%s FROM %s
                WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL
                    AND NOT EXISTS (SELECT 1 FROM line_at p WHERE p.line_id = f.line_id AND p.warehouse_id = f.warehouse_id)
                GROUP BY 1, 2 ORDER BY 1, 2 $q$, a.names, a.sums, moves);
        END IF;

        IF EXISTS (SELECT 1 FROM unnest(rules) r WHERE r.ordered <> 0) THEN
            EXECUTE $q$
                UPDATE order_count c SET value_minor = c.value_minor + d.value_minor, cost_minor = c.cost_minor + d.cost_minor
                FROM (SELECT f.order_id, units(f.qty * r.ordered * l.price_minor) AS value_minor, units(f.qty * r.ordered * l.cost_minor) AS cost_minor
                      FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) JOIN order_line l ON l.id = f.line_id
                      WHERE r.ordered <> 0 GROUP BY 1) d
                WHERE c.order_id = d.order_id $q$;
        END IF;

        IF have.tasks AND EXISTS (SELECT 1 FROM fresh WHERE task_id IS NOT NULL AND kind <> 'release') THEN
            EXECUTE $q$
                UPDATE pick_task t SET picked = t.picked + d.picked, short = t.short + d.short, recalled = t.recalled + d.recalled
                FROM (SELECT task_id, sum(qty * (kind = 'pick')::int) AS picked, sum(qty * (kind = 'short')::int) AS short,
                          sum(qty * (kind = 'recall')::int) AS recalled
                      FROM fresh WHERE task_id IS NOT NULL AND kind <> 'release' GROUP BY task_id) d
                WHERE t.id = d.task_id $q$;
        END IF;

        IF have.packages AND EXISTS (SELECT 1 FROM fresh WHERE package_id IS NOT NULL AND (kind = 'pack' OR from_station = 'packed' AND kind <> 'dispatch')) THEN
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

    IF have.inbound THEN
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

-- A rehearsal is kept for a day, for nobody but who applies it: it is not worth being read as JSON.
DELETE FROM rehearsal;
ALTER TABLE rehearsal ALTER COLUMN plan TYPE bytea USING '';
