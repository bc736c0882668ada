-- name: AddDelivery :one
INSERT INTO delivery (title, source, open, created_by) VALUES ($1, $2, $3, $4) RETURNING id;

-- name: Deliveries :many
SELECT d.id, d.title, delivery_state(d.open, j.state)::text AS state,
    (CASE WHEN d.open OR j.state = 'done' THEN d.notes ELSE coalesce(j.notes, '[]') END)::jsonb AS notes, d.created_at, j.ended_at AS finished_at, p.name AS created_by,
    coalesce(u.files, 0)::int AS uploads, least(coalesce(u.bytes, 0), 9223372036854775807)::bigint AS upload_bytes,
    greatest(CASE WHEN u.unknown = 0 THEN u.entries END, j.total, 0)::int AS expected,
    coalesce(a.lines, 0)::int AS lines, coalesce(a.pictures, 0)::int AS pictures,
    coalesce(a.problems, 0)::int AS problems, coalesce(a.seen, 0)::int AS seen,
    least(coalesce(a.bytes, 0), 9223372036854775807)::bigint AS bytes, d.supplier, d.note, d.closed_at,
    coalesce(d.source_id, 0)::bigint AS source, coalesce(s.name, '')::text AS source_name, (v.delivery_id IS NOT NULL)::boolean AS visited, coalesce(v.listed, false)::boolean AS listed,
    coalesce(v.found, 0)::bigint AS found, coalesce(v.wanted, 0)::bigint AS wanted, coalesce(v.bytes, 0)::bigint AS wanted_bytes, d.may, coalesce(d.until::text, '')::text AS until, d.holder, d.proof,
    d.house_rule, d.pairs_with, coalesce(d.like_delivery, 0)::bigint AS like_delivery, coalesce(l.title, '')::text AS like_title
FROM delivery d JOIN person p ON p.id = d.created_by LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id
LEFT JOIN upload_count u ON u.delivery_id = d.id
LEFT JOIN delivery_count a ON a.delivery_id = d.id LEFT JOIN source s ON s.id = d.source_id LEFT JOIN visit v ON v.delivery_id = d.id
LEFT JOIN delivery l ON l.id = d.like_delivery
WHERE d.removed_at IS NULL AND (sqlc.narg(id)::bigint IS NULL OR d.id = sqlc.narg(id)) AND (sqlc.narg(before)::bigint IS NULL OR d.id < sqlc.narg(before))
    AND (sqlc.narg(closed)::boolean IS NULL OR (d.closed_at IS NOT NULL) = sqlc.narg(closed))
    AND (sqlc.narg(source)::bigint IS NULL OR d.source_id = sqlc.narg(source))
    AND (sqlc.narg(supplier)::text IS NULL OR d.supplier = sqlc.narg(supplier))
    AND (sqlc.narg(state)::text IS NULL OR delivery_state(d.open, j.state) = sqlc.narg(state))
    AND (sqlc.narg(said)::text IS NULL OR lower(d.title || ' ' || d.supplier || ' ' || d.note) LIKE sqlc.narg(said))
ORDER BY d.id DESC LIMIT sqlc.narg(most);

-- name: DeliveryState :one
SELECT delivery_state(d.open, j.state)::text AS state FROM delivery d LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id WHERE d.id = $1;

-- name: LockDelivery :one
-- Whoever changes what a delivery is locks it first, then its job.
SELECT delivery_state(d.open, j.state)::text AS state FROM delivery d LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id WHERE d.id = $1 FOR UPDATE OF d;

-- name: DeliveryTitle :one
SELECT title, created_by FROM delivery WHERE id = $1;

-- name: SetDeliveryOpen :exec
UPDATE delivery SET open = $2, notes = $3 WHERE id = $1;

-- name: SetDeliveryNotes :exec
UPDATE delivery SET notes = $2 WHERE id = $1;

