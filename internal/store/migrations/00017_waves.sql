-- +goose Up

-- How large one unit of an item is, in millimetres; 0 if nobody has said.
ALTER TABLE item
    ADD COLUMN length_mm integer NOT NULL DEFAULT 0 CHECK (length_mm BETWEEN 0 AND 100000),
    ADD COLUMN width_mm  integer NOT NULL DEFAULT 0 CHECK (width_mm BETWEEN 0 AND 100000),
    ADD COLUMN height_mm integer NOT NULL DEFAULT 0 CHECK (height_mm BETWEEN 0 AND 100000);
GRANT UPDATE (length_mm, width_mm, height_mm) ON item TO journeyman_app;

-- How the floor of a warehouse is laid out, how quickly it works, and what a pallet carries (core/release).
ALTER TABLE warehouse
    ADD COLUMN aisle_cm   integer NOT NULL DEFAULT 300 CHECK (aisle_cm BETWEEN 10 AND 10000),  -- from aisle to aisle
    ADD COLUMN place_cm   integer NOT NULL DEFAULT 120 CHECK (place_cm BETWEEN 10 AND 10000),  -- from place to place in an aisle
    ADD COLUMN walk_m_min integer NOT NULL DEFAULT 60 CHECK (walk_m_min BETWEEN 1 AND 1000),   -- metres walked in a minute
    ADD COLUMN row_s      integer NOT NULL DEFAULT 15 CHECK (row_s BETWEEN 0 AND 3600),        -- seconds for a row of a pick list
    ADD COLUMN unit_ms    integer NOT NULL DEFAULT 2000 CHECK (unit_ms BETWEEN 0 AND 3600000), -- and milliseconds for a unit of it
    ADD COLUMN pallet_kg  integer NOT NULL DEFAULT 800 CHECK (pallet_kg BETWEEN 1 AND 100000),
    ADD COLUMN pallet_l   integer NOT NULL DEFAULT 1400 CHECK (pallet_l BETWEEN 1 AND 100000);
GRANT UPDATE (aisle_cm, place_cm, walk_m_min, row_s, unit_ms, pallet_kg, pallet_l) ON warehouse TO journeyman_app;

-- When a carrier comes for what goes by a service, in minutes after midnight; 0: as the warehouse's own cut-off.
ALTER TABLE service ADD COLUMN cut_off integer NOT NULL DEFAULT 0 CHECK (cut_off BETWEEN 0 AND 1439);

-- A pick list of one zone, if it was split; how far one walks for it in walking order and order by order; how long it should take.
ALTER TABLE pick_list
    ADD COLUMN zone            text NOT NULL DEFAULT '',
    ADD COLUMN walk_cm         bigint NOT NULL DEFAULT 0 CHECK (walk_cm >= 0),
    ADD COLUMN walk_by_order_cm bigint NOT NULL DEFAULT 0 CHECK (walk_by_order_cm >= 0),
    ADD COLUMN work_s          bigint NOT NULL DEFAULT 0 CHECK (work_s >= 0);

-- What is printed together, as one document. A job makes the document, keeps it and sends it to the printer; until then pdf is empty.
CREATE TABLE print_run (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    pdf        bytea,
    pages      integer NOT NULL DEFAULT 0 CHECK (pages >= 0),
    printed_at timestamptz,                -- when the printer had taken it
    tried      integer NOT NULL DEFAULT 0, -- in vain
    trouble    text NOT NULL DEFAULT '',   -- what went wrong last
    CHECK (printed_at IS NULL OR pdf IS NOT NULL)
);
CREATE INDEX print_run_waits ON print_run (id) WHERE printed_at IS NULL;
CREATE INDEX print_run_command ON print_run (command_id);

-- A sheet of paper that goes with goods, with a code that stands on it. It is void once another has been printed in its place, or what
-- stands on it was recalled.
CREATE TABLE paper (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    print_run_id bigint NOT NULL REFERENCES print_run,
    place        integer NOT NULL CHECK (place > 0), -- in the document
    kind         text NOT NULL CHECK (kind IN ('pick list', 'packing list')),
    code         text NOT NULL UNIQUE CHECK (code <> ''),
    revision     integer NOT NULL CHECK (revision > 0),
    pick_list_id bigint REFERENCES pick_list,
    order_id     bigint REFERENCES sales_order,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    void_by      bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    void_why     text NOT NULL DEFAULT '' CHECK (void_why IN ('', 'printed again', 'recalled')),
    UNIQUE (print_run_id, place),
    CHECK ((void_by IS NULL) = (void_why = '')),
    CHECK (CASE kind WHEN 'pick list' THEN pick_list_id IS NOT NULL AND order_id IS NULL
        ELSE order_id IS NOT NULL AND pick_list_id IS NULL END)
);
CREATE UNIQUE INDEX paper_of_list ON paper (pick_list_id) WHERE void_by IS NULL;
CREATE UNIQUE INDEX paper_of_order ON paper (order_id, warehouse_id) WHERE void_by IS NULL;
CREATE INDEX paper_pick_list ON paper (pick_list_id);
CREATE INDEX paper_order ON paper (order_id);
CREATE INDEX paper_code ON paper (lower(code));
ALTER TABLE pick_list ADD COLUMN grip boolean; -- is there to be locked, as in line_count
GRANT UPDATE (grip) ON pick_list TO journeyman_app;
GRANT SELECT, INSERT ON print_run, paper TO journeyman_app;
GRANT UPDATE (pdf, pages, printed_at, tried, trouble) ON print_run TO journeyman_app;
GRANT UPDATE (void_by, void_why) ON paper TO journeyman_app;
