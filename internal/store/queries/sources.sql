-- name: AddSource :one
INSERT INTO source (name, kind, settings, secrets, door, filters, supplier, may, until, holder, proof, created_by)
VALUES (@name, @kind, @settings, @secrets, @door, @filters, @supplier, @may, nullif(@until::text, '')::date, @holder, @proof, @created_by) RETURNING id;

-- name: SetSource :execrows
-- secrets stay where none are given.
UPDATE source SET name = @name, settings = @settings, secrets = coalesce(sqlc.narg(secrets), secrets), filters = @filters, supplier = @supplier, may = @may,
    until = nullif(@until::text, '')::date, holder = @holder, proof = @proof WHERE id = @id AND removed_at IS NULL;

-- name: SetSourceDoor :execrows
UPDATE source SET door = @door WHERE id = @id AND kind = 'drop' AND removed_at IS NULL;

-- name: SetSourceSettings :exec
UPDATE source SET settings = @settings WHERE id = @id;

-- name: RemoveSource :execrows
-- What came from it stays; its secrets go.
UPDATE source SET removed_at = now(), secrets = NULL, door = '' WHERE id = $1 AND removed_at IS NULL;

-- name: Sources :many
SELECT s.id, s.name, s.kind, s.settings, (s.secrets IS NOT NULL OR s.door <> '')::boolean AS secret, s.filters, s.supplier, s.may, coalesce(s.until::text, '')::text AS until, s.holder,
    s.proof, s.created_by, p.name AS person, s.created_at, coalesce(d.deliveries, 0)::int AS deliveries, d.last_at, coalesce(w.state, '')::text AS working,
    coalesce(c.each, '')::text AS each, coalesce(c.minute, 0)::int AS minute, coalesce(c.weekday, 0)::int AS weekday, coalesce(c.time_zone, '')::text AS time_zone, c.next_at,
    (SELECT count(*) FROM cross_reference x WHERE x.source_id = s.id)::int AS crossed
FROM source s JOIN person p ON p.id = s.created_by
LEFT JOIN LATERAL (SELECT count(*) AS deliveries, max(created_at) AS last_at FROM delivery WHERE source_id = s.id AND removed_at IS NULL) d ON true
LEFT JOIN LATERAL (SELECT j.state FROM delivery e JOIN job j ON j.kind = 'take_in' AND j.subject = e.id
    WHERE e.source_id = s.id AND j.state IN ('waiting', 'working', 'stopping') ORDER BY e.id DESC LIMIT 1) w ON true
LEFT JOIN schedule c ON c.what = 'visit' AND c.subject = s.id
WHERE s.removed_at IS NULL AND (sqlc.narg(id)::bigint IS NULL OR s.id = sqlc.narg(id)) AND s.id > @after ORDER BY s.id LIMIT @most;

-- name: SourceByID :one
SELECT * FROM source WHERE id = $1;

-- name: DropSource :one
SELECT id, door, settings, created_by, name FROM source WHERE kind = 'drop' AND settings->>'login' = @login::text AND removed_at IS NULL;

-- name: DropSources :many
SELECT id, settings, created_by, name FROM source WHERE kind = 'drop' AND removed_at IS NULL ORDER BY id;

-- name: DriveHosts :many
SELECT h.kind, h.host, p.name AS person, h.added_at FROM drive_host h JOIN person p ON p.id = h.added_by ORDER BY h.kind, h.host;

-- name: HostsOfKind :many
SELECT host FROM drive_host WHERE kind = $1;

-- name: AddDriveHost :exec
INSERT INTO drive_host (kind, host, added_by) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING;

-- name: RemoveDriveHost :execrows
DELETE FROM drive_host WHERE kind = $1 AND host = $2;

-- name: BindDelivery :exec
-- A delivery is of a source from now on: what the source says of supplier and rights is said of it, and it is paired and placed as the last
-- one of the source was of which pictures were placed.
UPDATE delivery d SET source_id = s.id, supplier = s.supplier, may = s.may, until = s.until, holder = s.holder, proof = s.proof,
    ladder = coalesce(l.ladder, d.ladder), habits_off = coalesce(l.habits_off, d.habits_off), house_rule = coalesce(l.rule, ''), like_delivery = l.id
