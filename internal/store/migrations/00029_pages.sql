-- +goose Up
ALTER TABLE source DROP CONSTRAINT source_kind_check, ADD CONSTRAINT source_kind_check CHECK (kind IN ('upload', 'drive', 'drop', 'addresses', 'pages', 'lookup'));

-- How a source's pages are read; the latest version holds, those before stay.
CREATE TABLE guide (
    source_id bigint NOT NULL REFERENCES source ON DELETE CASCADE,
    version   int NOT NULL,
    guide     jsonb NOT NULL,
    by        bigint NOT NULL REFERENCES person,
    at        timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (source_id, version)
);
CREATE INDEX guide_by ON guide (by);

-- A walk is a visit to pages: by which version of the guide, how many items at most (0 for all), and whether pictures are fetched.
CREATE TABLE walk (
    delivery_id bigint PRIMARY KEY REFERENCES visit ON DELETE CASCADE,
    version     int NOT NULL,
    most        int NOT NULL DEFAULT 0,
    fetches     boolean NOT NULL DEFAULT true,
    ended       text NOT NULL DEFAULT '' -- why no further page was read: last, pages, items, nothing_new, failed
);
CREATE TABLE walk_page (
    delivery_id bigint NOT NULL REFERENCES walk ON DELETE CASCADE,
    n           int NOT NULL,
    address     text NOT NULL,
    state       text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'read', 'failed')),
    items       int NOT NULL DEFAULT 0, -- that no page before had
    message     jsonb,
    PRIMARY KEY (delivery_id, n)
);
CREATE TABLE walk_item (
    delivery_id bigint NOT NULL REFERENCES walk ON DELETE CASCADE,
    n           int NOT NULL,
    page        int NOT NULL,
    address     text NOT NULL,
    state       text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'read', 'failed')),
    title       text NOT NULL DEFAULT '',
    sku         text NOT NULL DEFAULT '',
    barcode     text NOT NULL DEFAULT '',
    kept        int NOT NULL DEFAULT 0,
    left_out    int NOT NULL DEFAULT 0,
    failed      text[] NOT NULL DEFAULT '{}', -- steps of the guide that found nothing
    message     jsonb,
    PRIMARY KEY (delivery_id, n)
);
CREATE UNIQUE INDEX walk_item_address ON walk_item (delivery_id, md5(address));
CREATE INDEX walk_item_waiting ON walk_item (delivery_id, n) WHERE state = 'waiting';
CREATE TABLE walk_picture (
    delivery_id bigint NOT NULL,
    item        int NOT NULL,
    n           int NOT NULL,
    file        text NOT NULL, -- the name of the picture's file within the source
    address     text NOT NULL,
    key         text NOT NULL, -- the address without its size, hashed
    found_by    text NOT NULL,
    width       int NOT NULL,
    height      int NOT NULL,
    ordinal     int NOT NULL, -- 1…n among those kept; 0 else
    why         text NOT NULL DEFAULT '',
    message     jsonb,
    remarks     jsonb NOT NULL DEFAULT '[]',
    PRIMARY KEY (delivery_id, item, n),
    FOREIGN KEY (delivery_id, item) REFERENCES walk_item ON DELETE CASCADE
);
CREATE INDEX walk_picture_file ON walk_picture (delivery_id, file) WHERE ordinal > 0;
CREATE INDEX walk_picture_key ON walk_picture (delivery_id, key) WHERE ordinal > 0;

-- Which pictures of one page people took by eye, and for whom.
CREATE TABLE eye_set (
    page     text NOT NULL, -- the page's address, hashed
    address  text NOT NULL, -- the picture's
    name     text NOT NULL DEFAULT '',
    owner_id bigint NOT NULL REFERENCES owner ON DELETE CASCADE,
    by       bigint NOT NULL REFERENCES person,
    at       timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (page, address)
);
CREATE INDEX eye_set_owner ON eye_set (owner_id);
CREATE INDEX eye_set_by ON eye_set (by);

-- What a lookup service answered for a barcode; one without pictures is not asked for again for a while.
CREATE TABLE lookup_answer (
    source_id bigint NOT NULL REFERENCES source ON DELETE CASCADE,
    barcode   text NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    pictures  jsonb NOT NULL DEFAULT '[]',
    title     text NOT NULL DEFAULT '',
    licence   text NOT NULL DEFAULT '',
    PRIMARY KEY (source_id, barcode)
);
CREATE INDEX lookup_answer_at ON lookup_answer (source_id, at);
-- What a visit to a lookup service asks, and how each went.
CREATE TABLE lookup_ask (
    delivery_id bigint NOT NULL REFERENCES visit ON DELETE CASCADE,
    n           int NOT NULL,
    owner_id    bigint NOT NULL,
    barcode     text NOT NULL,
    state       text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'found', 'none', 'failed')),
    message     jsonb,
    PRIMARY KEY (delivery_id, n)
);
CREATE INDEX lookup_ask_waiting ON lookup_ask (delivery_id, n) WHERE state = 'waiting';

-- +goose Down
DROP TABLE lookup_ask, lookup_answer, eye_set, walk_picture, walk_item, walk_page, walk, guide;
DELETE FROM source WHERE kind IN ('pages', 'lookup');
ALTER TABLE source DROP CONSTRAINT source_kind_check, ADD CONSTRAINT source_kind_check CHECK (kind IN ('upload', 'drive', 'drop', 'addresses'));
