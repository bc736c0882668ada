-- +goose Up
-- The cells by which a delivery is paired, as [{"key", "fit"}]; empty for every cell.
ALTER TABLE delivery ADD COLUMN ladder jsonb NOT NULL DEFAULT '[]';

-- +goose Down
ALTER TABLE delivery DROP COLUMN ladder;
