-- +goose Up
-- An archive that somebody asked for: whoever has the ticket and is that person may fetch it for an hour.
CREATE TABLE download (
    ticket     text PRIMARY KEY,
    person_id  bigint NOT NULL REFERENCES person,
    title      text NOT NULL,
    arrivals   bigint[] NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX download_person ON download (person_id);

-- +goose Down
DROP TABLE download;
