-- +goose Up
-- What refers to a row is looked up when that row is taken out: never by reading the whole table.
CREATE INDEX session_person ON session (person_id);
CREATE INDEX access_token_person ON access_token (person_id);
CREATE INDEX plan_delivery ON plan (delivery_id);
CREATE INDEX plan_undoes ON plan (undoes);

-- +goose Down
DROP INDEX session_person, access_token_person, plan_delivery, plan_undoes;
