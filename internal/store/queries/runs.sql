-- name: AddPlan :one
INSERT INTO plan (kind, title, delivery_id, undoes, house_rule, changes, problems, created_by, basis, gone)
VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) RETURNING id;

-- name: AddPlanChanges :copyfrom
INSERT INTO plan_change (plan_id, seq, owner_id, subject, before, after) VALUES ($1, $2, $3, $4, $5, $6);

-- name: PlanByID :one
SELECT p.*, u.name AS person, coalesce(d.title, '')::text AS delivery, r.id AS run_id, j.state AS run_state
FROM plan p JOIN person u ON u.id = p.created_by LEFT JOIN delivery d ON d.id = p.delivery_id LEFT JOIN run r ON r.plan_id = p.id
    LEFT JOIN job j ON j.kind = 'run' AND j.subject = r.id WHERE p.id = $1;

-- name: PlanChanges :many
SELECT c.seq, c.owner_id, c.subject, c.before, c.after, coalesce(e.why, '')::text AS why, (e.seq IS NOT NULL)::boolean AS made, coalesce(e.undone, false)::boolean AS undone
FROM plan_change c LEFT JOIN run r ON r.plan_id = c.plan_id LEFT JOIN run_entry e ON e.run_id = r.id AND e.seq = c.seq
WHERE c.plan_id = sqlc.arg(plan_id) AND c.seq > sqlc.arg(after_seq) AND (NOT sqlc.arg(left_only)::boolean OR e.why <> '')
ORDER BY c.seq LIMIT sqlc.arg(most)::int;

-- name: InversePlanChanges :execrows
INSERT INTO plan_change (plan_id, seq, owner_id, subject, before, after, undoes)
SELECT sqlc.arg(plan_id), row_number() OVER (ORDER BY c.seq DESC), c.owner_id, c.subject, c.after, c.before, c.seq
FROM run r JOIN run_entry e ON e.run_id = r.id AND e.why = '' AND NOT e.undone JOIN plan_change c ON c.plan_id = r.plan_id AND c.seq = e.seq
WHERE r.id = sqlc.arg(run_id);

-- name: SetPlanChanges :exec
UPDATE plan SET changes = $2 WHERE id = $1;

-- name: AddRun :one
INSERT INTO run (plan_id, created_by) VALUES ($1, $2) ON CONFLICT (plan_id) DO NOTHING RETURNING id;

-- name: Runs :many
SELECT r.id, r.plan_id, j.state, j.done::int AS done, r.applied, r.left_alone, r.undone, j.note, r.created_at,
    j.ended_at AS finished_at,
    u.name AS person, p.title, p.kind, p.changes, p.house_rule, p.delivery_id, p.undoes,
    coalesce((SELECT max(r2.id) FROM plan p2 JOIN run r2 ON r2.plan_id = p2.id WHERE p2.undoes = r.id AND r2.applied > r2.undone), 0)::bigint AS undone_by
FROM run r JOIN plan p ON p.id = r.plan_id JOIN person u ON u.id = r.created_by JOIN job j ON j.kind = 'run' AND j.subject = r.id
WHERE sqlc.narg(id)::bigint IS NULL OR r.id = sqlc.narg(id)
ORDER BY r.id DESC LIMIT sqlc.arg(most)::int;

-- name: LockRun :one
SELECT r.id, r.plan_id, j.state, j.done::int AS done, r.undone, p.changes, p.undoes, p.title
FROM run r JOIN plan p ON p.id = r.plan_id JOIN job j ON j.kind = 'run' AND j.subject = r.id WHERE r.id = $1 FOR UPDATE OF r, j;

-- name: AddToRun :exec
UPDATE run SET applied = applied + sqlc.arg(applied), left_alone = left_alone + sqlc.arg(left_alone) WHERE id = $1;

-- name: ChunkChanges :many
SELECT seq, owner_id, subject, before, after, undoes FROM plan_change
WHERE plan_id = $1 AND seq > $2 ORDER BY seq LIMIT sqlc.arg(most)::int;

-- name: TrailCounts :one
SELECT (SELECT count(*) FROM delivery d LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id WHERE d.open OR j.state NOT IN ('done', 'failed'))::int AS gathering,
    (SELECT count(*) FROM delivery d JOIN job j ON j.kind = 'take_in' AND j.subject = d.id WHERE NOT d.open AND j.state = 'done'
        AND NOT EXISTS (SELECT 1 FROM plan p JOIN run r ON r.plan_id = p.id WHERE p.delivery_id = d.id))::int AS to_pair,
    (SELECT count(*) FROM owner WHERE kind = 'product')::int AS products,
    (SELECT count(*) FROM run)::int AS runs;

-- name: UndoAtWork :one
-- Whether somebody is taking a run back at this moment.
SELECT EXISTS (SELECT 1 FROM plan p JOIN run r ON r.plan_id = p.id JOIN job j ON j.kind = 'run' AND j.subject = r.id
    WHERE p.undoes = sqlc.arg(run)::bigint AND j.state IN ('waiting', 'working', 'stopping'))::boolean;

-- name: UndoneLines :many
-- Which of a run's lines are taken back.
SELECT seq FROM run_entry WHERE run_id = $1 AND seq = ANY (sqlc.arg(seqs)::int[]) AND undone;

-- name: SettleUndo :exec
SELECT settle_undo(sqlc.arg(run), sqlc.arg(seqs)::int[]);

-- name: OwnersNamed :many
-- Who has SKUs, by the form in which they are the same.
SELECT id, identity FROM owner WHERE identity = ANY (sqlc.arg(identities)::text[]);
