-- +goose Up
-- Lines that a person has read through and found right, with the owners that they had then: with other owners, they are to be read again.
CREATE TABLE checked (
    arrival_id bigint PRIMARY KEY REFERENCES arrival ON DELETE CASCADE,
    owners     text NOT NULL,
    person_id  bigint NOT NULL REFERENCES person,
    at         timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX checked_person ON checked (person_id);

-- +goose Down
DROP TABLE checked;
