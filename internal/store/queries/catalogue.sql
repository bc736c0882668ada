-- name: OwnerLabels :many
SELECT o.id, o.kind, o.sku, o.barcode, o.title, o.options, coalesce(p.title, '')::text AS parent_title
FROM owner o LEFT JOIN owner p ON p.id = o.parent AND o.kind = 'variant' WHERE o.id = ANY (sqlc.arg(ids)::bigint[]);

-- name: OwnerWithFamily :many
SELECT * FROM owner
WHERE id = $1 OR parent = $1 ORDER BY (id = $1) DESC, ordinal, id;

-- name: ReserveOwnerIDs :many
SELECT nextval('owner_id') FROM generate_series(1, sqlc.arg(count)::int);

-- name: ProductPage :many
-- The next products in the order of the catalogue.
SELECT id FROM owner WHERE kind = 'product' AND retired = sqlc.arg(retired)::boolean AND (ordinal, id) > (sqlc.arg(after_ordinal)::int, sqlc.arg(after_id)::bigint)
ORDER BY ordinal, id LIMIT sqlc.arg(most)::int;

-- name: ProductPageWithout :many
-- The same of those without a picture.
SELECT c.product_id FROM product_count c JOIN owner o ON o.id = c.product_id WHERE c.pictures + c.variant_pictures = 0 AND NOT o.retired
    AND (c.ordinal, c.product_id) > (sqlc.arg(after_ordinal)::int, sqlc.arg(after_id)::bigint) ORDER BY c.ordinal, c.product_id LIMIT sqlc.arg(most)::int;

-- name: ProductPageEnding :many
-- The same of those that show a picture, on themselves or on a variant, whose rights end within so many days, or ended.
WITH ending AS (
    SELECT r.asset_id FROM rights r WHERE r.until <= current_date + sqlc.arg(days)::int
    UNION SELECT a.asset_id FROM delivery d JOIN arrival a ON a.delivery_id = d.id
    WHERE d.until <= current_date + sqlc.arg(days)::int AND d.may <> '' AND NOT EXISTS (SELECT 1 FROM rights r WHERE r.asset_id = a.asset_id)
), shown AS (SELECT DISTINCT (CASE o.kind WHEN 'variant' THEN o.parent ELSE o.id END) AS id FROM ending e JOIN placement p ON p.asset_id = e.asset_id JOIN owner o ON o.id = p.owner_id)
SELECT o.id FROM shown s JOIN owner o ON o.id = s.id WHERE o.kind = 'product' AND NOT o.retired AND (o.ordinal, o.id) > (sqlc.arg(after_ordinal)::int, sqlc.arg(after_id)::bigint)
ORDER BY o.ordinal, o.id LIMIT sqlc.arg(most)::int;

-- name: ProductPageIn :many
-- The same of those in some categories.
SELECT o.id FROM owner o JOIN product_count c ON c.product_id = o.id
WHERE o.category = ANY (sqlc.arg(categories)::bigint[]) AND o.kind = 'product' AND NOT o.retired AND (o.ordinal, o.id) > (sqlc.arg(after_ordinal)::int, sqlc.arg(after_id)::bigint)
    AND (NOT sqlc.arg(without)::boolean OR c.pictures + c.variant_pictures = 0)
ORDER BY o.ordinal, o.id LIMIT sqlc.arg(most)::int;

-- name: Products :many
-- Products with what lists show of them, and the main image of each, or of its first variant that has one.
WITH shown AS (
    SELECT DISTINCT ON (f.id) f.id, p.asset_id FROM (
        SELECT o.id, o.id AS owner, -1 AS rank FROM owner o WHERE o.id = ANY (sqlc.arg(ids)::bigint[])
        UNION ALL SELECT v.parent, v.id, v.ordinal FROM owner v WHERE v.parent = ANY (sqlc.arg(ids)::bigint[])
    ) f JOIN placement p ON p.owner_id = f.owner AND p.position = 1 ORDER BY f.id, f.rank, f.owner
)
SELECT o.id, o.sku, o.title, o.category, o.ordinal, c.variants, c.pictures, c.variant_pictures, coalesce(encode(a.sha256, 'hex'), '')::text AS picture
FROM owner o JOIN product_count c ON c.product_id = o.id LEFT JOIN shown ON shown.id = o.id LEFT JOIN asset a ON a.id = shown.asset_id
WHERE o.id = ANY (sqlc.arg(ids)::bigint[]) AND o.kind = 'product' AND (NOT sqlc.arg(without)::boolean OR c.pictures + c.variant_pictures = 0)
    AND (cardinality(sqlc.arg(categories)::bigint[]) = 0 OR o.category = ANY (sqlc.arg(categories)::bigint[])) ORDER BY o.ordinal, o.id;

