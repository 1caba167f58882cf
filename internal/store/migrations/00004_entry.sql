-- +goose Up

-- Orders and quotes as they are entered and changed here.

ALTER TABLE customer ADD COLUMN discount_bp integer NOT NULL DEFAULT 0 CHECK (discount_bp BETWEEN 0 AND 10000);

-- An address that was typed for one order (or quote) only.
ALTER TABLE ship_to ADD COLUMN once boolean NOT NULL DEFAULT false;

-- The price before the discount; price_minor is what is charged for a unit.
ALTER TABLE order_line ADD COLUMN list_minor bigint CHECK (list_minor >= 0),
    ADD COLUMN discount_bp integer NOT NULL DEFAULT 0 CHECK (discount_bp BETWEEN 0 AND 10000);
UPDATE order_line SET list_minor = price_minor;
ALTER TABLE order_line ALTER COLUMN list_minor SET NOT NULL;

-- A number once given is not given again; gaps are allowed.
CREATE SEQUENCE order_number START 20001;
CREATE SEQUENCE quote_number START 3001;
CREATE SEQUENCE buy_request_number START 801;

CREATE TABLE quote (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number       text NOT NULL UNIQUE CHECK (number <> ''),
    customer_id  bigint NOT NULL REFERENCES customer,
    ship_to_id   bigint NOT NULL,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    channel      text NOT NULL DEFAULT '',
    customer_ref text NOT NULL DEFAULT '',
    urgency      integer NOT NULL DEFAULT 3 CHECK (urgency BETWEEN 1 AND 5),
    ship_rule    text NOT NULL CHECK (ship_rule IN ('any', 'lines', 'whole')),
    service      text NOT NULL DEFAULT '',
    terms        text NOT NULL DEFAULT '',
    wanted       date NOT NULL,
    expires      date NOT NULL,
    currency     text NOT NULL DEFAULT 'GBP',
    note         text NOT NULL DEFAULT '',
    made_by      bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    approved_by  bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    withdrawn_by bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    version      bigint NOT NULL DEFAULT 1,
    FOREIGN KEY (ship_to_id, customer_id) REFERENCES ship_to (id, customer_id)
);
CREATE INDEX quote_expires ON quote (expires, id) WHERE withdrawn_by IS NULL;
CREATE INDEX quote_customer ON quote (customer_id);

CREATE TABLE quote_line (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    quote_id     bigint NOT NULL REFERENCES quote,
    line_no      integer NOT NULL CHECK (line_no > 0),
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    qty          bigint NOT NULL CHECK (qty > 0),
    accepted     bigint NOT NULL DEFAULT 0,
    price_minor  bigint NOT NULL CHECK (price_minor >= 0),
    list_minor   bigint NOT NULL CHECK (list_minor >= 0),
    discount_bp  integer NOT NULL DEFAULT 0 CHECK (discount_bp BETWEEN 0 AND 10000),
    cost_minor   bigint NOT NULL CHECK (cost_minor >= 0),
    how          text NOT NULL DEFAULT 'split' CHECK (how IN ('split', 'whole', 'none')),
    told         date, -- the day on which all of it would be there, as the customer was told
    UNIQUE (quote_id, line_no),
    CONSTRAINT accepted_is_quoted CHECK (accepted BETWEEN 0 AND qty)
);

-- What happened to a quote, beside its making.
CREATE TABLE quote_entry (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    quote_id   bigint NOT NULL REFERENCES quote,
    what       text NOT NULL
);
CREATE INDEX quote_entry_quote ON quote_entry (quote_id, id);
CREATE TRIGGER quote_entry_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON quote_entry
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

ALTER TABLE sales_order ADD COLUMN quote_id bigint REFERENCES quote;
CREATE INDEX sales_order_quote ON sales_order (quote_id) WHERE quote_id IS NOT NULL;

-- What was changed on an order besides its units: each value as it was and as it is. Entries share
-- their numbers with the journal, so that a version tells of them, too.
CREATE TABLE order_change (
    id         bigint PRIMARY KEY DEFAULT nextval('journal_id_seq'),
    command_id bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    order_id   bigint NOT NULL REFERENCES sales_order,
    line_id    bigint REFERENCES order_line,
    field      text NOT NULL,
    was        text NOT NULL,
    now        text NOT NULL,
    CHECK (was <> now)
);
CREATE INDEX order_change_order ON order_change (order_id, id);
CREATE TRIGGER order_change_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON order_change
    FOR EACH STATEMENT EXECUTE FUNCTION journal_stays();

