-- +goose Up

-- Made by internal/store/posting from core/journey's table of moves; not written by hand. What was here before is replaced whole.

INSERT INTO move_rule (kind, from_station, to_station, cause, on_hand, held, binned, in_house) VALUES
    ('enter', 'outside', 'open', '', 0, 0, 0, false),
    ('reduce', 'open', 'outside', '', 0, 0, 0, false),
    ('allocate', 'open', 'allocated', '', 0, 0, 0, true),
    ('give back', 'allocated', 'open', '', 0, 0, 0, true),
    ('release', 'allocated', 'released', '', 0, 0, 0, true),
    ('recall', 'released', 'allocated', '', 0, 0, 0, true),
    ('pick', 'released', 'picked', '', 0, 0, -1, true),
    ('short', 'released', 'open', 'missing', -1, 0, -1, true),
    ('short', 'released', 'open', 'damaged', 0, 1, 0, true),
    ('short', 'released', 'open', 'elsewhere', 0, 0, 0, true),
    ('pack', 'picked', 'packed', '', 0, 0, 0, true),
    ('unpack', 'packed', 'picked', '', 0, 0, 0, true),
    ('put back', 'picked', 'allocated', '', 0, 0, 1, true),
    ('put back', 'picked', 'open', '', 0, 1, 1, true),
    ('put back', 'picked', 'dropped', '', 0, 1, 1, true),
    ('put back', 'packed', 'allocated', '', 0, 0, 1, true),
    ('put back', 'packed', 'open', '', 0, 1, 1, true),
    ('put back', 'packed', 'dropped', '', 0, 1, 1, true),
    ('dispatch', 'packed', 'shipped', '', -1, 0, 0, true),
    ('void', 'shipped', 'packed', '', 1, 0, 0, true),
    ('deliver', 'shipped', 'delivered', '', 0, 0, 0, false),
    ('lose', 'shipped', 'open', '', 0, 0, 0, false),
    ('drop', 'open', 'dropped', '', 0, 0, 0, false),
    ('reopen', 'dropped', 'open', '', 0, 0, 0, false),
    ('receive', 'outside', 'outside', '', 1, 0, 1, true),
    ('gain', 'outside', 'outside', '', 1, 0, 1, true),
    ('loss', 'outside', 'outside', '', -1, 0, -1, true),
    ('set aside', 'outside', 'outside', '', 0, 1, 0, true),
    ('make good', 'outside', 'outside', '', 0, -1, 0, true),
    ('bin out', 'outside', 'outside', '', 0, 0, -1, true),
    ('bin in', 'outside', 'outside', '', 0, 0, 1, true)
ON CONFLICT (kind, from_station, to_station, cause) DO UPDATE
    SET on_hand = excluded.on_hand, held = excluded.held, binned = excluded.binned, in_house = excluded.in_house;

