-- name: AddWorksheet :one
INSERT INTO worksheet (name, format, sheets, sheet, created_by, found_in, found_item)
VALUES (@name, @format, @sheets, @sheet, @created_by, sqlc.narg(found_in), sqlc.narg(found_item)) RETURNING id;

-- name: WorksheetByID :one
SELECT w.*, j.state, j.notes, p.name AS person FROM worksheet w JOIN job j ON j.kind = 'worksheet' AND j.subject = w.id
JOIN person p ON p.id = w.created_by WHERE w.id = $1;

-- name: Worksheets :many
-- Tables in hand, the newest first, before one by its number.
SELECT w.id, w.name, w.rows, w.stopped, w.kinds, w.plan_id, w.created_at, (w.closed_at IS NOT NULL)::boolean AS closed, j.state, p.name AS person
FROM worksheet w JOIN job j ON j.kind = 'worksheet' AND j.subject = w.id JOIN person p ON p.id = w.created_by
WHERE w.id < @before::bigint AND (@closed::boolean OR w.closed_at IS NULL) ORDER BY w.id DESC LIMIT @most;

-- name: LockWorksheet :one
SELECT * FROM worksheet WHERE id = $1 FOR UPDATE;

-- name: SetWorksheetRead :exec
UPDATE worksheet SET read = true, header_row = @header_row, header = @header, fields = @fields, types = @types, remarks = @remarks, rows = @rows WHERE id = @id;

-- name: SetWorksheetChecked :exec
UPDATE worksheet SET checked = @version, stopped = @stopped, kinds = @kinds, waiting = @waiting WHERE id = @id;

-- name: DescribeWorksheet :exec
-- What is said of a table: what is null stays. Another sheet is read again.
UPDATE worksheet SET fields = coalesce(sqlc.narg(fields), fields), types = coalesce(sqlc.narg(types), types), key = coalesce(sqlc.narg(key), key), mode = coalesce(sqlc.narg(mode), mode),
    clears = coalesce(sqlc.narg(clears), clears), choice = coalesce(sqlc.narg(choice), choice), delivery_id = CASE WHEN @sets_delivery::boolean THEN nullif(@delivery::bigint, 0) ELSE delivery_id END,
    read = read AND coalesce(sqlc.narg(sheet), sheet) = sheet, sheet = coalesce(sqlc.narg(sheet), sheet),
    closed_at = CASE WHEN sqlc.narg(closed)::boolean IS NULL THEN closed_at WHEN sqlc.narg(closed)::boolean THEN now() END,
    version = version + CASE WHEN @again::boolean THEN 1 ELSE 0 END
WHERE id = @id;

-- name: TouchWorksheet :exec
UPDATE worksheet SET version = version + 1, plan_id = NULL WHERE id = $1;

-- name: SetWorksheetPlan :exec
UPDATE worksheet SET plan_id = @plan WHERE id = @id;

-- name: RemoveWorksheet :execrows
DELETE FROM worksheet WHERE id = $1;

-- name: ForgetWorksheetRows :exec
DELETE FROM worksheet_row WHERE worksheet_id = $1;

-- name: AddWorksheetRows :copyfrom
INSERT INTO worksheet_row (worksheet_id, row, cells, more, broken) VALUES (@worksheet_id, @row, @cells, @more, @broken);

-- name: WorksheetRows :many
SELECT row, cells, more, broken, left_out FROM worksheet_row WHERE worksheet_id = @id AND row > @after ORDER BY row LIMIT @most;

-- name: WorksheetRowsOfKind :many
-- Rows that have a problem of a kind.
SELECT r.row, r.cells, r.more, r.broken, r.left_out FROM worksheet_row r WHERE r.worksheet_id = @id AND r.row > @after
    AND EXISTS (SELECT FROM worksheet_problem p WHERE p.worksheet_id = r.worksheet_id AND p.row = r.row AND p.kind = @kind) ORDER BY r.row LIMIT @most;

