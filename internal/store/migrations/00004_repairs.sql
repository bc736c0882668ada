-- +goose Up
-- Who sends a file; only they, and admins, may go on with it.
ALTER TABLE upload ADD COLUMN created_by bigint REFERENCES person;
UPDATE upload u SET created_by = d.created_by FROM delivery d WHERE d.id = u.delivery_id;
ALTER TABLE upload ALTER COLUMN created_by SET NOT NULL;

-- What a person decided outlives an owner that is taken out: redo brings both back. Nothing cascades into decisions.
ALTER TABLE decision DROP CONSTRAINT decision_owner_id_fkey, DROP CONSTRAINT decision_arrival_id_fkey,
    ADD FOREIGN KEY (arrival_id) REFERENCES arrival;

-- A plan knows what it was made from, so that it can say that this has changed, and how many pictures it takes away.
ALTER TABLE plan ADD COLUMN basis text NOT NULL DEFAULT '', ADD COLUMN gone int NOT NULL DEFAULT 0;

-- undoes is the line, in the plan of the run that is undone, which this line takes back. undone is kept by line and counted
-- by run in the transaction that undoes: what a run still stands for is what its lines say.
ALTER TABLE plan_change ADD COLUMN undoes int;
ALTER TABLE run_entry ADD COLUMN undone boolean NOT NULL DEFAULT false;
ALTER TABLE run ADD COLUMN undone int NOT NULL DEFAULT 0;
UPDATE plan_change u SET undoes = c.seq FROM plan p JOIN run r ON r.id = p.undoes JOIN plan_change c ON c.plan_id = r.plan_id
    WHERE p.id = u.plan_id AND c.owner_id = u.owner_id AND c.subject = u.subject;

-- settle_undo notes that lines of a run were made which take another run's lines back. Where that run was an undo itself,
-- the lines that it had taken back stand again, and so on.
-- +goose StatementBegin
CREATE FUNCTION settle_undo(of_run bigint, seqs int[]) RETURNS void LANGUAGE plpgsql AS $$
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
        UPDATE run_entry SET undone = taken_back WHERE run_id = target AND seq = ANY (lines) AND why = '' AND undone <> taken_back;
        GET DIAGNOSTICS changed = ROW_COUNT;
        UPDATE run SET undone = undone + CASE WHEN taken_back THEN changed ELSE -changed END WHERE id = target;
        SELECT p.id, p.undoes INTO at_plan, target FROM run r JOIN plan p ON p.id = r.plan_id WHERE r.id = target;
        taken_back := NOT taken_back;
    END LOOP;
END
$$;
-- +goose StatementEnd
-- +goose StatementBegin
DO $$
DECLARE r record;
BEGIN
    FOR r IN SELECT run.id FROM run JOIN plan ON plan.id = run.plan_id WHERE plan.undoes IS NOT NULL ORDER BY run.id LOOP
        PERFORM settle_undo(r.id, (SELECT array_agg(seq) FROM run_entry WHERE run_id = r.id AND why = ''));
    END LOOP;
END
$$;
-- +goose StatementEnd

-- The numbers of categories, by the one above and the folded title: two imports planned side by side mean one category.
CREATE TABLE category_seat (
    parent bigint NOT NULL,
    title  text NOT NULL,
    id     bigint NOT NULL,
    PRIMARY KEY (parent, title)
);

-- Searching: what is said of an owner in one text, and the beginnings of SKUs.
DROP INDEX owner_search;
CREATE INDEX owner_search ON owner USING gin ((lower(sku || ' ' || barcode || ' ' || title || ' ' || options::text)) gin_trgm_ops) WHERE kind <> 'category';
CREATE INDEX owner_identity ON owner (identity text_pattern_ops);
CREATE INDEX owner_barcode ON owner (barcode) WHERE barcode <> '';

-- Attempts to sign in are counted before the password is looked at, by name and network together.
DROP TABLE signin_failure;
CREATE TABLE signin_attempt (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    subject text NOT NULL,
    at      timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX signin_attempt_subject ON signin_attempt (subject, at);

-- +goose Down
DROP TABLE signin_attempt;
CREATE TABLE signin_failure (subject text NOT NULL, at timestamptz NOT NULL DEFAULT now());
CREATE INDEX signin_failure_subject ON signin_failure (subject, at);
DROP INDEX owner_barcode, owner_identity, owner_search;
CREATE INDEX owner_search ON owner USING gin ((lower(sku || ' ' || barcode || ' ' || title || ' ' || options::text)) gin_trgm_ops);
DROP TABLE category_seat;
DROP FUNCTION settle_undo;
ALTER TABLE run DROP COLUMN undone;
ALTER TABLE run_entry DROP COLUMN undone;
ALTER TABLE plan_change DROP COLUMN undoes;
ALTER TABLE plan DROP COLUMN basis, DROP COLUMN gone;
DELETE FROM decision d WHERE owner_id IS NOT NULL AND NOT EXISTS (SELECT FROM owner o WHERE o.id = d.owner_id);
ALTER TABLE decision DROP CONSTRAINT decision_arrival_id_fkey, ADD FOREIGN KEY (arrival_id) REFERENCES arrival ON DELETE CASCADE,
    ADD FOREIGN KEY (owner_id) REFERENCES owner ON DELETE CASCADE;
ALTER TABLE upload DROP COLUMN created_by;
