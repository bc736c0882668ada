-- name: AddChannel :one
INSERT INTO channel (name, says, source_id, created_by) VALUES (@name, @says, sqlc.narg(source), @person) RETURNING id;

-- name: SetChannel :execrows
UPDATE channel SET name = @name, says = @says, source_id = sqlc.narg(source) WHERE id = @id AND removed_at IS NULL;

-- name: RemoveChannel :execrows
UPDATE channel SET removed_at = now(), address_key = NULL WHERE id = $1 AND removed_at IS NULL;

-- name: ChannelByID :one
SELECT * FROM channel WHERE id = $1 AND removed_at IS NULL;

-- name: ChannelCalled :one
SELECT * FROM channel WHERE lower(name) = lower(sqlc.arg(name)::text) AND removed_at IS NULL;

-- name: Channels :many
-- A page of channels by their names; of each how much stands, and where the work on it is.
SELECT sqlc.embed(c), coalesce(s.name, '')::text AS source, p.name AS person, coalesce(j.state IN ('waiting', 'working', 'stopping'), false)::boolean AS busy,
    coalesce(j.state, '')::text AS state, coalesce(j.done, 0)::bigint AS done, coalesce(j.notes, '[]')::jsonb AS notes, r.id AS run, d.each, d.minute, d.weekday, d.time_zone, d.next_at
FROM channel c JOIN person p ON p.id = c.created_by LEFT JOIN source s ON s.id = c.source_id LEFT JOIN job j ON j.kind = 'publishing' AND j.subject = c.id
LEFT JOIN run r ON r.plan_id = c.plan_id LEFT JOIN schedule d ON d.what = 'channel' AND d.subject = c.id
WHERE c.removed_at IS NULL AND (sqlc.arg(id)::bigint = 0 OR c.id = sqlc.arg(id)::bigint) AND (lower(c.name), c.id) > (lower(sqlc.arg(after_name)::text), sqlc.arg(after)::bigint)
ORDER BY lower(c.name), c.id LIMIT @most;

-- name: AskPublishing :exec
UPDATE channel SET runs = $2 WHERE id = $1;

-- name: SetPlanned :exec
UPDATE channel SET plan_id = sqlc.narg(plan), counts = @counts, planned_at = now() WHERE id = @id;

-- name: ChannelOwners :many
-- The next owners of a channel that have pictures, in the order of the catalogue: of some categories and their products, or of all.
SELECT o.id, o.ordinal FROM owner o
WHERE (o.ordinal, o.id) > (@ordinal::int, @after::bigint) AND NOT o.retired AND EXISTS (SELECT 1 FROM placement p WHERE p.owner_id = o.id)
    AND (cardinality(sqlc.arg(categories)::bigint[]) = 0 OR o.id = ANY (sqlc.arg(categories)::bigint[]) OR o.category = ANY (sqlc.arg(categories)::bigint[])
        OR o.parent IN (SELECT t.id FROM owner t WHERE t.category = ANY (sqlc.arg(categories)::bigint[])))
ORDER BY o.ordinal, o.id LIMIT @most;

-- name: PicturesToPublish :many
-- What is known of pictures beside what texts are made of.
SELECT id, width, height FROM asset WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: EnsureChannelFiles :many
-- The files of a channel's places, each with what stands there; places that were not there are made.
WITH wanted AS (
    SELECT unnest(@owners::bigint[]) AS owner_id, unnest(@assets::bigint[]) AS asset_id, unnest(@sizes::text[]) AS size
), added AS (
    INSERT INTO channel_file (channel_id, owner_id, asset_id, size) SELECT @channel::bigint, owner_id, asset_id, size FROM wanted
    ON CONFLICT (channel_id, owner_id, asset_id, size) DO NOTHING RETURNING id, owner_id, asset_id, size
)
SELECT a.id, a.owner_id, a.asset_id, a.size, ''::text AS path, ''::text AS key, ''::text AS let, 0::bigint AS bytes FROM added a
UNION ALL
SELECT f.id, f.owner_id, f.asset_id, f.size, coalesce(f.path, ''), coalesce(encode(f.key, 'hex'), ''), f.let, f.bytes
FROM wanted w JOIN channel_file f ON f.channel_id = @channel::bigint AND f.owner_id = w.owner_id AND f.asset_id = w.asset_id AND f.size = w.size;