-- name: Categories :many
SELECT c.id, c.parent, c.code, c.title, c.ordinal, c.retired, coalesce(n.products, 0)::int AS products
FROM owner c LEFT JOIN category_count n ON n.category_id = c.id WHERE c.kind = 'category' AND c.id > sqlc.arg(after) ORDER BY c.id LIMIT sqlc.arg(most);

-- name: CategoriesBelow :many
-- A category and all that stand in it, however deep.
WITH RECURSIVE below AS (
    SELECT t.id FROM owner t WHERE t.id = $1 AND t.kind = 'category' UNION SELECT c.id FROM below b JOIN owner c ON c.parent = b.id AND c.kind = 'category'
) SELECT below.id FROM below;

-- name: ProductsOf :many
-- The products of owners: of a variant the one that it belongs to, of a product itself.
SELECT DISTINCT (CASE kind WHEN 'variant' THEN parent ELSE id END)::bigint AS id FROM owner WHERE id = ANY (sqlc.arg(ids)::bigint[]) AND kind <> 'category';

-- name: OwnersTouched :many
-- Who has SKUs, by the form in which they are the same; who has barcodes, as 14 digits; and the products of both.
WITH named AS (
    SELECT id, parent FROM owner WHERE identity = ANY (sqlc.arg(identities)::text[])
    UNION ALL SELECT id, parent FROM owner WHERE barcode <> '' AND lpad(translate(barcode, E' -\u00a0', ''), 14, '0') = ANY (sqlc.arg(barcodes)::text[])
), both_ids AS (SELECT named.id FROM named UNION SELECT named.parent FROM named)
SELECT o.* FROM owner o JOIN both_ids ON both_ids.id = o.id WHERE o.kind <> 'category';

-- name: AllCategories :many
SELECT * FROM owner WHERE kind = 'category';

-- name: LastOrdinal :one
SELECT coalesce(max(last), 0)::int FROM (
    (SELECT ordinal AS last FROM owner WHERE kind = 'product' ORDER BY ordinal DESC LIMIT 1)
    UNION ALL (SELECT ordinal FROM owner WHERE kind = 'variant' ORDER BY ordinal DESC LIMIT 1)
    UNION ALL (SELECT ordinal FROM owner WHERE kind = 'category' ORDER BY ordinal DESC LIMIT 1)) o;

-- name: Placements :many
SELECT p.owner_id, p.position, p.asset_id, coalesce(w.text, '')::text AS alt, encode(a.sha256, 'hex')::text AS sha, a.width, a.height, a.bytes, a.format
FROM placement p JOIN asset a ON a.id = p.asset_id
    LEFT JOIN wording w ON w.owner_id = p.owner_id AND w.asset_id = p.asset_id AND w.language = sqlc.arg(language) AND w.field = 'alt'
WHERE p.owner_id = ANY (sqlc.arg(owners)::bigint[]) ORDER BY p.owner_id, p.position;

-- name: AssetsByID :many
SELECT id, encode(sha256, 'hex')::text AS sha, width, height, bytes, format FROM asset WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: AssetNames :many
-- Pictures with the path that each came by first.
SELECT s.id, encode(s.sha256, 'hex')::text AS sha, coalesce(n.path, '')::text AS path FROM asset s
LEFT JOIN LATERAL (SELECT a.path FROM arrival a WHERE a.asset_id = s.id ORDER BY a.id LIMIT 1) n ON true WHERE s.id = ANY (sqlc.arg(ids)::bigint[]);

-- name: CatalogueCounts :one
SELECT (c.products - r.products)::int AS products, (c.variants - r.variants)::int AS variants, (c.categories - r.categories)::int AS categories,
    (c.without - r.without)::int AS without, r.products::int AS retired
