-- name: AddDownload :execrows
-- Of the lines those that are the delivery's and hold a picture.
INSERT INTO download (ticket, person_id, title, arrivals)
SELECT sqlc.arg(ticket), sqlc.arg(person_id), d.title, array_agg(a.id ORDER BY a.id)
FROM delivery d JOIN arrival a ON a.delivery_id = d.id AND a.asset_id IS NOT NULL
WHERE d.id = sqlc.arg(delivery_id) AND a.id = ANY (sqlc.arg(arrivals)::bigint[]) GROUP BY d.id;

-- name: Download :one
SELECT title, arrivals FROM download WHERE ticket = $1 AND person_id = $2 AND created_at > now() - interval '1 hour';

-- name: DownloadFiles :many
SELECT a.id, a.path, encode(s.sha256, 'hex')::text AS sha, s.bytes FROM arrival a JOIN asset s ON s.id = a.asset_id
WHERE a.id = ANY (sqlc.arg(arrivals)::bigint[]) ORDER BY a.id;

-- name: ClearDownloads :exec
DELETE FROM download WHERE created_at < now() - interval '1 day';

-- name: AddPictureDownload :execrows
-- Of pictures the line that brought each first; those that no line brought are left out.
INSERT INTO download (ticket, person_id, title, arrivals)
SELECT sqlc.arg(ticket), sqlc.arg(person_id), sqlc.arg(title), array_agg(f.id ORDER BY f.id)
FROM (SELECT min(a.id) AS id FROM arrival a WHERE a.asset_id = ANY (sqlc.arg(assets)::bigint[]) GROUP BY a.asset_id) f HAVING count(*) > 0;
