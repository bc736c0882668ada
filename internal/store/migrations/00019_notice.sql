-- +goose Up
-- What ended, for who asked for it: written in the transaction in which the job ends, and kept until it is read.
CREATE TABLE notice (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    person_id bigint NOT NULL REFERENCES person,
    at        timestamptz NOT NULL DEFAULT now(),
    kind      text NOT NULL,
    subject   bigint NOT NULL,
    title     text NOT NULL,
    state     text NOT NULL,
    done      bigint NOT NULL,
    unit      text NOT NULL,
    notes     jsonb NOT NULL,
    read_at   timestamptz
);
CREATE INDEX notice_person ON notice (person_id, id);
CREATE INDEX notice_unread ON notice (person_id) WHERE read_at IS NULL;
-- +goose StatementBegin
CREATE FUNCTION tell_of_job() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO notice (person_id, kind, subject, title, state, done, unit, notes)
    VALUES (NEW.asked_by, NEW.kind, NEW.subject, NEW.title, NEW.state, NEW.done, NEW.unit, NEW.notes);
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER job_ended AFTER UPDATE OF ended_at ON job FOR EACH ROW
    WHEN (OLD.ended_at IS NULL AND NEW.ended_at IS NOT NULL AND NEW.asked_by IS NOT NULL AND NEW.subject > 0) EXECUTE FUNCTION tell_of_job();

-- +goose Down
DROP TRIGGER job_ended ON job;
DROP FUNCTION tell_of_job;
DROP TABLE notice;
