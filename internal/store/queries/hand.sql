-- name: VariantsOf :many
SELECT * FROM owner WHERE parent = ANY (sqlc.arg(products)::bigint[]) AND kind = 'variant' ORDER BY ordinal, id;

-- name: ProductsInCategories :many
SELECT category::bigint AS category, count(*)::int AS products FROM owner WHERE category = ANY (sqlc.arg(categories)::bigint[]) AND NOT retired GROUP BY category;

-- name: OwnersMeant :many
-- Owners of a kind in the order of the catalogue: in some categories, or some of them; among some; whose title and code hold some words;
-- without a picture. Nothing given leaves nothing out.
SELECT o.id FROM owner o LEFT JOIN product_count n ON n.product_id = o.id
WHERE o.kind = @kind AND NOT o.retired
    AND (cardinality(@categories::bigint[]) = 0 OR (CASE o.kind WHEN 'category' THEN o.id ELSE o.category END) = ANY (@categories::bigint[]))
    AND (cardinality(@owners::bigint[]) = 0 OR o.id = ANY (@owners::bigint[]))
    AND (cardinality(@likes::text[]) = 0 OR lower(o.title || ' ' || o.code || ' ' || o.titles::text) LIKE ALL (@likes::text[]))
    AND (NOT @without::boolean OR NOT EXISTS (SELECT 1 FROM placement p JOIN asset a ON a.id = p.asset_id WHERE p.owner_id = o.id AND NOT a.placeholder) AND coalesce(n.variant_pictures, 0) = 0)
ORDER BY o.ordinal, o.id;

-- name: CategoryOffers :many
-- For categories without a picture: the main picture of the product that stands first in them, or below them; of a product without one
-- that of its first variant.
WITH RECURSIVE shown AS (
    SELECT DISTINCT ON (category) category, product, ordinal, asset_id FROM (
        SELECT o.category, o.id AS product, o.ordinal, -1 AS rank, p.asset_id FROM owner o JOIN placement p ON p.owner_id = o.id AND p.position = 1
        WHERE o.kind = 'product' AND NOT o.retired AND o.category IS NOT NULL
        UNION ALL SELECT o.category, o.id, o.ordinal, v.ordinal, p.asset_id FROM owner v JOIN owner o ON o.id = v.parent JOIN placement p ON p.owner_id = v.id AND p.position = 1
        WHERE v.kind = 'variant' AND NOT o.retired AND NOT v.retired AND o.category IS NOT NULL
    ) s ORDER BY category, ordinal, product, rank
), up AS (
    SELECT s.category AS at, s.product, s.ordinal, s.asset_id, 0 AS depth FROM shown s
    UNION ALL SELECT c.parent, u.product, u.ordinal, u.asset_id, u.depth + 1 FROM up u JOIN owner c ON c.id = u.at WHERE c.parent IS NOT NULL AND u.depth < 20
)
SELECT DISTINCT ON (u.at) u.at::bigint AS category, u.product::bigint AS product, u.asset_id::bigint AS asset, encode(a.sha256, 'hex')::text AS sha
FROM up u JOIN owner c ON c.id = u.at AND c.kind = 'category' AND NOT c.retired JOIN asset a ON a.id = u.asset_id
WHERE NOT EXISTS (SELECT 1 FROM placement p WHERE p.owner_id = u.at) ORDER BY u.at, u.depth, u.ordinal, u.product;

-- name: AssetsBySha :many
SELECT id, encode(sha256, 'hex')::text AS sha FROM asset WHERE sha256 = ANY (sqlc.arg(hashes)::bytea[]);

-- name: FamilyOf :many
SELECT id, parent::bigint AS parent FROM owner WHERE parent = ANY (sqlc.arg(products)::bigint[]) AND kind = 'variant' ORDER BY ordinal, id;

-- name: ArrivedPictures :many
-- Pictures as they came, the newest first; a path holds all words. Cost: without words by the page; with words by what is looked through.
SELECT a.id, a.asset_id::bigint AS asset_id, encode(s.sha256, 'hex')::text AS sha, a.path, a.delivery_id, d.title, s.width, s.height
FROM arrival a JOIN asset s ON s.id = a.asset_id JOIN delivery d ON d.id = a.delivery_id
WHERE (@before::bigint = 0 OR a.id < @before::bigint) AND (@delivery::bigint = 0 OR a.delivery_id = @delivery::bigint) AND (cardinality(@likes::text[]) = 0 OR lower(a.path) LIKE ALL (@likes::text[]))
ORDER BY a.id DESC LIMIT @most;

-- name: ArrivedFrom :many
-- The pictures that a delivery brought from addresses.
SELECT DISTINCT ON (address) (a.origin->>'address')::text AS address, a.asset_id::bigint AS asset FROM arrival a
WHERE a.delivery_id = @delivery AND a.asset_id IS NOT NULL AND a.origin->>'address' = ANY (@addresses::text[]) ORDER BY address, a.id;
