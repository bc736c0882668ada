-- +goose Up
-- Where a delivery stands, told by itself and by the job that takes it in, is said in one place.
CREATE FUNCTION delivery_state(open boolean, job text) RETURNS text LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN open THEN 'open' WHEN job = 'working' THEN 'taking_in' WHEN job = 'done' THEN 'ready' ELSE coalesce(job, 'waiting') END
$$;

-- +goose Down
DROP FUNCTION delivery_state;
