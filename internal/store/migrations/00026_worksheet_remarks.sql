-- +goose Up
-- What is worth knowing of a table and belongs to no row: macros, hidden rows, columns of one name. Messages.
ALTER TABLE worksheet ADD COLUMN remarks jsonb NOT NULL DEFAULT '[]';

-- +goose Down
ALTER TABLE worksheet DROP COLUMN remarks;
