-- +goose Up

-- The journal: every move of every unit and every entry that changes stock, written once.
-- The counts below are its sums. Only the journal's trigger writes them; the application's role may
-- insert into the journal and read the counts, and has no right to change either.

CREATE TABLE move_rule (
    kind         text NOT NULL,
    from_station text NOT NULL,
    to_station   text NOT NULL,
    cause        text NOT NULL DEFAULT '',
    on_hand      smallint NOT NULL,
    held         smallint NOT NULL,
    binned       smallint NOT NULL,
    in_house     boolean NOT NULL,
    of_line      boolean GENERATED ALWAYS AS (from_station <> to_station) STORED,
    -- what one unit does to the count of each station, and to what was ordered
    open         smallint GENERATED ALWAYS AS ((to_station = 'open')::int - (from_station = 'open')::int) STORED,
    allocated    smallint GENERATED ALWAYS AS ((to_station = 'allocated')::int - (from_station = 'allocated')::int) STORED,
    released     smallint GENERATED ALWAYS AS ((to_station = 'released')::int - (from_station = 'released')::int) STORED,
    picked       smallint GENERATED ALWAYS AS ((to_station = 'picked')::int - (from_station = 'picked')::int) STORED,
    packed       smallint GENERATED ALWAYS AS ((to_station = 'packed')::int - (from_station = 'packed')::int) STORED,
    shipped      smallint GENERATED ALWAYS AS ((to_station = 'shipped')::int - (from_station = 'shipped')::int) STORED,
    delivered    smallint GENERATED ALWAYS AS ((to_station = 'delivered')::int - (from_station = 'delivered')::int) STORED,
    dropped      smallint GENERATED ALWAYS AS ((to_station = 'dropped')::int - (from_station = 'dropped')::int) STORED,
    ordered      smallint GENERATED ALWAYS AS ((from_station = 'outside')::int - (to_station = 'outside')::int) STORED,
    PRIMARY KEY (kind, from_station, to_station, cause)
);

INSERT INTO move_rule (kind, from_station, to_station, cause, on_hand, held, binned, in_house) VALUES
    ('enter',     'outside',   'open',      '',           0,  0,  0, false),
    ('reduce',    'open',      'outside',   '',           0,  0,  0, false),
    ('allocate',  'open',      'allocated', '',           0,  0,  0, true),
    ('give back', 'allocated', 'open',      '',           0,  0,  0, true),
    ('release',   'allocated', 'released',  '',           0,  0,  0, true),
    ('recall',    'released',  'allocated', '',           0,  0,  0, true),
    ('pick',      'released',  'picked',    '',           0,  0, -1, true),
    ('short',     'released',  'open',      'missing',   -1,  0, -1, true),
    ('short',     'released',  'open',      'damaged',    0,  1,  0, true),
    ('short',     'released',  'open',      'elsewhere',  0,  0,  0, true),
    ('pack',      'picked',    'packed',    '',           0,  0,  0, true),
    ('unpack',    'packed',    'picked',    '',           0,  0,  0, true),
    ('put back',  'picked',    'allocated', '',           0,  0,  1, true),
    ('put back',  'picked',    'open',      '',           0,  0,  1, true),
    ('put back',  'picked',    'dropped',   '',           0,  0,  1, true),
    ('put back',  'packed',    'allocated', '',           0,  0,  1, true),
    ('put back',  'packed',    'open',      '',           0,  0,  1, true),
    ('put back',  'packed',    'dropped',   '',           0,  0,  1, true),
    ('dispatch',  'packed',    'shipped',   '',          -1,  0,  0, true),
    ('void',      'shipped',   'packed',    '',           1,  0,  0, true),
    ('deliver',   'shipped',   'delivered', '',           0,  0,  0, false),
    ('lose',      'shipped',   'open',      '',           0,  0,  0, false),
    ('drop',      'open',      'dropped',   '',           0,  0,  0, false),
    ('reopen',    'dropped',   'open',      '',           0,  0,  0, false),
    ('receive',   'outside',   'outside',   '',           1,  0,  1, true),
    ('gain',      'outside',   'outside',   '',           1,  0,  1, true),
    ('loss',      'outside',   'outside',   '',          -1,  0, -1, true),
    ('set aside', 'outside',   'outside',   '',           0,  1,  0, true),
    ('make good', 'outside',   'outside',   '',           0, -1,  0, true),
    ('bin out',   'outside',   'outside',   '',           0,  0, -1, true),
    ('bin in',    'outside',   'outside',   '',           0,  0,  1, true);

