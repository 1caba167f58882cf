-- +goose Up

-- Promises that stand are listed by pages: each has a key of its own, which a promise that is changed does not keep.
ALTER TABLE promise ADD COLUMN id bigint GENERATED ALWAYS AS IDENTITY;
CREATE UNIQUE INDEX promise_id ON promise (id);