-- name: WorksheetRowsAt :many
SELECT row, cells, more, broken, left_out FROM worksheet_row WHERE worksheet_id = @id AND row = ANY (sqlc.arg(rows)::int[]) ORDER BY row FOR UPDATE;

-- name: ForgetWorksheetProblems :exec
DELETE FROM worksheet_problem WHERE worksheet_id = $1;

-- name: AddWorksheetProblems :copyfrom
INSERT INTO worksheet_problem (worksheet_id, seq, row, col, kind, stops, value, repair, why) VALUES (@worksheet_id, @seq, @row, @col, @kind, @stops, @value, @repair, @why);

-- name: WorksheetProblemsOn :many
-- What is wrong with some rows; 0 for what belongs to none.
SELECT * FROM worksheet_problem WHERE worksheet_id = @id AND row BETWEEN @from_row AND @to_row ORDER BY seq LIMIT @most;

-- name: ForgetWorksheetProblemsAt :exec
-- What is wrong with cells goes with their texts, until the table is checked again; with column -1 what is wrong with the whole row.
DELETE FROM worksheet_problem p USING (SELECT unnest(sqlc.arg(rows)::int[]) AS row, unnest(sqlc.arg(cols)::int[]) AS col) n
WHERE p.worksheet_id = @id AND p.row = n.row AND (p.col = n.col OR n.col = -1);

-- name: CountWorksheetProblems :exec
UPDATE worksheet SET stopped = (SELECT count(DISTINCT p.row) FROM worksheet_problem p WHERE p.worksheet_id = @id AND p.stops),
    kinds = (SELECT coalesce(jsonb_object_agg(kind, n), '{}') FROM (SELECT p.kind, count(*) AS n FROM worksheet_problem p WHERE p.worksheet_id = @id GROUP BY p.kind) k)
WHERE worksheet.id = @id;

-- name: WorksheetStops :many
-- What stops rows.
SELECT row, col, why FROM worksheet_problem WHERE worksheet_id = $1 AND stops ORDER BY seq;

-- name: WorksheetRepairs :many
-- The repairs of a kind, or of all kinds where none is named, or those of some problems.
SELECT row, col, repair::text AS repair FROM worksheet_problem WHERE worksheet_id = @id AND repair IS NOT NULL AND row > 0
    AND (@kind::text = '' OR kind = @kind) AND (sqlc.arg(seqs)::int[] = '{}' OR seq = ANY (sqlc.arg(seqs)::int[])) ORDER BY seq;

-- name: SetWorksheetRows :exec
-- Rows as they are after an edit, set-wise.
UPDATE worksheet_row r SET cells = n.cells, more = n.more, broken = n.broken, left_out = n.out
FROM (SELECT unnest(sqlc.arg(rows)::int[]) AS row, unnest(sqlc.arg(cells)::jsonb[]) AS cells, unnest(sqlc.arg(mores)::jsonb[]) AS more,
    unnest(sqlc.arg(brokens)::boolean[]) AS broken, unnest(sqlc.arg(outs)::boolean[]) AS out) n
WHERE r.worksheet_id = @id AND r.row = n.row;

-- name: AddWorksheetStep :one
INSERT INTO worksheet_step (worksheet_id, person_id) VALUES ($1, $2) RETURNING id;

-- name: ForgetWorksheetUndone :exec
DELETE FROM worksheet_step WHERE worksheet_id = $1 AND person_id = $2 AND undone;

-- name: AddWorksheetEdits :copyfrom
INSERT INTO worksheet_edit (step_id, row, col, before, after) VALUES (@step_id, @row, @col, @before, @after);

-- name: LastWorksheetStep :one
SELECT id FROM worksheet_step WHERE worksheet_id = @id AND person_id = @person AND undone = @undone
ORDER BY CASE WHEN @undone::boolean THEN id END, id DESC LIMIT 1;

-- name: WorksheetEdits :many
SELECT row, col, before, after FROM worksheet_edit WHERE step_id = $1 ORDER BY row, col;

-- name: EndWorksheetStep :exec
UPDATE worksheet_step SET undone = @undone WHERE id = @id;