FROM source s LEFT JOIN LATERAL (SELECT e.id, e.ladder, e.habits_off, p.source->>'rule' AS rule FROM delivery e
    JOIN plan p ON (p.source->>'delivery')::bigint = e.id AND p.kind = 'pairing' JOIN run r ON r.plan_id = p.id
    WHERE e.source_id = s.id AND r.applied > r.undone ORDER BY r.id DESC LIMIT 1) l ON true
WHERE d.id = @delivery AND s.id = @source;

-- name: SetDeliveryRights :execrows
UPDATE delivery SET may = @may, until = nullif(@until::text, '')::date, holder = @holder, proof = @proof WHERE id = @id;

-- name: AddVisit :exec
INSERT INTO visit (delivery_id, source_id, chosen) VALUES ($1, $2, $3);

-- name: VisitOf :one
SELECT v.*, d.title, d.source, d.created_by FROM visit v JOIN delivery d ON d.id = v.delivery_id WHERE v.delivery_id = $1;

-- name: BusyVisit :one
-- Whether a source is being collected from.
SELECT EXISTS (SELECT 1 FROM visit v JOIN job j ON j.kind = 'take_in' AND j.subject = v.delivery_id WHERE v.source_id = $1 AND j.state IN ('waiting', 'working', 'stopping'))::boolean;

-- name: Visits :many
SELECT d.id, d.title, delivery_state(d.open, j.state)::text AS state, coalesce(j.notes, '[]')::jsonb AS notes, d.created_at, j.ended_at AS finished_at, p.name AS person,
    coalesce(a.lines, 0)::int AS lines, coalesce(a.pictures, 0)::int AS pictures, coalesce(a.problems, 0)::int AS problems,
    (v.delivery_id IS NOT NULL)::boolean AS visited, coalesce(v.listed, false)::boolean AS listed, coalesce(v.found, 0)::bigint AS found, coalesce(v.wanted, 0)::bigint AS wanted,
    coalesce(v.same, 0)::bigint AS same,
    coalesce(v.fresh, 0)::bigint AS fresh, coalesce(v.changed, 0)::bigint AS changed, coalesce(v.renamed, 0)::bigint AS renamed, coalesce(v.gone, 0)::bigint AS gone,
    coalesce(v.bytes, 0)::bigint AS bytes, coalesce(j.done, 0)::bigint AS fetched, coalesce(j.bytes, 0)::bigint AS fetched_bytes, j.began_at
FROM delivery d JOIN person p ON p.id = d.created_by LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id LEFT JOIN delivery_count a ON a.delivery_id = d.id
    LEFT JOIN visit v ON v.delivery_id = d.id
WHERE d.source_id = @source AND d.removed_at IS NULL AND (@before::bigint = 0 OR d.id < @before) ORDER BY d.id DESC LIMIT @most;

-- name: AddListing :copyfrom
INSERT INTO listing (delivery_id, item, path, bytes, modified, sum, sku, wanted) VALUES ($1, $2, $3, $4, $5, $6, $7, $8);

-- name: ClearListing :exec
DELETE FROM listing WHERE delivery_id = $1;

-- name: ClearVisitFiles :exec
DELETE FROM visit_file WHERE delivery_id = $1;

-- name: SetVisitFound :exec
UPDATE visit SET found = $2 WHERE delivery_id = $1;

-- name: FindFresh :exec
-- What is not as it was: by checksum where both sides have one, else by size and time. always asks for all again: of what is the same the
-- server there says so.
INSERT INTO visit_file (delivery_id, item, n, path, bytes, modified, sum, sku, what, before_asset)
SELECT l.delivery_id, l.item, row_number() OVER (ORDER BY l.path), l.path, l.bytes, CASE WHEN @always::boolean THEN r.modified ELSE l.modified END,
    CASE WHEN @always THEN coalesce(r.sum, '') ELSE l.sum END, l.sku,
    CASE WHEN r.item IS NULL OR r.gone_in IS NOT NULL THEN 'new' ELSE 'changed' END, CASE WHEN r.gone_in IS NULL THEN r.asset_id END