-- +goose StatementBegin
CREATE FUNCTION order_changed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE line_count c SET version = greatest(c.version, f.id)
        FROM (SELECT line_id, max(id) AS id FROM fresh WHERE line_id IS NOT NULL GROUP BY 1) f WHERE c.line_id = f.line_id;
    UPDATE line_count c SET version = greatest(c.version, f.id)
        FROM (SELECT order_id, max(id) AS id FROM fresh WHERE line_id IS NULL GROUP BY 1) f JOIN order_line l ON l.order_id = f.order_id
        WHERE c.line_id = l.id;
    UPDATE order_count c SET version = greatest(c.version, f.id)
        FROM (SELECT order_id, max(id) AS id FROM fresh GROUP BY 1) f WHERE c.order_id = f.order_id;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER order_changed AFTER INSERT ON order_change REFERENCING NEW TABLE AS fresh
    FOR EACH STATEMENT EXECUTE FUNCTION order_changed();

-- A new price changes what the order is worth.
-- +goose StatementBegin
CREATE FUNCTION line_repriced() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE order_count c SET value_minor = c.value_minor + d.value
    FROM (SELECT a.order_id, sum((a.price_minor - b.price_minor) * n.ordered) AS value
          FROM after a JOIN before b ON b.id = a.id JOIN line_count n ON n.line_id = a.id
          WHERE a.price_minor <> b.price_minor GROUP BY 1) d
    WHERE c.order_id = d.order_id;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER line_repriced AFTER UPDATE ON order_line REFERENCING OLD TABLE AS before NEW TABLE AS after
    FOR EACH STATEMENT EXECUTE FUNCTION line_repriced();

-- What may be sent in place of an item, the best first.
CREATE TABLE substitute (
    item_id  bigint NOT NULL REFERENCES item,
    other_id bigint NOT NULL REFERENCES item,
    kind     text NOT NULL CHECK (kind IN ('size', 'colour', 'make')),
    PRIMARY KEY (item_id, other_id),
    CHECK (item_id <> other_id)
);

-- A request to buy more. Once it is confirmed it is expected: an inbound.
CREATE TABLE buy_request (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number       text NOT NULL UNIQUE,
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    qty          bigint NOT NULL CHECK (qty > 0),
    wanted       date NOT NULL,
    note         text NOT NULL DEFAULT '',
    asked_by     bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    inbound_id   bigint REFERENCES inbound,
    settled_by   bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED, -- confirmed, or withdrawn if it has no inbound
    CHECK (inbound_id IS NULL OR settled_by IS NOT NULL)
);
CREATE INDEX buy_request_item ON buy_request (item_id) WHERE settled_by IS NULL;

-- When a warehouse works and how long it takes to make an order ready.
ALTER TABLE warehouse
    ADD COLUMN workdays integer NOT NULL DEFAULT 62 CHECK (workdays BETWEEN 1 AND 127), -- a bit for each day of the week, Sunday the lowest
    ADD COLUMN cut_off integer NOT NULL DEFAULT 0 CHECK (cut_off BETWEEN 0 AND 1439),   -- minutes after midnight; 0 for none
    ADD COLUMN handling_days integer NOT NULL DEFAULT 0 CHECK (handling_days BETWEEN 0 AND 30);
CREATE TABLE closed_day (
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    day          date NOT NULL,
    name         text NOT NULL DEFAULT '',
    PRIMARY KEY (warehouse_id, day)
);

-- Where an address lies, by its country and the beginning of its postcode: the longest that fits.
CREATE TABLE zone_rule (
    country text NOT NULL CHECK (country ~ '^[A-Z]{2}$'),
    prefix  text NOT NULL,
    zone    text NOT NULL CHECK (zone <> ''),
    PRIMARY KEY (country, prefix)
);
-- How long a service takes to a zone; elsewhere it takes what the service says.
CREATE TABLE transit (
    service text NOT NULL REFERENCES service,
    zone    text NOT NULL,
    days    integer NOT NULL CHECK (days BETWEEN 0 AND 60),
    PRIMARY KEY (service, zone)
);

INSERT INTO setting (key, value) VALUES ('quote_limit_minor', '250000') ON CONFLICT DO NOTHING;

GRANT SELECT ON quote, quote_line, quote_entry, order_change, substitute, buy_request, closed_day, zone_rule, transit TO journeyman_app;
GRANT INSERT ON quote, quote_line, quote_entry, order_change, substitute, buy_request, closed_day, zone_rule, transit, service TO journeyman_app;
GRANT UPDATE ON quote, substitute, closed_day, zone_rule, transit, service TO journeyman_app;
GRANT UPDATE (accepted) ON quote_line TO journeyman_app;
GRANT DELETE ON quote_line, substitute, closed_day, zone_rule, transit TO journeyman_app;
GRANT UPDATE (inbound_id, settled_by) ON buy_request TO journeyman_app;
GRANT UPDATE (ship_by, warehouse_id, price_minor, list_minor, discount_bp) ON order_line TO journeyman_app;
GRANT USAGE ON SEQUENCE order_number, quote_number, buy_request_number TO journeyman_app;
