-- +goose Up

-- What is packed can be sent elsewhere, or in another way, as long as the carrier has not been asked: its papers are void from then on.
GRANT UPDATE (ship_to_id, terms) ON shipment TO journeyman_app;
ALTER TABLE paper
    DROP CONSTRAINT paper_void_why_check,
    ADD CONSTRAINT paper_void_why_check CHECK (void_why IN ('', 'printed again', 'recalled', 'unpacked', 'sent otherwise'));