-- name: KnownOwners :many
-- Owners that have one of some keys: SKUs, codes or titles by the form in which they are the same, barcodes as 14 digits.
SELECT o.id, o.kind, o.sku, o.barcode, o.code, o.title, coalesce(p.sku, '')::text AS parent_sku, coalesce(p.title, '')::text AS parent_title
FROM owner o LEFT JOIN owner p ON p.id = coalesce(o.parent, o.category)
WHERE CASE @field::text WHEN 'sku' THEN o.identity = ANY (sqlc.arg(keys)::text[])
    WHEN 'barcode' THEN o.barcode <> '' AND lpad(translate(o.barcode, E' -\u00a0', ''), 14, '0') = ANY (sqlc.arg(keys)::text[])
    WHEN 'code' THEN o.code <> '' AND lower(o.code) = ANY (sqlc.arg(keys)::text[])
    ELSE lower(o.title) = ANY (sqlc.arg(keys)::text[]) END;

-- name: AttachDelivery :exec
INSERT INTO worksheet_own (worksheet_id, delivery_id) VALUES ($1, $2) ON CONFLICT DO NOTHING;

-- name: DetachDelivery :execrows
DELETE FROM worksheet_own WHERE worksheet_id = $1 AND delivery_id = $2;

-- name: WorksheetDeliveries :many
-- The deliveries that belong to a table, and how far they are taken in.
SELECT d.id, d.title, delivery_state(d.open, j.state)::text AS state, (d.source->>'kind' = 'table')::boolean AS collected,
    coalesce(j.done, 0)::bigint AS done, coalesce(j.total, 0)::bigint AS total, coalesce(c.problems, 0)::int AS problems, coalesce(c.pictures, 0)::int AS pictures
FROM worksheet_own w JOIN delivery d ON d.id = w.delivery_id LEFT JOIN job j ON j.kind = 'take_in' AND j.subject = d.id
LEFT JOIN delivery_count c ON c.delivery_id = d.id
WHERE w.worksheet_id = $1 ORDER BY d.id;

-- name: WorksheetsWith :many
-- The tables that name pictures of a delivery: it belongs to them, or they look in it.
SELECT w.id, w.name, w.created_by FROM worksheet w WHERE w.closed_at IS NULL AND w.delivery_id = @delivery::bigint
UNION SELECT w.id, w.name, w.created_by FROM worksheet w JOIN worksheet_own d ON d.worksheet_id = w.id WHERE w.closed_at IS NULL AND d.delivery_id = @delivery::bigint
ORDER BY 1;

-- name: WorksheetFound :one
SELECT id FROM worksheet WHERE found_in = @delivery::bigint AND found_item = @item::text;

-- name: TablesFound :many
-- The tables that lay in a delivery.
SELECT id, name FROM worksheet WHERE found_in = @delivery::bigint ORDER BY id LIMIT @most;

-- name: OwnPictures :many
-- What came in deliveries that belong to a table, the newest first: its asset, or why there is none from an address.
SELECT a.path, coalesce(a.asset_id, 0)::bigint AS asset, coalesce(encode(substring(s.sha256 FOR 8), 'hex'), '')::text AS sha, coalesce(a.origin->>'address', '')::text AS address, a.message
FROM arrival a JOIN worksheet_own w ON w.delivery_id = a.delivery_id LEFT JOIN asset s ON s.id = a.asset_id
WHERE w.worksheet_id = @id AND (a.asset_id IS NOT NULL OR a.origin->>'address' IS NOT NULL) ORDER BY a.asset_id IS NULL, a.id DESC LIMIT @most;

-- name: WorksheetChoices :many
SELECT row, name, asset_id, everywhere FROM worksheet_choice WHERE worksheet_id = $1;

-- name: SetWorksheetChoice :exec
INSERT INTO worksheet_choice (worksheet_id, row, name, asset_id, everywhere) VALUES (@worksheet_id, @row, @name, @asset_id, @everywhere)
ON CONFLICT (worksheet_id, row, name) DO UPDATE SET asset_id = excluded.asset_id, everywhere = excluded.everywhere;

