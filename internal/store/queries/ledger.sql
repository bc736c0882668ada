-- name: AddPlan :one
INSERT INTO plan (kind, title, source, counts, undoes, changes, problems, created_by) VALUES ($1, $2, $3, $4, $5, $6, $7, $8) RETURNING id;

-- name: AddPlanChanges :copyfrom
INSERT INTO plan_change (plan_id, seq, subject, subject_id, before, after) VALUES ($1, $2, $3, $4, $5, $6);

-- name: AddLedgerRefs :copyfrom
INSERT INTO ledger_ref (plan_id, seq, class, id) VALUES ($1, $2, $3, $4);

-- name: InverseLedgerRefs :exec
-- The plan that takes lines back touches what they touch.
INSERT INTO ledger_ref (plan_id, seq, class, id)
SELECT c.plan_id, c.seq, f.class, f.id FROM plan_change c JOIN ledger_ref f ON f.plan_id = sqlc.arg(of_plan) AND f.seq = c.undoes
WHERE c.plan_id = sqlc.arg(plan_id);

-- name: AddHolds :copyfrom
INSERT INTO plan_hold (plan_id, seq, code, data) VALUES ($1, $2, $3, $4);

-- name: HeldLines :many
-- Which lines of a plan are held still.
SELECT seq, code, data FROM plan_hold WHERE plan_id = $1 AND seq = ANY (sqlc.arg(seqs)::int[]) AND released_at IS NULL;

-- name: ReleaseLines :execrows
UPDATE plan_hold SET released_by = sqlc.arg(person)::bigint, released_at = now(), reason = sqlc.arg(reason)
WHERE plan_id = $1 AND released_at IS NULL AND (seq = ANY (sqlc.arg(seqs)::int[]) OR cardinality(sqlc.arg(seqs)::int[]) = 0);

-- name: PlanByID :one
SELECT p.*, u.name AS person, r.id AS run_id, j.state AS run_state,
    (SELECT count(*) FROM plan_hold h WHERE h.plan_id = p.id AND h.released_at IS NULL)::int AS held
FROM plan p JOIN person u ON u.id = p.created_by LEFT JOIN run r ON r.plan_id = p.id
    LEFT JOIN job j ON j.kind = 'run' AND j.subject = r.id WHERE p.id = $1;

-- name: PlanChanges :many
SELECT c.seq, c.subject, c.subject_id, c.before, c.after, coalesce(e.code, '')::text AS code, coalesce(e.data, '{}')::jsonb AS data, (e.seq IS NOT NULL)::boolean AS made,
    coalesce(e.undone, false)::boolean AS undone, coalesce(h.code, '')::text AS held, coalesce(h.data, '{}')::jsonb AS held_data,
    coalesce(w.name, '')::text AS released_by, coalesce(h.reason, '')::text AS reason
FROM plan_change c LEFT JOIN run r ON r.plan_id = c.plan_id LEFT JOIN run_entry e ON e.run_id = r.id AND e.seq = c.seq
    LEFT JOIN plan_hold h ON h.plan_id = c.plan_id AND h.seq = c.seq LEFT JOIN person w ON w.id = h.released_by
WHERE c.plan_id = sqlc.arg(plan_id) AND c.seq > sqlc.arg(after_seq) AND (NOT sqlc.arg(left_only)::boolean OR e.code <> '')
ORDER BY c.seq LIMIT sqlc.arg(most)::int;

-- name: InversePlanChanges :execrows
INSERT INTO plan_change (plan_id, seq, subject, subject_id, before, after, undoes)
SELECT sqlc.arg(plan_id), row_number() OVER (ORDER BY c.seq DESC), c.subject, c.subject_id, c.after, c.before, c.seq
FROM run r JOIN run_entry e ON e.run_id = r.id AND e.code = '' AND NOT e.undone JOIN plan_change c ON c.plan_id = r.plan_id AND c.seq = e.seq
WHERE r.id = sqlc.arg(run_id);

-- name: SetPlanChanges :exec
UPDATE plan SET changes = $2 WHERE id = $1;

-- name: AddRun :one
INSERT INTO run (plan_id, created_by) VALUES ($1, $2) ON CONFLICT (plan_id) DO NOTHING RETURNING id;