-- name: DescribeDelivery :execrows
-- Changes what people say of a delivery; what is null stays.
UPDATE delivery SET title = coalesce(sqlc.narg(title), title), supplier = coalesce(sqlc.narg(supplier), supplier),
    note = coalesce(sqlc.narg(note), note),
    closed_at = CASE WHEN sqlc.narg(closed)::boolean IS NULL THEN closed_at WHEN sqlc.narg(closed) THEN coalesce(closed_at, now()) END
WHERE id = sqlc.arg(id) AND removed_at IS NULL;

-- name: DeliveriesStanding :many
-- What plans change of deliveries, as it stands.
SELECT id, (removed_at IS NOT NULL)::boolean AS removed, (closed_at IS NOT NULL)::boolean AS closed FROM delivery WHERE id = ANY (@ids::bigint[]);

-- name: SetDeliveriesRemoved :exec
-- What is removed is closed, too, whoever opened it again meanwhile.
UPDATE delivery d SET removed_at = CASE WHEN n.removed THEN coalesce(d.removed_at, now()) END, closed_at = CASE WHEN n.removed THEN coalesce(d.closed_at, now()) ELSE d.closed_at END
FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@removed::boolean[]) AS removed) n WHERE d.id = n.id;

-- name: DeliveryOnly :many
-- Pictures that came in with no other delivery than this one.
SELECT DISTINCT a.asset_id::bigint AS asset_id FROM arrival a WHERE a.delivery_id = @delivery AND a.asset_id IS NOT NULL
    AND NOT EXISTS (SELECT 1 FROM arrival b JOIN delivery d ON d.id = b.delivery_id WHERE b.asset_id = a.asset_id AND b.delivery_id <> @delivery AND d.removed_at IS NULL);

-- name: DeliveriesDue :many
-- Deliveries that were removed more than so many days ago.
SELECT id FROM delivery WHERE removed_at < now() - make_interval(days => @days::int) ORDER BY removed_at, id LIMIT @most;

-- name: KeepSaidRights :exec
-- What deliveries say of the rights of their pictures stays with those of which nobody else says anything, once the deliveries are gone.
INSERT INTO rights (asset_id, may, until, holder, proof)
SELECT DISTINCT ON (a.asset_id) a.asset_id, d.may, d.until, d.holder, d.proof FROM delivery d JOIN arrival a ON a.delivery_id = d.id
WHERE d.id = ANY (@ids::bigint[]) AND d.may <> '' AND a.asset_id IS NOT NULL
    AND NOT EXISTS (SELECT 1 FROM arrival o JOIN delivery e ON e.id = o.delivery_id WHERE o.asset_id = a.asset_id AND e.may <> '' AND e.id <> ALL (@ids::bigint[]))
ORDER BY a.asset_id, d.id DESC ON CONFLICT DO NOTHING;

-- name: DropDeliveries :execrows
-- Deletes deliveries that are removed, with their lines and the jobs that took them in.
WITH jobs AS (DELETE FROM job WHERE kind = 'take_in' AND subject = ANY (@ids::bigint[]))
DELETE FROM delivery WHERE id = ANY (@ids::bigint[]) AND removed_at IS NOT NULL;

-- name: Suppliers :many
SELECT DISTINCT supplier FROM delivery WHERE removed_at IS NULL AND supplier > sqlc.arg(after)::text AND supplier <> '' ORDER BY supplier LIMIT sqlc.arg(most);

-- name: AddUpload :exec
INSERT INTO upload (id, delivery_id, path, bytes, entries, created_by) VALUES ($1, $2, $3, $4, $5, $6);

-- name: UploadDoor :one
SELECT u.created_by, d.open FROM upload u JOIN delivery d ON d.id = u.delivery_id WHERE u.id = $1;

-- name: DeliveryOfUpload :one
SELECT delivery_id FROM upload WHERE id = $1;

-- name: DeliveryInUse :one
SELECT (EXISTS (SELECT 1 FROM plan p WHERE (p.source->>'delivery')::bigint = sqlc.arg(id)::bigint) OR EXISTS (SELECT 1 FROM decision d JOIN arrival a ON a.id = d.arrival_id WHERE a.delivery_id = sqlc.arg(id)::bigint))::boolean;

