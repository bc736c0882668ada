-- name: AddPerson :one
INSERT INTO person (name, password_hash, role) VALUES ($1, $2, $3) RETURNING id;

-- name: PersonByName :one
SELECT * FROM person WHERE lower(name) = lower($1);

-- name: People :many
SELECT id, name, role, created_at FROM person ORDER BY lower(name);

-- name: CountPeople :one
SELECT count(*) FROM person;

-- name: AddSession :exec
INSERT INTO session (token_hash, person_id, csrf, expires_at) VALUES ($1, $2, $3, $4);

-- name: SessionPerson :one
SELECT p.id, p.name, p.role, s.csrf FROM session s JOIN person p ON p.id = s.person_id
WHERE s.token_hash = $1 AND s.expires_at > now();

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
WHERE t.token_hash = $1 AND p.id = t.person_id
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
