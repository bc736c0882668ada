-- name: AddPerson :one
INSERT INTO person (name, password_hash, role) VALUES ($1, $2, $3) RETURNING id;

-- name: PersonByName :one
SELECT * FROM person WHERE lower(name) = lower($1);

-- name: People :many
SELECT p.id, p.name, p.role, p.created_at, p.ended_at,
    (SELECT count(*) FROM session s WHERE s.person_id = p.id AND s.expires_at > now())::int AS sessions,
    (SELECT count(*) FROM access_token t WHERE t.person_id = p.id)::int AS tokens,
    coalesce((SELECT max(a.at) FROM audit a WHERE a.subject_id = p.id AND a.code = 'signed_in'), 'epoch')::timestamptz AS last_seen
FROM person p WHERE (p.ended_at IS NOT NULL, lower(p.name), p.id) > (sqlc.arg(ended)::boolean, lower(sqlc.arg(name)::text), sqlc.arg(after)::bigint)
ORDER BY p.ended_at IS NOT NULL, lower(p.name), p.id LIMIT sqlc.arg(most);

-- name: PersonByID :one
SELECT * FROM person WHERE id = $1;

-- name: LockPerson :one
SELECT * FROM person WHERE id = $1 FOR UPDATE;

-- name: CountAdmins :one
-- Those who may still sign in, but for one.
SELECT count(*) FROM person WHERE role = 'admin' AND ended_at IS NULL AND id <> $1;

-- name: ChangePerson :exec
UPDATE person SET name = $2, role = $3, ended_at = $4 WHERE id = $1;

-- name: SetPassword :exec
UPDATE person SET password_hash = $2 WHERE id = $1;

-- name: Settings :one
SELECT settings FROM person WHERE id = $1;

-- name: LockSettings :one
SELECT settings FROM person WHERE id = $1 FOR UPDATE;

-- name: SetSettings :exec
UPDATE person SET settings = $2 WHERE id = $1;

-- name: EndSessions :execrows
-- All sessions of a person but one.
DELETE FROM session WHERE person_id = $1 AND token_hash <> sqlc.arg(but)::bytea;

-- name: RevokeTokens :exec
DELETE FROM access_token WHERE person_id = $1;

-- name: AddAudit :exec
INSERT INTO audit (person_id, subject_id, code, data) VALUES ($1, $2, $3, $4);

-- name: Audit :many
SELECT a.id, a.at, a.code, a.data, coalesce(p.name, '') AS person, coalesce(s.name, '') AS subject
FROM audit a LEFT JOIN person p ON p.id = a.person_id LEFT JOIN person s ON s.id = a.subject_id
WHERE a.id < sqlc.arg(before) ORDER BY a.id DESC LIMIT sqlc.arg(most);

-- name: CountPeople :one
SELECT count(*) FROM person;

-- name: AddSession :exec
INSERT INTO session (token_hash, person_id, csrf, expires_at) VALUES ($1, $2, $3, $4);

-- name: SessionPerson :one
SELECT p.id, p.name, p.role, s.csrf FROM session s JOIN person p ON p.id = s.person_id
WHERE s.token_hash = $1 AND s.expires_at > now() AND p.ended_at IS NULL;

-- name: EndSession :many
DELETE FROM session WHERE token_hash = $1 OR expires_at < now() RETURNING person_id;

-- name: AddToken :one
INSERT INTO access_token (person_id, name, token_hash) VALUES ($1, $2, $3) RETURNING id, created_at;

-- name: Tokens :many
SELECT id, name, created_at, used_at FROM access_token WHERE person_id = $1 ORDER BY id;

-- name: RevokeToken :execrows
DELETE FROM access_token WHERE id = $1 AND person_id = $2;

-- name: TokenPerson :one
UPDATE access_token t SET used_at = now() FROM person p
WHERE t.token_hash = $1 AND p.id = t.person_id AND p.ended_at IS NULL
RETURNING p.id, p.name, p.role;

-- name: AddSigninAttempt :one
INSERT INTO signin_attempt (subject) VALUES ($1) RETURNING id;

-- name: CountSigninAttempts :one
SELECT count(*) FROM signin_attempt WHERE subject = $1 AND at > now() - interval '15 minutes';

-- name: DropSigninAttempt :exec
DELETE FROM signin_attempt WHERE id = $1;

-- name: ForgetSigninAttempts :exec
DELETE FROM signin_attempt WHERE subject = $1 OR at < now() - interval '1 day';

-- name: PeopleNames :many
SELECT name FROM person;

-- name: ClearPeople :exec
-- Sessions that ran out, and attempts to sign in that count no more.
WITH sessions AS (DELETE FROM session WHERE expires_at < now()) DELETE FROM signin_attempt WHERE at < now() - interval '1 day';
