-- +goose Up
-- What a picture table holds, saved under a name: its columns in their order, each with its header, and how large its previews are.
CREATE TABLE shot_preset (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name     text NOT NULL UNIQUE,
    columns  jsonb NOT NULL,
    side     int NOT NULL,
    saved_by bigint NOT NULL REFERENCES person,
    saved_at timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE shot_preset;