-- name: RemoveDelivery :exec
DELETE FROM delivery WHERE id = $1;

-- name: KnownUploads :many
SELECT id FROM upload WHERE id = ANY (sqlc.arg(ids)::text[]) AND NOT done;

-- name: DropUploads :exec
-- Uploads, and the lines that came of them.
WITH gone AS (DELETE FROM upload WHERE id = ANY (sqlc.arg(ids)::text[]) RETURNING id, delivery_id)
DELETE FROM arrival a USING gone g WHERE a.delivery_id = g.delivery_id AND starts_with(a.item, g.id || '/');

-- name: Uploads :many
SELECT * FROM upload WHERE delivery_id = $1 ORDER BY created_at, path, id;

-- name: UploadsAfter :many
-- A page of what was sent into a delivery, by the uploads' names.
SELECT * FROM upload WHERE delivery_id = $1 AND id > sqlc.arg(after)::text ORDER BY id LIMIT sqlc.arg(most)::int;

-- name: SetUploadEntries :exec
-- How many files an upload holds, and the hash of the whole once it has been read.
UPDATE upload SET entries = sqlc.arg(entries)::int, sha256 = coalesce(sqlc.arg(sha256), sha256) WHERE id = $1;

-- name: FinishUploads :exec
UPDATE upload SET done = true WHERE id = ANY (sqlc.arg(ids)::text[]) AND NOT done;

-- name: SameUploads :many
SELECT DISTINCT ON (u.id) u.path, d.id AS delivery_id, d.title, d.created_at
FROM upload u JOIN upload o ON o.sha256 = u.sha256 AND o.delivery_id < u.delivery_id JOIN delivery d ON d.id = o.delivery_id AND d.removed_at IS NULL
WHERE u.delivery_id = $1 AND u.entries > 1 ORDER BY u.id, d.id;

-- name: SourceOf :one
-- What a delivery comes from, and from where it is walked on.
SELECT source, cursor, cursor_line FROM delivery WHERE id = $1;

-- name: TakenItems :many
-- The items of a delivery that came behind a line.
SELECT item FROM arrival WHERE delivery_id = $1 AND id > sqlc.arg(line)::bigint;

-- name: SetCursor :exec
UPDATE delivery d SET cursor = sqlc.arg(cursor), cursor_line = coalesce((SELECT max(a.id) FROM arrival a WHERE a.delivery_id = d.id), 0) WHERE d.id = $1;

-- name: UpsertAssets :exec
INSERT INTO asset (sha256, bytes, format, width, height, likeness, palette)
SELECT unnest(sqlc.arg(sha256s)::bytea[]), unnest(sqlc.arg(bytes)::bigint[]), unnest(sqlc.arg(formats)::text[]), unnest(sqlc.arg(widths)::int[]), unnest(sqlc.arg(heights)::int[]),
    unnest(sqlc.arg(likenesses)::bigint[]), unnest(sqlc.arg(palettes)::bytea[])
ON CONFLICT (sha256) DO NOTHING;

-- name: AssetIDs :many
SELECT s.id, s.sha256, EXISTS (SELECT 1 FROM arrival a WHERE a.asset_id = s.id)::boolean AS seen
FROM asset s WHERE s.sha256 = ANY (sqlc.arg(sha256s)::bytea[]);

-- name: AddArrivals :exec
INSERT INTO arrival (delivery_id, item, path, raw_path, bytes, asset_id, problem, message, seen_before, said, origin)
SELECT sqlc.arg(delivery_id), unnest(sqlc.arg(items)::text[]), unnest(sqlc.arg(paths)::text[]), nullif(unnest(sqlc.arg(raw_paths)::bytea[]), ''),
    unnest(sqlc.arg(bytes)::bigint[]), nullif(unnest(sqlc.arg(assets)::bigint[]), 0), unnest(sqlc.arg(problems)::text[]),
    nullif(unnest(sqlc.arg(messages)::text[]), '')::jsonb, unnest(sqlc.arg(seen)::boolean[]), unnest(sqlc.arg(saids)::text[])::jsonb, unnest(sqlc.arg(origins)::text[])::jsonb
