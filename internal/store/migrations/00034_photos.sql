-- +goose Up
-- What photos say of themselves: when they were taken, by the camera's clock, and by which camera. trouble where a photo could not be read.
CREATE TABLE photo (
    asset_id bigint PRIMARY KEY REFERENCES asset ON DELETE CASCADE,
    version  int NOT NULL,
    taken_at timestamp,
    camera   text NOT NULL DEFAULT '',
    trouble  text NOT NULL DEFAULT ''
);

-- The bar codes in them: text as it is encoded, gtin 14 digits where it names a trade item, the box in pixels as the photo is seen.
CREATE TABLE photo_code (
    asset_id bigint NOT NULL REFERENCES photo ON DELETE CASCADE,
    n        int NOT NULL,
    format   text NOT NULL,
    text     text NOT NULL,
    gtin     text,
    x        int NOT NULL,
    y        int NOT NULL,
    width    int NOT NULL,
    height   int NOT NULL,
    PRIMARY KEY (asset_id, n)
);
CREATE INDEX photo_code_gtin ON photo_code (gtin) WHERE gtin IS NOT NULL;

-- How often codes were read in a delivery's photos: who pairs it reads them anew.
ALTER TABLE delivery ADD COLUMN photos_version bigint NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE delivery DROP COLUMN photos_version;
DROP TABLE photo_code, photo;