-- Narrow rows that change often. `grip` is there to be locked: it is the one column
-- the application may update, and it never does.

CREATE TABLE line_count (
    line_id   bigint PRIMARY KEY REFERENCES order_line,
    ordered   bigint NOT NULL DEFAULT 0,
    open      bigint NOT NULL DEFAULT 0,
    allocated bigint NOT NULL DEFAULT 0,
    released  bigint NOT NULL DEFAULT 0,
    picked    bigint NOT NULL DEFAULT 0,
    packed    bigint NOT NULL DEFAULT 0,
    shipped   bigint NOT NULL DEFAULT 0,
    delivered bigint NOT NULL DEFAULT 0,
    dropped   bigint NOT NULL DEFAULT 0,
    version   bigint NOT NULL DEFAULT 0, -- the line's last journal entry
    grip      boolean,
    CONSTRAINT line_adds_up CHECK (ordered = open + allocated + released + picked + packed + shipped + delivered + dropped),
    CONSTRAINT no_station_is_negative CHECK (least(open, allocated, released, picked, packed, shipped, delivered, dropped) >= 0)
) WITH (fillfactor = 80);
-- The one partial index, on what changes last: a count that stands in no index changes in its page alone.
CREATE INDEX line_count_live ON line_count (line_id) WHERE delivered + dropped < ordered;

CREATE TABLE line_at (
    line_id      bigint NOT NULL REFERENCES order_line,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    allocated    bigint NOT NULL DEFAULT 0,
    released     bigint NOT NULL DEFAULT 0,
    picked       bigint NOT NULL DEFAULT 0,
    packed       bigint NOT NULL DEFAULT 0,
    PRIMARY KEY (line_id, warehouse_id),
    CONSTRAINT no_place_is_negative CHECK (least(allocated, released, picked, packed) >= 0)
) WITH (fillfactor = 80);

CREATE TABLE order_count (
    order_id    bigint PRIMARY KEY REFERENCES sales_order,
    ordered     bigint NOT NULL DEFAULT 0,
    open        bigint NOT NULL DEFAULT 0,
    allocated   bigint NOT NULL DEFAULT 0,
    released    bigint NOT NULL DEFAULT 0,
    picked      bigint NOT NULL DEFAULT 0,
    packed      bigint NOT NULL DEFAULT 0,
    shipped     bigint NOT NULL DEFAULT 0,
    delivered   bigint NOT NULL DEFAULT 0,
    dropped     bigint NOT NULL DEFAULT 0,
    value_minor bigint NOT NULL DEFAULT 0, -- ordered × price
    cost_minor  bigint NOT NULL DEFAULT 0,
    version     bigint NOT NULL DEFAULT 0,
    CONSTRAINT order_adds_up CHECK (ordered = open + allocated + released + picked + packed + shipped + delivered + dropped)
) WITH (fillfactor = 80);
CREATE INDEX order_count_live ON order_count (order_id) WHERE delivered + dropped < ordered;

CREATE TABLE stock_cell (
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    on_hand      bigint NOT NULL DEFAULT 0,
    held         bigint NOT NULL DEFAULT 0,
    allocated    bigint NOT NULL DEFAULT 0,
    released     bigint NOT NULL DEFAULT 0,
    picked       bigint NOT NULL DEFAULT 0,
    packed       bigint NOT NULL DEFAULT 0,
    binned       bigint NOT NULL DEFAULT 0,
    free         bigint GENERATED ALWAYS AS (on_hand - held - allocated - released - picked - packed) STORED,
    version      bigint NOT NULL DEFAULT 0,
    grip         boolean,
    PRIMARY KEY (item_id, warehouse_id),
    CONSTRAINT free_is_never_negative CHECK (on_hand - held - allocated - released - picked - packed >= 0),
    CONSTRAINT bins_hold_what_is_not_picked CHECK (binned = on_hand - picked - packed),
    CONSTRAINT no_stock_is_negative CHECK (least(on_hand, held, allocated, released, picked, packed) >= 0)
) WITH (fillfactor = 80);

