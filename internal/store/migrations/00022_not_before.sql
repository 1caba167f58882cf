-- +goose Up

-- The day on which an order may leave first, if its customer does not want it sooner.
ALTER TABLE sales_order ADD COLUMN not_before date;
CREATE INDEX sales_order_not_before ON sales_order (not_before, id) WHERE not_before IS NOT NULL;
GRANT UPDATE (not_before) ON sales_order TO journeyman_app;
