-- name: AddGuide :one
INSERT INTO guide (source_id, version, guide, by)
SELECT @source, coalesce(max(version), 0) + 1, @guide, @by FROM guide WHERE source_id = @source RETURNING version;

-- name: GuideOf :one
-- The latest version, or a certain one.
SELECT g.version, g.guide, g.at, p.name AS person FROM guide g JOIN person p ON p.id = g.by
WHERE g.source_id = @source AND (@version::int = 0 OR g.version = @version) ORDER BY g.version DESC LIMIT 1;

-- name: Guides :many
SELECT g.version, g.at, p.name AS person FROM guide g JOIN person p ON p.id = g.by WHERE g.source_id = @source AND (@before::int = 0 OR g.version < @before)
ORDER BY g.version DESC LIMIT @most;

-- name: AddWalk :exec
INSERT INTO walk (delivery_id, version, most, fetches) VALUES ($1, $2, $3, $4);

-- name: WalkOf :one
SELECT w.*, g.guide FROM walk w JOIN visit v ON v.delivery_id = w.delivery_id JOIN guide g ON g.source_id = v.source_id AND g.version = w.version WHERE w.delivery_id = $1;

-- name: EndWalk :exec
UPDATE walk SET ended = $2 WHERE delivery_id = $1;

-- name: ReopenWalk :exec
-- What could not be read is asked for again.
UPDATE walk_item SET state = 'waiting', message = NULL WHERE delivery_id = $1 AND state = 'failed';

-- name: AddWalkPage :exec
INSERT INTO walk_page (delivery_id, n, address) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING;

-- name: WalkPages :many
SELECT * FROM walk_page WHERE delivery_id = $1 ORDER BY n;

-- name: SetWalkPage :exec
UPDATE walk_page SET state = @state, items = @items, message = @message WHERE delivery_id = @delivery_id AND n = @n;

-- name: AddWalkItems :execrows
-- Those that no page before had, each once, as long as there is room.
INSERT INTO walk_item (delivery_id, n, page, address)
SELECT @delivery_id, (SELECT coalesce(max(n), 0) FROM walk_item WHERE delivery_id = @delivery_id) + row_number() OVER (ORDER BY a.n), @page, a.address
FROM unnest(@addresses::text[]) WITH ORDINALITY AS a (address, n)
WHERE NOT EXISTS (SELECT 1 FROM walk_item i WHERE i.delivery_id = @delivery_id AND md5(i.address) = md5(a.address)) ORDER BY a.n LIMIT @room;

-- name: WalkItemsWaiting :many
SELECT n, address FROM walk_item WHERE delivery_id = $1 AND state = 'waiting' AND n > @after ORDER BY n LIMIT @most;

-- name: SetWalkItem :exec
UPDATE walk_item SET state = @state, title = @title, sku = @sku, barcode = @barcode, kept = @kept, left_out = @left_out, failed = @failed::text[], message = @message
WHERE delivery_id = @delivery_id AND n = @n;

-- name: ClearWalkPictures :exec
DELETE FROM walk_picture WHERE delivery_id = $1 AND item = $2;

-- name: AddWalkPictures :copyfrom
INSERT INTO walk_picture (delivery_id, item, n, file, address, key, found_by, width, height, ordinal, why, message, remarks)
VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13);

-- name: LeaveRepeated :exec
-- What stands on many items' pages is none of their products: on more than three, and more than a quarter of those read.
UPDATE walk_picture p SET ordinal = 0, why = 'repeated', message = '{"code": "left_repeated"}'
FROM (SELECT key FROM walk_picture WHERE delivery_id = $1 AND ordinal > 0 GROUP BY key
    HAVING count(DISTINCT item) > greatest(3, (SELECT count(*) FROM walk_item i WHERE i.delivery_id = $1 AND i.state = 'read') / 4)) r
WHERE p.delivery_id = $1 AND p.key = r.key AND p.ordinal > 0;

-- name: RenumberWalk :exec
-- The pictures that are kept are numbered again from 1, and counted.
WITH numbered AS (SELECT item, n, row_number() OVER (PARTITION BY item ORDER BY ordinal, n) AS place FROM walk_picture WHERE delivery_id = $1 AND ordinal > 0),
moved AS (UPDATE walk_picture p SET ordinal = o.place FROM numbered o WHERE p.delivery_id = $1 AND p.item = o.item AND p.n = o.n AND p.ordinal <> o.place RETURNING 1),
counted AS (SELECT i.n, count(o.place)::int AS kept FROM walk_item i LEFT JOIN numbered o ON o.item = i.n WHERE i.delivery_id = $1 GROUP BY i.n)
UPDATE walk_item i SET left_out = i.left_out + i.kept - c.kept, kept = c.kept FROM counted c WHERE i.delivery_id = $1 AND i.n = c.n AND i.kept <> c.kept;

