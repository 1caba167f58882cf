-- +goose Up

-- How files of a shape are read: what their columns are, and how they write days and numbers.
CREATE TABLE import_shape (
    shape   text PRIMARY KEY CHECK (shape ~ '^[0-9a-f]{64}$'), -- of the names of the columns
    mapping jsonb NOT NULL CHECK (jsonb_typeof(mapping) = 'object'),
    said_by bigint NOT NULL REFERENCES app_user
);
GRANT SELECT, INSERT, UPDATE ON import_shape TO journeyman_app;