-- name: PicturesAlike :many
-- The pictures of a name, those of a table's own deliveries first; of one that came twice the newest.
SELECT a.path, s.id AS asset, encode(s.sha256, 'hex')::text AS sha, s.width, s.height, s.bytes, d.title AS delivery, d.created_at, (w.delivery_id IS NOT NULL)::boolean AS attached
FROM arrival a JOIN asset s ON s.id = a.asset_id JOIN delivery d ON d.id = a.delivery_id
LEFT JOIN worksheet_own w ON w.worksheet_id = @id AND w.delivery_id = a.delivery_id
WHERE a.asset_id IS NOT NULL AND regexp_replace(a.path, '^.*/', '') = @name::text AND (@delivery::bigint = 0 OR a.delivery_id = @delivery OR w.delivery_id IS NOT NULL)
ORDER BY w.delivery_id IS NULL, a.id DESC LIMIT @most;

-- name: OwnersShowing :many
-- Who shows some pictures.
SELECT DISTINCT owner_id FROM placement WHERE asset_id = ANY (sqlc.arg(assets)::bigint[]) ORDER BY owner_id;

-- name: PictureNames :many
-- The pictures that have arrived, of a delivery or of all: path and asset; the newest last.
SELECT a.path, a.asset_id::bigint AS asset, encode(substring(s.sha256 FOR 8), 'hex')::text AS sha FROM arrival a JOIN asset s ON s.id = a.asset_id
WHERE a.asset_id IS NOT NULL AND (@delivery::bigint = 0 OR a.delivery_id = @delivery)
ORDER BY a.id DESC LIMIT @most;

-- name: WorksheetsThere :many
SELECT id FROM worksheet WHERE id = ANY (sqlc.arg(ids)::bigint[]);

-- name: PicturesCalled :many
-- Pictures that have arrived under some names, of a delivery or of all; of one name that of the table's own deliveries, else the newest.
SELECT DISTINCT ON (name) regexp_replace(a.path, '^.*/', '')::text AS name, encode(s.sha256, 'hex')::text AS sha
FROM arrival a JOIN asset s ON s.id = a.asset_id LEFT JOIN worksheet_own w ON w.worksheet_id = @id AND w.delivery_id = a.delivery_id
WHERE a.asset_id IS NOT NULL AND regexp_replace(a.path, '^.*/', '') = ANY (sqlc.arg(names)::text[])
    AND (@delivery::bigint = 0 OR a.delivery_id = @delivery OR w.delivery_id IS NOT NULL)
ORDER BY name, w.delivery_id IS NULL, a.id DESC;

-- name: PicturesFrom :many
-- Pictures that came from some addresses for a table.
SELECT DISTINCT ON (address) (a.origin->>'address')::text AS address, encode(s.sha256, 'hex')::text AS sha
FROM arrival a JOIN asset s ON s.id = a.asset_id JOIN worksheet_own w ON w.worksheet_id = @id AND w.delivery_id = a.delivery_id
WHERE a.origin->>'address' = ANY (sqlc.arg(addresses)::text[]) ORDER BY address, a.id DESC;

-- name: ChosenPictures :many
-- What was chosen for a row, by name.
SELECT c.name, encode(s.sha256, 'hex')::text AS sha FROM worksheet_choice c JOIN asset s ON s.id = c.asset_id
WHERE c.worksheet_id = @id AND c.row IN (0, @row::int) ORDER BY c.row;

-- name: WorksheetRow :one
SELECT row, cells, more, broken, left_out FROM worksheet_row WHERE worksheet_id = @id AND row = @row;

-- name: AddPlanRows :copyfrom
INSERT INTO plan_row (plan_id, row, key, owner_id, state, says) VALUES (@plan_id, @row, @key, @owner_id, @state, @says);