-- name: WalkKept :many
SELECT p.item, p.ordinal, p.file, p.address, i.sku FROM walk_picture p JOIN walk_item i ON i.delivery_id = p.delivery_id AND i.n = p.item
WHERE p.delivery_id = $1 AND p.ordinal > 0 AND (p.item, p.ordinal) > (@item::int, @after::int) ORDER BY p.item, p.ordinal LIMIT @most;

-- name: WalkSaid :many
-- What a walk says of files.
SELECT p.file, p.ordinal, p.address, i.address AS item, i.title, i.sku, i.barcode FROM walk_picture p JOIN walk_item i ON i.delivery_id = p.delivery_id AND i.n = p.item
WHERE p.delivery_id = $1 AND p.file = ANY (@files::text[]) AND p.ordinal > 0;

-- name: WalkItems :many
-- of narrows: without a picture, with a problem; empty for all.
SELECT i.*, coalesce(s.pictures, '[]')::jsonb AS pictures FROM walk_item i
LEFT JOIN LATERAL (SELECT jsonb_agg(jsonb_build_object('address', p.address, 'width', p.width, 'height', p.height) ORDER BY p.ordinal) AS pictures
    FROM walk_picture p WHERE p.delivery_id = i.delivery_id AND p.item = i.n AND p.ordinal > 0) s ON true
WHERE i.delivery_id = @delivery_id AND i.n > @after AND (@of::text = '' OR @of = 'without' AND i.state <> 'waiting' AND i.kept = 0 OR @of = 'problem' AND (i.state = 'failed' OR cardinality(i.failed) > 0))
ORDER BY i.n LIMIT @most;

-- name: WalkPicturesOf :many
SELECT * FROM walk_picture WHERE delivery_id = $1 AND item = $2 ORDER BY ordinal = 0, ordinal, n LIMIT 1000;

-- name: WalkCounts :one
SELECT (SELECT count(*) FROM walk_page p WHERE p.delivery_id = $1 AND p.state = 'read')::int AS pages, (SELECT count(*) FROM walk_page p WHERE p.delivery_id = $1 AND p.state = 'failed')::int AS pages_failed,
    count(*)::int AS items, count(*) FILTER (WHERE state = 'read')::int AS read, count(*) FILTER (WHERE state = 'failed')::int AS failed,
    count(*) FILTER (WHERE state <> 'waiting' AND kept = 0)::int AS without, coalesce(sum(kept), 0)::int AS kept
FROM walk_item WHERE delivery_id = $1;

-- name: WalkLooks :many
-- What came by a walk and has a look of its own, item by item in its order.
SELECT p.item, a.id, a.path, s.width, s.height, s.likeness, s.palette FROM walk_picture p JOIN arrival a ON a.delivery_id = p.delivery_id AND a.item = p.file JOIN asset s ON s.id = a.asset_id
WHERE p.delivery_id = $1 AND p.ordinal > 0 AND p.item > @after AND s.likeness IS NOT NULL ORDER BY p.item, p.ordinal LIMIT @most;

-- name: MarkTwins :exec
UPDATE arrival a SET problem = 'twin', message = m.message::jsonb
FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@messages::text[]) AS message) m WHERE a.id = m.id;

-- name: LeaveTwins :exec
-- What came twice of one item is left out of the walk's results, too.
UPDATE walk_picture p SET ordinal = 0, why = 'twin', message = a.message FROM arrival a
WHERE p.delivery_id = $1 AND a.delivery_id = p.delivery_id AND a.item = p.file AND a.problem = 'twin' AND p.ordinal > 0;

-- name: KeepEye :exec
INSERT INTO eye_set (page, address, name, owner_id, by) SELECT @page, unnest(@addresses::text[]), unnest(@names::text[]), @owner, @by
ON CONFLICT (page, address) DO UPDATE SET name = excluded.name, owner_id = excluded.owner_id, by = excluded.by, at = now();

