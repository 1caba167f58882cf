-- +goose Up

-- Where units lie that were taken back from picking or packing until they are put back: one place of each warehouse. Nothing is picked from
-- it, and nothing received into it.
ALTER TABLE bin ADD COLUMN put_back boolean NOT NULL DEFAULT false;
CREATE UNIQUE INDEX bin_put_back ON bin (warehouse_id) WHERE put_back;
GRANT UPDATE (put_back) ON bin TO journeyman_app;

-- Units of a line that were taken back, and are to be put into a bin again. Until then those that ended as open or dropped are held, and
-- the line does not go to the floor if they stayed allocated. task_id is the row of a pick list from which they had been picked, if that is
-- known.
CREATE TABLE put_back (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    line_id      bigint NOT NULL REFERENCES order_line,
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    bin_id       bigint NOT NULL,
    task_id      bigint REFERENCES pick_task,
    package_id   bigint REFERENCES package,
    ends         text NOT NULL CHECK (ends IN ('allocated', 'open', 'dropped')),
    qty          bigint NOT NULL CHECK (qty > 0),
    done         bigint NOT NULL DEFAULT 0,
    asked_by     bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    done_by      bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED, -- that which put the last of them away
    FOREIGN KEY (bin_id, warehouse_id) REFERENCES bin (id, warehouse_id),
    CHECK (done BETWEEN 0 AND qty),
    CHECK ((done_by IS NOT NULL) = (done = qty))
);
CREATE INDEX put_back_waits ON put_back (line_id) WHERE done < qty;
CREATE INDEX put_back_task ON put_back (task_id) WHERE task_id IS NOT NULL;
CREATE INDEX put_back_package ON put_back (package_id) WHERE package_id IS NOT NULL;
CREATE INDEX put_back_item ON put_back (item_id, warehouse_id) WHERE done < qty;
GRANT SELECT, INSERT ON put_back TO journeyman_app;
GRANT UPDATE (done, done_by) ON put_back TO journeyman_app;

-- Since when a carrier is being asked: from then on a dispatch cannot be stopped until the answer is known.
ALTER TABLE shipment
    ADD COLUMN asking_at timestamptz,
    ADD CONSTRAINT asking_what_was_asked CHECK (asking_at IS NULL OR asked_at IS NOT NULL);
GRANT UPDATE (asking_at) ON shipment TO journeyman_app;

-- A package out of which something is taken weighs less.
GRANT UPDATE (weight_g) ON package TO journeyman_app;

-- What is taken back names the row of the pick list from which it had been picked, if that is known.
ALTER TABLE journal
    DROP CONSTRAINT what_comes_off_a_list_names_its_task,
    ADD CONSTRAINT what_comes_off_a_list_names_its_task
        CHECK (kind = 'put back' OR (task_id IS NOT NULL) = (kind IN ('release', 'recall', 'pick', 'short')));