CREATE TABLE bin_stock (
    item_id      bigint NOT NULL,
    warehouse_id bigint NOT NULL,
    bin_id       bigint NOT NULL,
    qty          bigint NOT NULL DEFAULT 0 CHECK (qty >= 0),
    held         bigint NOT NULL DEFAULT 0 CHECK (held >= 0),
    PRIMARY KEY (item_id, warehouse_id, bin_id),
    FOREIGN KEY (item_id, warehouse_id) REFERENCES stock_cell,
    FOREIGN KEY (bin_id, warehouse_id) REFERENCES bin (id, warehouse_id),
    CONSTRAINT held_lies_in_the_bin CHECK (held <= qty)
) WITH (fillfactor = 80);

CREATE TABLE journal (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id   bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    kind         text NOT NULL,
    from_station text NOT NULL,
    to_station   text NOT NULL,
    cause        text NOT NULL DEFAULT '',
    qty          bigint NOT NULL CHECK (qty > 0),
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint REFERENCES warehouse,
    bin_id       bigint,
    line_id      bigint,
    order_id     bigint,
    task_id      bigint,
    package_id   bigint REFERENCES package,
    inbound_id   bigint REFERENCES inbound,
    FOREIGN KEY (kind, from_station, to_station, cause) REFERENCES move_rule,
    FOREIGN KEY (line_id, order_id, item_id) REFERENCES order_line (id, order_id, item_id),
    FOREIGN KEY (task_id, line_id) REFERENCES pick_task (id, line_id),
    FOREIGN KEY (bin_id, warehouse_id) REFERENCES bin (id, warehouse_id),
    -- units of a line move between two stations; an entry without a line moves stock alone
    CONSTRAINT a_move_has_its_line CHECK ((from_station <> to_station) = (line_id IS NOT NULL) AND (line_id IS NULL) = (order_id IS NULL)),
    -- what stands in a warehouse moves in that warehouse
    CONSTRAINT a_move_in_the_house_has_its_warehouse CHECK (warehouse_id IS NOT NULL
        OR kind IN ('enter', 'reduce', 'deliver', 'lose', 'drop', 'reopen')),
    CONSTRAINT what_touches_a_bin_names_it CHECK (bin_id IS NOT NULL
        OR kind NOT IN ('pick', 'short', 'put back', 'receive', 'gain', 'loss', 'set aside', 'make good', 'bin out', 'bin in')),
    CONSTRAINT what_comes_off_a_list_names_its_task CHECK ((task_id IS NOT NULL) = (kind IN ('release', 'recall', 'pick', 'short'))),
    CONSTRAINT what_is_packed_names_its_package CHECK (package_id IS NOT NULL
        OR (kind NOT IN ('pack', 'unpack', 'dispatch', 'void', 'deliver', 'lose') AND from_station <> 'packed')),
    CONSTRAINT a_receipt_names_its_inbound CHECK ((inbound_id IS NOT NULL) = (kind = 'receive'))
);
CREATE INDEX journal_line ON journal (line_id, id) WHERE line_id IS NOT NULL;
CREATE INDEX journal_cell ON journal (item_id, warehouse_id, id);
CREATE INDEX journal_command ON journal (command_id);

-- A line and an order start with counts of nothing.
-- +goose StatementBegin
CREATE FUNCTION line_starts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    INSERT INTO line_count (line_id) SELECT id FROM fresh;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER line_starts AFTER INSERT ON order_line REFERENCING NEW TABLE AS fresh
    FOR EACH STATEMENT EXECUTE FUNCTION line_starts();

-- +goose StatementBegin
CREATE FUNCTION order_starts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    INSERT INTO order_count (order_id) SELECT id FROM fresh;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER order_starts AFTER INSERT ON sales_order REFERENCING NEW TABLE AS fresh
    FOR EACH STATEMENT EXECUTE FUNCTION order_starts();

-- What was written into the journal is carried to the counts. Rows are locked in the application's
-- order: item, warehouse, line, order.
--
-- A command of a few moves goes row by row, each count by its key: nothing is cheaper. Many go set by
-- set; those statements are planned anew each time (EXECUTE), for the number of rows there are.
-- +goose StatementBegin
CREATE FUNCTION journal_counts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    few         constant bigint := 40;
    many        boolean := false;
    held_orders boolean := false;
    placed      bigint;
    f           record;
