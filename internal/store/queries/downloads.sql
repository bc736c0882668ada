-- name: AddDownload :execrows
-- Of the lines those that are the delivery's and hold a picture.
INSERT INTO download (ticket, person_id, title, arrivals)
SELECT sqlc.arg(ticket), sqlc.arg(person_id), d.title, array_agg(a.id ORDER BY a.id)
FROM delivery d JOIN arrival a ON a.delivery_id = d.id AND a.asset_id IS NOT NULL
WHERE d.id = sqlc.arg(delivery_id) AND a.id = ANY (sqlc.arg(arrivals)::bigint[]) GROUP BY d.id;

-- name: Download :one
SELECT title, arrivals, assets FROM download WHERE ticket = $1 AND person_id = $2 AND created_at > now() - interval '1 hour';

-- name: DownloadFiles :many
SELECT a.id, a.path, encode(s.sha256, 'hex')::text AS sha, s.bytes FROM arrival a JOIN asset s ON s.id = a.asset_id
WHERE a.id = ANY (sqlc.arg(arrivals)::bigint[]) ORDER BY a.id;

-- name: ClearDownloads :exec
DELETE FROM download WHERE created_at < now() - interval '1 day';

-- name: AddPictureDownload :execrows
-- Of pictures, in their order; those that are not here are left out.
INSERT INTO download (ticket, person_id, title, arrivals, assets)
SELECT sqlc.arg(ticket), sqlc.arg(person_id), sqlc.arg(title), '{}', array_agg(s.id ORDER BY w.n)
FROM unnest(sqlc.arg(assets)::bigint[]) WITH ORDINALITY AS w (id, n) JOIN asset s ON s.id = w.id AND s.doomed_at IS NULL HAVING count(*) > 0;

-- name: DownloadPictures :many
-- Pictures under the path that each came by first; one whose lines are gone has its hash for a name.
SELECT s.id, coalesce(n.path, encode(s.sha256, 'hex') || '.' || lower(s.format))::text AS path, encode(s.sha256, 'hex')::text AS sha
FROM unnest(sqlc.arg(assets)::bigint[]) WITH ORDINALITY AS w (id, n) JOIN asset s ON s.id = w.id
LEFT JOIN LATERAL (SELECT a.path FROM arrival a WHERE a.asset_id = s.id ORDER BY a.id LIMIT 1) n ON true ORDER BY w.n;
