-- name: ForgetUndone :exec
-- What a person undid can't be done again once they did something else.
DELETE FROM step WHERE delivery_id = $1 AND person_id = $2 AND undone;

-- name: AddStep :one
INSERT INTO step (delivery_id, person_id, says) VALUES ($1, $2, $3) RETURNING id;

-- name: AddStepLines :exec
INSERT INTO step_line (step_id, arrival_id, before)
SELECT s.id, a.id, coalesce(d.says, '[]') FROM step s JOIN arrival a ON a.delivery_id = s.delivery_id LEFT JOIN (
    SELECT arrival_id, jsonb_agg(jsonb_build_object('owner', owner_id, 'aside', aside, 'rank', rank, 'person', person_id) ORDER BY seq) AS says
    FROM decision WHERE arrival_id = ANY (sqlc.arg(arrivals)::bigint[]) GROUP BY arrival_id
) d ON d.arrival_id = a.id WHERE s.id = sqlc.arg(step) AND a.id = ANY (sqlc.arg(arrivals)::bigint[]);

-- name: EndStepLines :exec
UPDATE step_line l SET after = d.says FROM (
    SELECT arrival_id, jsonb_agg(jsonb_build_object('owner', owner_id, 'aside', aside, 'rank', rank, 'person', person_id) ORDER BY seq) AS says
    FROM decision WHERE arrival_id = ANY (sqlc.arg(arrivals)::bigint[]) GROUP BY arrival_id
) d WHERE l.step_id = sqlc.arg(step) AND d.arrival_id = l.arrival_id;

-- name: LastStep :one
-- The step that undo takes back, or redo does again: the last that stands, or the first of those undone.
SELECT id, says FROM step WHERE delivery_id = $1 AND person_id = $2 AND undone = sqlc.arg(undone)
ORDER BY CASE WHEN sqlc.arg(undone) THEN id ELSE -id END LIMIT 1;

-- name: StepLines :many
-- The lines of a step, each with whether it stands as the step left it, or for redo found it, and else who was later.
SELECT l.arrival_id, (coalesce(d.says, '[]') = CASE WHEN sqlc.arg(redo)::boolean THEN l.before ELSE l.after END)::boolean AS stands,
    coalesce(d.person, '')::text AS person
FROM step_line l LEFT JOIN (
    SELECT e.arrival_id, jsonb_agg(jsonb_build_object('owner', owner_id, 'aside', aside, 'rank', rank, 'person', person_id) ORDER BY seq) AS says,
        min(p.name) AS person
    FROM decision e JOIN person p ON p.id = e.person_id
    WHERE e.arrival_id = ANY (SELECT m.arrival_id FROM step_line m WHERE m.step_id = sqlc.arg(step)) GROUP BY e.arrival_id
) d ON d.arrival_id = l.arrival_id WHERE l.step_id = sqlc.arg(step) ORDER BY l.arrival_id;

-- name: RestoreDecisions :exec
-- Decisions of a step's lines as they were before it, or for redo after it.
INSERT INTO decision (arrival_id, owner_id, aside, rank, seq, person_id)
SELECT l.arrival_id, (d.of->>'owner')::bigint, (d.of->>'aside')::boolean, (d.of->>'rank')::int, d.seq - 1, (d.of->>'person')::bigint
FROM step_line l, jsonb_array_elements(CASE WHEN sqlc.arg(redo)::boolean THEN l.after ELSE l.before END) WITH ORDINALITY AS d(of, seq)
WHERE l.step_id = sqlc.arg(step) AND l.arrival_id = ANY (sqlc.arg(arrivals)::bigint[]);

-- name: EndStep :exec
UPDATE step SET undone = $2 WHERE id = $1;

-- name: ClearSteps :execrows
DELETE FROM step WHERE at < now() - make_interval(days => sqlc.arg(days)::int);
