-- +goose Up

-- What a scanner reads of an item besides its number, such as a GTIN.
ALTER TABLE item ADD COLUMN barcode text NOT NULL DEFAULT '' CHECK (length(barcode) <= 60);
CREATE UNIQUE INDEX item_barcode ON item (lower(barcode)) WHERE barcode <> '';
GRANT UPDATE (barcode) ON item TO journeyman_app;

-- Who picks a list, and since when.
ALTER TABLE pick_list
    ADD COLUMN picker_id bigint REFERENCES app_user,
    ADD COLUMN taken_at  timestamptz,
    ADD CONSTRAINT taken_or_not CHECK ((picker_id IS NULL) = (taken_at IS NULL));
CREATE INDEX pick_list_picker ON pick_list (picker_id) WHERE picker_id IS NOT NULL;
GRANT UPDATE (picker_id, taken_at) ON pick_list TO journeyman_app;

-- Rows of pick lists of which fewer were found are few among all.
CREATE INDEX pick_task_short ON pick_task (line_id) WHERE short > 0;

-- A bin that is to be counted, because less was found in it than it should hold. expected is what it should have held when it was counted.
CREATE TABLE count_task (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    bin_id       bigint NOT NULL REFERENCES bin,
    asked_by     bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    why          text NOT NULL DEFAULT '',
    done_by      bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    expected     bigint,
    counted      bigint CHECK (counted >= 0),
    FOREIGN KEY (bin_id, warehouse_id) REFERENCES bin (id, warehouse_id),
    CHECK ((done_by IS NULL) = (counted IS NULL)),
    CHECK ((done_by IS NULL) = (expected IS NULL))
);
CREATE UNIQUE INDEX count_task_waits ON count_task (item_id, bin_id) WHERE done_by IS NULL;
CREATE INDEX count_task_bin ON count_task (bin_id);
GRANT SELECT, INSERT ON count_task TO journeyman_app;
GRANT UPDATE (done_by, expected, counted) ON count_task TO journeyman_app;