BEGIN
    FOR f IN
        SELECT j.*, j.qty * r.on_hand AS on_hand, j.qty * r.held AS held, j.qty * r.binned AS binned, r.in_house, j.qty * r.ordered AS ordered,
            j.qty * r.open AS open, j.qty * r.allocated AS allocated, j.qty * r.released AS released, j.qty * r.picked AS picked,
            j.qty * r.packed AS packed, j.qty * r.shipped AS shipped, j.qty * r.delivered AS delivered, j.qty * r.dropped AS dropped
        FROM (SELECT *, count(*) OVER () AS n, bool_or(kind IN ('bin out', 'bin in')) OVER () AS bins FROM fresh LIMIT few + 1) j
            JOIN move_rule r USING (kind, from_station, to_station, cause)
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
    EXECUTE $q$
        UPDATE stock_cell c SET on_hand = c.on_hand + d.on_hand, held = c.held + d.held, binned = c.binned + d.binned,
            allocated = c.allocated + d.allocated, released = c.released + d.released, picked = c.picked + d.picked, packed = c.packed + d.packed, version = d.version
        FROM (SELECT f.item_id, f.warehouse_id, max(f.id) AS version,
                  sum(f.qty * r.on_hand) AS on_hand, sum(f.qty * r.held) AS held, sum(f.qty * r.binned) AS binned,
                  sum(f.qty * r.allocated) AS allocated,
                  sum(f.qty * r.released) AS released,
                  sum(f.qty * r.picked) AS picked,
                  sum(f.qty * r.packed) AS packed
              FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) WHERE r.in_house GROUP BY 1, 2) d
        WHERE c.item_id = d.item_id AND c.warehouse_id = d.warehouse_id $q$;

    IF EXISTS (SELECT 1 FROM fresh WHERE bin_id IS NOT NULL) THEN
        -- The row first, then the change: a fall must never be judged before the row it falls from is there.
        EXECUTE $q$
            INSERT INTO bin_stock (item_id, warehouse_id, bin_id)
            SELECT DISTINCT f.item_id, f.warehouse_id, f.bin_id FROM fresh f WHERE f.bin_id IS NOT NULL ORDER BY 1, 2, 3
            ON CONFLICT DO NOTHING $q$;
        EXECUTE $q$
            UPDATE bin_stock b SET qty = b.qty + d.qty, held = b.held + d.held
            FROM (SELECT f.item_id, f.warehouse_id, f.bin_id, sum(f.qty * r.binned) AS qty, sum(f.qty * r.held) AS held
                  FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) WHERE f.bin_id IS NOT NULL GROUP BY 1, 2, 3) d
            WHERE b.item_id = d.item_id AND b.warehouse_id = d.warehouse_id AND b.bin_id = d.bin_id $q$;
    END IF;

    IF EXISTS (SELECT 1 FROM fresh WHERE line_id IS NOT NULL) THEN
        EXECUTE $q$
            UPDATE line_count c SET ordered = c.ordered + d.ordered, open = c.open + d.open, allocated = c.allocated + d.allocated, released = c.released + d.released, picked = c.picked + d.picked, packed = c.packed + d.packed, shipped = c.shipped + d.shipped, delivered = c.delivered + d.delivered, dropped = c.dropped + d.dropped, version = d.version
            FROM (SELECT f.line_id, max(f.id) AS version,
                      sum(f.qty * r.ordered) AS ordered,
                      sum(f.qty * r.open) AS open,
                      sum(f.qty * r.allocated) AS allocated,
                      sum(f.qty * r.released) AS released,
                      sum(f.qty * r.picked) AS picked,
                      sum(f.qty * r.packed) AS packed,
                      sum(f.qty * r.shipped) AS shipped,
                      sum(f.qty * r.delivered) AS delivered,
                      sum(f.qty * r.dropped) AS dropped
                  FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) WHERE f.line_id IS NOT NULL GROUP BY 1) d
            WHERE c.line_id = d.line_id $q$;

        IF EXISTS (SELECT 1 FROM fresh WHERE line_id IS NOT NULL AND warehouse_id IS NOT NULL) THEN
            EXECUTE $q$
                INSERT INTO line_at (line_id, warehouse_id)
                SELECT DISTINCT f.line_id, f.warehouse_id FROM fresh f WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL
                ORDER BY 1, 2 ON CONFLICT DO NOTHING $q$;
            EXECUTE $q$
                UPDATE line_at p SET allocated = p.allocated + d.allocated, released = p.released + d.released, picked = p.picked + d.picked, packed = p.packed + d.packed
                FROM (SELECT f.line_id, f.warehouse_id,
                          sum(f.qty * r.allocated) AS allocated,
                          sum(f.qty * r.released) AS released,
                          sum(f.qty * r.picked) AS picked,
                          sum(f.qty * r.packed) AS packed
                      FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)
                      WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL GROUP BY 1, 2) d
                WHERE p.line_id = d.line_id AND p.warehouse_id = d.warehouse_id $q$;
        END IF;

        PERFORM 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh) ORDER BY order_id FOR NO KEY UPDATE;
        EXECUTE $q$
            UPDATE order_count c SET ordered = c.ordered + d.ordered, open = c.open + d.open, allocated = c.allocated + d.allocated, released = c.released + d.released, picked = c.picked + d.picked, packed = c.packed + d.packed, shipped = c.shipped + d.shipped, delivered = c.delivered + d.delivered, dropped = c.dropped + d.dropped,
                value_minor = c.value_minor + d.value_minor, cost_minor = c.cost_minor + d.cost_minor, version = d.version
            FROM (SELECT f.order_id, max(f.id) AS version,
                      sum(f.qty * r.ordered) AS ordered,
                      sum(f.qty * r.open) AS open,
                      sum(f.qty * r.allocated) AS allocated,
                      sum(f.qty * r.released) AS released,
                      sum(f.qty * r.picked) AS picked,
                      sum(f.qty * r.packed) AS packed,
                      sum(f.qty * r.shipped) AS shipped,
                      sum(f.qty * r.delivered) AS delivered,
                      sum(f.qty * r.dropped) AS dropped,
                      sum(f.qty * r.ordered * l.price_minor) AS value_minor, sum(f.qty * r.ordered * l.cost_minor) AS cost_minor
                  FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause) JOIN order_line l ON l.id = f.line_id
                  GROUP BY f.order_id) d
            WHERE c.order_id = d.order_id $q$;

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
                FROM (SELECT f.package_id, f.line_id, sum(f.qty * r.packed) AS qty FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)
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