-- name: WorksheetTold :many
-- What is worth a look of pictures that could not be had: it stops no row.
SELECT row, why FROM worksheet_problem WHERE worksheet_id = $1 AND NOT stops AND kind = 'picture_missing' ORDER BY seq;

-- name: PlanRows :many
-- What became of a table's rows, as far as the plan's run has come: of the owner itself and of its pictures.
SELECT r.row, r.key, r.state, r.says,
    (o.seq IS NOT NULL)::boolean AS owner_changes, (o.seq IS NOT NULL AND coalesce(o.before, 'null') = 'null')::boolean AS owner_new, (eo.seq IS NOT NULL)::boolean AS owner_made,
    coalesce(eo.undone, false)::boolean AS owner_undone, coalesce(eo.code, '')::text AS owner_code, coalesce(eo.data, '{}')::jsonb AS owner_data,
    (p.seq IS NOT NULL)::boolean AS pictures_change, coalesce(jsonb_array_length(p.after->'pictures'), 0)::int AS pictures, (ep.seq IS NOT NULL)::boolean AS pictures_made,
    coalesce(ep.undone, false)::boolean AS pictures_undone, coalesce(ep.code, '')::text AS pictures_code, coalesce(ep.data, '{}')::jsonb AS pictures_data
FROM plan_row r
LEFT JOIN plan_change o ON o.plan_id = r.plan_id AND o.subject = 'owner' AND o.subject_id = r.owner_id
LEFT JOIN plan_change p ON p.plan_id = r.plan_id AND p.subject = 'pictures' AND p.subject_id = r.owner_id
LEFT JOIN run n ON n.plan_id = r.plan_id
LEFT JOIN run_entry eo ON eo.run_id = n.id AND eo.seq = o.seq
LEFT JOIN run_entry ep ON ep.run_id = n.id AND ep.seq = p.seq
WHERE r.plan_id = @plan AND r.row > @after ORDER BY r.row LIMIT @most;

-- name: SaveAssignment :one
INSERT INTO assignment (name, header, fields, types, key, mode, clears, saved_by)
SELECT @name, @header, fields, types, key, mode, clears, @person FROM worksheet WHERE worksheet.id = @id
ON CONFLICT (name) DO UPDATE SET header = excluded.header, fields = excluded.fields, types = excluded.types, key = excluded.key, mode = excluded.mode,
    clears = excluded.clears, saved_by = excluded.saved_by, saved_at = now()
RETURNING id;

-- name: AssignmentsFor :many
-- Assignments for tables with a header, the newest first.
SELECT a.id, a.name, a.saved_at, p.name AS person FROM assignment a JOIN person p ON p.id = a.saved_by
WHERE md5(a.header) = md5(@header::text) AND a.header = @header ORDER BY a.saved_at DESC LIMIT @most;

-- name: AssignmentByID :one
SELECT * FROM assignment WHERE id = $1;

-- name: RemoveAssignment :execrows
DELETE FROM assignment WHERE id = $1;

-- name: ShotsOfOwners :many
-- Pictures on owners, in the order of the catalogue: products with their variants behind them, or those of some categories' products; none stands for all.
SELECT o.id AS owner, o.ordinal, o.kind, o.sku, o.title, p.position, s.id AS asset, encode(s.sha256, 'hex')::text AS sha, s.format, s.width, s.height, s.bytes,
    coalesce(n.path, '')::text AS path, coalesce(n.address, '')::text AS address, coalesce(n.title, '')::text AS delivery, coalesce(n.supplier, '')::text AS supplier,
    coalesce(w.text, '')::text AS alt
FROM owner o JOIN placement p ON p.owner_id = o.id JOIN asset s ON s.id = p.asset_id
LEFT JOIN LATERAL (SELECT a.path, a.origin->>'address' AS address, d.title, d.supplier FROM arrival a JOIN delivery d ON d.id = a.delivery_id
    WHERE a.asset_id = s.id ORDER BY a.id LIMIT 1) n ON true
