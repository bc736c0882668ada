-- +goose Up
-- Where deliveries come from, named once. secrets are sealed with the key of the house; door is the hash of what a drop folder is
-- opened with.
CREATE TABLE source (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name       text NOT NULL,
    kind       text NOT NULL CHECK (kind IN ('upload', 'drive', 'drop', 'addresses')),
    settings   jsonb NOT NULL DEFAULT '{}',
    secrets    bytea,
    door       text NOT NULL DEFAULT '',
    filters    jsonb NOT NULL DEFAULT '{}',
    supplier   text NOT NULL DEFAULT '',
    may        text NOT NULL DEFAULT '' CHECK (may IN ('', 'cleared', 'internal', 'not_cleared')),
    until      date,
    holder     text NOT NULL DEFAULT '',
    proof      text NOT NULL DEFAULT '',
    created_by bigint NOT NULL REFERENCES person,
    created_at timestamptz NOT NULL DEFAULT now(),
    removed_at timestamptz
);
CREATE UNIQUE INDEX source_name ON source (lower(name)) WHERE removed_at IS NULL;
CREATE UNIQUE INDEX source_drop ON source ((settings->>'login')) WHERE kind = 'drop' AND removed_at IS NULL;

-- What an admin lets people connect drives to. host is one, *.example for those below, or * for any that the whole world reaches.
CREATE TABLE drive_host (
    kind     text NOT NULL,
    host     text NOT NULL,
    added_by bigint NOT NULL REFERENCES person,
    added_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (kind, host)
);

-- A delivery keeps the rights that its pictures came with, and how it is placed where its source was placed so before.
ALTER TABLE delivery ADD COLUMN source_id bigint REFERENCES source,
    ADD COLUMN may text NOT NULL DEFAULT '' CHECK (may IN ('', 'cleared', 'internal', 'not_cleared')),
    ADD COLUMN until date, ADD COLUMN holder text NOT NULL DEFAULT '', ADD COLUMN proof text NOT NULL DEFAULT '',
    ADD COLUMN house_rule text NOT NULL DEFAULT '', ADD COLUMN like_delivery bigint;
CREATE INDEX delivery_until ON delivery (until) WHERE until IS NOT NULL;
CREATE INDEX delivery_source ON delivery (source_id, id) WHERE source_id IS NOT NULL;

-- Rights that an admin set on an asset: who, and when.
ALTER TABLE rights ADD COLUMN set_by bigint REFERENCES person, ADD COLUMN set_at timestamptz NOT NULL DEFAULT now();

-- A visit is a delivery that is collected from where files lie: what was found there, and what had to come.
CREATE TABLE visit (
    delivery_id bigint PRIMARY KEY REFERENCES delivery ON DELETE CASCADE,
    source_id   bigint NOT NULL REFERENCES source,
    chosen      jsonb NOT NULL DEFAULT '[]', -- folders and files, where it is not for all
    listed      boolean NOT NULL DEFAULT false,
    settled     boolean NOT NULL DEFAULT false,
    found       bigint NOT NULL DEFAULT 0,
    wanted      bigint NOT NULL DEFAULT 0,
    same        bigint NOT NULL DEFAULT 0,
    fresh       bigint NOT NULL DEFAULT 0,
    changed     bigint NOT NULL DEFAULT 0,
    renamed     bigint NOT NULL DEFAULT 0,
    gone        bigint NOT NULL DEFAULT 0,
    failed      bigint NOT NULL DEFAULT 0,
    bytes       bigint NOT NULL DEFAULT 0
);
CREATE INDEX visit_source ON visit (source_id, delivery_id);

-- What a visit finds, until it is compared. It is found again after a crash, so it needs no log.
CREATE UNLOGGED TABLE listing (
    delivery_id bigint NOT NULL,
    item        text NOT NULL,
    path        text NOT NULL,
    bytes       bigint NOT NULL,
    modified    timestamptz,
    sum         text NOT NULL,
    sku         text NOT NULL,
    wanted      boolean NOT NULL
);
CREATE INDEX listing_item ON listing (delivery_id, item);

