-- +goose Up
-- What an owner may say besides: a code of the house's own, its title in other languages, and attributes, which have a
-- definition and a type; options tell variants apart.
ALTER TABLE owner ADD COLUMN code text NOT NULL DEFAULT '', ADD COLUMN titles jsonb NOT NULL DEFAULT '{}', ADD COLUMN attributes jsonb NOT NULL DEFAULT '{}';
CREATE TABLE attribute (
    code    text PRIMARY KEY,
    title   text NOT NULL DEFAULT '',
    titles  jsonb NOT NULL DEFAULT '{}', -- by language
    type    text NOT NULL DEFAULT 'text' CHECK (type IN ('text', 'number', 'boolean', 'date', 'choice')),
    unit    text NOT NULL DEFAULT '',
    choices jsonb NOT NULL DEFAULT '[]'
);
CREATE INDEX owner_code ON owner (code) WHERE code <> '';
DROP INDEX owner_search;
CREATE INDEX owner_search ON owner
    USING gin ((lower(sku || ' ' || barcode || ' ' || code || ' ' || title || ' ' || titles::text || ' ' || options::text)) gin_trgm_ops) WHERE kind <> 'category';

-- What is said of a picture on an owner. A text stays when the picture or the owner goes: undo brings both back. So it refers to
-- neither.
CREATE TABLE wording (
    owner_id bigint NOT NULL,
    asset_id bigint NOT NULL,
    language text NOT NULL,
    field    text NOT NULL,
    text     text NOT NULL,
    by_hand  boolean NOT NULL DEFAULT false,
    PRIMARY KEY (owner_id, asset_id, language, field)
);
INSERT INTO wording (owner_id, asset_id, language, field, text) SELECT owner_id, asset_id, 'en', 'alt', alt FROM placement WHERE alt <> ''
    ON CONFLICT DO NOTHING;
ALTER TABLE placement DROP COLUMN alt;

-- Whether a picture may be used: until when, whose it is, and what proves it.
CREATE TABLE rights (
    asset_id bigint PRIMARY KEY REFERENCES asset ON DELETE CASCADE,
    may      text NOT NULL CHECK (may IN ('cleared', 'internal', 'not_cleared')),
    until    date,
    holder   text NOT NULL DEFAULT '',
    proof    text NOT NULL DEFAULT ''
);

-- What is computed of a picture after it has come in, by kind and by the version of what computes it.
CREATE TABLE look (
    asset_id bigint NOT NULL REFERENCES asset ON DELETE CASCADE,
    kind     text NOT NULL,
    version  int NOT NULL,
    result   jsonb NOT NULL,
    PRIMARY KEY (asset_id, kind)
);

-- What is due at a time of the day somewhere.
CREATE TABLE schedule (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    what      text NOT NULL,
    subject   bigint NOT NULL,
    next_at   timestamptz NOT NULL,
    time_zone text NOT NULL,
    UNIQUE (what, subject)
);
CREATE INDEX schedule_next ON schedule (next_at);

-- What a list, a page or a code in the photo says of a file, beside its name.
ALTER TABLE arrival ADD COLUMN said jsonb NOT NULL DEFAULT '[]';
ALTER TABLE delivery ADD COLUMN source jsonb NOT NULL DEFAULT '{"kind": "upload"}';

-- A plan may be of any kind; source is what it was made from, counts what its maker counted.
ALTER TABLE plan DROP CONSTRAINT plan_kind_check, ADD COLUMN source jsonb NOT NULL DEFAULT '{}', ADD COLUMN counts jsonb NOT NULL DEFAULT '{}';
UPDATE plan SET source = jsonb_strip_nulls(jsonb_build_object('delivery', delivery_id, 'rule', nullif(house_rule, ''), 'basis', nullif(basis, ''))),
    counts = CASE WHEN gone > 0 THEN jsonb_build_object('gone', gone) ELSE '{}' END,
    problems = (SELECT coalesce(jsonb_agg(jsonb_strip_nulls(jsonb_build_object('line', p->'line', 'column', p->'column', 'kept', p->'kept', 'code', 'as_written',
        'data', jsonb_build_object('text', p->'why')))), '[]') FROM jsonb_array_elements(problems) p);
