-- +goose Up
-- What people say of a delivery: whose it is, a note, and that they are done with it.
ALTER TABLE delivery ADD COLUMN supplier text NOT NULL DEFAULT '', ADD COLUMN note text NOT NULL DEFAULT '', ADD COLUMN closed_at timestamptz;
CREATE INDEX delivery_supplier ON delivery (supplier, id) WHERE supplier <> '';
CREATE INDEX delivery_closed ON delivery (id) WHERE closed_at IS NULL;

-- +goose Down
ALTER TABLE delivery DROP COLUMN supplier, DROP COLUMN note, DROP COLUMN closed_at;
