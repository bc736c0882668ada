-- +goose Up
-- What of the engine's habits does not count for a delivery, and how often its bench changed.
ALTER TABLE delivery ADD COLUMN habits_off jsonb NOT NULL DEFAULT '[]', ADD COLUMN bench_version bigint NOT NULL DEFAULT 0;

-- One picture may be decided for several owners.
ALTER TABLE decision DROP CONSTRAINT decision_pkey, ADD COLUMN seq int NOT NULL DEFAULT 0;
ALTER TABLE decision ADD UNIQUE NULLS NOT DISTINCT (arrival_id, owner_id);

-- How often owners and placements changed, so that a bench knows whether what it read still stands.
CREATE TABLE catalogue_state (owners bigint NOT NULL, pictures bigint NOT NULL);
INSERT INTO catalogue_state VALUES (0, 0);

-- likeness is a difference hash; palette the colours that stand out, four bytes each. Null where they are not known.
ALTER TABLE asset ADD COLUMN likeness bigint, ADD COLUMN palette bytea;

-- +goose Down
ALTER TABLE asset DROP COLUMN likeness, DROP COLUMN palette;
DROP TABLE catalogue_state;
DELETE FROM decision d USING decision e WHERE d.arrival_id = e.arrival_id AND d.ctid > e.ctid;
ALTER TABLE decision DROP CONSTRAINT decision_arrival_id_owner_id_key, DROP COLUMN seq, ADD PRIMARY KEY (arrival_id);
ALTER TABLE delivery DROP COLUMN habits_off, DROP COLUMN bench_version;
