-- +goose Up

-- What goods are packed into: cartons and pallets, with what goes into them, in millimetres, and what they weigh, empty and at most.
CREATE TABLE package_kind (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    code      text NOT NULL UNIQUE CHECK (code ~ '^[A-Z0-9][A-Z0-9-]{0,11}$'),
    name      text NOT NULL UNIQUE CHECK (name <> ''),
    pallet    boolean NOT NULL DEFAULT false,
    length_mm integer NOT NULL CHECK (length_mm BETWEEN 1 AND 20000),
    width_mm  integer NOT NULL CHECK (width_mm BETWEEN 1 AND 20000),
    height_mm integer NOT NULL CHECK (height_mm BETWEEN 1 AND 20000),
    tare_g    bigint NOT NULL CHECK (tare_g >= 0),
    most_g    bigint NOT NULL CHECK (most_g <= 1000000000),
    CHECK (tare_g < most_g)
);
GRANT SELECT, INSERT, DELETE ON package_kind TO journeyman_app;
GRANT UPDATE (name, pallet, length_mm, width_mm, height_mm, tare_g, most_g) ON package_kind TO journeyman_app;

-- Cartons that cover a pallet of 1,200 × 800 mm without gaps (common practice, no source), until a firm has said what it uses.
INSERT INTO package_kind (code, name, pallet, length_mm, width_mm, height_mm, tare_g, most_g) VALUES
    ('BOX-S', 'Small carton', false, 290, 190, 180, 180, 10000),
    ('BOX-M', 'Medium carton', false, 390, 290, 280, 420, 18000),
    ('BOX-L', 'Large carton', false, 590, 390, 380, 900, 28000),
    ('PALLET', 'Pallet', true, 1200, 800, 1650, 25000, 800000);

-- Of what kind a package is, by name: what it is called later on does not change it.
ALTER TABLE package ADD COLUMN made_of text NOT NULL DEFAULT '';