LEFT JOIN wording w ON w.owner_id = o.id AND w.asset_id = s.id AND w.language = 'en' AND w.field = 'alt'
WHERE (o.ordinal, o.id, p.position) > (@ordinal::int, @owner::bigint, @position::int)
    AND (cardinality(sqlc.arg(categories)::bigint[]) = 0 OR o.id = ANY (sqlc.arg(categories)::bigint[]) OR o.category = ANY (sqlc.arg(categories)::bigint[])
        OR o.parent IN (SELECT t.id FROM owner t WHERE t.category = ANY (sqlc.arg(categories)::bigint[])))
ORDER BY o.ordinal, o.id, p.position LIMIT @most;

-- name: ShotsOfDelivery :many
-- The pictures of a delivery as they came, each with the first owner that shows it.
SELECT a.id AS arrival, s.id AS asset, encode(s.sha256, 'hex')::text AS sha, s.format, s.width, s.height, s.bytes, a.path, coalesce(a.origin->>'address', '')::text AS address,
    d.title AS delivery, d.supplier, coalesce(p.kind, '')::text AS kind, coalesce(p.sku, '')::text AS sku, coalesce(p.title, '')::text AS title, coalesce(p.position, 0)::int AS position,
    coalesce(p.alt, '')::text AS alt
FROM arrival a JOIN asset s ON s.id = a.asset_id JOIN delivery d ON d.id = a.delivery_id
LEFT JOIN LATERAL (SELECT o.kind, o.sku, o.title, l.position, w.text AS alt FROM placement l JOIN owner o ON o.id = l.owner_id
    LEFT JOIN wording w ON w.owner_id = o.id AND w.asset_id = l.asset_id AND w.language = 'en' AND w.field = 'alt' WHERE l.asset_id = s.id ORDER BY o.ordinal, o.id LIMIT 1) p ON true
WHERE a.delivery_id = @delivery AND a.id > @after ORDER BY a.id LIMIT @most;

-- name: ShotsOfPictures :many
-- Pictures in the order in which they are named, each as it came first and with the first owner that shows it.
SELECT s.id AS asset, encode(s.sha256, 'hex')::text AS sha, s.format, s.width, s.height, s.bytes, coalesce(n.path, '')::text AS path, coalesce(n.address, '')::text AS address,
    coalesce(n.title, '')::text AS delivery, coalesce(n.supplier, '')::text AS supplier, coalesce(p.kind, '')::text AS kind, coalesce(p.sku, '')::text AS sku, coalesce(p.title, '')::text AS title,
    coalesce(p.position, 0)::int AS position, coalesce(p.alt, '')::text AS alt
FROM unnest(@assets::bigint[]) WITH ORDINALITY AS w (id, n) JOIN asset s ON s.id = w.id
LEFT JOIN LATERAL (SELECT a.path, a.origin->>'address' AS address, d.title, d.supplier FROM arrival a JOIN delivery d ON d.id = a.delivery_id
    WHERE a.asset_id = s.id ORDER BY a.id LIMIT 1) n ON true
LEFT JOIN LATERAL (SELECT o.kind, o.sku, o.title, l.position, t.text AS alt FROM placement l JOIN owner o ON o.id = l.owner_id
    LEFT JOIN wording t ON t.owner_id = o.id AND t.asset_id = l.asset_id AND t.language = 'en' AND t.field = 'alt' WHERE l.asset_id = s.id ORDER BY o.ordinal, o.id LIMIT 1) p ON true
ORDER BY w.n;

-- name: ShotPresets :many
SELECT s.id, s.name, s.columns, s.side, s.saved_at, p.name AS person FROM shot_preset s JOIN person p ON p.id = s.saved_by ORDER BY lower(s.name), s.id LIMIT @most;

-- name: SaveShotPreset :one
INSERT INTO shot_preset (name, columns, side, saved_by) VALUES (@name, @columns, @side, @person)
ON CONFLICT (name) DO UPDATE SET columns = excluded.columns, side = excluded.side, saved_by = excluded.saved_by, saved_at = now() RETURNING id;

-- name: RemoveShotPreset :execrows
DELETE FROM shot_preset WHERE id = $1;
