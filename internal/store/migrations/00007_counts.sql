-- +goose Up
-- How much of what came with a delivery is kept beside it, so that a list of deliveries costs their number and not that of their
-- lines. The database counts, in the transaction that writes; nobody else writes here.
CREATE TABLE delivery_count (
    delivery_id bigint PRIMARY KEY REFERENCES delivery ON DELETE CASCADE,
    lines       int NOT NULL,
    pictures    int NOT NULL,
    problems    int NOT NULL,
    seen        int NOT NULL,
    bytes       numeric NOT NULL -- sizes that an archive only claims can exceed a bigint together
);

INSERT INTO delivery_count
SELECT delivery_id, count(*), count(asset_id), count(*) FILTER (WHERE problem <> ''), count(*) FILTER (WHERE seen_before), sum(bytes) FROM arrival GROUP BY delivery_id;

-- +goose StatementBegin
CREATE FUNCTION count_arrivals() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'DELETE' THEN
        INSERT INTO delivery_count AS c
        SELECT delivery_id, count(*), count(asset_id), count(*) FILTER (WHERE problem <> ''), count(*) FILTER (WHERE seen_before), sum(bytes) FROM came GROUP BY delivery_id ORDER BY delivery_id
        ON CONFLICT (delivery_id) DO UPDATE SET lines = c.lines + excluded.lines, pictures = c.pictures + excluded.pictures, problems = c.problems + excluded.problems,
            seen = c.seen + excluded.seen, bytes = c.bytes + excluded.bytes;
    END IF;
    IF TG_OP <> 'INSERT' THEN
        UPDATE delivery_count c SET lines = c.lines - g.lines, pictures = c.pictures - g.pictures, problems = c.problems - g.problems, seen = c.seen - g.seen, bytes = c.bytes - g.bytes
        FROM (SELECT delivery_id, count(*) AS lines, count(asset_id) AS pictures, count(*) FILTER (WHERE problem <> '') AS problems, count(*) FILTER (WHERE seen_before) AS seen,
            sum(bytes) AS bytes FROM went GROUP BY delivery_id) g WHERE g.delivery_id = c.delivery_id;
    END IF;
    RETURN NULL;
END
$$;
-- +goose StatementEnd
CREATE TRIGGER arrivals_came AFTER INSERT ON arrival REFERENCING NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_arrivals();
CREATE TRIGGER arrivals_went AFTER DELETE ON arrival REFERENCING OLD TABLE AS went FOR EACH STATEMENT EXECUTE FUNCTION count_arrivals();
CREATE TRIGGER arrivals_changed AFTER UPDATE ON arrival REFERENCING OLD TABLE AS went NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_arrivals();

-- +goose Down
DROP TRIGGER arrivals_came ON arrival;
DROP TRIGGER arrivals_went ON arrival;
DROP TRIGGER arrivals_changed ON arrival;
DROP FUNCTION count_arrivals;
DROP TABLE delivery_count;
