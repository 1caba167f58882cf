-- +goose Up

-- How a list is shown, kept under a name: by a person for themselves, or for all.
CREATE TABLE list_view (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    list     text NOT NULL CHECK (list <> ''),
    name     text NOT NULL CHECK (name <> ''),
    owner_id bigint REFERENCES app_user, -- none: for all
    kept_by  bigint NOT NULL REFERENCES app_user,
    search   jsonb NOT NULL CHECK (jsonb_typeof(search) = 'object'),
    opens    boolean NOT NULL DEFAULT false, -- the list opens with it
    UNIQUE NULLS NOT DISTINCT (list, owner_id, name)
);
CREATE UNIQUE INDEX list_view_opens ON list_view (list, owner_id) NULLS NOT DISTINCT WHERE opens;
CREATE INDEX list_view_owner ON list_view (owner_id);
GRANT SELECT, INSERT, UPDATE, DELETE ON list_view TO journeyman_app;

-- What a person did last, the newest first.
CREATE INDEX command_of ON command (actor_id, id);
-- What a command did to promises, to take it back: entries come in the order of their commands, which this index follows at next to no cost.
CREATE INDEX promise_entry_command ON promise_entry USING brin (command_id) WITH (pages_per_range = 16, autosummarize = on);
