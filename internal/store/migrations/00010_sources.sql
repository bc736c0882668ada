-- +goose Up
-- A line of a delivery is an item of its source, known by the source's own name for it; origin is where it lies there.
ALTER TABLE arrival ADD COLUMN item text, ADD COLUMN origin jsonb NOT NULL DEFAULT '{}';
UPDATE arrival SET item = upload_id || '/' || CASE entry WHEN -1 THEN 'whole' ELSE entry::text END;
ALTER TABLE arrival ALTER COLUMN item SET NOT NULL, DROP COLUMN upload_id, DROP COLUMN entry;
CREATE UNIQUE INDEX arrival_item ON arrival (delivery_id, item);

-- From where the source is walked on, and the last line that stood when that was noted: those behind it may come again.
ALTER TABLE delivery ADD COLUMN cursor text NOT NULL DEFAULT '', ADD COLUMN cursor_line bigint NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE delivery DROP COLUMN cursor, DROP COLUMN cursor_line;
ALTER TABLE arrival ADD COLUMN upload_id text REFERENCES upload ON DELETE CASCADE, ADD COLUMN entry int;
UPDATE arrival SET upload_id = split_part(item, '/', 1), entry = CASE split_part(item, '/', 2) WHEN 'whole' THEN -1 ELSE split_part(item, '/', 2)::int END;
ALTER TABLE arrival ALTER COLUMN upload_id SET NOT NULL, ALTER COLUMN entry SET NOT NULL, DROP COLUMN item, DROP COLUMN origin, ADD UNIQUE (upload_id, entry);
