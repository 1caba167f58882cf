-- +goose Up

-- Bounds on what may be entered, sessions that can be ended, imports that are read row by row, and rights no wider than the commands need.

-- Quantities up to 10^9, prices up to 10^12, weights up to 10^9 g. What is here already stays as it is, also where it lies beyond (NOT VALID); what
-- is on its way is moved on by the counts, which are right whatever was entered.
ALTER TABLE journal ADD CONSTRAINT what_enters_is_within_bounds
    CHECK (qty <= 1000000000 OR kind NOT IN ('enter', 'receive', 'gain', 'set aside')) NOT VALID;
ALTER TABLE item ADD CONSTRAINT item_within_bounds
    CHECK (greatest(price_minor, cost_minor) <= 1000000000000 AND greatest(weight_g, multiple) <= 1000000000 AND lead_days <= 3650) NOT VALID;
ALTER TABLE order_line ADD CONSTRAINT line_within_bounds CHECK (greatest(price_minor, list_minor, cost_minor) <= 1000000000000) NOT VALID;
ALTER TABLE quote_line ADD CONSTRAINT quote_line_within_bounds
    CHECK (qty <= 1000000000 AND greatest(price_minor, list_minor, cost_minor) <= 1000000000000 AND qty::numeric * greatest(price_minor, cost_minor) <= 1000000000000000) NOT VALID;
ALTER TABLE inbound ADD CONSTRAINT inbound_within_bounds CHECK (qty <= 1000000000) NOT VALID;
ALTER TABLE buy_request ADD CONSTRAINT buy_request_within_bounds CHECK (qty <= 1000000000) NOT VALID;
ALTER TABLE package ADD CONSTRAINT package_within_bounds CHECK (weight_g <= 1000000000) NOT VALID;

-- A sum as a page shows it: none is refused because it is too great to be told.
CREATE FUNCTION shown(sum numeric) RETURNS bigint LANGUAGE sql IMMUTABLE AS $$
    SELECT least(greatest(coalesce(sum, 0), -9000000000000000000), 9000000000000000000)::bigint
$$;

-- The units of an entry are the sum of its parts: they are added up here, and not believed.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION promise_stands() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    IF EXISTS (SELECT 1 FROM fresh f WHERE NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = f.line_id AND l.order_id = f.order_id AND l.item_id = f.item_id)) THEN
        RAISE EXCEPTION 'a promise names what is not in order_line' USING ERRCODE = 'foreign_key_violation', CONSTRAINT = 'promise_names_order_line';
    END IF;
    IF EXISTS (SELECT 1 FROM fresh f WHERE f.now_units <> (SELECT coalesce(sum(x.qty), 0) FROM jsonb_to_recordset(f.now) AS x (qty numeric))
            OR EXISTS (SELECT 1 FROM jsonb_to_recordset(f.now) AS x (qty numeric) WHERE x.qty NOT BETWEEN 1 AND 9000000000000000000 OR x.qty <> trunc(x.qty))) THEN
        RAISE EXCEPTION 'the units of a promise are not the sum of its parts' USING ERRCODE = 'check_violation', CONSTRAINT = 'promised_units_are_the_sum';
    END IF;
    INSERT INTO command_awaited SELECT DISTINCT f.command_id FROM fresh f WHERE NOT EXISTS (SELECT 1 FROM command c WHERE c.id = f.command_id) ON CONFLICT DO NOTHING;
    DELETE FROM promise p USING fresh f WHERE p.line_id = f.line_id;
    INSERT INTO promise (line_id, order_id, item_id, warehouse_id, day, qty)
        SELECT f.line_id, f.order_id, f.item_id, x.warehouse, x.day, sum(x.qty)
        FROM fresh f, jsonb_to_recordset(f.now) AS x (warehouse bigint, day date, qty bigint) GROUP BY 1, 2, 3, 4, 5;
    -- Thousands of promises that change with moves of the same command are counted together with them: a row that changes twice costs twice.
    IF current_setting('journeyman.moves_follow', true) = 'yes' OR EXISTS (SELECT 1 FROM promise_awaited a WHERE a.command_id IN (SELECT command_id FROM fresh)) THEN
        INSERT INTO promise_awaited SELECT f.command_id, min(f.id) FROM fresh f GROUP BY 1 ON CONFLICT DO NOTHING;
        RETURN NULL;
    END IF;
    UPDATE line_count c SET promised = f.now_units, version = f.id FROM fresh f WHERE c.line_id = f.line_id;
    PERFORM 1 FROM order_count WHERE order_id IN (SELECT order_id FROM fresh) ORDER BY order_id FOR NO KEY UPDATE;
    UPDATE order_count c SET promised = c.promised + f.units, version = greatest(c.version, f.id)
    FROM (SELECT order_id, sum(now_units - was_units) AS units, max(id) AS id FROM fresh GROUP BY 1) f WHERE c.order_id = f.order_id;
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- Promises of more units than are open, which could once be entered because their sum was counted wrongly, are taken back.
-- +goose StatementBegin
DO $$
DECLARE
    actor bigint;
    cmd   bigint;
