-- +goose Up
-- What each person decided in a delivery, step by step, so that it can be undone and done again. before and after are the decisions
-- on a line as they stand in the table decision. Arrivals go with their delivery, and with it all steps.
CREATE TABLE step (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    delivery_id bigint NOT NULL REFERENCES delivery ON DELETE CASCADE,
    person_id   bigint NOT NULL REFERENCES person,
    says        jsonb NOT NULL,
    undone      boolean NOT NULL DEFAULT false,
    at          timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX step_delivery ON step (delivery_id, person_id, id);
CREATE INDEX step_at ON step (at);
CREATE TABLE step_line (
    step_id    bigint NOT NULL REFERENCES step ON DELETE CASCADE,
    arrival_id bigint NOT NULL,
    before     jsonb NOT NULL,
    after      jsonb NOT NULL DEFAULT '[]',
    PRIMARY KEY (step_id, arrival_id)
);

-- +goose Down
DROP TABLE step_line;
DROP TABLE step;