-- name: ChannelFilesStanding :many
-- A page of what stands in a channel, by number.
SELECT f.id, f.owner_id, f.asset_id, f.size, f.path::text AS path, encode(f.key, 'hex')::text AS key, f.let, f.bytes, f.put_at, coalesce(encode(s.sha256, 'hex'), '')::text AS sha,
    coalesce(o.sku, '')::text AS sku, coalesce(o.title, '')::text AS title
FROM channel_file f LEFT JOIN asset s ON s.id = f.asset_id LEFT JOIN owner o ON o.id = f.owner_id
WHERE f.channel_id = @channel AND f.path IS NOT NULL AND f.id > @after ORDER BY f.id LIMIT @most;

-- name: PackagedFiles :many
-- A page of what stands in a package, by path, with what is to be known of its bytes.
SELECT f.id, f.path::text AS path, encode(f.key, 'hex')::text AS key, r.bytes, r.crc FROM channel_file f JOIN rendition r ON r.key = f.key
WHERE f.channel_id = @channel AND f.path > @after::text ORDER BY f.path LIMIT @most;

-- name: ChannelFiles :many
SELECT f.id, f.channel_id, f.owner_id, f.asset_id, f.size, coalesce(f.path, '')::text AS path, coalesce(encode(f.key, 'hex'), '')::text AS key, f.let, f.bytes
FROM channel_file f WHERE f.id = ANY (sqlc.arg(ids)::bigint[]);

-- name: SetChannelFiles :exec
UPDATE channel_file f SET path = nullif(w.path, ''), key = CASE WHEN w.path = '' THEN NULL ELSE decode(w.key, 'hex') END, let = w.let, put_at = CASE WHEN w.path <> '' THEN now() END,
    bytes = coalesce((SELECT r.bytes FROM rendition r WHERE r.key = decode(w.key, 'hex') AND w.path <> ''), 0)
FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@paths::text[]) AS path, unnest(@keys::text[]) AS key, unnest(@lets::text[]) AS let) w WHERE f.id = w.id;

-- name: CountInChannel :exec
UPDATE channel SET files = files + @files::bigint, bytes = bytes + @bytes::bigint WHERE id = @id;

-- name: StandAt :many
-- Which files of a channel stand at some paths.
SELECT id, path::text AS path, bytes FROM channel_file WHERE channel_id = @channel AND path = ANY (sqlc.arg(paths)::text[]);

-- name: WantRenditions :exec
-- What shall be made of pictures: who asks first, so that nobody clears it meanwhile.
INSERT INTO rendition (key, recipe, asset_id)
SELECT decode(w.key, 'hex'), w.recipe::jsonb, nullif(w.asset, 0) FROM (SELECT unnest(@keys::text[]) AS key, unnest(@recipes::text[]) AS recipe, unnest(@assets::bigint[]) AS asset) w
ORDER BY w.key ON CONFLICT (key) DO UPDATE SET used_at = now(), asset_id = coalesce(excluded.asset_id, rendition.asset_id);

-- name: Renditions :many
SELECT encode(r.key, 'hex')::text AS key, coalesce(r.recipe, 'null')::jsonb AS recipe, coalesce(r.asset_id, 0)::bigint AS asset_id, r.bytes, (r.sum IS NOT NULL)::boolean AS made
FROM rendition r WHERE r.key = ANY (SELECT decode(unnest(@keys::text[]), 'hex'));

-- name: RenditionMade :exec
UPDATE rendition SET sum = decode(@sum::text, 'hex'), bytes = @bytes, crc = @crc, used_at = now() WHERE key = decode(@key::text, 'hex');

-- name: RenditionSum :one
SELECT coalesce(encode(sum, 'hex'), '')::text AS sum FROM rendition WHERE key = decode(@key::text, 'hex');

-- name: RenditionOrigins :many
-- Which pictures renditions were made of, by the SHA-256 of the renditions; not of what is a picture here itself.
SELECT DISTINCT ON (r.sum) r.sum, s.sha256 AS origin FROM rendition r JOIN asset s ON s.id = r.asset_id
WHERE r.sum = ANY (sqlc.arg(sums)::bytea[]) AND NOT EXISTS (SELECT 1 FROM asset o WHERE o.sha256 = r.sum) ORDER BY r.sum, s.id;

