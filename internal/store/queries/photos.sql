-- name: CountUnreadPhotos :one
SELECT count(*) FROM asset a LEFT JOIN photo p ON p.asset_id = a.id WHERE (p.asset_id IS NULL OR p.version < @version) AND a.doomed_at IS NULL;

-- name: UnreadPhotos :many
-- Pictures that this version did not read yet, the newest first: somebody waits for those.
SELECT a.id, encode(a.sha256, 'hex')::text AS sha FROM asset a LEFT JOIN photo p ON p.asset_id = a.id
WHERE (p.asset_id IS NULL OR p.version < @version) AND a.doomed_at IS NULL AND a.id < @before ORDER BY a.id DESC LIMIT @most;

-- name: PutPhotos :exec
INSERT INTO photo (asset_id, version, taken_at, camera, trouble)
SELECT w.id, @version::int, nullif(w.taken, '')::timestamp, w.camera, w.trouble
FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@taken::text[]) AS taken, unnest(@cameras::text[]) AS camera, unnest(@troubles::text[]) AS trouble) w
JOIN asset a ON a.id = w.id
ON CONFLICT (asset_id) DO UPDATE SET version = excluded.version, taken_at = excluded.taken_at, camera = excluded.camera, trouble = excluded.trouble;

-- name: DropPhotoCodes :exec
DELETE FROM photo_code WHERE asset_id = ANY (sqlc.arg(ids)::bigint[]);

-- name: AddPhotoCodes :exec
INSERT INTO photo_code (asset_id, n, format, text, gtin, x, y, width, height)
SELECT w.id, w.n, w.format, w.text, nullif(w.gtin, ''), w.x, w.y, w.width, w.height
FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@ns::int[]) AS n, unnest(@formats::text[]) AS format, unnest(@texts::text[]) AS text, unnest(@gtins::text[]) AS gtin,
    unnest(@xs::int[]) AS x, unnest(@ys::int[]) AS y, unnest(@widths::int[]) AS width, unnest(@heights::int[]) AS height) w
JOIN photo p ON p.asset_id = w.id;

-- name: TouchPhotographed :many
-- The deliveries that some pictures came with: their photos were read.
UPDATE delivery d SET photos_version = photos_version + 1, bench_version = bench_version + 1
WHERE d.id IN (SELECT a.delivery_id FROM arrival a WHERE a.asset_id = ANY (sqlc.arg(ids)::bigint[])) RETURNING d.id;

-- name: PhotoCodes :many
-- The codes in some pictures.
SELECT asset_id, n, format, text, coalesce(gtin, '')::text AS gtin, x, y, width, height FROM photo_code WHERE asset_id = ANY (sqlc.arg(ids)::bigint[]) ORDER BY asset_id, n;

-- name: CodesOfDelivery :many
-- The codes in a delivery's pictures.
SELECT DISTINCT c.asset_id, c.n, c.format, c.text, coalesce(c.gtin, '')::text AS gtin FROM arrival a JOIN photo_code c ON c.asset_id = a.asset_id
WHERE a.delivery_id = $1 ORDER BY c.asset_id, c.n;

-- name: PhotosOfDelivery :many
-- When and by which camera a delivery's pictures were taken.
SELECT DISTINCT p.asset_id, p.taken_at, p.camera FROM arrival a JOIN photo p ON p.asset_id = a.asset_id WHERE a.delivery_id = $1;

-- name: PhotoBySHA :one
-- What a photo says of itself; nothing is known of one that was not read yet.
SELECT a.id, a.width, a.height, (p.asset_id IS NOT NULL)::boolean AS read, p.taken_at, coalesce(p.camera, '')::text AS camera FROM asset a LEFT JOIN photo p ON p.asset_id = a.id
WHERE a.sha256 = decode(@sha::text, 'hex');

-- name: OwnersOfGTINs :many
-- Who has a barcode, in 14 digits.
SELECT o.id, o.sku, o.title, o.barcode, lpad(translate(o.barcode, E' -\u00a0', ''), 14, '0')::text AS gtin FROM owner o WHERE NOT o.retired AND o.barcode <> '' AND lpad(translate(o.barcode, E' -\u00a0', ''), 14, '0') = ANY (sqlc.arg(gtins)::text[]) LIMIT 50;

-- name: PackCodes :many
-- A page of owners of which a picture shows a trade item that nobody has, and no picture the barcode that they have: in 14 digits, with the first picture
-- that shows it. Cost: the codes that name a trade item.
SELECT o.id, o.kind, o.sku, coalesce(nullif(o.title, ''), u.title, '')::text AS label, o.barcode, c.gtin::text AS gtin, min(encode(a.sha256, 'hex'))::text AS sha, count(DISTINCT a.id)::int AS pictures
FROM photo_code c JOIN placement p ON p.asset_id = c.asset_id JOIN owner o ON o.id = p.owner_id JOIN asset a ON a.id = c.asset_id LEFT JOIN owner u ON u.id = o.parent AND o.kind = 'variant'
WHERE c.gtin IS NOT NULL AND o.kind <> 'category' AND NOT o.retired AND o.id > @after AND (cardinality(sqlc.arg(owners)::bigint[]) = 0 OR o.id = ANY (sqlc.arg(owners)::bigint[]))
    AND NOT EXISTS (SELECT 1 FROM owner x WHERE x.barcode <> '' AND lpad(translate(x.barcode, E' -\u00a0', ''), 14, '0') = c.gtin)
    AND NOT EXISTS (SELECT 1 FROM placement q JOIN photo_code d ON d.asset_id = q.asset_id WHERE q.owner_id = o.id AND o.barcode <> '' AND d.gtin = lpad(translate(o.barcode, E' -\u00a0', ''), 14, '0'))
GROUP BY o.id, o.kind, o.sku, o.title, u.title, o.barcode, c.gtin ORDER BY o.id, c.gtin LIMIT @most;

-- name: PicturesShowing :many
-- Pictures, but for those in the bin, in which an owner's barcode can be read.
SELECT DISTINCT c.asset_id FROM owner o JOIN photo_code c ON c.gtin = lpad(translate(o.barcode, E' -\u00a0', ''), 14, '0') JOIN asset a ON a.id = c.asset_id
WHERE o.id = @owner AND o.barcode <> '' AND a.binned_at IS NULL AND a.doomed_at IS NULL ORDER BY c.asset_id LIMIT @most;