FROM (SELECT DISTINCT ON (i.item) i.* FROM listing i WHERE i.delivery_id = @delivery AND i.wanted ORDER BY i.item) l
LEFT JOIN remote_file r ON r.source_id = @source AND r.item = l.item
WHERE r.item IS NULL OR r.mark <> 'ignored' AND (@always OR r.gone_in IS NOT NULL
    OR CASE WHEN l.sum <> '' AND r.sum <> '' THEN l.sum <> r.sum ELSE l.bytes <> r.bytes OR l.modified IS DISTINCT FROM r.modified END);

-- name: FindGone :exec
-- What was there and is not any more, but below folders that could not be read.
INSERT INTO visit_file (delivery_id, item, n, path, bytes, modified, sum, what, before_asset)
SELECT @delivery, r.item, (SELECT coalesce(max(m.n), 0) FROM visit_file m WHERE m.delivery_id = @delivery) + row_number() OVER (ORDER BY r.path), r.path, r.bytes, r.modified, r.sum, 'gone', r.asset_id
FROM remote_file r WHERE r.source_id = @source AND r.gone_in IS NULL AND r.mark <> 'ignored'
    AND NOT EXISTS (SELECT 1 FROM listing l WHERE l.delivery_id = @delivery AND l.item = r.item)
    AND NOT EXISTS (SELECT 1 FROM unnest(@failed::text[]) f WHERE starts_with(r.path, f || '/'))
    AND (cardinality(@chosen::text[]) = 0 OR EXISTS (SELECT 1 FROM unnest(@chosen::text[]) c WHERE r.path = c OR starts_with(r.path, c || '/')));

-- name: SetVisitListed :exec
UPDATE visit v SET listed = true, found = @found, failed = @failed, wanted = w.wanted, bytes = w.bytes
FROM (SELECT count(*) FILTER (WHERE what IN ('new', 'changed')) AS wanted, coalesce(sum(greatest(f.bytes, 0)) FILTER (WHERE what IN ('new', 'changed')), 0)::bigint AS bytes
    FROM visit_file f WHERE f.delivery_id = @delivery) w WHERE v.delivery_id = @delivery;

-- name: VisitToFetch :many
SELECT item, n, path, bytes, modified, sum, sku FROM visit_file WHERE delivery_id = $1 AND n > @after AND what IN ('new', 'changed') ORDER BY n LIMIT @most;

-- name: UnsettledVisits :many
SELECT delivery_id FROM visit WHERE source_id = $1 AND NOT settled AND listed AND delivery_id < @before ORDER BY delivery_id;

-- name: KeepRemote :exec
-- What came is what the source has; what could not be had is asked for again next time.
INSERT INTO remote_file (source_id, item, path, bytes, modified, sum, asset_id)
SELECT v.source_id, f.item, f.path, greatest(f.bytes, -1), coalesce((a.origin->>'modified')::timestamptz, f.modified), coalesce(nullif(a.origin->>'sum', ''), f.sum), a.asset_id
FROM visit v JOIN visit_file f ON f.delivery_id = v.delivery_id JOIN arrival a ON a.delivery_id = f.delivery_id AND a.item = f.item
WHERE v.delivery_id = $1 AND f.what IN ('new', 'changed') AND a.problem <> 'unreachable'
ON CONFLICT (source_id, item) DO UPDATE SET path = excluded.path, bytes = excluded.bytes, modified = excluded.modified, sum = excluded.sum,
    asset_id = excluded.asset_id, gone_in = NULL;

-- name: KeepGone :exec
UPDATE remote_file r SET gone_in = v.delivery_id FROM visit v JOIN visit_file f ON f.delivery_id = v.delivery_id
WHERE v.delivery_id = $1 AND r.source_id = v.source_id AND r.item = f.item AND f.what = 'gone';

-- name: FindTouched :exec
-- What came again with the same bytes is the same.
UPDATE visit_file f SET what = 'same' FROM arrival a
WHERE f.delivery_id = $1 AND f.what = 'changed' AND a.delivery_id = f.delivery_id AND a.item = f.item AND a.asset_id = f.before_asset;

