-- name: MailWish :one
SELECT address, tells FROM mail_wish WHERE person_id = $1;

-- name: SetMailWish :exec
INSERT INTO mail_wish (person_id, address, tells) VALUES (@person, @address, @tells) ON CONFLICT (person_id) DO UPDATE SET address = excluded.address, tells = excluded.tells;

-- name: WantMail :exec
UPDATE job SET mail = true WHERE kind = $1 AND subject = $2;

-- name: AddWebhook :one
INSERT INTO webhook (address, secret, tells, created_by) VALUES (@address, @secret, @tells, @person) RETURNING id;

-- name: SealWebhook :exec
UPDATE webhook SET secret = $2 WHERE id = $1;

-- name: RemoveWebhook :execrows
UPDATE webhook SET removed_at = now() WHERE id = $1 AND removed_at IS NULL;

-- name: Webhooks :many
SELECT w.id, w.address, w.tells, w.created_at, p.name AS person FROM webhook w JOIN person p ON p.id = w.created_by WHERE w.removed_at IS NULL AND w.id > @after ORDER BY w.id LIMIT @most;

-- name: NextOutgoing :one
-- What is due, for one who sends it: others leave it alone meanwhile.
SELECT o.id, o.tries, n.event::text AS event, n.at, n.kind, n.subject, n.title, n.state, n.done, n.unit, n.notes, n.began_at, n.left_alone, p.name AS person,
    coalesce(m.address, '')::text AS mail, coalesce(w.id, 0)::bigint AS webhook, coalesce(w.address, '')::text AS address, w.secret, (w.removed_at IS NOT NULL)::boolean AS removed, coalesce(pl.kind, '')::text AS plan
FROM outgoing o JOIN notice n ON n.id = o.notice_id JOIN person p ON p.id = n.person_id LEFT JOIN mail_wish m ON m.person_id = n.person_id
LEFT JOIN webhook w ON w.id = o.webhook_id
LEFT JOIN run r ON n.kind = 'run' AND r.id = n.subject LEFT JOIN plan pl ON pl.id = r.plan_id
WHERE o.ended_at IS NULL AND o.next_at <= now() ORDER BY o.next_at, o.id LIMIT 1 FOR UPDATE OF o SKIP LOCKED;

-- name: OutgoingSent :exec
UPDATE outgoing SET sent_at = now(), ended_at = now(), tries = tries + 1, trouble = '' WHERE id = $1;

-- name: OutgoingFailed :exec
UPDATE outgoing SET tries = tries + 1, trouble = @trouble, next_at = now() + make_interval(secs => @seconds::float8), ended_at = CASE WHEN @final::boolean THEN now() END WHERE id = @id;

-- name: OutgoingOf :many
-- The last that was to be sent to a person by mail, the newest first.
SELECT o.id, n.at, n.title, o.tries, o.sent_at, (o.ended_at IS NOT NULL)::boolean AS ended, o.trouble, o.next_at FROM outgoing o JOIN notice n ON n.id = o.notice_id
WHERE n.person_id = @person AND o.webhook_id IS NULL ORDER BY o.id DESC LIMIT @most;

-- name: OutgoingToHooks :many
SELECT o.id, n.at, n.title, o.tries, o.sent_at, (o.ended_at IS NOT NULL)::boolean AS ended, o.trouble, o.next_at, o.webhook_id::bigint AS webhook FROM outgoing o JOIN notice n ON n.id = o.notice_id
WHERE o.webhook_id IS NOT NULL ORDER BY o.id DESC LIMIT @most;
