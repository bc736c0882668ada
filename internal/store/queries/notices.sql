-- name: Notices :many
SELECT id, at, kind, subject, title, state, done, unit, notes, read_at FROM notice
WHERE person_id = $1 AND id < sqlc.arg(before) ORDER BY id DESC LIMIT sqlc.arg(most);

-- name: UnreadNotices :one
SELECT count(*)::int FROM notice WHERE person_id = $1 AND read_at IS NULL;

-- name: ReadNotices :exec
UPDATE notice SET read_at = now() WHERE person_id = $1 AND id <= sqlc.arg(up_to) AND read_at IS NULL;

-- name: ClearNotices :exec
DELETE FROM notice WHERE at < now() - make_interval(days => sqlc.arg(days)::int);
