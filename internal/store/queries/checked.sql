-- name: Checked :many
SELECT c.arrival_id, c.owners FROM checked c JOIN arrival a ON a.id = c.arrival_id WHERE a.delivery_id = $1;

-- name: AddChecked :exec
INSERT INTO checked (arrival_id, owners, person_id)
SELECT unnest(sqlc.arg(arrivals)::bigint[]), unnest(sqlc.arg(owners)::text[]), sqlc.arg(person_id)
ON CONFLICT (arrival_id) DO UPDATE SET owners = excluded.owners, person_id = excluded.person_id, at = now();

-- name: RemoveChecked :exec
DELETE FROM checked c USING arrival a WHERE a.id = c.arrival_id AND a.delivery_id = $1 AND c.arrival_id = ANY (sqlc.arg(arrivals)::bigint[]);
