-- +goose Up
-- What each person set for themselves; who no longer works here; and a list of what concerns who may do what.
ALTER TABLE person ADD COLUMN settings jsonb NOT NULL DEFAULT '{}', ADD COLUMN ended_at timestamptz;
CREATE TABLE audit (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at         timestamptz NOT NULL DEFAULT now(),
    person_id  bigint REFERENCES person, -- who did it; null where it was done on the command line
    subject_id bigint REFERENCES person, -- whom it concerns; null where nobody
    code       text NOT NULL,
    data       jsonb NOT NULL DEFAULT '{}'
);
CREATE INDEX audit_person ON audit (person_id);
CREATE INDEX audit_subject ON audit (subject_id);

-- +goose Down
DROP TABLE audit;
ALTER TABLE person DROP COLUMN settings, DROP COLUMN ended_at;
