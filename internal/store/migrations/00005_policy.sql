-- +goose Up

-- By which rules a whole book is served.
CREATE TABLE policy (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name        text NOT NULL UNIQUE CHECK (name <> ''),
    keys        text[] NOT NULL CHECK (cardinality(keys) > 0 AND keys <@ ARRAY['tier', 'urgency', 'ship_by', 'entered', 'value', 'order']),
    sharing     text NOT NULL DEFAULT 'in-turn' CHECK (sharing IN ('in-turn', 'fair', 'equal')),
    goal        text NOT NULL DEFAULT 'keys' CHECK (goal IN ('keys', 'orders', 'value')),
    window_days integer CHECK (window_days >= 0), -- without one all days are served
    protect     boolean NOT NULL DEFAULT true,
    ship_rules  text NOT NULL DEFAULT 'respect' CHECK (ship_rules IN ('respect', 'ignore')),
    elsewhere   boolean NOT NULL DEFAULT false, -- lines may draw on other warehouses than their own
    reserves    jsonb NOT NULL DEFAULT '[]',
    is_default  boolean NOT NULL DEFAULT false,
    version     bigint NOT NULL DEFAULT 1
);
CREATE UNIQUE INDEX policy_default ON policy (is_default) WHERE is_default;

INSERT INTO policy (name, keys, sharing, goal, is_default) VALUES
    ('By tier and date', ARRAY['tier', 'ship_by', 'entered'], 'in-turn', 'keys', true),
    ('First come', ARRAY['entered'], 'in-turn', 'keys', false),
    ('By date', ARRAY['ship_by', 'tier', 'entered'], 'in-turn', 'keys', false),
    ('Fair shares by tier', ARRAY['tier'], 'fair', 'keys', false),
    ('Most orders complete', ARRAY['tier', 'ship_by', 'entered'], 'in-turn', 'orders', false),
    ('Most value', ARRAY['tier', 'ship_by', 'entered'], 'in-turn', 'value', false);

-- What was done to policies.
CREATE TABLE policy_entry (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    policy     text NOT NULL,
    was        jsonb,
    now        jsonb
);
CREATE INDEX policy_entry_policy ON policy_entry (policy, id);
CREATE TRIGGER policy_entry_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON policy_entry
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

-- A plan that was shown and may be applied. It is kept for a day.
CREATE TABLE rehearsal (
    key     uuid PRIMARY KEY,
    user_id bigint NOT NULL REFERENCES app_user,
    at      timestamptz NOT NULL,
    asked   jsonb NOT NULL,
    journal bigint NOT NULL, -- the last entry that it knew
    plan    jsonb NOT NULL,
    applied bigint
);

-- A policy that was run, by the command that ran it.
CREATE TABLE policy_run (
    command_id bigint PRIMARY KEY REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    policy     text NOT NULL
);

-- Why a line lacks what it lacks: what the last run that looked at it said. Of a line that got all
-- it wanted the journal says by which run.
CREATE TABLE line_reason (
    line_id    bigint PRIMARY KEY REFERENCES order_line,
    command_id bigint NOT NULL REFERENCES policy_run,
    wanted     bigint NOT NULL,
    reasons    jsonb NOT NULL
);

-- A message that is ready to be sent to a customer.
CREATE TABLE message (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id   bigint NOT NULL REFERENCES sales_order,
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    address    text NOT NULL DEFAULT '',
    subject    text NOT NULL,
    body       text NOT NULL
);
CREATE INDEX message_order ON message (order_id, id);
CREATE TRIGGER message_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON message
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

-- A promise may be put back to make room for another.
ALTER TABLE promise_entry DROP CONSTRAINT promise_entry_cause_check;
ALTER TABLE promise_entry ADD CONSTRAINT promise_entry_cause_check
    CHECK (cause IN ('promised', 'kept by allocating', 'fewer are open', 'taken back', 'made room'));

-- Some customers insist on one warehouse.
ALTER TABLE customer ADD COLUMN one_warehouse boolean NOT NULL DEFAULT false;

GRANT SELECT ON policy, policy_entry, policy_run, rehearsal, line_reason, message TO journeyman_app;
GRANT INSERT ON policy, policy_entry, policy_run, rehearsal, line_reason, message TO journeyman_app;
GRANT UPDATE ON policy, rehearsal, line_reason TO journeyman_app;
GRANT DELETE ON policy, rehearsal, line_reason TO journeyman_app;

-- Where units of thousands of lines stand for the first time, the rows are added with their units: to
-- add them empty and to change them afterwards checks their keys twice.
-- +goose StatementBegin
DO $do$
DECLARE
    def  text := pg_get_functiondef('journal_counts'::regproc);
    put  constant text := $q$
                INSERT INTO line_at (line_id, warehouse_id)
                SELECT DISTINCT f.line_id, f.warehouse_id FROM fresh f WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL
                ORDER BY 1, 2 ON CONFLICT DO NOTHING $q$;
    done constant text := $q$
                WHERE p.line_id = d.line_id AND p.warehouse_id = d.warehouse_id $q$;
    more constant text := $q$
                INSERT INTO line_at (line_id, warehouse_id, allocated, released, picked, packed)
                SELECT d.* FROM (SELECT f.line_id, f.warehouse_id, sum(f.qty * r.allocated), sum(f.qty * r.released), sum(f.qty * r.picked), sum(f.qty * r.packed)
                      FROM fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)
                      WHERE f.line_id IS NOT NULL AND f.warehouse_id IS NOT NULL GROUP BY 1, 2) d
                WHERE NOT EXISTS (SELECT 1 FROM line_at p WHERE p.line_id = d.line_id AND p.warehouse_id = d.warehouse_id)
                ORDER BY 1, 2 $q$;
BEGIN
    IF position(put IN def) = 0 OR position(done IN def) = 0 THEN
        RAISE EXCEPTION 'journal_counts is not what this migration was written for';
    END IF;
    def := replace(def, 'EXECUTE $q$' || put || '$q$;', '');
    def := replace(def, done || '$q$;', done || '$q$;' || chr(10) || '            EXECUTE $q$' || more || '$q$;');
    EXECUTE def;
END $do$;
-- +goose StatementEnd