UPDATE plan SET title = regexp_replace(title, '^(Undo: )+', '') WHERE undoes IS NOT NULL; -- the screens say what it takes back
ALTER TABLE plan DROP COLUMN delivery_id, DROP COLUMN house_rule, DROP COLUMN basis, DROP COLUMN gone;
CREATE INDEX plan_delivery ON plan (((source->>'delivery')::bigint));

-- A line changes a thing of any subject. before and after are merge patches (RFC 7396) with the fields that change.
ALTER TABLE plan_change DROP CONSTRAINT plan_change_subject_check;
ALTER TABLE plan_change RENAME COLUMN owner_id TO subject_id;
DROP INDEX plan_change_owner;
-- +goose StatementBegin
CREATE FUNCTION fields_apart(a jsonb, b jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT coalesce(jsonb_object_agg(k, CASE WHEN jsonb_typeof(a->k) = 'object' AND jsonb_typeof(coalesce(b->k, '{}')) = 'object'
            OR a->k IS NULL AND jsonb_typeof(b->k) = 'object'
        THEN (SELECT coalesce(jsonb_object_agg(i, coalesce(a->k, '{}')->i), '{}') FROM jsonb_object_keys(coalesce(a->k, '{}') || coalesce(b->k, '{}')) i
            WHERE coalesce(a->k, '{}')->i IS DISTINCT FROM coalesce(b->k, '{}')->i)
        ELSE a->k END), '{}')
    FROM jsonb_object_keys(a || b) k WHERE a->k IS DISTINCT FROM b->k
$$;
-- +goose StatementEnd
UPDATE plan_change SET before = CASE before->>'title' WHEN '' THEN before - 'title' ELSE before END,
    after = CASE after->>'title' WHEN '' THEN after - 'title' ELSE after END WHERE subject = 'owner' AND '' IN (before->>'title', after->>'title');
UPDATE plan_change SET
    before = CASE WHEN subject = 'pictures' THEN jsonb_build_object('pictures', before) WHEN jsonb_typeof(before) = 'object' AND jsonb_typeof(after) = 'object'
        THEN fields_apart(before, after) WHEN jsonb_typeof(before) = 'object' THEN before END,
    after = CASE WHEN subject = 'pictures' THEN jsonb_build_object('pictures', after) WHEN jsonb_typeof(before) = 'object' AND jsonb_typeof(after) = 'object'
        THEN fields_apart(after, before) WHEN jsonb_typeof(after) = 'object' THEN after END;
DROP FUNCTION fields_apart;
CREATE UNIQUE INDEX plan_change_subject ON plan_change (plan_id, subject, subject_id);

-- Which owners and assets the lines of plans touch. It refers to no plan, as each of so many rows would be checked by itself.
CREATE TABLE ledger_ref (
    plan_id bigint NOT NULL,
    seq     int NOT NULL,
    class   text NOT NULL,
    id      bigint NOT NULL,
    PRIMARY KEY (plan_id, seq, class, id)
);
INSERT INTO ledger_ref SELECT DISTINCT plan_id, seq, 'owner', subject_id FROM plan_change;
INSERT INTO ledger_ref SELECT DISTINCT plan_id, seq, 'asset', (p->>'asset')::bigint FROM plan_change,
    jsonb_array_elements((before->'pictures') || (after->'pictures')) p WHERE subject = 'pictures';
INSERT INTO ledger_ref SELECT DISTINCT plan_id, seq, 'owner', o::bigint FROM plan_change,
    unnest(ARRAY[before->>'parent', after->>'parent', before->>'category', after->>'category']) o WHERE subject = 'owner' AND o IS NOT NULL ON CONFLICT DO NOTHING;
CREATE INDEX ledger_ref_thing ON ledger_ref (class, id);

-- A line that is held is left alone until somebody releases it.
CREATE TABLE plan_hold (
    plan_id     bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    seq         int NOT NULL,
    code        text NOT NULL,
    data        jsonb NOT NULL DEFAULT '{}',
    released_by bigint REFERENCES person,
    released_at timestamptz,
    reason      text NOT NULL DEFAULT '',
    PRIMARY KEY (plan_id, seq)
);

-- Why a line was left alone is a code with data; the sentence is made where it is shown.
ALTER TABLE run_entry ADD COLUMN code text NOT NULL DEFAULT '', ADD COLUMN data jsonb NOT NULL DEFAULT '{}';
UPDATE run_entry SET code = CASE why
        WHEN 'It changed since the plan was made.' THEN 'changed_since' WHEN 'The product is no longer in the catalogue.' THEN 'gone_since'
        WHEN 'It was taken back already.' THEN 'undone_already' WHEN 'Its SKU was taken since the plan was made.' THEN 'sku_taken'
        WHEN 'What it belongs to is not in the catalogue.' THEN 'ground_missing' WHEN 'It is in the catalogue already.' THEN 'there_already'
        WHEN 'It has pictures, or something belongs to it, that came since.' THEN 'owner_in_use' WHEN 'It would stand on itself.' THEN 'own_ground'
        ELSE 'as_written' END,
    data = CASE WHEN why IN ('It changed since the plan was made.', 'The product is no longer in the catalogue.', 'It was taken back already.',
        'Its SKU was taken since the plan was made.', 'What it belongs to is not in the catalogue.', 'It is in the catalogue already.',
        'It has pictures, or something belongs to it, that came since.', 'It would stand on itself.') THEN '{}' ELSE jsonb_build_object('text', why) END
    WHERE why <> '';
ALTER TABLE run_entry DROP COLUMN why, DROP CONSTRAINT run_entry_run_id_fkey; -- each of so many rows was checked by itself
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION settle_undo(of_run bigint, seqs int[]) RETURNS void LANGUAGE plpgsql AS $$
DECLARE
    at_plan bigint;
    target bigint;
    lines int[] := seqs;
    taken_back boolean := true;
    changed int;
BEGIN
    SELECT p.id, p.undoes INTO at_plan, target FROM run r JOIN plan p ON p.id = r.plan_id WHERE r.id = of_run;
    WHILE target IS NOT NULL LOOP
        SELECT array_agg(c.undoes) INTO lines FROM plan_change c WHERE c.plan_id = at_plan AND c.seq = ANY (lines) AND c.undoes IS NOT NULL;
        UPDATE run_entry SET undone = taken_back WHERE run_id = target AND seq = ANY (lines) AND code = '' AND undone <> taken_back;
        GET DIAGNOSTICS changed = ROW_COUNT;
        UPDATE run SET undone = undone + CASE WHEN taken_back THEN changed ELSE -changed END WHERE id = target;
        SELECT p.id, p.undoes INTO at_plan, target FROM run r JOIN plan p ON p.id = r.plan_id WHERE r.id = target;
        taken_back := NOT taken_back;
    END LOOP;
END
$$;
-- +goose StatementEnd

-- What is wrong with an arrival, a delivery's notes and a job's note are codes with data, too.
ALTER TABLE arrival ADD COLUMN message jsonb;
UPDATE arrival SET message = jsonb_build_object('code', 'as_written', 'data', jsonb_build_object('text', detail)) WHERE detail <> '';
ALTER TABLE arrival DROP COLUMN detail;
ALTER TABLE delivery ADD COLUMN notes jsonb NOT NULL DEFAULT '[]';
UPDATE delivery SET notes = jsonb_build_array(jsonb_build_object('code', 'as_written', 'data', jsonb_build_object('text', note))) WHERE note <> '';
ALTER TABLE delivery DROP COLUMN note;
ALTER TABLE job ADD COLUMN notes jsonb NOT NULL DEFAULT '[]';
UPDATE job SET notes = jsonb_build_array(jsonb_build_object('code', 'as_written', 'data', jsonb_build_object('text', note))) WHERE note <> '';
ALTER TABLE job DROP COLUMN note;

-- +goose Down
-- +goose StatementBegin
DO $$
BEGIN
    RAISE EXCEPTION 'lines of plans hold only what they change, so the records of an earlier version can not be made of them; restore a backup';
END
$$;
-- +goose StatementEnd
