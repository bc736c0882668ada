-- +goose Up
-- How a person is told of what ended, beside the bell: by mail to an address, never, of trouble only, or always.
CREATE TABLE mail_wish (
    person_id bigint PRIMARY KEY REFERENCES person ON DELETE CASCADE,
    address   text NOT NULL DEFAULT '',
    tells     text NOT NULL DEFAULT 'never' CHECK (tells IN ('never', 'trouble', 'always'))
);

-- Whoever starts work may tick that they want mail of it, whatever they wish else.
ALTER TABLE job ADD COLUMN mail boolean NOT NULL DEFAULT false;

-- A notice is an event: others know it by its id. left_alone are the lines of a run that were left alone.
ALTER TABLE notice ADD COLUMN event uuid NOT NULL DEFAULT gen_random_uuid(), ADD COLUMN began_at timestamptz, ADD COLUMN left_alone bigint NOT NULL DEFAULT 0;

-- Where events are sent to. The secret is sealed.
CREATE TABLE webhook (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    address    text NOT NULL,
    secret     bytea NOT NULL,
    tells      text NOT NULL CHECK (tells IN ('trouble', 'always')),
    created_by bigint NOT NULL REFERENCES person,
    created_at timestamptz NOT NULL DEFAULT now(),
    removed_at timestamptz
);
CREATE INDEX webhook_created_by ON webhook (created_by);

-- What is to be sent of notices: a mail where there is no webhook. It is written with the notice, so nothing that ended is lost.
CREATE TABLE outgoing (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    notice_id  bigint NOT NULL REFERENCES notice ON DELETE CASCADE,
    webhook_id bigint REFERENCES webhook,
    tries      int NOT NULL DEFAULT 0,
    next_at    timestamptz NOT NULL DEFAULT now(),
    sent_at    timestamptz,
    ended_at   timestamptz, -- sent, or given up
    trouble    text NOT NULL DEFAULT ''
);
CREATE INDEX outgoing_due ON outgoing (next_at) WHERE ended_at IS NULL;
CREATE INDEX outgoing_notice ON outgoing (notice_id);
CREATE INDEX outgoing_webhook ON outgoing (webhook_id) WHERE webhook_id IS NOT NULL;

-- +goose StatementBegin
CREATE OR REPLACE FUNCTION tell_of_job() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    alone bigint := 0;
    told bigint;
    trouble boolean;
BEGIN
    IF NEW.kind = 'run' THEN
        SELECT left_alone INTO alone FROM run WHERE id = NEW.subject;
    END IF;
    INSERT INTO notice (person_id, kind, subject, title, state, done, unit, notes, began_at, left_alone)
    VALUES (NEW.asked_by, NEW.kind, NEW.subject, NEW.title, NEW.state, NEW.done, NEW.unit, NEW.notes, coalesce(NEW.began_at, NEW.asked_at), coalesce(alone, 0)) RETURNING id INTO told;
    trouble := NEW.state <> 'done' OR coalesce(alone, 0) > 0;
    INSERT INTO outgoing (notice_id) SELECT told FROM mail_wish w WHERE w.person_id = NEW.asked_by AND w.address <> ''
        AND (w.tells = 'always' OR w.tells = 'trouble' AND trouble OR NEW.mail);
    INSERT INTO outgoing (notice_id, webhook_id) SELECT told, h.id FROM webhook h WHERE h.removed_at IS NULL AND (h.tells = 'always' OR trouble);
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION tell_of_job() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO notice (person_id, kind, subject, title, state, done, unit, notes)
    VALUES (NEW.asked_by, NEW.kind, NEW.subject, NEW.title, NEW.state, NEW.done, NEW.unit, NEW.notes);
    RETURN NULL;
END $$;
-- +goose StatementEnd
DROP TABLE outgoing, webhook, mail_wish;
ALTER TABLE notice DROP COLUMN event, DROP COLUMN began_at, DROP COLUMN left_alone;
ALTER TABLE job DROP COLUMN mail;
