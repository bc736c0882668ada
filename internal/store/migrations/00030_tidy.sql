-- +goose Up
-- What people say of a picture; since when it lies in the bin; and, while its bytes are deleted, since when that is so and since when somebody
-- wants it all the same.
ALTER TABLE asset ADD COLUMN placeholder boolean NOT NULL DEFAULT false, ADD COLUMN tags text[] NOT NULL DEFAULT '{}', ADD COLUMN note text NOT NULL DEFAULT '',
    ADD COLUMN binned_at timestamptz, ADD COLUMN doomed_at timestamptz, ADD COLUMN wanted_at timestamptz, ADD COLUMN broken text NOT NULL DEFAULT '';
CREATE INDEX asset_binned ON asset (binned_at, id) WHERE binned_at IS NOT NULL;
CREATE INDEX asset_doomed ON asset (id) WHERE doomed_at IS NOT NULL;
CREATE INDEX asset_broken ON asset (id) WHERE broken <> '';

-- What the checks of one version saw of a picture; sizes in pixels as it is seen, padded in thousandths of a side. trouble where it could not be
-- looked at.
CREATE TABLE asset_fact (
    asset_id     bigint PRIMARY KEY REFERENCES asset ON DELETE CASCADE,
    version      int NOT NULL,
    true_width   int NOT NULL DEFAULT 0,
    true_height  int NOT NULL DEFAULT 0,
    pad_left     int NOT NULL DEFAULT 0,
    pad_top      int NOT NULL DEFAULT 0,
    pad_right    int NOT NULL DEFAULT 0,
    pad_bottom   int NOT NULL DEFAULT 0,
    padded       int NOT NULL DEFAULT 0,
    sideways     int NOT NULL DEFAULT 0,
    profile      text,
    model        text NOT NULL DEFAULT '',
    transparent  boolean NOT NULL DEFAULT false,
    ground       int NOT NULL DEFAULT 0, -- red, green and blue, a byte each
    ground_share real NOT NULL DEFAULT 0,
    small        bytea, -- the small rendering by which likeness is verified
    trouble      text NOT NULL DEFAULT '',
    unfit        int NOT NULL DEFAULT 0 -- what is wrong with it by the house's limits, a bit a fault
);
CREATE INDEX asset_fact_unfit ON asset_fact (asset_id) WHERE unfit <> 0;
CREATE INDEX asset_fact_version ON asset_fact (version, asset_id);