-- name: EyeSet :many
SELECT e.address, e.name, e.owner_id, coalesce(o.title, '')::text AS title, coalesce(o.sku, '')::text AS sku, e.at, p.name AS person
FROM eye_set e JOIN owner o ON o.id = e.owner_id JOIN person p ON p.id = e.by WHERE e.page = $1 ORDER BY e.at DESC, e.address LIMIT 1000;

-- name: LookupCandidates :many
-- Owners without a picture of their own, in and below a category where one is given. Those with a barcode come with what was answered for it lately.
SELECT o.id, o.barcode, (a.barcode IS NOT NULL)::boolean AS answered, coalesce(jsonb_array_length(a.pictures), 0)::int AS pictures
FROM owner o LEFT JOIN lookup_answer a ON a.source_id = @source AND a.barcode = o.barcode AND a.at > now() - interval '30 days'
WHERE o.kind IN ('product', 'variant') AND NOT o.retired AND o.id > @after AND NOT EXISTS (SELECT 1 FROM placement p JOIN asset s ON s.id = p.asset_id WHERE p.owner_id = o.id AND NOT s.placeholder)
ORDER BY o.id LIMIT @most;

-- name: AskedToday :one
SELECT count(*)::int FROM lookup_answer WHERE source_id = $1 AND at >= date_trunc('day', now());

-- name: AddLookupAsks :copyfrom
INSERT INTO lookup_ask (delivery_id, n, owner_id, barcode, state) VALUES ($1, $2, $3, $4, $5);

-- name: LookupWaiting :many
SELECT n, barcode FROM lookup_ask WHERE delivery_id = $1 AND state = 'waiting' AND n > @after ORDER BY n LIMIT @most;

-- name: SetLookupAsk :exec
UPDATE lookup_ask SET state = @state, message = @message WHERE delivery_id = @delivery_id AND n = @n;

-- name: KeepAnswer :exec
INSERT INTO lookup_answer (source_id, barcode, pictures, title, licence) VALUES ($1, $2, $3, $4, $5)
ON CONFLICT (source_id, barcode) DO UPDATE SET pictures = excluded.pictures, title = excluded.title, licence = excluded.licence, at = now();

-- name: LookupFound :many
-- The pictures that a service named for what a visit asked.
SELECT k.n, k.barcode, t.address::text AS address, t.place::int AS place, a.title, a.licence
FROM lookup_ask k JOIN visit v ON v.delivery_id = k.delivery_id JOIN lookup_answer a ON a.source_id = v.source_id AND a.barcode = k.barcode,
    jsonb_array_elements_text(a.pictures) WITH ORDINALITY AS t (address, place)
WHERE k.delivery_id = $1 AND k.state = 'found' AND k.n > @after AND k.n <= @until ORDER BY k.n, t.place;

-- name: LookupCounts :one
SELECT count(*)::int AS all, count(*) FILTER (WHERE state = 'found')::int AS found, count(*) FILTER (WHERE state = 'none')::int AS none, count(*) FILTER (WHERE state = 'failed')::int AS failed,
    count(*) FILTER (WHERE state = 'waiting')::int AS waiting FROM lookup_ask WHERE delivery_id = $1;

-- name: LookupFailures :many
SELECT n, barcode, message FROM lookup_ask WHERE delivery_id = $1 AND state = 'failed' ORDER BY n LIMIT 100;

-- name: LicensedRights :exec
-- What a service states a licence for may be used; where a delivery that a picture came by before says something of it, that stays.
INSERT INTO rights (asset_id, may, holder, proof)
SELECT DISTINCT ON (a.asset_id) a.asset_id, 'cleared', '', a.origin->>'licence' FROM arrival a
WHERE a.delivery_id = $1 AND a.asset_id IS NOT NULL AND coalesce(a.origin->>'licence', '') <> ''
    AND NOT EXISTS (SELECT 1 FROM arrival o JOIN delivery d ON d.id = o.delivery_id WHERE o.asset_id = a.asset_id AND d.id <> $1 AND d.may <> '')
ON CONFLICT DO NOTHING;

-- name: GuideForHost :one
-- The latest guide of a source whose pages are at a host.
SELECT g.guide FROM guide g JOIN source s ON s.id = g.source_id
WHERE s.removed_at IS NULL AND split_part(g.guide->'start'->>0, '/', 3) = @host::text AND NOT EXISTS (SELECT 1 FROM guide n WHERE n.source_id = g.source_id AND n.version > g.version)
ORDER BY g.at DESC LIMIT 1;
