-- +goose Up
-- A table in hand: a sheet of a file that was sent, its rows as they are read and repaired, and what is wrong with them.
CREATE TABLE worksheet (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name        text NOT NULL,
    format      text NOT NULL DEFAULT '',
    sheets      jsonb NOT NULL DEFAULT '[]', -- the sheets of the file: name, hidden
    sheet       int NOT NULL DEFAULT 0,      -- which of them
    read        boolean NOT NULL DEFAULT false,
    header_row  int NOT NULL DEFAULT 0,
    header      jsonb NOT NULL DEFAULT '[]', -- texts, by column
    fields      jsonb NOT NULL DEFAULT '{}', -- by column, the field it is
    key         text NOT NULL DEFAULT 'sku',
    mode        text NOT NULL DEFAULT 'both' CHECK (mode IN ('create', 'update', 'both')),
    clears      boolean NOT NULL DEFAULT false, -- whether an empty cell takes away
    delivery_id bigint REFERENCES delivery ON DELETE SET NULL, -- whose pictures it names; null for all
    rows        int NOT NULL DEFAULT 0,
    stopped     int NOT NULL DEFAULT 0, -- rows that do not go in as they are
    kinds       jsonb NOT NULL DEFAULT '{}', -- of problems, how many
    version     bigint NOT NULL DEFAULT 0, -- grows with each edit, and each change of what is said above
    checked     bigint NOT NULL DEFAULT -1, -- the version that was checked
    plan_id     bigint REFERENCES plan,
    closed_at   timestamptz,
    created_by  bigint NOT NULL REFERENCES person,
    created_at  timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX worksheet_plan ON worksheet (plan_id);
CREATE INDEX worksheet_delivery ON worksheet (delivery_id);

-- more holds of a cell what is not shown: {"2": {"stored": "9520123456788", "kind": 1, "formula": ""}}.
CREATE TABLE worksheet_row (
    worksheet_id bigint NOT NULL REFERENCES worksheet ON DELETE CASCADE,
    row          int NOT NULL,
    cells        jsonb NOT NULL,
    more         jsonb,
    broken       boolean NOT NULL DEFAULT false,
    left_out     boolean NOT NULL DEFAULT false,
    PRIMARY KEY (worksheet_id, row)
);

CREATE TABLE worksheet_problem (
    worksheet_id bigint NOT NULL REFERENCES worksheet ON DELETE CASCADE,
    seq          int NOT NULL,
    row          int NOT NULL, -- 0 where it belongs to none
    col          int NOT NULL, -- -1 where it belongs to none
    kind         text NOT NULL,
    stops        boolean NOT NULL,
    value        text NOT NULL,
    repair       text,
    why          jsonb NOT NULL,
    PRIMARY KEY (worksheet_id, seq)
);
CREATE INDEX worksheet_problem_row ON worksheet_problem (worksheet_id, row);
CREATE INDEX worksheet_problem_kind ON worksheet_problem (worksheet_id, kind, row);

-- What a person edited in one go, so that they can undo it; col is -1 where a row was left out (after is 'out') or taken in again.
CREATE TABLE worksheet_step (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    worksheet_id bigint NOT NULL REFERENCES worksheet ON DELETE CASCADE,
    person_id    bigint NOT NULL REFERENCES person,
    undone       boolean NOT NULL DEFAULT false,
    at           timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX worksheet_step_person ON worksheet_step (worksheet_id, person_id, id);
CREATE TABLE worksheet_edit (
    step_id bigint NOT NULL REFERENCES worksheet_step ON DELETE CASCADE,
    row     int NOT NULL,
    col     int NOT NULL,
    before  text NOT NULL,
    after   text NOT NULL,
    PRIMARY KEY (step_id, row, col)
);

-- Pictures by their names, whatever folder they lie in.
CREATE INDEX arrival_name ON arrival ((regexp_replace(path, '^.*/', ''))) WHERE asset_id IS NOT NULL;

-- +goose Down
DROP INDEX arrival_name;
DELETE FROM job WHERE kind = 'worksheet';
DROP TABLE worksheet_edit, worksheet_step, worksheet_problem, worksheet_row, worksheet;
