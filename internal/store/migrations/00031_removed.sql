-- +goose Up
-- A delivery that a plan removed: nothing lists it any more, and its lines go by the clock when the bin's days are over.
ALTER TABLE delivery ADD COLUMN removed_at timestamptz;
CREATE INDEX delivery_removed ON delivery (removed_at) WHERE removed_at IS NOT NULL;

-- A download is of lines, or of pictures whatever brought them.
ALTER TABLE download ADD COLUMN assets bigint[] NOT NULL DEFAULT '{}';

-- +goose Down
ALTER TABLE download DROP COLUMN assets;
ALTER TABLE delivery DROP COLUMN removed_at;