BEGIN
    CREATE TEMP TABLE beyond AS
        SELECT p.line_id, min(p.order_id) AS order_id, min(p.item_id) AS item_id,
            jsonb_agg(jsonb_build_object('warehouse', p.warehouse_id, 'day', p.day, 'qty', p.qty) ORDER BY p.day) AS was
        FROM promise p JOIN line_count n ON n.line_id = p.line_id GROUP BY p.line_id, n.promised HAVING sum(p.qty) <> n.promised;
    IF EXISTS (SELECT 1 FROM beyond) THEN
        INSERT INTO app_user (login, name, role, active) VALUES ('journeyman', 'Journeyman', 'manager', false)
            ON CONFLICT (login) DO UPDATE SET login = excluded.login RETURNING id INTO actor;
        cmd := nextval('command_id_seq');
        INSERT INTO command (id, key, verb, actor_id, at, reason, asked, outcome) OVERRIDING SYSTEM VALUE
            VALUES (cmd, gen_random_uuid(), 'promise', actor, now(), 'more was promised than is open', '', '{"verb": "promise", "sentence": "Took back promises of more units than are open."}');
        INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
            SELECT cmd, b.line_id, b.order_id, b.item_id, b.was, '[]', n.promised, 0, 'taken back' FROM beyond b JOIN line_count n ON n.line_id = b.line_id;
    END IF;
    DROP TABLE beyond;
END $$;
-- +goose StatementEnd

-- A warehouse without a time zone of its own has the firm's. Until now nothing could set or read one.
ALTER TABLE warehouse ALTER COLUMN timezone SET DEFAULT '';
UPDATE warehouse SET timezone = '';

-- A key is somebody's own: what another person does under the same one is something else.
ALTER TABLE command DROP CONSTRAINT command_key_key, ADD CONSTRAINT command_key UNIQUE (key, actor_id);

-- Keys of the server's own commands are made with this, so that nobody can guess them.
INSERT INTO setting (key, value) VALUES ('server secret', gen_random_uuid()::text || gen_random_uuid()::text) ON CONFLICT DO NOTHING;

-- All that is under way is asked about, piece by piece.
DROP INDEX shipment_under_way;
CREATE INDEX shipment_under_way ON shipment (id) WHERE dispatched_at IS NOT NULL AND delivered_at IS NULL;

