-- +goose Up
-- What a plan makes of each row of the table that it was made from. owner_id is whom the row is of, a new one by its future number.
CREATE TABLE plan_row (
    plan_id  bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    row      int NOT NULL,
    key      text NOT NULL,
    owner_id bigint,
    state    text NOT NULL CHECK (state IN ('goes', 'stopped', 'left_out', 'mode', 'unknown')),
    says     jsonb NOT NULL DEFAULT '[]', -- messages
    PRIMARY KEY (plan_id, row)
);

-- +goose Down
DROP TABLE plan_row;