-- name: FindUnasked :exec
-- What did not come at all, though it was asked for, is the same: the server there said so.
UPDATE visit_file f SET what = 'same' WHERE f.delivery_id = $1 AND f.what = 'changed'
    AND NOT EXISTS (SELECT 1 FROM arrival a WHERE a.delivery_id = f.delivery_id AND a.item = f.item);

-- name: FindRenamed :exec
-- A new file with the bytes of one that is gone is that one under another name.
UPDATE visit_file f SET what = 'renamed', before_asset = g.before_asset, before_path = g.path
FROM arrival a, (SELECT DISTINCT ON (w.before_asset) w.before_asset, w.path FROM visit_file w WHERE w.delivery_id = $1 AND w.what = 'gone' AND w.before_asset IS NOT NULL ORDER BY w.before_asset, w.path) g
WHERE f.delivery_id = $1 AND f.what = 'new' AND a.delivery_id = f.delivery_id AND a.item = f.item AND a.asset_id = g.before_asset;

-- name: DropMoved :exec
DELETE FROM visit_file g USING visit_file f WHERE g.delivery_id = $1 AND g.what = 'gone' AND f.delivery_id = g.delivery_id AND f.what = 'renamed' AND f.before_path = g.path;

-- name: CountVisit :exec
UPDATE visit v SET settled = true, fresh = w.fresh, changed = w.changed, renamed = w.renamed, gone = w.gone, same = greatest(v.found - w.fresh - w.changed - w.renamed, 0)
FROM (SELECT count(*) FILTER (WHERE what = 'new') AS fresh, count(*) FILTER (WHERE what = 'changed') AS changed, count(*) FILTER (WHERE what = 'renamed') AS renamed,
    count(*) FILTER (WHERE what = 'gone') AS gone FROM visit_file f WHERE f.delivery_id = $1) w WHERE v.delivery_id = $1;

