-- +goose Up

-- Shipments under way are listed by pages, those that should have arrived first first.
CREATE INDEX shipment_expected ON shipment ((coalesce(expected, 'infinity'::date)), id) WHERE dispatched_at IS NOT NULL AND delivered_at IS NULL;

-- The journal of some days is found by the first command of them.
CREATE INDEX command_at ON command (at);
