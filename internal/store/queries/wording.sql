-- name: Texts :many
-- The texts of pictures on owners, also of those that do not stand there now.
SELECT owner_id, asset_id, field, language, text, by_hand FROM wording WHERE owner_id = ANY (sqlc.arg(owners)::bigint[]);

-- name: WriteTexts :exec
INSERT INTO wording (owner_id, asset_id, field, language, text, by_hand)
SELECT unnest(@owners::bigint[]), unnest(@assets::bigint[]), unnest(@fields::text[]), unnest(@languages::text[]), unnest(@texts::text[]), unnest(@hands::boolean[])
ON CONFLICT (owner_id, asset_id, language, field) DO UPDATE SET text = excluded.text, by_hand = excluded.by_hand;

-- name: RemoveTexts :exec
DELETE FROM wording w USING (SELECT unnest(@owners::bigint[]) AS owner, unnest(@assets::bigint[]) AS asset, unnest(@fields::text[]) AS field, unnest(@languages::text[]) AS language) t
WHERE w.owner_id = t.owner AND w.asset_id = t.asset AND w.field = t.field AND w.language = t.language;

-- name: FileNames :many
-- Who has published file names: these, or these with a number behind.
SELECT owner_id, asset_id, language, text FROM wording
WHERE field = 'file_name' AND (text = ANY (sqlc.arg(names)::text[]) OR regexp_replace(text, '-[0-9]+$', '') = ANY (sqlc.arg(names)::text[]));

-- name: WordingRules :many
-- Those with a number above one, as many as are wanted; all for NULL.
SELECT r.id, r.kind, coalesce(r.branch, 0)::bigint AS branch, coalesce(c.title, '')::text AS branch_title, r.language, r.field, r.pattern, r.most, r.letter_case,
    coalesce(p.name, '')::text AS person, r.changed_at
FROM wording_rule r LEFT JOIN owner c ON c.id = r.branch LEFT JOIN person p ON p.id = r.changed_by WHERE r.id > @after
ORDER BY r.id LIMIT sqlc.narg(most)::bigint;

-- name: AddWordingRule :one
INSERT INTO wording_rule (kind, branch, language, field, pattern, most, letter_case, changed_by) VALUES ($1, $2, $3, $4, $5, $6, $7, $8) RETURNING id;

-- name: SetWordingRule :execrows
UPDATE wording_rule SET kind = $2, branch = $3, language = $4, field = $5, pattern = $6, most = $7, letter_case = $8, changed_by = $9, changed_at = now() WHERE id = $1;

-- name: RemoveWordingRule :execrows
DELETE FROM wording_rule WHERE id = $1;

-- name: WordedOwners :many
-- What texts are made of, of owners: their own fields, and those of the product that a variant is of.
SELECT sqlc.embed(o), coalesce(p.sku, '')::text AS parent_sku, coalesce(p.barcode, '')::text AS parent_barcode, coalesce(p.code, '')::text AS parent_code,
    coalesce(p.title, '')::text AS parent_title, coalesce(p.titles, '{}')::jsonb AS parent_titles, coalesce(p.attributes, '{}')::jsonb AS parent_attributes,
    (CASE o.kind WHEN 'variant' THEN coalesce(p.category, 0) WHEN 'category' THEN o.id ELSE coalesce(o.category, 0) END)::bigint AS shelf
FROM owner o LEFT JOIN owner p ON p.id = o.parent AND o.kind = 'variant' WHERE o.id = ANY (sqlc.arg(ids)::bigint[]);

-- name: WordedAssets :many
-- What pictures are called, as they came last, by whom, and what they look like.
WITH last AS (
    SELECT DISTINCT ON (a.asset_id) a.asset_id, a.path, a.delivery_id FROM arrival a WHERE a.asset_id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY a.asset_id, a.id DESC
)
SELECT s.id, s.palette, encode(s.sha256, 'hex')::text AS sha, coalesce(a.path, '')::text AS path, coalesce(d.supplier, '')::text AS supplier
FROM asset s LEFT JOIN last a ON a.asset_id = s.id LEFT JOIN delivery d ON d.id = a.delivery_id WHERE s.id = ANY (sqlc.arg(ids)::bigint[]);

-- name: OwnersVersion :one
SELECT owners FROM catalogue_state;

-- name: PicturesVersion :one
SELECT pictures FROM catalogue_state;

-- name: WordedScope :many
-- Owners that have pictures: of some kinds (all where none is named), in some categories or being one of them (anywhere where none is
-- named), among some (any where none is named).
SELECT o.id FROM owner o LEFT JOIN owner p ON p.id = o.parent AND o.kind = 'variant'
WHERE NOT o.retired AND EXISTS (SELECT 1 FROM placement l WHERE l.owner_id = o.id)
    AND (cardinality(sqlc.arg(kinds)::text[]) = 0 OR o.kind = ANY (sqlc.arg(kinds)::text[]))
    AND (cardinality(sqlc.arg(owners)::bigint[]) = 0 OR o.id = ANY (sqlc.arg(owners)::bigint[]))
    AND (cardinality(sqlc.arg(categories)::bigint[]) = 0 OR (CASE o.kind WHEN 'variant' THEN p.category WHEN 'category' THEN o.id ELSE o.category END) = ANY (sqlc.arg(categories)::bigint[]))
ORDER BY o.id;

-- name: PlannedLines :many
-- The lines of a plan that place pictures, and those that make or change owners.
SELECT seq, subject, subject_id, before, after FROM plan_change WHERE plan_id = $1 AND subject IN ('owner', 'pictures') ORDER BY seq;

-- name: SetPlannedLines :exec
UPDATE plan_change c SET after = t.after FROM (SELECT unnest(@seqs::int[]) AS seq, unnest(@afters::jsonb[]) AS after) t WHERE c.plan_id = $1 AND c.seq = t.seq;

-- name: SetPlanCounts :exec
UPDATE plan SET counts = $2 WHERE id = $1;
