-- name: PlanChangesOf :many
-- What a plan changes of some owners, their pictures and texts.
SELECT subject, subject_id, before, after FROM plan_change
WHERE plan_id = $1 AND subject IN ('owner', 'pictures', 'wording') AND subject_id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY seq;

-- name: SeenBelow :many
-- What is seen below an owner: variants; categories; products, at most so many, with their variants.
WITH products AS (SELECT id FROM owner WHERE category = sqlc.arg(owner)::bigint AND kind = 'product' AND NOT retired ORDER BY ordinal, id LIMIT @most)
SELECT id FROM owner WHERE parent = sqlc.arg(owner)::bigint UNION SELECT id FROM products
UNION SELECT v.id FROM products p JOIN owner v ON v.parent = p.id AND v.kind = 'variant';

-- name: PlannedBelow :many
-- What a plan puts below an owner.
SELECT subject_id FROM plan_change WHERE plan_id = $1 AND subject = 'owner'
    AND sqlc.arg(owner)::bigint IN ((after->>'parent')::bigint, (after->>'category')::bigint) ORDER BY seq LIMIT @most;
