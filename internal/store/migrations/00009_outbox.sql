-- +goose Up

-- A dispatch asks the carrier; what the carrier says is recorded by a command of its own. Meanwhile nothing is packed into the shipment or
-- taken out of it. The tables of the job queue are made by its own library, in a schema of their own (store/postgres/jobs.go).
ALTER TABLE shipment
    ADD COLUMN asked_by     bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED, -- the dispatch that waits for the carrier's answer
    ADD COLUMN asked_at     timestamptz,
    ADD COLUMN asked_times  integer NOT NULL DEFAULT 0, -- in vain
    ADD COLUMN asked_note   text NOT NULL DEFAULT '',   -- what went wrong last
    ADD COLUMN refused      text NOT NULL DEFAULT '',   -- why the carrier did not take it, a sentence
    ADD COLUMN refused_at   timestamptz,
    ADD CONSTRAINT asked_or_not CHECK ((asked_by IS NULL) = (asked_at IS NULL)),
    ADD CONSTRAINT refused_or_not CHECK ((refused = '') = (refused_at IS NULL)),
    ADD CONSTRAINT asked_before_it_leaves CHECK (asked_by IS NULL OR dispatched_at IS NULL);

-- What the carrier says of a shipment under way, at the carrier's own time: append-only.
CREATE TABLE shipment_event (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id  bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    shipment_id bigint NOT NULL REFERENCES shipment,
    at          timestamptz NOT NULL,
    kind        text NOT NULL CHECK (kind IN ('exception', 'delivered')),
    note        text NOT NULL DEFAULT '',
    UNIQUE (shipment_id, at, kind)
);
CREATE TRIGGER shipment_event_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON shipment_event
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();
GRANT SELECT, INSERT ON shipment_event TO journeyman_app;
GRANT UPDATE (asked_by, asked_at, asked_times, asked_note, refused, refused_at) ON shipment TO journeyman_app;
