-- +goose Up
-- Which owners changed with which state of the catalogue, so that who keeps them all in memory reads only those anew. The version is
-- catalogue_state.owners as it will be once the change is committed.
CREATE TABLE owner_log (
    version  bigint NOT NULL,
    owner_id bigint NOT NULL,
    at       timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX owner_log_version ON owner_log (version);
-- +goose StatementBegin
CREATE FUNCTION log_owners() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO owner_log (version, owner_id) SELECT s.owners + 1, c.id FROM changed c, catalogue_state s;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER owner_inserted AFTER INSERT ON owner REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_owners();
CREATE TRIGGER owner_updated AFTER UPDATE ON owner REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_owners();
CREATE TRIGGER owner_deleted AFTER DELETE ON owner REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION log_owners();

-- +goose Down
DROP TRIGGER owner_inserted ON owner;
DROP TRIGGER owner_updated ON owner;
DROP TRIGGER owner_deleted ON owner;
DROP FUNCTION log_owners;
DROP TABLE owner_log;