CREATE TRIGGER journal_counts AFTER INSERT ON journal REFERENCING NEW TABLE AS fresh
    FOR EACH STATEMENT EXECUTE FUNCTION journal_counts();

-- Not even the owner changes what was written.
-- +goose StatementBegin
CREATE FUNCTION journal_stays() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'the journal is only added to: % is refused', TG_OP USING ERRCODE = 'integrity_constraint_violation';
END $$;
-- +goose StatementEnd
CREATE TRIGGER journal_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON journal
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

-- The application's own role.
-- +goose StatementBegin
DO $$
BEGIN
    IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'journeyman_app') THEN
        CREATE ROLE journeyman_app NOLOGIN;
    END IF;
EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; -- another database of the cluster was quicker
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
DO $$
BEGIN
    EXECUTE format('GRANT journeyman_app TO %I', current_user);
EXCEPTION WHEN OTHERS THEN
    IF NOT pg_has_role(current_user, 'journeyman_app', 'MEMBER') THEN RAISE; END IF;
END $$;
-- +goose StatementEnd
GRANT USAGE ON SCHEMA public TO journeyman_app;
GRANT SELECT ON ALL TABLES IN SCHEMA public TO journeyman_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO journeyman_app;
GRANT INSERT ON journal, warehouse, bin, item, customer, ship_to, inbound, sales_order, order_line, app_user, sessions, command,
    hold, pick_list, pick_task, shipment, package, progress, import_run, setting TO journeyman_app;
GRANT UPDATE ON setting, item, customer, ship_to, bin, warehouse, sales_order, app_user, sessions, progress TO journeyman_app;
GRANT UPDATE (due, qty, kind, supplier) ON inbound TO journeyman_app;
GRANT UPDATE (lifted_by) ON hold TO journeyman_app;
GRANT UPDATE (service, carrier, tracking, dispatched_by, dispatched_at, expected, delivered_by, delivered_at, version) ON shipment TO journeyman_app;
GRANT UPDATE (grip) ON line_count, stock_cell TO journeyman_app;
GRANT UPDATE (seq) ON pick_task TO journeyman_app;
GRANT UPDATE (applied) ON import_run TO journeyman_app;
GRANT DELETE ON sessions, progress, import_run TO journeyman_app;
