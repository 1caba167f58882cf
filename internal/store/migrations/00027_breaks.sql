-- +goose Up

-- Who is on a break, and since when: whoever runs the floor hands their lists to others.
CREATE TABLE on_break (
    user_id bigint PRIMARY KEY REFERENCES app_user,
    since   timestamptz NOT NULL
);
GRANT SELECT, INSERT, DELETE ON on_break TO journeyman_app;