ON CONFLICT (delivery_id, item) DO NOTHING;

-- name: Arrivals :many
-- A delivery only ever gets more of them, with higher ids: who has some asks for what is behind the last. most is how many, null all.
SELECT a.id, a.path, a.bytes, a.problem, a.message, a.seen_before, a.asset_id, a.said, s.sha256, s.format, s.width, s.height, s.likeness, s.palette
FROM arrival a LEFT JOIN asset s ON s.id = a.asset_id
WHERE a.delivery_id = sqlc.arg(delivery) AND a.id > sqlc.arg(after) ORDER BY a.id LIMIT sqlc.narg(most);

-- name: KnownAssets :many
SELECT sha256 FROM asset WHERE sha256 = ANY (sqlc.arg(sha256s)::bytea[]) AND doomed_at IS NULL;

-- name: Decisions :many
SELECT d.arrival_id, d.owner_id, d.aside, d.rank, p.name AS person FROM decision d
JOIN arrival a ON a.id = d.arrival_id JOIN person p ON p.id = d.person_id WHERE a.delivery_id = $1 ORDER BY d.arrival_id, d.seq;

-- name: ForeignDecisions :one
-- How many decisions are on lines of no such delivery or for owners that are gone, and how many on lines without a picture.
SELECT count(*) FILTER (WHERE a.id IS NULL OR d.owner <> 0 AND o.id IS NULL)::int AS "foreign", count(*) FILTER (WHERE a.asset_id IS NULL AND a.id IS NOT NULL)::int AS pictureless
FROM (SELECT unnest(sqlc.arg(arrivals)::bigint[]) AS arrival, unnest(sqlc.arg(owners)::bigint[]) AS owner) d
LEFT JOIN arrival a ON a.id = d.arrival AND a.delivery_id = sqlc.arg(delivery_id) LEFT JOIN owner o ON o.id = d.owner;

-- name: AddDecisions :exec
INSERT INTO decision (arrival_id, owner_id, aside, rank, seq, person_id)
SELECT d.arrival, nullif(d.owner, 0), d.aside, d.rank, d.seq, sqlc.arg(person_id)
FROM (SELECT unnest(sqlc.arg(arrivals)::bigint[]) AS arrival, unnest(sqlc.arg(owners)::bigint[]) AS owner, unnest(sqlc.arg(asides)::boolean[]) AS aside, unnest(sqlc.arg(ranks)::int[]) AS rank, unnest(sqlc.arg(seqs)::int[]) AS seq) AS d
ON CONFLICT (arrival_id, owner_id) DO NOTHING;

-- name: TakeBackDecisions :execrows
DELETE FROM decision d USING arrival a WHERE a.id = d.arrival_id AND a.delivery_id = $1 AND d.arrival_id = ANY (sqlc.arg(arrivals)::bigint[]);

-- name: AssetFormat :one
SELECT format FROM asset WHERE sha256 = $1;

-- name: BenchState :one
SELECT d.bench_version, d.ladder, d.habits_off, d.pairs_with, c.owners, c.pictures,
    coalesce((SELECT max(a.id) FROM arrival a WHERE a.delivery_id = d.id), 0)::bigint AS arrivals,
    coalesce(d.source_id, 0)::bigint AS source, coalesce(s.references_version, 0)::bigint AS crossed, d.photos_version
FROM catalogue_state c, delivery d LEFT JOIN source s ON s.id = d.source_id WHERE d.id = $1;

-- name: SetPairsWith :execrows
-- What kinds of owners a delivery is for.
UPDATE delivery SET pairs_with = $2 WHERE id = $1;

-- name: SetChoice :execrows
UPDATE delivery SET ladder = $2, habits_off = $3 WHERE id = $1;

-- name: TouchBench :exec
UPDATE delivery SET bench_version = bench_version + 1 WHERE id = $1;