-- name: StaleRenditions :many
-- What nothing uses any more and nobody asked for in so many days; they are locked.
SELECT r.key FROM rendition r WHERE r.used_at < now() - make_interval(days => @days::int) AND NOT EXISTS (SELECT 1 FROM channel_file f WHERE f.key = r.key)
ORDER BY r.used_at LIMIT @most FOR UPDATE SKIP LOCKED;

-- name: DropRenditions :exec
DELETE FROM rendition WHERE key = ANY (sqlc.arg(keys)::bytea[]);

-- name: ClearThere :exec
DELETE FROM channel_there WHERE channel_id = $1;

-- name: AddThere :copyfrom
INSERT INTO channel_there (channel_id, path, bytes, modified) VALUES ($1, $2, $3, $4);

-- name: ThereAt :many
SELECT path, bytes FROM channel_there WHERE channel_id = @channel AND path = ANY (sqlc.arg(paths)::text[]);

-- name: Reconciliation :many
-- A page of a channel's folder, as it was looked at last, beside what should be there.
SELECT coalesce(f.path, t.path)::text AS path, coalesce(f.bytes, -1)::bigint AS here, coalesce(t.bytes, -1)::bigint AS there, t.modified, coalesce(f.id, 0)::bigint AS file,
    coalesce(encode(s.sha256, 'hex'), '')::text AS sha,
    (CASE WHEN t.path IS NULL THEN 'only_here' WHEN f.id IS NULL THEN 'only_there' WHEN f.bytes = t.bytes THEN 'same' ELSE 'differs' END)::text AS what
FROM (SELECT * FROM channel_file n WHERE n.channel_id = @channel AND n.path IS NOT NULL) f
FULL JOIN (SELECT * FROM channel_there h WHERE h.channel_id = @channel) t ON t.path = f.path LEFT JOIN asset s ON s.id = f.asset_id
WHERE coalesce(f.path, t.path) > @after::text
    AND (@what::text = '' OR @what::text = CASE WHEN t.path IS NULL THEN 'only_here' WHEN f.id IS NULL THEN 'only_there' WHEN f.bytes = t.bytes THEN 'same' ELSE 'differs' END)
ORDER BY 1 LIMIT @most;

-- name: ReconciliationCounts :one
SELECT count(*) FILTER (WHERE t.path IS NOT NULL AND f.id IS NOT NULL AND f.bytes = t.bytes)::bigint AS same, count(*) FILTER (WHERE t.path IS NOT NULL AND f.id IS NOT NULL AND f.bytes <> t.bytes)::bigint AS differs,
    count(*) FILTER (WHERE f.id IS NULL)::bigint AS only_there, count(*) FILTER (WHERE t.path IS NULL)::bigint AS only_here
FROM (SELECT * FROM channel_file n WHERE n.channel_id = @channel AND n.path IS NOT NULL) f FULL JOIN (SELECT * FROM channel_there h WHERE h.channel_id = @channel) t ON t.path = f.path;

-- name: SetAddressKey :execrows
UPDATE channel SET address_key = sqlc.narg(key)::bytea WHERE id = @id AND removed_at IS NULL;

-- name: PublicFile :one
SELECT f.id, coalesce(f.path, '')::text AS path, coalesce(encode(f.key, 'hex'), '')::text AS key, f.bytes, f.put_at, c.address_key FROM channel_file f JOIN channel c ON c.id = f.channel_id
WHERE f.id = $1 AND c.removed_at IS NULL;

-- name: ListPresets :many
SELECT l.id, l.name, l.says, l.saved_at, p.name AS person FROM list_preset l JOIN person p ON p.id = l.saved_by
WHERE (lower(l.name), l.id) > (lower(sqlc.arg(after_name)::text), sqlc.arg(after)::bigint) ORDER BY lower(l.name), l.id LIMIT @most;

-- name: SaveListPreset :one
INSERT INTO list_preset (name, says, saved_by) VALUES (@name, @says, @person)
ON CONFLICT (name) DO UPDATE SET says = excluded.says, saved_by = excluded.saved_by, saved_at = now() RETURNING id;

-- name: RemoveListPreset :execrows
DELETE FROM list_preset WHERE id = $1;