-- name: Runs :many
SELECT r.id, r.plan_id, j.state, j.done::int AS done, r.applied, r.left_alone, r.undone, j.notes, r.created_at,
    j.ended_at AS finished_at,
    u.name AS person, p.title, p.kind, p.changes, p.source, p.undoes,
    coalesce((SELECT max(r2.id) FROM plan p2 JOIN run r2 ON r2.plan_id = p2.id WHERE p2.undoes = r.id AND r2.applied > r2.undone), 0)::bigint AS undone_by
FROM run r JOIN plan p ON p.id = r.plan_id JOIN person u ON u.id = r.created_by JOIN job j ON j.kind = 'run' AND j.subject = r.id
WHERE (sqlc.narg(id)::bigint IS NULL OR r.id = sqlc.narg(id)) AND (sqlc.narg(before)::bigint IS NULL OR r.id < sqlc.narg(before))
ORDER BY r.id DESC LIMIT sqlc.arg(most)::int;

-- name: LockRun :one
SELECT r.id, r.plan_id, j.state, j.done::int AS done, r.undone, p.changes, p.undoes, p.title,
    EXISTS (SELECT 1 FROM plan_hold h WHERE h.plan_id = p.id AND h.released_at IS NULL)::boolean AS holds
FROM run r JOIN plan p ON p.id = r.plan_id JOIN job j ON j.kind = 'run' AND j.subject = r.id WHERE r.id = $1 FOR UPDATE OF r, j;

-- name: EnterLines :exec
-- Lines of a run as made, but for those that are left alone.
INSERT INTO run_entry (run_id, seq)
SELECT sqlc.arg(run), n FROM generate_series(sqlc.arg(first)::int, sqlc.arg(last)::int) n WHERE n <> ALL (sqlc.arg(leave)::int[]);

-- name: EnterLeft :copyfrom
INSERT INTO run_entry (run_id, seq, code, data) VALUES ($1, $2, $3, $4);

-- name: AddToRun :exec
UPDATE run SET applied = applied + sqlc.arg(applied), left_alone = left_alone + sqlc.arg(left_alone) WHERE id = $1;

-- name: NextSubject :one
-- What the next line of a run is of.
SELECT c.subject FROM run r JOIN job j ON j.kind = 'run' AND j.subject = r.id JOIN plan_change c ON c.plan_id = r.plan_id AND c.seq = j.done + 1 WHERE r.id = $1;

-- name: TrailCounts :one
SELECT (SELECT count(*) FROM delivery d LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id WHERE d.open OR j.state NOT IN ('done', 'failed'))::int AS gathering,
    (SELECT count(*) FROM delivery d JOIN job j ON j.kind = 'take_in' AND j.subject = d.id WHERE NOT d.open AND j.state = 'done'
        AND d.closed_at IS NULL AND NOT EXISTS (SELECT 1 FROM plan p JOIN run r ON r.plan_id = p.id WHERE (p.source->>'delivery')::bigint = d.id))::int AS to_pair,
    (SELECT count(*) FROM channel c WHERE c.removed_at IS NULL AND c.plan_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM run r WHERE r.plan_id = c.plan_id))::int AS to_publish,
    (SELECT products FROM catalogue_count)::int AS products,
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

-- name: LockPlan :exec
SELECT FROM plan WHERE id = $1 FOR UPDATE;

-- name: RunJustAsked :one
-- The run of a plan, where the same person asked for it a moment ago.
SELECT id FROM run WHERE plan_id = $1 AND created_by = sqlc.arg(person_id) AND created_at > now() - make_interval(secs => sqlc.arg(seconds)::int);

-- name: UndoJustAsked :one
-- A plan to undo so many lines of a run that the same person asked for a moment ago and that is not applied.
SELECT p.id FROM plan p WHERE p.undoes = sqlc.arg(run_id)::bigint AND p.created_by = sqlc.arg(person_id) AND p.changes = sqlc.arg(changes)
    AND p.created_at > now() - make_interval(secs => sqlc.arg(seconds)::int) AND NOT EXISTS (SELECT FROM run r WHERE r.plan_id = p.id)
ORDER BY p.id DESC LIMIT 1;
