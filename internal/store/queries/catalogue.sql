-- name: OwnerLabels :many
SELECT o.id, o.kind, o.sku, o.barcode, o.title, o.options, coalesce(p.title, '')::text AS parent_title
FROM owner o LEFT JOIN owner p ON p.id = o.parent AND o.kind = 'variant' WHERE o.id = ANY (sqlc.arg(ids)::bigint[]);

-- name: OwnerWithFamily :many
SELECT * FROM owner
WHERE id = $1 OR parent = $1 ORDER BY (id = $1) DESC, ordinal, id;

-- name: ReserveOwnerIDs :many
SELECT nextval('owner_id') FROM generate_series(1, sqlc.arg(count)::int);

-- name: Products :many
SELECT o.id, o.sku, o.title, o.category, o.ordinal,
    (SELECT count(*) FROM owner v WHERE v.parent = o.id)::int AS variants,
    (SELECT count(*) FROM placement p WHERE p.owner_id = o.id)::int AS pictures,
    (SELECT count(*) FROM placement p JOIN owner v ON v.id = p.owner_id WHERE v.parent = o.id)::int AS variant_pictures,
    coalesce((SELECT encode(a.sha256, 'hex') FROM placement p JOIN asset a ON a.id = p.asset_id
        WHERE p.owner_id = o.id AND p.position = 1), (SELECT encode(a.sha256, 'hex') FROM owner v JOIN placement p ON p.owner_id = v.id AND p.position = 1
        JOIN asset a ON a.id = p.asset_id WHERE v.parent = o.id ORDER BY v.ordinal LIMIT 1), '')::text AS picture
FROM owner o WHERE o.kind = 'product' ORDER BY o.ordinal, o.id;

-- name: Categories :many
SELECT c.id, c.parent, c.title, (SELECT count(*) FROM owner p WHERE p.category = c.id)::int AS products
FROM owner c WHERE c.kind = 'category' ORDER BY c.ordinal, c.id;

-- name: Placements :many
SELECT p.owner_id, p.position, p.asset_id, coalesce(w.text, '')::text AS alt, encode(a.sha256, 'hex')::text AS sha, a.width, a.height, a.bytes, a.format
FROM placement p JOIN asset a ON a.id = p.asset_id
    LEFT JOIN wording w ON w.owner_id = p.owner_id AND w.asset_id = p.asset_id AND w.language = sqlc.arg(language) AND w.field = 'alt'
WHERE p.owner_id = ANY (sqlc.arg(owners)::bigint[]) ORDER BY p.owner_id, p.position;

-- name: AssetsByID :many
SELECT id, encode(sha256, 'hex')::text AS sha, width, height, bytes, format FROM asset WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: CatalogueCounts :one
SELECT count(*) FILTER (WHERE kind = 'product')::int AS products, count(*) FILTER (WHERE kind = 'variant')::int AS variants,
    count(*) FILTER (WHERE kind = 'category')::int AS categories FROM owner;

-- name: OwnerRecords :many
SELECT * FROM owner WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: AllOwners :many
SELECT * FROM owner ORDER BY ordinal, id;

-- name: PlacedShas :many
SELECT p.owner_id, encode(a.sha256, 'hex')::text AS sha FROM placement p JOIN asset a ON a.id = p.asset_id
WHERE p.owner_id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY p.owner_id, p.position;

-- name: OwnerLooks :many
-- What the owners' pictures look like, in their order.
SELECT p.owner_id, encode(a.sha256, 'hex')::text AS sha, a.likeness, a.palette FROM placement p JOIN asset a ON a.id = p.asset_id
WHERE p.owner_id = ANY (sqlc.arg(ids)::bigint[]) AND a.likeness IS NOT NULL ORDER BY p.owner_id, p.position;

-- name: ColouredPictures :many
-- The main pictures of variants, from which the catalogue's colour words are learnt.
SELECT o.options, a.palette FROM owner o JOIN placement p ON p.owner_id = o.id AND p.position = 1 JOIN asset a ON a.id = p.asset_id
WHERE o.kind = 'variant' AND a.palette IS NOT NULL ORDER BY o.id LIMIT 20000;

-- name: TouchOwners :exec
UPDATE catalogue_state SET owners = owners + 1;

-- name: TouchPictures :exec
UPDATE catalogue_state SET pictures = pictures + 1;

-- name: SeatCategories :exec
-- Takes numbers for categories that have none yet.
INSERT INTO category_seat (parent, title, id)
SELECT s.parent, s.title, nextval('owner_id') FROM (SELECT unnest(sqlc.arg(parents)::bigint[]) AS parent, unnest(sqlc.arg(titles)::text[]) AS title) s
WHERE NOT EXISTS (SELECT 1 FROM category_seat c WHERE c.parent = s.parent AND c.title = s.title)
ON CONFLICT DO NOTHING;

-- name: CategorySeats :many
-- The numbers of categories, in the order asked.
SELECT c.id FROM (SELECT unnest(sqlc.arg(parents)::bigint[]) AS parent, unnest(sqlc.arg(titles)::text[]) AS title, generate_subscripts(sqlc.arg(parents)::bigint[], 1) AS n) s
JOIN category_seat c ON c.parent = s.parent AND c.title = s.title ORDER BY s.n;

-- name: PlacedOn :many
-- The owners that are there, each with its pictures in their order; without an asset where it has none.
SELECT o.id, p.asset_id FROM owner o LEFT JOIN placement p ON p.owner_id = o.id WHERE o.id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY o.id, p.position;

-- name: OwnersThere :many
SELECT id FROM owner WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: AssetsThere :many
SELECT id FROM asset WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: AltTexts :many
-- The alt texts of pictures on owners, also of those that do not stand there now.
SELECT owner_id, asset_id, text, by_hand FROM wording WHERE owner_id = ANY (sqlc.arg(owners)::bigint[]) AND language = sqlc.arg(language) AND field = 'alt';

-- name: SetAltTexts :exec
UPDATE wording w SET text = t.text
FROM (SELECT unnest(sqlc.arg(owners)::bigint[]) AS owner, unnest(sqlc.arg(assets)::bigint[]) AS asset, unnest(sqlc.arg(texts)::text[]) AS text) t
WHERE w.owner_id = t.owner AND w.asset_id = t.asset AND w.language = sqlc.arg(language) AND w.field = 'alt';

-- name: AddWordings :copyfrom
INSERT INTO wording (owner_id, asset_id, language, field, text, by_hand) VALUES ($1, $2, $3, $4, $5, $6);
