-- +goose Up
-- A table that is imported is a table in hand; what made plans of products tables by themselves is gone, and the plans stay.
DELETE FROM job WHERE kind = 'import';
DROP TABLE import;

-- +goose Down
CREATE TABLE import (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name       text NOT NULL,
    plan_id    bigint REFERENCES plan,
    created_by bigint NOT NULL REFERENCES person,
    created_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX import_plan ON import (plan_id);
