-- +goose Up

-- Shipments under way are listed by pages, those that should have arrived first first.
CREATE INDEX shipment_expected ON shipment ((coalesce(expected, 'infinity'::date)), id)
    WHERE dispatched_at IS NOT NULL AND delivered_at IS NULL;

-- The journal of some days is found by the first command of them.
CREATE INDEX command_at ON command (at);

-- Few rows of pick lists are left to pick, of all that there ever were: the database is told how few.
CREATE STATISTICS pick_task_left ON (qty - picked - short - recalled) FROM pick_task;
ANALYZE pick_task;