-- How many entries are added up: for entries of one rule what that touches, for those of several (the first row) all columns. Each list begins
-- with a comma: what is set in the counts (c) by what was added up (d), what is added up of the entries (f) by their rules (r), and as it is named.
DROP TABLE IF EXISTS posting_text;
CREATE TABLE posting_text (
    kind         text NOT NULL,
    from_station text NOT NULL,
    to_station   text NOT NULL,
    cause        text NOT NULL,
    moves        text NOT NULL, -- the entries, with their rules if these have to be looked up
    indoors      text NOT NULL, -- whether an entry happens in a warehouse
    cell_sets    text NOT NULL,
    cell_sums    text NOT NULL,
    line_sets    text NOT NULL,
    line_sums    text NOT NULL,
    place_names  text NOT NULL,
    place_sets   text NOT NULL,
    place_sums   text NOT NULL,
    PRIMARY KEY (kind, from_station, to_station, cause)
);
INSERT INTO posting_text VALUES
    ('', '', '', '', 'fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)', 'r.in_house',
        ', on_hand = c.on_hand + coalesce(d.on_hand, 0), held = c.held + coalesce(d.held, 0), allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0), picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty * r.on_hand) AS on_hand, units(f.qty * r.held) AS held, units(f.qty * r.allocated) AS allocated, units(f.qty * r.released) AS released, units(f.qty * r.picked) AS picked, units(f.qty * r.packed) AS packed, units(f.qty * r.binned) AS binned',
        ', ordered = c.ordered + coalesce(d.ordered, 0), open = c.open + coalesce(d.open, 0), allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0), picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0), shipped = c.shipped + coalesce(d.shipped, 0), delivered = c.delivered + coalesce(d.delivered, 0), dropped = c.dropped + coalesce(d.dropped, 0)', ', units(f.qty * r.ordered) AS ordered, units(f.qty * r.open) AS open, units(f.qty * r.allocated) AS allocated, units(f.qty * r.released) AS released, units(f.qty * r.picked) AS picked, units(f.qty * r.packed) AS packed, units(f.qty * r.shipped) AS shipped, units(f.qty * r.delivered) AS delivered, units(f.qty * r.dropped) AS dropped',
        ', allocated, released, picked, packed', ', allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0), picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty * r.allocated) AS allocated, units(f.qty * r.released) AS released, units(f.qty * r.picked) AS picked, units(f.qty * r.packed) AS packed'),
    ('enter', 'outside', 'open', '', 'fresh f', 'false',
        '', '',
        ', ordered = c.ordered + coalesce(d.ordered, 0), open = c.open + coalesce(d.open, 0)', ', units(f.qty) AS ordered, units(f.qty) AS open',
        '', '', ''),
    ('reduce', 'open', 'outside', '', 'fresh f', 'false',
        '', '',
        ', ordered = c.ordered + coalesce(d.ordered, 0), open = c.open + coalesce(d.open, 0)', ', -units(f.qty) AS ordered, -units(f.qty) AS open',
        '', '', ''),
    ('allocate', 'open', 'allocated', '', 'fresh f', 'true',
        ', allocated = c.allocated + coalesce(d.allocated, 0)', ', units(f.qty) AS allocated',
        ', open = c.open + coalesce(d.open, 0), allocated = c.allocated + coalesce(d.allocated, 0)', ', -units(f.qty) AS open, units(f.qty) AS allocated',
        ', allocated', ', allocated = c.allocated + coalesce(d.allocated, 0)', ', units(f.qty) AS allocated'),
    ('give back', 'allocated', 'open', '', 'fresh f', 'true',
        ', allocated = c.allocated + coalesce(d.allocated, 0)', ', -units(f.qty) AS allocated',
        ', open = c.open + coalesce(d.open, 0), allocated = c.allocated + coalesce(d.allocated, 0)', ', units(f.qty) AS open, -units(f.qty) AS allocated',
        ', allocated', ', allocated = c.allocated + coalesce(d.allocated, 0)', ', -units(f.qty) AS allocated'),
    ('release', 'allocated', 'released', '', 'fresh f', 'true',
        ', allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0)', ', -units(f.qty) AS allocated, units(f.qty) AS released',
        ', allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0)', ', -units(f.qty) AS allocated, units(f.qty) AS released',
        ', allocated, released', ', allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0)', ', -units(f.qty) AS allocated, units(f.qty) AS released'),
    ('recall', 'released', 'allocated', '', 'fresh f', 'true',
        ', allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS released',
        ', allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS released',
        ', allocated, released', ', allocated = c.allocated + coalesce(d.allocated, 0), released = c.released + coalesce(d.released, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS released'),
    ('pick', 'released', 'picked', '', 'fresh f', 'true',
        ', released = c.released + coalesce(d.released, 0), picked = c.picked + coalesce(d.picked, 0), binned = c.binned + coalesce(d.binned, 0)', ', -units(f.qty) AS released, units(f.qty) AS picked, -units(f.qty) AS binned',
        ', released = c.released + coalesce(d.released, 0), picked = c.picked + coalesce(d.picked, 0)', ', -units(f.qty) AS released, units(f.qty) AS picked',
        ', released, picked', ', released = c.released + coalesce(d.released, 0), picked = c.picked + coalesce(d.picked, 0)', ', -units(f.qty) AS released, units(f.qty) AS picked'),
    ('short', 'released', 'open', 'missing', 'fresh f', 'true',
        ', on_hand = c.on_hand + coalesce(d.on_hand, 0), released = c.released + coalesce(d.released, 0), binned = c.binned + coalesce(d.binned, 0)', ', -units(f.qty) AS on_hand, -units(f.qty) AS released, -units(f.qty) AS binned',
        ', open = c.open + coalesce(d.open, 0), released = c.released + coalesce(d.released, 0)', ', units(f.qty) AS open, -units(f.qty) AS released',
        ', released', ', released = c.released + coalesce(d.released, 0)', ', -units(f.qty) AS released'),
    ('short', 'released', 'open', 'damaged', 'fresh f', 'true',
        ', held = c.held + coalesce(d.held, 0), released = c.released + coalesce(d.released, 0)', ', units(f.qty) AS held, -units(f.qty) AS released',
        ', open = c.open + coalesce(d.open, 0), released = c.released + coalesce(d.released, 0)', ', units(f.qty) AS open, -units(f.qty) AS released',
        ', released', ', released = c.released + coalesce(d.released, 0)', ', -units(f.qty) AS released'),
    ('short', 'released', 'open', 'elsewhere', 'fresh f', 'true',
        ', released = c.released + coalesce(d.released, 0)', ', -units(f.qty) AS released',
        ', open = c.open + coalesce(d.open, 0), released = c.released + coalesce(d.released, 0)', ', units(f.qty) AS open, -units(f.qty) AS released',
        ', released', ', released = c.released + coalesce(d.released, 0)', ', -units(f.qty) AS released'),
    ('pack', 'picked', 'packed', '', 'fresh f', 'true',
        ', picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0)', ', -units(f.qty) AS picked, units(f.qty) AS packed',
        ', picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0)', ', -units(f.qty) AS picked, units(f.qty) AS packed',
        ', picked, packed', ', picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0)', ', -units(f.qty) AS picked, units(f.qty) AS packed'),
    ('unpack', 'packed', 'picked', '', 'fresh f', 'true',
        ', picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS picked, -units(f.qty) AS packed',
        ', picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS picked, -units(f.qty) AS packed',
        ', picked, packed', ', picked = c.picked + coalesce(d.picked, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS picked, -units(f.qty) AS packed'),
    ('put back', 'picked', 'allocated', '', 'fresh f', 'true',
        ', allocated = c.allocated + coalesce(d.allocated, 0), picked = c.picked + coalesce(d.picked, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS picked, units(f.qty) AS binned',
        ', allocated = c.allocated + coalesce(d.allocated, 0), picked = c.picked + coalesce(d.picked, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS picked',
        ', allocated, picked', ', allocated = c.allocated + coalesce(d.allocated, 0), picked = c.picked + coalesce(d.picked, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS picked'),
    ('put back', 'picked', 'open', '', 'fresh f', 'true',
        ', held = c.held + coalesce(d.held, 0), picked = c.picked + coalesce(d.picked, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS held, -units(f.qty) AS picked, units(f.qty) AS binned',
        ', open = c.open + coalesce(d.open, 0), picked = c.picked + coalesce(d.picked, 0)', ', units(f.qty) AS open, -units(f.qty) AS picked',
        ', picked', ', picked = c.picked + coalesce(d.picked, 0)', ', -units(f.qty) AS picked'),
    ('put back', 'picked', 'dropped', '', 'fresh f', 'true',
        ', held = c.held + coalesce(d.held, 0), picked = c.picked + coalesce(d.picked, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS held, -units(f.qty) AS picked, units(f.qty) AS binned',
        ', picked = c.picked + coalesce(d.picked, 0), dropped = c.dropped + coalesce(d.dropped, 0)', ', -units(f.qty) AS picked, units(f.qty) AS dropped',
        ', picked', ', picked = c.picked + coalesce(d.picked, 0)', ', -units(f.qty) AS picked'),
    ('put back', 'packed', 'allocated', '', 'fresh f', 'true',
        ', allocated = c.allocated + coalesce(d.allocated, 0), packed = c.packed + coalesce(d.packed, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS packed, units(f.qty) AS binned',
        ', allocated = c.allocated + coalesce(d.allocated, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS packed',
        ', allocated, packed', ', allocated = c.allocated + coalesce(d.allocated, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS allocated, -units(f.qty) AS packed'),
    ('put back', 'packed', 'open', '', 'fresh f', 'true',
        ', held = c.held + coalesce(d.held, 0), packed = c.packed + coalesce(d.packed, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS held, -units(f.qty) AS packed, units(f.qty) AS binned',
        ', open = c.open + coalesce(d.open, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS open, -units(f.qty) AS packed',
        ', packed', ', packed = c.packed + coalesce(d.packed, 0)', ', -units(f.qty) AS packed'),
    ('put back', 'packed', 'dropped', '', 'fresh f', 'true',
        ', held = c.held + coalesce(d.held, 0), packed = c.packed + coalesce(d.packed, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS held, -units(f.qty) AS packed, units(f.qty) AS binned',
        ', packed = c.packed + coalesce(d.packed, 0), dropped = c.dropped + coalesce(d.dropped, 0)', ', -units(f.qty) AS packed, units(f.qty) AS dropped',
        ', packed', ', packed = c.packed + coalesce(d.packed, 0)', ', -units(f.qty) AS packed'),
    ('dispatch', 'packed', 'shipped', '', 'fresh f', 'true',
        ', on_hand = c.on_hand + coalesce(d.on_hand, 0), packed = c.packed + coalesce(d.packed, 0)', ', -units(f.qty) AS on_hand, -units(f.qty) AS packed',
        ', packed = c.packed + coalesce(d.packed, 0), shipped = c.shipped + coalesce(d.shipped, 0)', ', -units(f.qty) AS packed, units(f.qty) AS shipped',
        ', packed', ', packed = c.packed + coalesce(d.packed, 0)', ', -units(f.qty) AS packed'),
    ('void', 'shipped', 'packed', '', 'fresh f', 'true',
        ', on_hand = c.on_hand + coalesce(d.on_hand, 0), packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS on_hand, units(f.qty) AS packed',
        ', packed = c.packed + coalesce(d.packed, 0), shipped = c.shipped + coalesce(d.shipped, 0)', ', units(f.qty) AS packed, -units(f.qty) AS shipped',
        ', packed', ', packed = c.packed + coalesce(d.packed, 0)', ', units(f.qty) AS packed'),
    ('deliver', 'shipped', 'delivered', '', 'fresh f', 'false',
        '', '',
        ', shipped = c.shipped + coalesce(d.shipped, 0), delivered = c.delivered + coalesce(d.delivered, 0)', ', -units(f.qty) AS shipped, units(f.qty) AS delivered',
        '', '', ''),
    ('lose', 'shipped', 'open', '', 'fresh f', 'false',
        '', '',
        ', open = c.open + coalesce(d.open, 0), shipped = c.shipped + coalesce(d.shipped, 0)', ', units(f.qty) AS open, -units(f.qty) AS shipped',
        '', '', ''),
    ('drop', 'open', 'dropped', '', 'fresh f', 'false',
        '', '',
        ', open = c.open + coalesce(d.open, 0), dropped = c.dropped + coalesce(d.dropped, 0)', ', -units(f.qty) AS open, units(f.qty) AS dropped',
        '', '', ''),
    ('reopen', 'dropped', 'open', '', 'fresh f', 'false',
        '', '',
        ', open = c.open + coalesce(d.open, 0), dropped = c.dropped + coalesce(d.dropped, 0)', ', units(f.qty) AS open, -units(f.qty) AS dropped',
        '', '', ''),
    ('receive', 'outside', 'outside', '', 'fresh f', 'true',
        ', on_hand = c.on_hand + coalesce(d.on_hand, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS on_hand, units(f.qty) AS binned',
        '', '',
        '', '', ''),
    ('gain', 'outside', 'outside', '', 'fresh f', 'true',
        ', on_hand = c.on_hand + coalesce(d.on_hand, 0), binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS on_hand, units(f.qty) AS binned',
        '', '',
        '', '', ''),
    ('loss', 'outside', 'outside', '', 'fresh f', 'true',
        ', on_hand = c.on_hand + coalesce(d.on_hand, 0), binned = c.binned + coalesce(d.binned, 0)', ', -units(f.qty) AS on_hand, -units(f.qty) AS binned',
        '', '',
        '', '', ''),
    ('set aside', 'outside', 'outside', '', 'fresh f', 'true',
        ', held = c.held + coalesce(d.held, 0)', ', units(f.qty) AS held',
        '', '',
        '', '', ''),
    ('make good', 'outside', 'outside', '', 'fresh f', 'true',
        ', held = c.held + coalesce(d.held, 0)', ', -units(f.qty) AS held',
        '', '',
        '', '', ''),
    ('bin out', 'outside', 'outside', '', 'fresh f', 'true',
        ', binned = c.binned + coalesce(d.binned, 0)', ', -units(f.qty) AS binned',
        '', '',
        '', '', ''),
    ('bin in', 'outside', 'outside', '', 'fresh f', 'true',
        ', binned = c.binned + coalesce(d.binned, 0)', ', units(f.qty) AS binned',
        '', '',
        '', '', '');