-- Which pictures changed in anything that is found by, so that who keeps all of them in memory reads only those anew. The transaction says
-- what a snapshot has seen already.
CREATE TABLE asset_log (
    xid      xid8 NOT NULL DEFAULT pg_current_xact_id(),
    asset_id bigint NOT NULL,
    at       timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX asset_log_xid ON asset_log (xid);
-- +goose StatementBegin
CREATE FUNCTION log_assets() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_TABLE_NAME = 'asset' THEN
        INSERT INTO asset_log (asset_id) SELECT c.id FROM changed c;
    ELSE
        INSERT INTO asset_log (asset_id) SELECT DISTINCT c.asset_id FROM changed c WHERE c.asset_id IS NOT NULL;
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION log_owned_assets() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO asset_log (asset_id) SELECT DISTINCT p.asset_id FROM changed c JOIN placement p ON p.owner_id = c.id;
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION log_delivered_assets() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO asset_log (asset_id) SELECT DISTINCT a.asset_id FROM changed c JOIN was w ON w.id = c.id JOIN arrival a ON a.delivery_id = c.id
    WHERE a.asset_id IS NOT NULL AND (c.supplier, c.source_id, c.may, c.until) IS DISTINCT FROM (w.supplier, w.source_id, w.may, w.until);
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER asset_inserted AFTER INSERT ON asset REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_updated AFTER UPDATE ON asset REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_deleted AFTER DELETE ON asset REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_fact_inserted AFTER INSERT ON asset_fact REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_fact_updated AFTER UPDATE ON asset_fact REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_arrived AFTER INSERT ON arrival REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_arrival_changed AFTER UPDATE ON arrival REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_arrival_gone AFTER DELETE ON arrival REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_placed AFTER INSERT ON placement REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_unplaced AFTER DELETE ON placement REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_worded AFTER INSERT ON wording REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_reworded AFTER UPDATE ON wording REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_unworded AFTER DELETE ON wording REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_rights_set AFTER INSERT ON rights REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_rights_changed AFTER UPDATE ON rights REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_assets();
CREATE TRIGGER asset_owner_changed AFTER UPDATE ON owner REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_owned_assets();
CREATE TRIGGER asset_delivery_changed AFTER UPDATE ON delivery REFERENCING OLD TABLE AS was NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_delivered_assets();

-- What an admin set for the whole house, by name.
CREATE TABLE house_setting (
    name       text PRIMARY KEY,
    value      jsonb NOT NULL,
    changed_by bigint REFERENCES person,
    changed_at timestamptz NOT NULL DEFAULT now()
);

-- What the clock proposes: plans that wait for a person.
CREATE TABLE tidy_rule (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    finding    text NOT NULL,
    title      text NOT NULL, -- of its plans
    days       int NOT NULL DEFAULT 0,
    created_by bigint NOT NULL REFERENCES person,
    created_at timestamptz NOT NULL DEFAULT now(),
    plan_id    bigint REFERENCES plan ON DELETE SET NULL -- that it made last
);
CREATE INDEX tidy_rule_created_by ON tidy_rule (created_by);
CREATE INDEX tidy_rule_plan ON tidy_rule (plan_id);

-- Pictures that are the same in other bytes, as they were found last; best is the one to keep.
CREATE TABLE twice (
    asset_id bigint PRIMARY KEY REFERENCES asset ON DELETE CASCADE,
    best_id  bigint NOT NULL REFERENCES asset ON DELETE CASCADE,
    apart    int NOT NULL -- in how many of 64 bits it differs from the best
);
CREATE INDEX twice_best ON twice (best_id, asset_id);

-- What owners miss, a bit a gap, as it was found last. Every owner that is not retired has a row; category is the one that it counts for.
CREATE TABLE owner_gap (
    owner_id bigint PRIMARY KEY REFERENCES owner ON DELETE CASCADE,
    category bigint NOT NULL DEFAULT 0,
    gaps     int NOT NULL
);
CREATE INDEX owner_gap_some ON owner_gap (owner_id) WHERE gaps <> 0;
CREATE INDEX owner_gap_category ON owner_gap (category);

-- Of what state of everything the findings are that are kept.
CREATE TABLE tidy_state (
    only_row boolean PRIMARY KEY DEFAULT true CHECK (only_row),
    owners   bigint NOT NULL,
    pictures bigint NOT NULL,
    snapshot text NOT NULL,
    limits   jsonb NOT NULL,
    at       timestamptz NOT NULL DEFAULT now()
);

-- How far the slow look through all stored bytes has come, and what lies there that nobody knows.
CREATE TABLE scrub (
    only_row   boolean PRIMARY KEY DEFAULT true CHECK (only_row),
    last_asset bigint NOT NULL DEFAULT 0,
    began_at   timestamptz NOT NULL DEFAULT now(),
    ended_at   timestamptz,
    looked     bigint NOT NULL DEFAULT 0,
    missing    bigint NOT NULL DEFAULT 0,
    differing  bigint NOT NULL DEFAULT 0,
    remade     bigint NOT NULL DEFAULT 0
);
CREATE TABLE stray_blob (
    key      text PRIMARY KEY,
    bytes    bigint NOT NULL,
    found_at timestamptz NOT NULL DEFAULT now()
);

-- Deliveries of which a plan was applied.
CREATE VIEW delivery_applied AS
SELECT DISTINCT (p.source->>'delivery')::bigint AS delivery_id FROM plan p JOIN run r ON r.plan_id = p.id WHERE (p.source->>'delivery')::bigint IS NOT NULL;

-- +goose Down
DROP VIEW delivery_applied;
DROP TABLE stray_blob, scrub, tidy_state, owner_gap, twice, tidy_rule, house_setting;
DROP TRIGGER asset_inserted ON asset;
DROP TRIGGER asset_updated ON asset;
DROP TRIGGER asset_deleted ON asset;
DROP TRIGGER asset_arrived ON arrival;
DROP TRIGGER asset_arrival_changed ON arrival;
DROP TRIGGER asset_arrival_gone ON arrival;
DROP TRIGGER asset_placed ON placement;
DROP TRIGGER asset_unplaced ON placement;
DROP TRIGGER asset_worded ON wording;
DROP TRIGGER asset_reworded ON wording;
DROP TRIGGER asset_unworded ON wording;
DROP TRIGGER asset_rights_set ON rights;
DROP TRIGGER asset_rights_changed ON rights;
DROP TRIGGER asset_owner_changed ON owner;
DROP TRIGGER asset_delivery_changed ON delivery;
DROP TABLE asset_log, asset_fact;
DROP FUNCTION log_assets, log_owned_assets, log_delivered_assets;
DROP INDEX asset_binned, asset_doomed, asset_broken;
ALTER TABLE asset DROP COLUMN placeholder, DROP COLUMN tags, DROP COLUMN note, DROP COLUMN binned_at, DROP COLUMN doomed_at, DROP COLUMN wanted_at, DROP COLUMN broken;
