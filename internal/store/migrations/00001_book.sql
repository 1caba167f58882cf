-- +goose Up

-- What is read beside the counts: warehouses, bins, items, customers, orders.

CREATE TABLE warehouse (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    code     text NOT NULL UNIQUE CHECK (code ~ '^[A-Z0-9][A-Z0-9-]{0,11}$'),
    name     text NOT NULL,
    timezone text NOT NULL DEFAULT 'Europe/London'
);

-- A bin with an empty code stands for "no bin set": stock that is in the house, its place unknown.
CREATE TABLE bin (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    code         text NOT NULL,
    zone         text NOT NULL DEFAULT '',
    UNIQUE (warehouse_id, code),
    UNIQUE (id, warehouse_id)
);

CREATE TABLE item (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    sku         text NOT NULL UNIQUE CHECK (sku <> ''),
    name        text NOT NULL,
    unit        text NOT NULL DEFAULT 'each',
    multiple    bigint NOT NULL DEFAULT 1 CHECK (multiple >= 1),
    lead_days   integer NOT NULL DEFAULT 0 CHECK (lead_days >= 0),
    buyable     boolean NOT NULL DEFAULT true,
    weight_g    bigint NOT NULL DEFAULT 0 CHECK (weight_g >= 0),
    price_minor bigint NOT NULL DEFAULT 0 CHECK (price_minor >= 0),
    cost_minor  bigint NOT NULL DEFAULT 0 CHECK (cost_minor >= 0),
    currency    text NOT NULL DEFAULT 'GBP' CHECK (currency ~ '^[A-Z]{3}$')
);

CREATE TABLE customer (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    code         text NOT NULL UNIQUE CHECK (code <> ''),
    name         text NOT NULL,
    tier         integer NOT NULL DEFAULT 5 CHECK (tier BETWEEN 1 AND 5),
    ship_rule    text NOT NULL DEFAULT 'any' CHECK (ship_rule IN ('any', 'lines', 'whole')),
    warehouse_id bigint REFERENCES warehouse,
    service      text NOT NULL DEFAULT '',
    terms        text NOT NULL DEFAULT '',
    email        text NOT NULL DEFAULT ''
);

CREATE TABLE ship_to (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    customer_id bigint NOT NULL REFERENCES customer,
    code        text NOT NULL,
    name        text NOT NULL DEFAULT '',
    street      text NOT NULL DEFAULT '',
    city        text NOT NULL DEFAULT '',
    postcode    text NOT NULL DEFAULT '',
    country     text NOT NULL DEFAULT 'GB' CHECK (country ~ '^[A-Z]{2}$'),
    UNIQUE (customer_id, code),
    UNIQUE (id, customer_id)
);

CREATE TABLE inbound (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    ref          text NOT NULL CHECK (ref <> ''),
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    kind         text NOT NULL DEFAULT 'purchase' CHECK (kind IN ('purchase', 'production', 'transfer')),
    supplier     text NOT NULL DEFAULT '',
    due          date NOT NULL,
    qty          bigint NOT NULL CHECK (qty > 0),
    received     bigint NOT NULL DEFAULT 0 CHECK (received BETWEEN 0 AND qty),
    UNIQUE (ref, item_id, warehouse_id)
);
CREATE INDEX inbound_item ON inbound (item_id, warehouse_id, due) WHERE received < qty;
CREATE INDEX inbound_due ON inbound (due, id) WHERE received < qty;

CREATE TABLE sales_order (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number       text NOT NULL UNIQUE CHECK (number <> ''),
    customer_id  bigint NOT NULL REFERENCES customer,
    ship_to_id   bigint NOT NULL,
    channel      text NOT NULL DEFAULT '',
    customer_ref text NOT NULL DEFAULT '',
    tier         integer NOT NULL CHECK (tier BETWEEN 1 AND 5),
    urgency      integer NOT NULL DEFAULT 3 CHECK (urgency BETWEEN 1 AND 5),
    ship_rule    text NOT NULL CHECK (ship_rule IN ('any', 'lines', 'whole')),
    service      text NOT NULL DEFAULT '',
    terms        text NOT NULL DEFAULT '',
    entered_at   timestamptz NOT NULL,
    wanted       date NOT NULL,
    currency     text NOT NULL DEFAULT 'GBP',
    note         text NOT NULL DEFAULT '',
    FOREIGN KEY (ship_to_id, customer_id) REFERENCES ship_to (id, customer_id)
);
CREATE INDEX sales_order_wanted ON sales_order (wanted, id);
CREATE INDEX sales_order_entered ON sales_order (entered_at, id);
CREATE INDEX sales_order_customer ON sales_order (customer_id, wanted);

CREATE TABLE order_line (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id     bigint NOT NULL REFERENCES sales_order,
    line_no      integer NOT NULL CHECK (line_no > 0),
    item_id      bigint NOT NULL REFERENCES item,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    ship_by      date NOT NULL,
    price_minor  bigint NOT NULL CHECK (price_minor >= 0),
    cost_minor   bigint NOT NULL CHECK (cost_minor >= 0),
    UNIQUE (order_id, line_no),
    UNIQUE (id, order_id, item_id)
);
CREATE INDEX order_line_item ON order_line (item_id, warehouse_id);

-- People, sessions, holds.

CREATE TABLE app_user (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    login         text NOT NULL UNIQUE CHECK (login ~ '^[a-z0-9][a-z0-9._-]{1,40}$'),
    name          text NOT NULL CHECK (name <> ''),
    role          text NOT NULL CHECK (role IN ('coordinator', 'sales', 'floor', 'manager')),
    password_hash text NOT NULL DEFAULT '',
    active        boolean NOT NULL DEFAULT true
);

CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

-- A command is one thing somebody did: one transaction, one key, one outcome. While it is under way its
-- key is held by an advisory lock; its row is written once, whole, at its end. What refers to it is
-- therefore checked at the end, too.
CREATE TABLE command (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    key      uuid NOT NULL UNIQUE,
    verb     text NOT NULL,
    actor_id bigint NOT NULL REFERENCES app_user,
    at       timestamptz NOT NULL,
    reason   text NOT NULL DEFAULT '',
    asked    bytea NOT NULL,              -- SHA-256 of what was asked, to tell a repeat from a reuse
    undoes   bigint UNIQUE REFERENCES command,
    outcome  jsonb NOT NULL
);

CREATE TABLE hold (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id  bigint NOT NULL REFERENCES sales_order,
    kind      text NOT NULL CHECK (kind IN ('approval', 'credit', 'coordinator')),
    note      text NOT NULL DEFAULT '',
    placed_by bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    lifted_by bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED
);
CREATE UNIQUE INDEX hold_standing ON hold (order_id, kind) WHERE lifted_by IS NULL;
CREATE INDEX hold_order ON hold (order_id);

-- Documents: pick lists with their tasks, shipments with their packages.

CREATE TABLE pick_list (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number       text NOT NULL UNIQUE,
    warehouse_id bigint NOT NULL REFERENCES warehouse,
    command_id   bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED
);

CREATE TABLE pick_task (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    pick_list_id bigint NOT NULL REFERENCES pick_list,
    seq          integer NOT NULL,
    line_id      bigint NOT NULL REFERENCES order_line,
    bin_id       bigint NOT NULL REFERENCES bin,
    qty          bigint NOT NULL CHECK (qty > 0),
    picked       bigint NOT NULL DEFAULT 0 CHECK (picked >= 0),
    short        bigint NOT NULL DEFAULT 0 CHECK (short >= 0),
    recalled     bigint NOT NULL DEFAULT 0 CHECK (recalled >= 0),
    due          bigint GENERATED ALWAYS AS (qty - picked - short - recalled) STORED CHECK (qty - picked - short - recalled >= 0),
    UNIQUE (pick_list_id, seq),
    UNIQUE (id, line_id)
);
CREATE INDEX pick_task_line ON pick_task (line_id);
CREATE INDEX pick_task_due ON pick_task (pick_list_id) WHERE qty - picked - short - recalled > 0;
CREATE INDEX pick_task_bin ON pick_task (bin_id) WHERE qty - picked - short - recalled > 0;

CREATE TABLE shipment (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number        text NOT NULL UNIQUE,
    customer_id   bigint NOT NULL REFERENCES customer,
    ship_to_id    bigint NOT NULL REFERENCES ship_to,
    warehouse_id  bigint NOT NULL REFERENCES warehouse,
    service       text NOT NULL DEFAULT '',
    terms         text NOT NULL DEFAULT '',
    carrier       text NOT NULL DEFAULT '',
    tracking      text NOT NULL DEFAULT '',
    packed_by     bigint NOT NULL REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    dispatched_by bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    dispatched_at timestamptz,
    expected      date,
    delivered_by  bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED,
    delivered_at  timestamptz,
    version       bigint NOT NULL DEFAULT 1,
    CHECK (dispatched_at IS NOT NULL OR delivered_at IS NULL),
    CHECK ((dispatched_at IS NULL) = (tracking = ''))
);
CREATE INDEX shipment_waiting ON shipment (id) WHERE dispatched_at IS NULL;
CREATE INDEX shipment_under_way ON shipment (dispatched_at) WHERE dispatched_at IS NOT NULL AND delivered_at IS NULL;
CREATE INDEX shipment_arrived ON shipment (delivered_at DESC, id DESC) WHERE delivered_at IS NOT NULL;
CREATE INDEX shipment_customer ON shipment (customer_id);

CREATE TABLE package (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    shipment_id bigint NOT NULL REFERENCES shipment,
    number      text NOT NULL UNIQUE,
    kind        text NOT NULL CHECK (kind IN ('carton', 'pallet')),
    weight_g    bigint NOT NULL CHECK (weight_g > 0)
);
CREATE INDEX package_shipment ON package (shipment_id);

CREATE TABLE package_line (
    package_id bigint NOT NULL REFERENCES package,
    line_id    bigint NOT NULL REFERENCES order_line,
    qty        bigint NOT NULL DEFAULT 0 CHECK (qty >= 0),
    PRIMARY KEY (package_id, line_id)
);
CREATE INDEX package_line_line ON package_line (line_id);

-- Numbers people read. A number once given is not given again; gaps are allowed.
CREATE SEQUENCE pick_list_number START 2001;
CREATE SEQUENCE shipment_number START 5001;
CREATE SEQUENCE package_number START 70001;

-- How far a long command is. Written outside its transaction so that others can see it.
CREATE UNLOGGED TABLE progress (
    key   uuid PRIMARY KEY,
    step  text NOT NULL,
    done  bigint NOT NULL,
    total bigint NOT NULL,
    at    timestamptz NOT NULL DEFAULT now()
);

-- An import between "see what would happen" and "apply".
CREATE TABLE import_run (
    key     uuid PRIMARY KEY,
    user_id bigint NOT NULL REFERENCES app_user,
    at      timestamptz NOT NULL,
    files   jsonb NOT NULL,
    report  jsonb NOT NULL,
    applied bigint REFERENCES command DEFERRABLE INITIALLY DEFERRED
);
CREATE INDEX import_run_at ON import_run (at);

-- What the installation remembers of itself.
CREATE TABLE setting (
    key   text PRIMARY KEY,
    value text NOT NULL
);