-- Carries what was entered into the journal by one statement (fresh) to the counts. A few entries are counted one by one, each count by
-- its key; many are added up, by statements that are planned for as many as there are.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION journal_counts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    many        boolean := false;
    held_orders boolean := false;
    placed      bigint;
    there       bigint;
    wrong       text;
    commands    bigint[];
    since       bigint; -- the first of the promises that count together with these moves, if there are any
    have        record; -- what there is to look for
    texts       posting_text;
    f           record;
BEGIN
    FOR f IN
        SELECT j.*, r.in_house, j.qty * r.on_hand AS on_hand, j.qty * r.held AS held, j.qty * r.binned AS binned, j.qty * r.ordered AS ordered, j.qty * r.open AS open, j.qty * r.allocated AS allocated, j.qty * r.released AS released, j.qty * r.picked AS picked, j.qty * r.packed AS packed, j.qty * r.shipped AS shipped, j.qty * r.delivered AS delivered, j.qty * r.dropped AS dropped,
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
                UPDATE stock_cell c SET version = f.id, on_hand = c.on_hand + f.on_hand, held = c.held + f.held, allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, binned = c.binned + f.binned
                WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id RETURNING 1
            ), place AS (
                UPDATE line_at c SET allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed
                WHERE c.line_id = f.line_id AND c.warehouse_id = f.warehouse_id RETURNING 1
            ), line AS (
                UPDATE line_count c SET version = f.id, ordered = c.ordered + f.ordered, open = c.open + f.open, allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, shipped = c.shipped + f.shipped, delivered = c.delivered + f.delivered, dropped = c.dropped + f.dropped
                WHERE c.line_id = f.line_id
            )
            UPDATE order_count c SET version = f.id, ordered = c.ordered + f.ordered, open = c.open + f.open, allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, shipped = c.shipped + f.shipped, delivered = c.delivered + f.delivered, dropped = c.dropped + f.dropped
            WHERE c.order_id = f.order_id RETURNING (SELECT count(*) FROM place), (SELECT count(*) FROM cell) INTO placed, there;
            IF there = 0 THEN -- stock names an item and a warehouse that are there
                PERFORM entry_names_nothing('warehouse');
            END IF;
            IF placed = 0 THEN -- the line is held: nobody else adds it
                INSERT INTO line_at (line_id, warehouse_id, allocated, released, picked, packed) VALUES (f.line_id, f.warehouse_id, f.allocated, f.released, f.picked, f.packed);
            END IF;
        ELSIF f.line_id IS NOT NULL THEN
            UPDATE line_count c SET version = f.id, ordered = c.ordered + f.ordered, open = c.open + f.open, allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, shipped = c.shipped + f.shipped, delivered = c.delivered + f.delivered, dropped = c.dropped + f.dropped WHERE c.line_id = f.line_id;
            UPDATE order_count c SET version = f.id, ordered = c.ordered + f.ordered, open = c.open + f.open, allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, shipped = c.shipped + f.shipped, delivered = c.delivered + f.delivered, dropped = c.dropped + f.dropped WHERE c.order_id = f.order_id;
        ELSIF f.in_house THEN
            LOOP
                UPDATE stock_cell c SET version = f.id, on_hand = c.on_hand + f.on_hand, held = c.held + f.held, allocated = c.allocated + f.allocated, released = c.released + f.released, picked = c.picked + f.picked, packed = c.packed + f.packed, binned = c.binned + f.binned WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id;
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

    -- What entries name is looked up for all of them at once.
    SELECT bool_or(line_id IS NOT NULL) AS lines, bool_or(line_id IS NULL) AS stock, bool_or(bin_id IS NOT NULL) AS bins, bool_or(task_id IS NOT NULL) AS tasks,
        bool_or(package_id IS NOT NULL) AS packages, bool_or(inbound_id IS NOT NULL) AS inbound, bool_or(line_id IS NOT NULL AND warehouse_id IS NOT NULL) AS places,
        array_agg(DISTINCT command_id) AS commands, bool_or(kind = 'enter' OR kind = 'reduce') AS ordered
        INTO have FROM fresh;
    commands := have.commands;
    SELECT CASE WHEN count(*) > count(r.kind) THEN 'move_rule' END INTO wrong
    FROM (SELECT DISTINCT kind, from_station, to_station, cause FROM fresh) x LEFT JOIN move_rule r USING (kind, from_station, to_station, cause);
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
    INSERT INTO command_awaited SELECT x FROM unnest(commands) x WHERE NOT EXISTS (SELECT 1 FROM command c WHERE c.id = x) ON CONFLICT DO NOTHING;

    -- Promises that were written before these moves count together with them.
    WITH a AS (DELETE FROM promise_awaited WHERE command_id = ANY (commands) RETURNING entry_id) SELECT min(entry_id) INTO since FROM a;

    -- By what they are added up.
    IF (SELECT count(*) FROM (SELECT DISTINCT kind, from_station, to_station, cause FROM fresh LIMIT 2) x) = 1 THEN
        SELECT p.* INTO texts FROM posting_text p JOIN (SELECT kind, from_station, to_station, cause FROM fresh LIMIT 1) x USING (kind, from_station, to_station, cause);
    ELSE
        SELECT p.* INTO texts FROM posting_text p WHERE kind = '';
    END IF;

    EXECUTE $q$
        INSERT INTO stock_cell (item_id, warehouse_id)
        SELECT DISTINCT f.item_id, f.warehouse_id FROM fresh f WHERE f.warehouse_id IS NOT NULL
            AND NOT EXISTS (SELECT 1 FROM stock_cell c WHERE c.item_id = f.item_id AND c.warehouse_id = f.warehouse_id)
        ORDER BY 1, 2 ON CONFLICT DO NOTHING $q$;
    EXECUTE format($q$
        UPDATE stock_cell c SET version = d.version%s
        FROM (SELECT f.item_id, f.warehouse_id, max(f.id) AS version%s FROM %s WHERE %s GROUP BY 1, 2) d
        WHERE c.item_id = d.item_id AND c.warehouse_id = d.warehouse_id $q$, texts.cell_sets, texts.cell_sums, texts.moves, texts.indoors);

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

    IF have.lines OR since IS NOT NULL THEN
        EXECUTE format($q$
            UPDATE line_count c SET version = greatest(d.version, d.promised_by)%s, promised = coalesce(d.promised, c.promised)
            FROM (SELECT * FROM (SELECT f.line_id, max(f.id) AS version%s FROM %s WHERE f.line_id IS NOT NULL GROUP BY 1) m
                FULL JOIN (SELECT line_id, id AS promised_by, now_units AS promised FROM promise_entry WHERE command_id = ANY ($1) AND id >= $2) p USING (line_id)) d
            WHERE c.line_id = d.line_id $q$, texts.line_sets, texts.line_sums, texts.moves) USING commands, since;
        -- Nobody holds orders before: take them one after another.
        EXECUTE $q$ SELECT 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh UNION SELECT order_id FROM promise_entry WHERE command_id = ANY ($1) AND id >= $2)
            ORDER BY order_id FOR NO KEY UPDATE $q$ USING commands, since;
        EXECUTE format($q$
            UPDATE order_count c SET version = greatest(d.version, d.promised_by)%s, promised = c.promised + coalesce(d.promised, 0)
            FROM (SELECT * FROM (SELECT f.order_id, max(f.id) AS version%s FROM %s WHERE f.order_id IS NOT NULL GROUP BY 1) m
                FULL JOIN (SELECT order_id, max(id) AS promised_by, units(now_units - was_units) AS promised FROM promise_entry
                    WHERE command_id = ANY ($1) AND id >= $2 GROUP BY 1) p USING (order_id)) d
            WHERE c.order_id = d.order_id $q$, texts.line_sets, texts.line_sums, texts.moves) USING commands, since;
        IF texts.place_sets <> '' AND have.places THEN
            EXECUTE format($q$
                UPDATE line_at c SET %s
                FROM (SELECT f.line_id, f.warehouse_id%s FROM %s WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL GROUP BY 1, 2) d
                WHERE c.line_id = d.line_id AND c.warehouse_id = d.warehouse_id $q$, substr(texts.place_sets, 3), texts.place_sums, texts.moves);
            -- Where the line stands for the first time, the row is added with its units.
            EXECUTE format($q$
                INSERT INTO line_at (line_id, warehouse_id%s)
                SELECT f.line_id, f.warehouse_id%s FROM %s
                WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL
                    AND NOT EXISTS (SELECT 1 FROM line_at p WHERE p.line_id = f.line_id AND p.warehouse_id = f.warehouse_id)
                GROUP BY 1, 2 ORDER BY 1, 2 $q$, texts.place_names, texts.place_sums, texts.moves);
        END IF;
    END IF;

    IF have.ordered THEN
        EXECUTE $q$
            UPDATE order_count c SET value_minor = c.value_minor + d.value_minor, cost_minor = c.cost_minor + d.cost_minor
            FROM (SELECT f.order_id, units(f.qty * r.ordered * l.price_minor) AS value_minor, units(f.qty * r.ordered * l.cost_minor) AS cost_minor
                  FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) JOIN order_line l ON l.id = f.line_id
                  WHERE r.ordered <> 0 GROUP BY 1) d
            WHERE c.order_id = d.order_id $q$;
    END IF;
    IF have.tasks THEN
        EXECUTE $q$
            UPDATE pick_task t SET picked = t.picked + d.picked, short = t.short + d.short, recalled = t.recalled + d.recalled
            FROM (SELECT task_id, sum(qty * (kind = 'pick')::int) AS picked, sum(qty * (kind = 'short')::int) AS short,
                      sum(qty * (kind = 'recall')::int) AS recalled
                  FROM fresh WHERE task_id IS NOT NULL AND kind <> 'release' GROUP BY task_id) d
            WHERE t.id = d.task_id $q$;
    END IF;
    IF have.packages THEN
        EXECUTE $q$
            INSERT INTO package_line (package_id, line_id)
            SELECT DISTINCT f.package_id, f.line_id FROM fresh f WHERE f.package_id IS NOT NULL AND f.kind = 'pack' ORDER BY 1, 2
            ON CONFLICT DO NOTHING $q$;
        EXECUTE $q$
            UPDATE package_line p SET qty = p.qty + d.qty
            FROM (SELECT f.package_id, f.line_id, units(f.qty * r.packed) AS qty FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)
                  WHERE f.package_id IS NOT NULL AND f.kind NOT IN ('dispatch', 'void') GROUP BY 1, 2) d
            WHERE p.package_id = d.package_id AND p.line_id = d.line_id AND d.qty <> 0 $q$;
    END IF;
    IF have.inbound THEN
        UPDATE inbound i SET received = i.received + d.qty
        FROM (SELECT inbound_id, sum(qty) AS qty FROM fresh WHERE inbound_id IS NOT NULL GROUP BY inbound_id) d
        WHERE i.id = d.inbound_id;
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- What worked the lists out as it went is not needed any more.
DROP FUNCTION IF EXISTS added_up(move_rule[], text);
