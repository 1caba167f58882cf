-- +goose Up

-- Items of whose units it is noted which lot they are of, from the receipt to whoever gets them.
ALTER TABLE item ADD COLUMN lots boolean NOT NULL DEFAULT false;
GRANT UPDATE (lots) ON item TO journeyman_app;

CREATE TABLE lot (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    item_id  bigint NOT NULL REFERENCES item,
    code     text NOT NULL CHECK (code = upper(btrim(code)) AND code <> '' AND length(code) <= 40),
    noted_by bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    UNIQUE (item_id, code),
    UNIQUE (id, item_id)
);
CREATE INDEX lot_code ON lot (code text_pattern_ops);

-- A lot that must not be sent. Why is the reason of the command that said so.
CREATE TABLE lot_recall (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    lot_id    bigint NOT NULL REFERENCES lot,
    asked_by  bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    lifted_by bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED
);
CREATE UNIQUE INDEX lot_recall_stands ON lot_recall (lot_id) WHERE lifted_by IS NULL;

-- Which lots units are of, written once: by how many there are more or fewer of a lot in a bin, picked of a line, or in a package of a
-- line, and by how many more or fewer of those in the bin are set aside since the lot must not be sent. Only lot_counts adds them up.
CREATE TABLE lot_entry (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id   bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    lot_id       bigint NOT NULL,
    item_id      bigint NOT NULL,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    bin_id       bigint,
    line_id      bigint REFERENCES order_line,
    package_id   bigint REFERENCES package,
    inbound_id   bigint REFERENCES inbound,
    change       bigint NOT NULL,
    aside        bigint NOT NULL DEFAULT 0,
    FOREIGN KEY (lot_id, item_id) REFERENCES lot (id, item_id),
    FOREIGN KEY (bin_id, warehouse_id) REFERENCES bin (id, warehouse_id),
    CHECK (change <> 0 OR aside <> 0),
    CHECK ((bin_id IS NULL) <> (line_id IS NULL)),
    CHECK (package_id IS NULL OR line_id IS NOT NULL),
    CHECK (aside = 0 OR bin_id IS NOT NULL),
    CHECK (inbound_id IS NULL OR bin_id IS NOT NULL)
);
CREATE INDEX lot_entry_lot ON lot_entry (lot_id, id);
CREATE INDEX lot_entry_command ON lot_entry (command_id);

CREATE TABLE lot_count (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    lot_id       bigint NOT NULL REFERENCES lot,
    item_id      bigint NOT NULL,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    bin_id       bigint,
    line_id      bigint,
    package_id   bigint,
    qty          bigint NOT NULL DEFAULT 0,
    aside        bigint NOT NULL DEFAULT 0,
    UNIQUE NULLS NOT DISTINCT (lot_id, warehouse_id, bin_id, line_id, package_id),
    CONSTRAINT no_lot_is_negative CHECK (aside BETWEEN 0 AND qty)
);
CREATE INDEX lot_count_bin ON lot_count (bin_id, item_id) WHERE bin_id IS NOT NULL;
CREATE INDEX lot_count_line ON lot_count (line_id) WHERE line_id IS NOT NULL;
CREATE INDEX lot_count_package ON lot_count (package_id) WHERE package_id IS NOT NULL;
CREATE INDEX lot_count_item ON lot_count (item_id, warehouse_id) WHERE qty > 0;

-- Carries what was entered to the counts, and refuses more of lots than there are units in a place: in a bin, picked of a line or in a
-- package, with those that were recalled out of it and lie there until they are put back.
-- +goose StatementBegin
CREATE FUNCTION lot_counts() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    wrong text;
BEGIN
    INSERT INTO lot_count (lot_id, item_id, warehouse_id, bin_id, line_id, package_id)
        SELECT DISTINCT lot_id, item_id, warehouse_id, bin_id, line_id, package_id FROM fresh ORDER BY 1, 3, 4, 5, 6 ON CONFLICT DO NOTHING;
    UPDATE lot_count c SET qty = c.qty + d.change, aside = c.aside + d.aside
    FROM (SELECT lot_id, warehouse_id, bin_id, line_id, package_id, sum(change) AS change, sum(aside) AS aside FROM fresh
        GROUP BY 1, 2, 3, 4, 5) d
    WHERE c.lot_id = d.lot_id AND c.warehouse_id = d.warehouse_id AND c.bin_id IS NOT DISTINCT FROM d.bin_id
        AND c.line_id IS NOT DISTINCT FROM d.line_id AND c.package_id IS NOT DISTINCT FROM d.package_id;
    SELECT 'bin ' || f.bin_id INTO wrong FROM (SELECT DISTINCT bin_id, item_id, warehouse_id FROM fresh WHERE bin_id IS NOT NULL) f
        JOIN LATERAL (SELECT sum(qty) AS qty, sum(aside) AS aside FROM lot_count c WHERE c.bin_id = f.bin_id AND c.item_id = f.item_id) l ON true
        LEFT JOIN bin_stock s ON s.item_id = f.item_id AND s.warehouse_id = f.warehouse_id AND s.bin_id = f.bin_id
    WHERE l.qty > coalesce(s.qty, 0) OR l.aside > coalesce(s.held, 0);
    IF wrong IS NULL THEN
        SELECT 'line ' || f.line_id INTO wrong FROM (SELECT DISTINCT line_id, warehouse_id FROM fresh WHERE package_id IS NULL AND line_id IS NOT NULL) f
            JOIN LATERAL (SELECT sum(qty) AS qty FROM lot_count c WHERE c.line_id = f.line_id AND c.warehouse_id = f.warehouse_id
                AND c.package_id IS NULL) l ON true
            LEFT JOIN line_at p ON p.line_id = f.line_id AND p.warehouse_id = f.warehouse_id
        WHERE l.qty > coalesce(p.picked, 0) + coalesce((SELECT sum(b.qty - b.done) FROM put_back b WHERE b.line_id = f.line_id
            AND b.warehouse_id = f.warehouse_id AND b.package_id IS NULL AND b.done < b.qty), 0);
    END IF;
    IF wrong IS NULL THEN
        SELECT 'package ' || f.package_id INTO wrong FROM (SELECT DISTINCT package_id, line_id FROM fresh WHERE package_id IS NOT NULL) f
            JOIN LATERAL (SELECT sum(qty) AS qty FROM lot_count c WHERE c.package_id = f.package_id AND c.line_id = f.line_id) l ON true
            LEFT JOIN package_line p ON p.package_id = f.package_id AND p.line_id = f.line_id
        WHERE l.qty > coalesce(p.qty, 0) + coalesce((SELECT sum(b.qty - b.done) FROM put_back b WHERE b.package_id = f.package_id
            AND b.line_id = f.line_id AND b.done < b.qty), 0);
    END IF;
    IF wrong IS NOT NULL THEN
        RAISE EXCEPTION 'more of its lots are noted than there are units: %', wrong USING ERRCODE = 'check_violation';
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION lot_counts() FROM PUBLIC;
CREATE TRIGGER lot_counts AFTER INSERT ON lot_entry REFERENCING NEW TABLE AS fresh
    FOR EACH STATEMENT EXECUTE FUNCTION lot_counts();
CREATE TRIGGER lot_entry_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON lot_entry
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

-- What is recalled because of its lot is to be put back as that lot.
ALTER TABLE put_back ADD COLUMN lot_id bigint REFERENCES lot;

GRANT SELECT, INSERT ON lot, lot_recall, lot_entry TO journeyman_app;
GRANT SELECT ON lot_count TO journeyman_app;
GRANT UPDATE (lifted_by) ON lot_recall TO journeyman_app;