-- name: VisitFiles :many
-- What a visit says of files, with the picture that was there and the one that came.
SELECT f.item, f.n, f.path, f.bytes, f.modified, f.what, f.before_path, coalesce(a.id, 0)::bigint AS arrival, coalesce(encode(b.sha256, 'hex'), '')::text AS before_sha,
    coalesce(b.width, 0)::int AS before_width, coalesce(b.height, 0)::int AS before_height, coalesce(b.bytes, 0)::bigint AS before_bytes,
    coalesce(encode(s.sha256, 'hex'), '')::text AS sha, coalesce(s.width, 0)::int AS width, coalesce(s.height, 0)::int AS height, coalesce(s.bytes, 0)::bigint AS now_bytes,
    (CASE WHEN b.likeness IS NOT NULL AND s.likeness IS NOT NULL THEN bit_count((b.likeness # s.likeness)::bit(64)) ELSE -1 END)::int AS apart,
    (SELECT count(*) FROM placement p WHERE p.asset_id = f.before_asset)::int AS placed
FROM visit_file f LEFT JOIN arrival a ON a.delivery_id = f.delivery_id AND a.item = f.item LEFT JOIN asset b ON b.id = f.before_asset LEFT JOIN asset s ON s.id = a.asset_id
WHERE f.delivery_id = @delivery AND f.n > @after AND (@what::text = '' AND f.what <> 'same' OR f.what = @what) ORDER BY f.n LIMIT @most;

-- name: Renewals :many
-- Of the changed files of a visit, those whose former picture stands on owners: which, and by what it is renewed.
SELECT DISTINCT p.owner_id, f.before_asset::bigint AS before, a.asset_id::bigint AS after
FROM visit_file f JOIN arrival a ON a.delivery_id = f.delivery_id AND a.item = f.item JOIN placement p ON p.asset_id = f.before_asset
WHERE f.delivery_id = @delivery AND f.what = 'changed' AND a.asset_id IS NOT NULL AND a.asset_id <> f.before_asset
    AND (cardinality(@items::text[]) = 0 OR f.item = ANY (@items::text[])) ORDER BY p.owner_id;

-- name: SetAddresses :copyfrom
INSERT INTO source_address (source_id, row, address, sku) VALUES ($1, $2, $3, $4);

-- name: ClearAddresses :exec
DELETE FROM source_address WHERE source_id = $1;

-- name: Addresses :many
SELECT row, address, sku FROM source_address WHERE source_id = $1 AND row > @after ORDER BY row LIMIT @most;

-- name: CountAddresses :one
SELECT count(*)::int FROM source_address WHERE source_id = $1;

-- name: CameBy :many
-- All that a picture came by, the newest first.
SELECT a.id, a.path, a.origin, a.delivery_id, d.title, d.created_at, p.name AS person, coalesce(s.id, 0)::bigint AS source, coalesce(s.name, '')::text AS source_name, coalesce(s.kind, '')::text AS kind,
    d.supplier, d.may, coalesce(d.until::text, '')::text AS until, d.holder, d.proof
FROM asset t JOIN arrival a ON a.asset_id = t.id JOIN delivery d ON d.id = a.delivery_id JOIN person p ON p.id = d.created_by LEFT JOIN source s ON s.id = d.source_id
WHERE t.sha256 = @sha AND (@before::bigint = 0 OR a.id < @before) ORDER BY a.id DESC LIMIT @most;

-- name: RightsSaid :many
-- What is said of the rights of pictures: by an admin, where one did, else by all deliveries that they came with.
SELECT r.asset_id, r.may, coalesce(r.until::text, '')::text AS until, r.holder, r.proof, true AS set_by_admin FROM rights r WHERE r.asset_id = ANY (@assets::bigint[])
UNION ALL
SELECT DISTINCT a.asset_id::bigint, d.may, coalesce(d.until::text, '')::text, d.holder, d.proof, false FROM arrival a JOIN delivery d ON d.id = a.delivery_id
WHERE a.asset_id = ANY (@assets::bigint[]) AND d.may <> '' AND NOT EXISTS (SELECT 1 FROM rights r WHERE r.asset_id = a.asset_id);

-- name: SetRights :exec
INSERT INTO rights (asset_id, may, until, holder, proof, set_by) VALUES (@asset, @may, nullif(@until::text, '')::date, @holder, @proof, @person::bigint)
ON CONFLICT (asset_id) DO UPDATE SET may = excluded.may, until = excluded.until, holder = excluded.holder, proof = excluded.proof, set_by = excluded.set_by, set_at = now();

-- name: AssetBySha :one
SELECT id FROM asset WHERE sha256 = $1;

-- name: SetSchedule :exec
INSERT INTO schedule (what, subject, next_at, time_zone, each, minute, weekday) VALUES (@what, @subject, @next_at, @time_zone, @each, @minute, @weekday)
ON CONFLICT (what, subject) DO UPDATE SET next_at = excluded.next_at, time_zone = excluded.time_zone, each = excluded.each, minute = excluded.minute, weekday = excluded.weekday;

-- name: DropSchedule :exec
DELETE FROM schedule WHERE what = $1 AND subject = $2;

-- name: DueSchedules :many
SELECT c.* FROM schedule c WHERE c.what = $1 AND c.next_at <= now() ORDER BY c.next_at LIMIT 100 FOR UPDATE SKIP LOCKED;

-- name: SetNext :exec
UPDATE schedule SET next_at = $2 WHERE id = $1;

-- name: Crossed :many
-- A source's cross-reference: their codes, and the SKU of whom each means.
SELECT c.code, c.owner_id, o.sku, coalesce(nullif(o.title, ''), u.title, '')::text AS title, c.confirmed, p.name AS person, c.added_at
FROM cross_reference c JOIN owner o ON o.id = c.owner_id LEFT JOIN owner u ON u.id = o.parent JOIN person p ON p.id = c.added_by
WHERE c.source_id = @source AND (c.code, c.owner_id) > (@after::text, @after_owner::bigint) ORDER BY c.code, c.owner_id LIMIT @most;

-- name: CrossKeys :many
SELECT code, owner_id FROM cross_reference WHERE source_id = $1 ORDER BY code, owner_id;

-- name: AddCrossed :execrows
INSERT INTO cross_reference (source_id, code, owner_id, confirmed, added_by)
SELECT @source, c.code, o.id, c.confirmed, @person FROM (SELECT unnest(@codes::text[]) AS code, unnest(@skus::text[]) AS sku, unnest(@confirmed::int[]) AS confirmed) c
JOIN owner o ON o.sku = c.sku AND o.kind <> 'category'
ON CONFLICT (source_id, code, owner_id) DO UPDATE SET confirmed = greatest(cross_reference.confirmed, excluded.confirmed);

-- name: UnknownSKUs :many
SELECT c.sku::text FROM (SELECT DISTINCT unnest(@skus::text[]) AS sku) c WHERE NOT EXISTS (SELECT 1 FROM owner o WHERE o.sku = c.sku AND o.kind <> 'category') ORDER BY 1 LIMIT @most;

-- name: RemoveCrossed :execrows
DELETE FROM cross_reference WHERE source_id = @source AND (cardinality(@codes::text[]) = 0 OR code = ANY (@codes::text[]));

-- name: TouchReferences :exec
UPDATE source SET references_version = references_version + 1 WHERE id = $1;

-- name: TouchSourceBenches :exec
UPDATE delivery SET bench_version = bench_version + 1 WHERE source_id = $1 AND closed_at IS NULL;

-- name: HandPaired :many
-- What people paired by hand in a source's deliveries.
SELECT a.path, o.sku FROM delivery d JOIN arrival a ON a.delivery_id = d.id JOIN decision c ON c.arrival_id = a.id JOIN owner o ON o.id = c.owner_id
WHERE d.source_id = @source AND NOT c.aside ORDER BY a.id DESC LIMIT @most;

-- name: LockSource :one
SELECT * FROM source WHERE id = $1 FOR UPDATE;

-- name: CountArrivals :one
SELECT count(*)::int FROM arrival WHERE delivery_id = $1;

-- name: AddDropVisit :exec
INSERT INTO visit (delivery_id, source_id, listed) VALUES ($1, $2, true) ON CONFLICT DO NOTHING;

-- name: FindDropped :exec
-- What came into a drop folder, beside what came there before.
INSERT INTO visit_file (delivery_id, item, n, path, bytes, sum, what, before_asset)
SELECT a.delivery_id, a.item, row_number() OVER (ORDER BY a.id), a.path, a.bytes, '', CASE WHEN r.item IS NULL THEN 'new' ELSE 'changed' END, r.asset_id
FROM arrival a LEFT JOIN remote_file r ON r.source_id = @source AND r.item = a.item WHERE a.delivery_id = @delivery AND a.asset_id IS NOT NULL
ON CONFLICT DO NOTHING;

-- name: SetDropFound :exec
UPDATE visit v SET found = (SELECT count(*) FROM visit_file f WHERE f.delivery_id = v.delivery_id) WHERE v.delivery_id = $1;

-- name: DropTaken :one
-- How far the delivery of a folder of a drop folder is.
SELECT delivery_state(d.open, j.state)::text AS state FROM delivery d LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id
WHERE d.source_id = @source::bigint AND d.source->>'folder' = @folder::text;

-- name: KnownRemote :many
-- Which files came already, and how large they were.
SELECT item, bytes FROM remote_file WHERE source_id = $1 AND item = ANY (sqlc.arg(items)::text[]) AND gone_in IS NULL AND asset_id IS NOT NULL;

-- name: ClearReconciled :exec
DELETE FROM reconciled WHERE source_id = $1;

-- name: ReconcileRest :exec
-- The pictures that came from a source and are not on its drive, nor any of their name.
INSERT INTO reconciled (source_id, item, n, path, bytes, what, arrival_id)
SELECT @source, 'here ' || h.id, (SELECT coalesce(max(m.n), 0) FROM reconciled m WHERE m.source_id = @source) + row_number() OVER (ORDER BY h.path), h.path, h.bytes, 'only_here', h.id
FROM (SELECT DISTINCT ON (a.asset_id) a.id, a.path, a.asset_id, s.bytes FROM delivery d JOIN arrival a ON a.delivery_id = d.id JOIN asset s ON s.id = a.asset_id
    WHERE d.source_id = @source::bigint ORDER BY a.asset_id, a.id DESC) h
WHERE NOT EXISTS (SELECT 1 FROM reconciled r JOIN arrival b ON b.id = r.arrival_id WHERE r.source_id = @source AND b.asset_id = h.asset_id)
    AND lower(regexp_replace(h.path, '^.*/', '')) NOT IN (SELECT lower(regexp_replace(o.path, '^.*/', '')) FROM reconciled o WHERE o.source_id = @source);

-- name: Reconciled :many
SELECT r.item, r.n, r.path, r.bytes, r.modified, r.what, coalesce(a.path, '')::text AS here_path, coalesce(encode(s.sha256, 'hex'), '')::text AS sha, coalesce(s.bytes, 0)::bigint AS here_bytes,
    coalesce(s.width, 0)::int AS width, coalesce(s.height, 0)::int AS height, (SELECT count(*) FROM placement p WHERE p.asset_id = a.asset_id)::int AS placed,
    coalesce(f.mark, '')::text AS mark
FROM reconciled r LEFT JOIN arrival a ON a.id = r.arrival_id LEFT JOIN asset s ON s.id = a.asset_id LEFT JOIN remote_file f ON f.source_id = r.source_id AND f.item = r.item
WHERE r.source_id = @source AND r.n > @after AND (@what::text = '' OR r.what = @what) ORDER BY r.n LIMIT @most;

-- name: CountReconciled :many
SELECT what, count(*)::int AS count FROM reconciled WHERE source_id = $1 GROUP BY what;

-- name: MarkRemote :execrows
-- Files of a drive that are not collected any more, or again.
INSERT INTO remote_file (source_id, item, path, bytes, sum, mark)
SELECT r.source_id, r.item, r.path, r.bytes, '', @mark FROM reconciled r WHERE r.source_id = @source AND r.item = ANY (@items::text[]) AND r.what <> 'only_here'
ON CONFLICT (source_id, item) DO UPDATE SET mark = excluded.mark;

-- name: UnmarkRemote :exec
-- What never came is forgotten: it is new then.
WITH never AS (DELETE FROM remote_file f WHERE f.source_id = @source AND f.item = ANY (@items::text[]) AND f.asset_id IS NULL AND f.mark = 'ignored' RETURNING f.item)
UPDATE remote_file r SET mark = '' WHERE r.source_id = @source AND r.item = ANY (@items::text[]) AND r.item NOT IN (SELECT never.item FROM never);

-- name: TakeFoundTable :one
-- Takes a table that came along with pictures of a source, once all has come and it is checked, and tells what the source wants done with it.
-- Of several that ask one is heard.
UPDATE worksheet w SET readied = w.version FROM delivery d JOIN source s ON s.id = d.source_id JOIN job j ON j.kind = 'take_in' AND j.subject = d.id
WHERE w.id = $1 AND d.id = w.found_in AND j.state = 'done' AND w.checked = w.version AND w.readied <> w.version AND w.plan_id IS NULL
RETURNING w.stopped, coalesce(s.settings->>'tables', '')::text AS wish, s.created_by, d.house_rule;

-- name: LeaveFoundTable :exec
UPDATE worksheet SET readied = -1 WHERE id = $1;

-- name: WaitingTables :many
-- Tables with which what their source wants was not done yet.
SELECT w.id FROM worksheet w JOIN delivery d ON d.id = w.found_in JOIN job j ON j.kind = 'take_in' AND j.subject = d.id
WHERE d.source_id IS NOT NULL AND j.state = 'done' AND w.checked = w.version AND w.readied <> w.version AND w.plan_id IS NULL AND w.closed_at IS NULL ORDER BY w.id LIMIT 20;

-- name: VisitsAtWork :many
SELECT v.delivery_id FROM visit v JOIN job j ON j.kind = 'take_in' AND j.subject = v.delivery_id WHERE v.source_id = $1 AND j.state IN ('waiting', 'working');
