-- +goose Up
CREATE EXTENSION IF NOT EXISTS pg_trgm;

-- A process that works holds the advisory lock (952, its number) for as long as its connection lives, so
-- whoever is killed is known at once, without a heartbeat.
-- +goose StatementBegin
CREATE FUNCTION process_alive(number int) RETURNS boolean LANGUAGE sql STABLE AS $$
    SELECT EXISTS (SELECT 1 FROM pg_locks WHERE locktype = 'advisory' AND classid = 952 AND objid = number::oid AND granted
        AND database = (SELECT oid FROM pg_database WHERE datname = current_database()))
$$;
-- +goose StatementEnd

CREATE TABLE person (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name          text NOT NULL,
    password_hash text NOT NULL,
    role          text NOT NULL CHECK (role IN ('viewer', 'editor', 'admin')),
    created_at    timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX person_name ON person (lower(name));

CREATE TABLE session (
    token_hash bytea PRIMARY KEY,
    person_id  bigint NOT NULL REFERENCES person ON DELETE CASCADE,
    csrf       text NOT NULL,
    expires_at timestamptz NOT NULL
);

CREATE TABLE access_token (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    person_id  bigint NOT NULL REFERENCES person ON DELETE CASCADE,
    name       text NOT NULL,
    token_hash bytea NOT NULL UNIQUE,
    created_at timestamptz NOT NULL DEFAULT now(),
    used_at    timestamptz
);

CREATE TABLE signin_failure (
    subject text NOT NULL,
    at      timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX signin_failure_subject ON signin_failure (subject, at);

-- A picture's bytes, known by their SHA-256; width and height in pixels as seen, after EXIF orientation.
CREATE TABLE asset (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    sha256     bytea NOT NULL UNIQUE,
    bytes      bigint NOT NULL,
    format     text NOT NULL,
    width      int NOT NULL,
    height     int NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE delivery (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    title       text NOT NULL,
    state       text NOT NULL DEFAULT 'open'
                CHECK (state IN ('open', 'waiting', 'taking_in', 'stopping', 'stopped', 'ready', 'failed')),
    note        text NOT NULL DEFAULT '',
    worker      int NOT NULL DEFAULT 0, -- the process at work on it, by the number of its advisory lock
    created_by  bigint NOT NULL REFERENCES person,
    created_at  timestamptz NOT NULL DEFAULT now(),
    finished_at timestamptz
);

-- One file as it was sent: an archive or a single picture. entries is what an archive says it holds.
CREATE TABLE upload (
    id          text PRIMARY KEY,
    delivery_id bigint NOT NULL REFERENCES delivery ON DELETE CASCADE,
    path        text NOT NULL,
    bytes       bigint NOT NULL,
    entries     int,
    done        boolean NOT NULL DEFAULT false,
    sha256      bytea,
    created_at  timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX upload_delivery ON upload (delivery_id);
CREATE INDEX upload_sha256 ON upload (sha256);

-- A line of a delivery. entry is its place in the upload; the pair makes taking in repeatable.
CREATE TABLE arrival (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    delivery_id bigint NOT NULL REFERENCES delivery ON DELETE CASCADE,
    upload_id   text NOT NULL REFERENCES upload ON DELETE CASCADE,
    entry       int NOT NULL,
    path        text NOT NULL,
    raw_path    bytea,
    bytes       bigint NOT NULL,
    asset_id    bigint REFERENCES asset,
    problem     text NOT NULL DEFAULT '',
    detail      text NOT NULL DEFAULT '',
    seen_before boolean NOT NULL DEFAULT false,
    UNIQUE (upload_id, entry)
);
CREATE INDEX arrival_delivery ON arrival (delivery_id, id);
CREATE INDEX arrival_asset ON arrival (asset_id);

CREATE SEQUENCE owner_id;
CREATE TABLE owner (
    id       bigint PRIMARY KEY,
    kind     text NOT NULL CHECK (kind IN ('product', 'variant', 'category')),
    parent   bigint REFERENCES owner,
    category bigint REFERENCES owner,
    sku      text NOT NULL DEFAULT '',
    identity text UNIQUE,
    barcode  text NOT NULL DEFAULT '',
    title    text NOT NULL DEFAULT '',
    options  jsonb NOT NULL DEFAULT '{}',
    ordinal  int NOT NULL DEFAULT 0
);
CREATE INDEX owner_parent ON owner (parent);
CREATE INDEX owner_category ON owner (category);
CREATE INDEX owner_ordinal ON owner (kind, ordinal);
CREATE INDEX owner_search ON owner USING gin ((lower(sku || ' ' || barcode || ' ' || title || ' ' || options::text)) gin_trgm_ops);

CREATE TABLE placement (
    owner_id bigint NOT NULL REFERENCES owner,
    position int NOT NULL CHECK (position > 0),
    asset_id bigint NOT NULL REFERENCES asset,
    alt      text NOT NULL DEFAULT '',
    PRIMARY KEY (owner_id, position)
);
CREATE INDEX placement_asset ON placement (asset_id);

-- What a person decided on a line of the Pair bench: an owner, or set aside; a rank within the owner.
CREATE TABLE decision (
    arrival_id bigint PRIMARY KEY REFERENCES arrival ON DELETE CASCADE,
    owner_id   bigint REFERENCES owner ON DELETE CASCADE,
    aside      boolean NOT NULL DEFAULT false,
    rank       int NOT NULL DEFAULT 0,
    person_id  bigint NOT NULL REFERENCES person,
    at         timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE plan (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind        text NOT NULL CHECK (kind IN ('pairing', 'catalogue', 'order', 'undo')),
    title       text NOT NULL,
    delivery_id bigint REFERENCES delivery,
    undoes      bigint,
    house_rule  text NOT NULL DEFAULT '',
    changes     int NOT NULL DEFAULT 0,
    problems    jsonb NOT NULL DEFAULT '[]',
    created_by  bigint NOT NULL REFERENCES person,
    created_at  timestamptz NOT NULL DEFAULT now()
);

-- subject says what before and after hold: 'pictures' a list of {asset, alt}, 'owner' a record or null.
CREATE TABLE plan_change (
    plan_id  bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    seq      int NOT NULL,
    owner_id bigint NOT NULL,
    subject  text NOT NULL CHECK (subject IN ('pictures', 'owner')),
    before   jsonb,
    after    jsonb,
    PRIMARY KEY (plan_id, seq)
);
CREATE INDEX plan_change_owner ON plan_change (owner_id);

CREATE TABLE run (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    plan_id     bigint NOT NULL UNIQUE REFERENCES plan,
    state       text NOT NULL DEFAULT 'waiting'
                CHECK (state IN ('waiting', 'running', 'stopping', 'stopped', 'done', 'failed')),
    done        int NOT NULL DEFAULT 0,
    applied     int NOT NULL DEFAULT 0,
    left_alone  int NOT NULL DEFAULT 0,
    note        text NOT NULL DEFAULT '',
    worker      int NOT NULL DEFAULT 0, -- the process at work on it, by the number of its advisory lock
    created_by  bigint NOT NULL REFERENCES person,
    created_at  timestamptz NOT NULL DEFAULT now(),
    finished_at timestamptz
);
ALTER TABLE plan ADD FOREIGN KEY (undoes) REFERENCES run;

-- The ledger's lines. why is empty where the change was made.
CREATE TABLE run_entry (
    run_id bigint NOT NULL REFERENCES run,
    seq    int NOT NULL,
    why    text NOT NULL DEFAULT '',
    PRIMARY KEY (run_id, seq)
);

-- +goose Down
DROP TABLE run_entry, run, plan_change, plan, decision, placement, owner, arrival, upload, delivery, asset,
    signin_failure, access_token, session, person CASCADE;
DROP SEQUENCE owner_id;
DROP FUNCTION process_alive;
