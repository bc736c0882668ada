-- name: AskJob :exec
-- A job is asked for once; asking again has it begin again.
INSERT INTO job (kind, subject, title, total, unit, asked_by) VALUES (sqlc.arg(kind), sqlc.arg(subject), sqlc.arg(title), sqlc.arg(total), sqlc.arg(unit), sqlc.narg(asked_by))
ON CONFLICT (kind, subject) DO UPDATE SET state = 'waiting', notes = '[]', title = excluded.title, asked_by = excluded.asked_by, asked_at = now(), ended_at = NULL;

-- name: JobOf :one
SELECT * FROM job WHERE kind = $1 AND subject = $2;

-- name: LockJob :one
SELECT * FROM job WHERE kind = $1 AND subject = $2 FOR UPDATE;

-- name: MoveJob :execrows
UPDATE job SET state = sqlc.arg(next), notes = '[]', ended_at = CASE WHEN sqlc.arg(next) IN ('done', 'stopped', 'failed') THEN now() END
WHERE kind = $1 AND subject = $2 AND state = ANY (sqlc.arg(now)::text[]);

-- name: StopJob :execrows
-- Who works on it ends after the step in hand; where nobody does, it stands at once.
UPDATE job SET state = CASE WHEN worker <> 0 AND process_alive(worker) THEN 'stopping' ELSE 'stopped' END, notes = '[]',
    ended_at = CASE WHEN worker <> 0 AND process_alive(worker) THEN NULL ELSE now() END
WHERE kind = $1 AND subject = $2 AND state IN ('waiting', 'working');

-- name: BeginJob :exec
UPDATE job SET state = 'working', notes = '[]', began_at = now(), begun_done = done WHERE id = $1 AND state = 'waiting';

-- name: NoteJob :exec
UPDATE job SET state = sqlc.arg(state), notes = sqlc.arg(notes), ended_at = CASE WHEN sqlc.arg(state) = 'failed' THEN now() END
WHERE id = sqlc.arg(id) AND (state IN ('waiting', 'working') OR state = 'stopping' AND sqlc.arg(state) = 'failed');

-- name: SetJobProgress :exec
UPDATE job SET done = sqlc.arg(done), bytes = bytes + sqlc.arg(more_bytes), total = greatest(total, sqlc.arg(total)) WHERE kind = sqlc.arg(kind) AND subject = sqlc.arg(subject);

-- name: ClaimJob :one
UPDATE job SET worker = sqlc.arg(worker) WHERE kind = sqlc.arg(kind) AND subject = sqlc.arg(subject) AND (worker = sqlc.arg(worker) OR NOT process_alive(worker)) RETURNING id, state;

-- name: LeaveJob :exec
UPDATE job SET worker = 0 WHERE id = $1 AND worker = $2;

-- name: DropJob :exec
DELETE FROM job WHERE kind = $1 AND subject = $2;

-- name: JobsAtWork :many
-- What waits, works or is being stopped, the oldest first; and what failed or was stopped in the last day.
SELECT j.id, j.kind, j.subject, j.title, j.state, j.done, j.total, j.unit, j.bytes, j.notes, j.asked_at, j.began_at, coalesce(p.name, '')::text AS person,
    coalesce((j.done - j.begun_done) / nullif(extract(epoch FROM now() - j.began_at), 0), 0)::float8 AS rate
FROM job j LEFT JOIN person p ON p.id = j.asked_by
WHERE (j.state IN ('waiting', 'working', 'stopping') OR j.state IN ('failed', 'stopped') AND j.ended_at > now() - interval '1 day') AND j.subject > 0 AND j.id > sqlc.arg(after)
ORDER BY j.id LIMIT sqlc.arg(most)::int;

-- name: AbandonedJobs :many
-- Work that is not done and that no living process has claimed.
SELECT id, kind, subject FROM job WHERE state IN ('waiting', 'working', 'stopping') AND NOT process_alive(worker) ORDER BY id;

-- name: AskClock :execrows
-- The clock's work is asked for where it was never done, or not for so many seconds; of several that ask one is heard.
INSERT INTO job (kind, subject) VALUES (sqlc.arg(kind), 0)
ON CONFLICT (kind, subject) DO UPDATE SET state = 'waiting', notes = '[]', asked_at = now(), ended_at = NULL
WHERE job.state IN ('done', 'failed') AND job.ended_at < now() - make_interval(secs => sqlc.arg(seconds)::float8);