-- What a visit has to say of files that are not as they were. n is the order in which they are fetched.
CREATE TABLE visit_file (
    delivery_id  bigint NOT NULL REFERENCES visit ON DELETE CASCADE,
    item         text NOT NULL,
    n            int NOT NULL,
    path         text NOT NULL,
    bytes        bigint NOT NULL,
    modified     timestamptz,
    sum          text NOT NULL,
    sku          text NOT NULL DEFAULT '',
    what         text NOT NULL CHECK (what IN ('new', 'changed', 'renamed', 'gone', 'same')),
    before_asset bigint REFERENCES asset ON DELETE SET NULL,
    before_path  text NOT NULL DEFAULT '',
    PRIMARY KEY (delivery_id, item)
);
CREATE UNIQUE INDEX visit_file_order ON visit_file (delivery_id, n);
CREATE INDEX visit_file_before ON visit_file (before_asset) WHERE before_asset IS NOT NULL;

-- What a source had when it was last collected from. gone_in is the visit that missed it.
CREATE TABLE remote_file (
    source_id bigint NOT NULL REFERENCES source,
    item      text NOT NULL,
    path      text NOT NULL,
    bytes     bigint NOT NULL,
    modified  timestamptz,
    sum       text NOT NULL,
    asset_id  bigint REFERENCES asset ON DELETE SET NULL,
    gone_in   bigint,
    mark      text NOT NULL DEFAULT '', -- what people say of it: ignored
    PRIMARY KEY (source_id, item)
);
CREATE INDEX remote_file_asset ON remote_file (asset_id) WHERE asset_id IS NOT NULL;

-- A drive beside all pictures, as it was looked at last. What it names may be gone since.
CREATE TABLE reconciled (
    source_id  bigint NOT NULL REFERENCES source ON DELETE CASCADE,
    item       text NOT NULL,
    n          int NOT NULL,
    path       text NOT NULL, -- there, or here where it is only here
    bytes      bigint NOT NULL,
    modified   timestamptz,
    what       text NOT NULL CHECK (what IN ('same', 'differs', 'elsewhere', 'only_there', 'only_here')),
    arrival_id bigint,
    PRIMARY KEY (source_id, item)
);
CREATE UNIQUE INDEX reconciled_order ON reconciled (source_id, n);

-- The addresses of a source of addresses, in their order.
CREATE TABLE source_address (
    source_id bigint NOT NULL REFERENCES source ON DELETE CASCADE,
    row       int NOT NULL,
    address   text NOT NULL,
    sku       text NOT NULL DEFAULT '',
    PRIMARY KEY (source_id, row)
);

-- A supplier's own codes beside our owners.
CREATE TABLE cross_reference (
    source_id bigint NOT NULL REFERENCES source ON DELETE CASCADE,
    code      text NOT NULL,
    owner_id  bigint NOT NULL,
    confirmed int NOT NULL DEFAULT 0,
    added_by  bigint NOT NULL REFERENCES person,
    added_at  timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (source_id, code, owner_id)
);
ALTER TABLE source ADD COLUMN references_version bigint NOT NULL DEFAULT 0;

-- The version of a table with which was done what its source wants.
ALTER TABLE worksheet ADD COLUMN readied bigint NOT NULL DEFAULT -1;

-- When what is due comes again: each hour, day or week at a minute of it, in its time zone.
ALTER TABLE schedule ADD COLUMN each text NOT NULL DEFAULT 'day' CHECK (each IN ('hour', 'day', 'week')), ADD COLUMN minute int NOT NULL DEFAULT 0,
    ADD COLUMN weekday int NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE worksheet DROP COLUMN readied;
ALTER TABLE schedule DROP COLUMN each, DROP COLUMN minute, DROP COLUMN weekday;
DROP TABLE cross_reference, source_address, reconciled, remote_file, visit_file, listing, visit;
ALTER TABLE rights DROP COLUMN set_by, DROP COLUMN set_at;
ALTER TABLE delivery DROP COLUMN source_id, DROP COLUMN may, DROP COLUMN until, DROP COLUMN holder, DROP COLUMN proof, DROP COLUMN house_rule,
    DROP COLUMN like_delivery;
DROP TABLE drive_host, source;
