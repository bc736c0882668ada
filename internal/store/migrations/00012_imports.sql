-- +goose Up
-- A products table that was sent: its plan is made in the background. plan_id is null until it is there.
CREATE TABLE import (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name       text NOT NULL,
    plan_id    bigint REFERENCES plan,
    created_by bigint NOT NULL REFERENCES person,
    created_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX import_plan ON import (plan_id);

-- +goose Down
DELETE FROM job WHERE kind = 'import';
DROP TABLE import;