-- Who is signed in where. A session that has ended is gone: nothing brings it back.
DROP TABLE sessions;
CREATE TABLE session (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    token   bytea NOT NULL UNIQUE CHECK (length(token) = 32), -- SHA-256 of what the cookie holds
    user_id bigint NOT NULL REFERENCES app_user,
    began   timestamptz NOT NULL DEFAULT now(),
    seen    timestamptz NOT NULL DEFAULT now(),
    address text NOT NULL DEFAULT '',
    agent   text NOT NULL DEFAULT ''
);
CREATE INDEX session_of ON session (user_id);
CREATE INDEX session_seen ON session (seen);
CREATE TABLE sign_in_failure (
    login   text NOT NULL,
    address text NOT NULL,
    at      timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_in_failure_login ON sign_in_failure (login, at);
CREATE INDEX sign_in_failure_at ON sign_in_failure (at);

-- What was done to people, beside their passwords: it is written here, and carried to them.
CREATE TABLE person_change (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    user_id    bigint NOT NULL REFERENCES app_user,
    name       text NOT NULL,
    role       text NOT NULL,
    active     boolean NOT NULL
);
CREATE INDEX person_change_of ON person_change (user_id, id);
CREATE TRIGGER person_change_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON person_change
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();
-- +goose StatementBegin
CREATE FUNCTION person_changed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE app_user u SET name = NEW.name, role = NEW.role, active = NEW.active WHERE u.id = NEW.user_id;
    IF NOT NEW.active THEN
        DELETE FROM session WHERE user_id = NEW.user_id;
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER person_changed AFTER INSERT ON person_change FOR EACH ROW EXECUTE FUNCTION person_changed();

-- An import between "see what would happen" and "apply": its rows one by one, sorted by what they name. They are not worth being kept through a crash.
DROP TABLE import_run;
CREATE TABLE import_run (
    key     uuid PRIMARY KEY,
    user_id bigint NOT NULL REFERENCES app_user,
    at      timestamptz NOT NULL,
    report  jsonb NOT NULL,
    applied bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED
);
CREATE INDEX import_run_at ON import_run (at);
CREATE UNLOGGED TABLE import_row (
    import uuid NOT NULL,
    kind   text NOT NULL,
    a      text NOT NULL, -- what the row is about, such as the order number
    b      text NOT NULL, -- and which of its parts
    n      integer NOT NULL, -- line in the file
    v      text NOT NULL
);
CREATE INDEX import_row_named ON import_row (import, kind, a) WHERE kind IN ('items', 'customers');
CREATE INDEX import_row_of ON import_row (import, kind) WHERE kind NOT IN ('items', 'customers');

GRANT SELECT, INSERT, DELETE ON session, sign_in_failure, import_run, import_row TO journeyman_app;
GRANT UPDATE (seen) ON session TO journeyman_app;
GRANT UPDATE (applied, report) ON import_run TO journeyman_app;
GRANT SELECT, INSERT ON person_change TO journeyman_app;

-- An import of a million lines makes tables a thousand times as long before anybody else sees them. What is planned for short ones
-- would read them from end to end for each few thousand rows, so the estimates are made anew meanwhile.
-- +goose StatementBegin
CREATE FUNCTION estimate_orders() RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    ANALYZE sales_order;
    ANALYZE order_line;
    ANALYZE line_count;
    ANALYZE order_count;
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION estimate_orders() FROM PUBLIC;
GRANT EXECUTE ON FUNCTION estimate_orders() TO journeyman_app;

-- Roles are changed through person_change, and of a hold, an order, a price no more is changed than a command does.
REVOKE UPDATE ON app_user, sales_order, warehouse, customer, item, ship_to, bin, setting FROM journeyman_app;
GRANT UPDATE (password_hash) ON app_user TO journeyman_app;
GRANT UPDATE (ship_to_id, channel, customer_ref, urgency, ship_rule, service, terms, wanted, note) ON sales_order TO journeyman_app;
GRANT UPDATE (workdays, cut_off, handling_days, timezone) ON warehouse TO journeyman_app;
GRANT UPDATE (name, tier, ship_rule, warehouse_id, service, terms, email, discount_bp, one_warehouse) ON customer TO journeyman_app;
GRANT UPDATE (name, unit, multiple, lead_days, buyable, weight_g, price_minor, cost_minor, currency) ON item TO journeyman_app;
GRANT UPDATE (name, street, city, postcode, country) ON ship_to TO journeyman_app;
GRANT UPDATE (zone) ON bin TO journeyman_app;
GRANT UPDATE (value) ON setting TO journeyman_app;
