-- +goose Up
-- All that runs in the background, of every kind. subject is what a job works on: a run, a delivery, 0 for the clock's. total is 0
-- where nobody knows it yet. begun_done is what was done when the present attempt began, so that a rate can be told.
CREATE TABLE job (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind       text NOT NULL,
    subject    bigint NOT NULL,
    title      text NOT NULL DEFAULT '',
    state      text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'working', 'stopping', 'stopped', 'done', 'failed')),
    done       bigint NOT NULL DEFAULT 0,
    total      bigint NOT NULL DEFAULT 0,
    unit       text NOT NULL DEFAULT '',
    bytes      bigint NOT NULL DEFAULT 0,
    note       text NOT NULL DEFAULT '',
    worker     int NOT NULL DEFAULT 0, -- the process at work on it, by the number of its advisory lock
    asked_by   bigint REFERENCES person,
    asked_at   timestamptz NOT NULL DEFAULT now(),
    began_at   timestamptz,
    begun_done bigint NOT NULL DEFAULT 0,
    ended_at   timestamptz,
    UNIQUE (kind, subject)
);
CREATE INDEX job_unfinished ON job (id) WHERE state <> 'done';

INSERT INTO job (kind, subject, title, state, done, total, unit, note, worker, asked_by, asked_at, ended_at)
SELECT 'run', r.id, p.title, CASE r.state WHEN 'running' THEN 'working' ELSE r.state END, r.done, p.changes, 'changes', r.note, r.worker, r.created_by, r.created_at, r.finished_at
FROM run r JOIN plan p ON p.id = r.plan_id;
INSERT INTO job (kind, subject, title, state, done, total, unit, note, worker, asked_by, asked_at, ended_at)
SELECT 'take_in', d.id, d.title, CASE d.state WHEN 'taking_in' THEN 'working' WHEN 'ready' THEN 'done' ELSE d.state END,
    (SELECT count(*) FROM arrival a WHERE a.delivery_id = d.id), (SELECT coalesce(sum(u.entries), 0) FROM upload u WHERE u.delivery_id = d.id), 'files',
    CASE d.state WHEN 'ready' THEN '' ELSE d.note END, d.worker, d.created_by, d.created_at, d.finished_at
FROM delivery d WHERE d.state <> 'open';

ALTER TABLE run DROP COLUMN state, DROP COLUMN done, DROP COLUMN note, DROP COLUMN worker, DROP COLUMN finished_at;

-- A delivery is open or closed; what became of it since is what its job says.
ALTER TABLE delivery ADD COLUMN open boolean NOT NULL DEFAULT true;
UPDATE delivery SET open = state = 'open', note = CASE WHEN state IN ('open', 'ready') THEN note ELSE '' END;
ALTER TABLE delivery DROP COLUMN state, DROP COLUMN worker, DROP COLUMN finished_at;

-- What the queue holds of the kinds there were is asked for anew.
-- +goose StatementBegin
DO $$
BEGIN
    IF to_regclass('river_job') IS NOT NULL THEN
        DELETE FROM river_job WHERE kind IN ('run', 'take_in');
    END IF;
END
$$;
-- +goose StatementEnd

-- +goose Down
ALTER TABLE delivery ADD COLUMN state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'waiting', 'taking_in', 'stopping', 'stopped', 'ready', 'failed')),
    ADD COLUMN worker int NOT NULL DEFAULT 0, ADD COLUMN finished_at timestamptz;
UPDATE delivery d SET state = CASE j.state WHEN 'working' THEN 'taking_in' WHEN 'done' THEN 'ready' ELSE j.state END, note = CASE j.state WHEN 'done' THEN d.note ELSE j.note END, finished_at = j.ended_at
    FROM job j WHERE j.kind = 'take_in' AND j.subject = d.id AND NOT d.open;
ALTER TABLE delivery DROP COLUMN open;
ALTER TABLE run ADD COLUMN state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'stopping', 'stopped', 'done', 'failed')),
    ADD COLUMN done int NOT NULL DEFAULT 0, ADD COLUMN note text NOT NULL DEFAULT '', ADD COLUMN worker int NOT NULL DEFAULT 0, ADD COLUMN finished_at timestamptz;
UPDATE run r SET state = CASE j.state WHEN 'working' THEN 'running' ELSE j.state END, done = j.done, note = j.note, finished_at = j.ended_at FROM job j WHERE j.kind = 'run' AND j.subject = r.id;
DROP TABLE job;