FROM catalogue_count c, (SELECT count(*) FILTER (WHERE o.kind = 'product') AS products, count(*) FILTER (WHERE o.kind = 'variant') AS variants,
    count(*) FILTER (WHERE o.kind = 'category') AS categories, count(*) FILTER (WHERE n.pictures + n.variant_pictures = 0) AS without
    FROM owner o LEFT JOIN product_count n ON n.product_id = o.id WHERE o.retired) r;

-- name: OwnerRecords :many
SELECT * FROM owner WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: KeyedOwners :many
-- What names are read for, of all owners, or of some.
SELECT id, kind, coalesce(parent, 0)::bigint AS parent, sku, barcode, code, title, options FROM owner
WHERE NOT retired AND (sqlc.narg(ids)::bigint[] IS NULL OR id = ANY (sqlc.narg(ids)::bigint[]));

-- name: ChangedOwners :many
-- The owners that changed, came or went since a state of the catalogue, at most so many.
SELECT DISTINCT owner_id FROM owner_log WHERE version > sqlc.arg(since) LIMIT sqlc.arg(most);

-- name: ClearOwnerLog :exec
DELETE FROM owner_log WHERE at < now() - make_interval(days => sqlc.arg(days)::int);

-- name: PlacedShas :many
SELECT p.owner_id, encode(a.sha256, 'hex')::text AS sha FROM placement p JOIN asset a ON a.id = p.asset_id
WHERE p.owner_id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY p.owner_id, p.position;

-- name: OwnerLooks :many
-- What the owners' pictures look like, in their order.
SELECT p.owner_id, encode(a.sha256, 'hex')::text AS sha, a.likeness, a.palette FROM placement p JOIN asset a ON a.id = p.asset_id
WHERE p.owner_id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY p.owner_id, p.position;

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
SELECT o.id, p.asset_id, coalesce(a.placeholder, false)::boolean AS placeholder FROM owner o LEFT JOIN placement p ON p.owner_id = o.id LEFT JOIN asset a ON a.id = p.asset_id
WHERE o.id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY o.id, p.position;

-- name: OwnersThere :many
SELECT id FROM owner WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: AssetsThere :many
-- Those pictures that are there, and whose bytes are not being deleted.
SELECT id FROM asset WHERE id = ANY (sqlc.arg(ids)::bigint[]) AND doomed_at IS NULL;

-- name: OwnFields :many
-- The names of all options and attributes that owners have.
SELECT DISTINCT name::text AS name, attribute::boolean AS attribute FROM (
    SELECT jsonb_object_keys(options) AS name, false AS attribute FROM owner WHERE options <> '{}'
    UNION SELECT jsonb_object_keys(attributes), true FROM owner WHERE attributes <> '{}'
) own ORDER BY 1, 2;

-- name: OwnersInOrder :many
-- Owners of a kind in the order of the catalogue, with the SKU of the product that a variant is of.
SELECT sqlc.embed(o), coalesce(p.sku, '')::text AS parent_sku FROM owner o LEFT JOIN owner p ON p.id = o.parent
WHERE o.kind = @kind AND (o.ordinal, o.id) > (@ordinal::int, @id::bigint) ORDER BY o.ordinal, o.id LIMIT @most;

-- name: AnyPlacement :one
SELECT EXISTS (SELECT FROM placement)::boolean;

-- name: PlacedNames :many
-- The pictures of owners in their order: what the first file was called that brought each, and whether a picture with other bytes has the same name.
SELECT p.owner_id, encode(s.sha256, 'hex')::text AS sha, s.format, coalesce(n.name, '')::text AS name,
    NOT EXISTS (SELECT FROM arrival o WHERE regexp_replace(o.path, '^.*/', '') = n.name AND o.asset_id IS NOT NULL AND o.asset_id <> p.asset_id) AS alone
FROM placement p JOIN asset s ON s.id = p.asset_id
LEFT JOIN LATERAL (SELECT regexp_replace(a.path, '^.*/', '') AS name FROM arrival a WHERE a.asset_id = p.asset_id ORDER BY a.id LIMIT 1) n ON true
WHERE p.owner_id = ANY (sqlc.arg(owners)::bigint[]) ORDER BY p.owner_id, p.position;
