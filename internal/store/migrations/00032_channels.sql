-- +goose Up
-- Where pictures and lists are published to, and how. says is a channel of core/channel.
CREATE TABLE channel (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name        text NOT NULL,
    says        jsonb NOT NULL,
    source_id   bigint REFERENCES source,
    address_key bytea,                           -- of public addresses; null where it has none
    plan_id     bigint REFERENCES plan,          -- the last plan of what would go; null where nothing would
    planned_at  timestamptz,
    counts      jsonb NOT NULL DEFAULT '{}',     -- of that plan, by state
    runs        boolean NOT NULL DEFAULT false,  -- whether the plan that is being made is run at once
    files       bigint NOT NULL DEFAULT 0,       -- that stand there
    bytes       bigint NOT NULL DEFAULT 0,
    created_by  bigint NOT NULL REFERENCES person,
    created_at  timestamptz NOT NULL DEFAULT now(),
    removed_at  timestamptz
);
CREATE UNIQUE INDEX channel_name ON channel (lower(name)) WHERE removed_at IS NULL;
CREATE INDEX channel_source ON channel (source_id) WHERE source_id IS NOT NULL;
CREATE INDEX channel_plan ON channel (plan_id) WHERE plan_id IS NOT NULL;
CREATE INDEX channel_created_by ON channel (created_by);

-- What is made of pictures for channels, and lists. recipe is what it is made of; null for a list. sum is the SHA-256 of its bytes, null while
-- it is not made.
CREATE TABLE rendition (
    key      bytea PRIMARY KEY,
    recipe   jsonb,
    asset_id bigint REFERENCES asset ON DELETE SET NULL,
    sum      bytea,
    crc      bigint NOT NULL DEFAULT 0,
    bytes    bigint NOT NULL DEFAULT 0,
    used_at  timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX rendition_asset ON rendition (asset_id) WHERE asset_id IS NOT NULL;
CREATE INDEX rendition_sum ON rendition (sum) WHERE sum IS NOT NULL;
CREATE INDEX rendition_used ON rendition (used_at);

-- A file's place in a channel: one size of one picture on one owner, or the list, which has neither (0). path and key are what stands there, null
-- where nothing does. let is why it was held, where somebody let it go all the same.
CREATE TABLE channel_file (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    channel_id bigint NOT NULL REFERENCES channel,
    owner_id   bigint NOT NULL,
    asset_id   bigint NOT NULL,
    size       text NOT NULL,
    path       text COLLATE "C",
    key        bytea,
    let        text NOT NULL DEFAULT '',
    bytes      bigint NOT NULL DEFAULT 0,
    put_at     timestamptz,
    UNIQUE (channel_id, owner_id, asset_id, size)
);
CREATE INDEX channel_file_path ON channel_file (channel_id, path) WHERE path IS NOT NULL;
CREATE INDEX channel_file_key ON channel_file (key) WHERE key IS NOT NULL;

-- What lay in a channel's folder when it was looked at last.
CREATE TABLE channel_there (
    channel_id bigint NOT NULL REFERENCES channel,
    path       text COLLATE "C" NOT NULL,
    bytes      bigint NOT NULL,
    modified   timestamptz
);
CREATE INDEX channel_there_path ON channel_there (channel_id, path); -- some drives hold two of one name

-- Lists, saved under names.
CREATE TABLE list_preset (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name     text NOT NULL UNIQUE,
    says     jsonb NOT NULL,
    saved_by bigint NOT NULL REFERENCES person,
    saved_at timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE list_preset, channel_there, channel_file, rendition, channel;
