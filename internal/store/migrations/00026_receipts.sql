-- +goose Up

-- That more, or fewer, came of an inbound than was expected, and nothing more will. Why is the reason of its command.
CREATE TABLE qty_change (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    inbound_id bigint NOT NULL REFERENCES inbound,
    was        bigint NOT NULL CHECK (was > 0),
    now        bigint NOT NULL CHECK (now > 0),
    CHECK (now <> was)
);
CREATE INDEX qty_change_inbound ON qty_change (inbound_id, id);
CREATE TRIGGER qty_change_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON qty_change
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();
GRANT SELECT, INSERT ON qty_change TO journeyman_app;
