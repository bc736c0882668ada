-- +goose Up
-- What the cells of options and attributes are: by column.
ALTER TABLE worksheet ADD COLUMN types jsonb NOT NULL DEFAULT '{}';

-- Which column is which field, saved under a name for tables with the same header. header is its texts as one.
CREATE TABLE assignment (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name       text NOT NULL UNIQUE,
    header     text NOT NULL,
    fields     jsonb NOT NULL,
    types      jsonb NOT NULL,
    key        text NOT NULL,
    mode       text NOT NULL,
    clears     boolean NOT NULL,
    saved_by   bigint NOT NULL REFERENCES person,
    saved_at   timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX assignment_header ON assignment (md5(header));

-- +goose Down
DROP TABLE assignment;
ALTER TABLE worksheet DROP COLUMN types;
