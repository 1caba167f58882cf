-- +goose Up

-- Labels of packages: papers whose code is the SSCC that is on them. One that is printed anew, or out of whose package something was taken,
-- is void, and the next one has an SSCC of its own.
CREATE SEQUENCE sscc_serial;
GRANT USAGE ON SEQUENCE sscc_serial TO journeyman_app;
ALTER TABLE paper
    ADD COLUMN package_id bigint REFERENCES package,
    DROP CONSTRAINT paper_kind_check,
    DROP CONSTRAINT paper_check1,
    DROP CONSTRAINT paper_void_why_check,
    ADD CONSTRAINT paper_kind_check CHECK (kind IN ('pick list', 'packing list', 'label')),
    ADD CONSTRAINT paper_void_why_check CHECK (void_why IN ('', 'printed again', 'recalled', 'unpacked')),
    ADD CONSTRAINT paper_is_of_one CHECK (CASE kind WHEN 'pick list' THEN pick_list_id IS NOT NULL AND order_id IS NULL AND package_id IS NULL
        WHEN 'packing list' THEN order_id IS NOT NULL AND pick_list_id IS NULL AND package_id IS NULL
        ELSE package_id IS NOT NULL AND pick_list_id IS NULL AND order_id IS NULL END);
CREATE UNIQUE INDEX paper_of_package ON paper (package_id) WHERE void_by IS NULL AND package_id IS NOT NULL;
CREATE INDEX paper_package ON paper (package_id) WHERE package_id IS NOT NULL;
