-- +goose Up
-- How texts of pictures are made: for owners of a kind (all where it is empty), in and below a category (everywhere where it is null).
CREATE TABLE wording_rule (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind        text NOT NULL DEFAULT '' CHECK (kind IN ('', 'product', 'variant', 'category')),
    branch      bigint REFERENCES owner ON DELETE CASCADE,
    language    text NOT NULL,
    field       text NOT NULL CHECK (field IN ('alt', 'title', 'caption', 'description', 'file_name')),
    pattern     text NOT NULL,
    most        int NOT NULL DEFAULT 0,
    letter_case text NOT NULL DEFAULT '' CHECK (letter_case IN ('', 'upper', 'lower', 'title', 'sentence')),
    changed_by  bigint REFERENCES person,
    changed_at  timestamptz NOT NULL DEFAULT now(),
    UNIQUE NULLS NOT DISTINCT (kind, branch, language, field)
);
CREATE INDEX wording_rule_branch ON wording_rule (branch);
CREATE INDEX wording_rule_changed_by ON wording_rule (changed_by);
INSERT INTO wording_rule (language, field, pattern) VALUES ('en', 'alt', '{label}[, {role}]');

-- Published file names are unique, and so are those that were numbered because of it.
CREATE INDEX wording_file_name ON wording (text) WHERE field = 'file_name';
CREATE INDEX wording_file_base ON wording (regexp_replace(text, '-[0-9]+$', '')) WHERE field = 'file_name';

-- An owner that is retired is not paired with and not listed; its pictures, texts and decisions stay.
ALTER TABLE owner ADD COLUMN retired boolean NOT NULL DEFAULT false;
CREATE INDEX owner_retired ON owner (kind, ordinal, id) WHERE retired;

-- What kinds of owners a delivery is for; empty for all.
ALTER TABLE delivery ADD COLUMN pairs_with text NOT NULL DEFAULT '' CHECK (pairs_with IN ('', 'products', 'categories'));

-- +goose Down
ALTER TABLE delivery DROP COLUMN pairs_with;
ALTER TABLE owner DROP COLUMN retired;
DROP INDEX wording_file_name, wording_file_base;
DROP TABLE wording_rule;
