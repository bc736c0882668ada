-- name: AssetsStanding :many
-- What plans change of pictures, as it stands.
SELECT a.id, (a.binned_at IS NOT NULL)::boolean AS binned, a.placeholder, a.tags, a.note, coalesce(r.may, '')::text AS may, coalesce(r.until::text, '')::text AS until,
    coalesce(r.holder, '')::text AS holder, coalesce(r.proof, '')::text AS proof
FROM asset a LEFT JOIN rights r ON r.asset_id = a.id WHERE a.id = ANY (@ids::bigint[]);

-- name: AssetsInUse :many
-- Which pictures stand on an owner.
SELECT DISTINCT asset_id FROM placement WHERE asset_id = ANY (@ids::bigint[]);

-- name: AssetsDoomed :many
-- Whose bytes are being deleted.
SELECT id FROM asset WHERE id = ANY (@ids::bigint[]) AND doomed_at IS NOT NULL;

-- name: DescribeAssets :exec
-- Sets what people say of pictures, and whether they lie in the bin: since when stays where they do already.
UPDATE asset a SET binned_at = CASE WHEN n.binned THEN coalesce(a.binned_at, now()) END, placeholder = n.placeholder, tags = ARRAY(SELECT jsonb_array_elements_text(n.tags)), note = n.note
FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@binned::boolean[]) AS binned, unnest(@placeholders::boolean[]) AS placeholder, unnest(@tags::text[])::jsonb AS tags, unnest(@notes::text[]) AS note) n
WHERE a.id = n.id;

-- name: DropRights :exec
DELETE FROM rights WHERE asset_id = ANY (@ids::bigint[]);

-- name: PutRights :exec
INSERT INTO rights (asset_id, may, until, holder, proof)
SELECT unnest(@ids::bigint[]), unnest(@mays::text[]), nullif(unnest(@untils::text[]), '')::date, unnest(@holders::text[]), unnest(@proofs::text[])
ON CONFLICT (asset_id) DO UPDATE SET may = excluded.may, until = excluded.until, holder = excluded.holder, proof = excluded.proof, set_at = now();

-- name: RestoreAssets :exec
-- Takes pictures out of the bin that somebody needs.
UPDATE asset SET binned_at = NULL WHERE id = ANY (@ids::bigint[]) AND binned_at IS NOT NULL AND doomed_at IS NULL;

-- name: DoomAssets :exec
-- Marks pictures in the bin whose bytes shall be deleted, and which no owner shows and nobody wants meanwhile.
UPDATE asset a SET doomed_at = now() WHERE id = ANY (@ids::bigint[]) AND binned_at IS NOT NULL AND doomed_at IS NULL
    AND (wanted_at IS NULL OR wanted_at < now() - interval '1 hour') AND NOT EXISTS (SELECT 1 FROM placement p WHERE p.asset_id = a.id);

-- name: LockDoomed :many
-- Those marked, locked until their bytes are gone; not those that are coming in again at this moment.
SELECT id, encode(sha256, 'hex')::text AS sha FROM asset WHERE id = ANY (@ids::bigint[]) AND doomed_at IS NOT NULL
    AND (wanted_at IS NULL OR wanted_at < now() - interval '1 hour') ORDER BY id FOR UPDATE;

-- name: DeleteDoomed :many
-- Deletes the rows of pictures whose bytes are gone.
DELETE FROM asset WHERE id = ANY (@ids::bigint[]) AND doomed_at IS NOT NULL AND (wanted_at IS NULL OR wanted_at < now() - interval '1 hour') RETURNING id;

-- name: ForgetArrivals :exec
-- Lines whose pictures are deleted say so.
UPDATE arrival SET asset_id = NULL, problem = 'deleted', message = '{"code": "picture_deleted"}' WHERE asset_id = ANY (@ids::bigint[]);

-- name: ForgetTexts :exec
DELETE FROM wording WHERE asset_id = ANY (@ids::bigint[]);

-- name: WantAssets :exec
-- Says that pictures are coming in that lie in the bin, or of which the bytes are being deleted, so that they are not deleted meanwhile.
UPDATE asset SET wanted_at = now() WHERE sha256 = ANY (@sha256s::bytea[]) AND (doomed_at IS NOT NULL OR binned_at IS NOT NULL);

-- name: DoomedShas :many
SELECT sha256 FROM asset WHERE sha256 = ANY (@sha256s::bytea[]) AND doomed_at IS NOT NULL FOR UPDATE;

-- name: ReviveAssets :exec
-- Pictures that came in again lie in the bin no more.
UPDATE asset SET binned_at = NULL, doomed_at = NULL, wanted_at = NULL, broken = '' WHERE sha256 = ANY (@sha256s::bytea[]) AND (binned_at IS NOT NULL OR doomed_at IS NOT NULL OR broken <> '');

-- name: Orphans :many
-- Pictures that no owner shows, behind one, with what speaks for each, and which run took it off an owner last. most null for all.
WITH orphan AS (
    SELECT a.id, a.sha256, a.bytes, a.created_at, a.tags FROM asset a
    WHERE a.id > @after AND a.binned_at IS NULL AND a.doomed_at IS NULL AND NOT a.placeholder AND NOT EXISTS (SELECT 1 FROM placement p WHERE p.asset_id = a.id)
    ORDER BY a.id LIMIT sqlc.narg(most)::int
)
SELECT o.id, encode(o.sha256, 'hex')::text AS sha, o.bytes, o.created_at, ('keep' = ANY (o.tags))::boolean AS kept, (o.created_at > now() - make_interval(days => @young_days::int))::boolean AS young,
    EXISTS (SELECT 1 FROM arrival a JOIN delivery d ON d.id = a.delivery_id LEFT JOIN delivery_applied da ON da.delivery_id = d.id
        WHERE a.asset_id = o.id AND d.closed_at IS NULL AND da.delivery_id IS NULL)::boolean AS open_delivery,
    (EXISTS (SELECT 1 FROM worksheet_choice c WHERE c.asset_id = o.id)
        OR EXISTS (SELECT 1 FROM worksheet_own w JOIN arrival a ON a.delivery_id = w.delivery_id WHERE a.asset_id = o.id))::boolean AS in_table,
    EXISTS (SELECT 1 FROM decision x JOIN arrival a ON a.id = x.arrival_id WHERE a.asset_id = o.id AND x.aside)::boolean AS set_aside,
    EXISTS (SELECT 1 FROM ledger_ref f JOIN plan p ON p.id = f.plan_id JOIN plan_change c ON c.plan_id = f.plan_id AND c.seq = f.seq
        WHERE f.class = 'asset' AND f.id = o.id AND c.subject = 'pictures' AND NOT EXISTS (SELECT 1 FROM run r WHERE r.plan_id = p.id))::boolean AS waiting_plan,
    coalesce(l.run, 0)::bigint AS run, coalesce(l.removed, false)::boolean AS removed, coalesce(l.at > now() - make_interval(days => @undo_days::int), false)::boolean AS undo_in_reach
FROM orphan o LEFT JOIN LATERAL (
    SELECT r.id AS run, r.created_at AS at, NOT EXISTS (SELECT 1 FROM owner w WHERE w.id = c.subject_id) AS removed
    FROM ledger_ref f JOIN run r ON r.plan_id = f.plan_id JOIN run_entry e ON e.run_id = r.id AND e.seq = f.seq JOIN plan_change c ON c.plan_id = f.plan_id AND c.seq = f.seq
    WHERE f.class = 'asset' AND f.id = o.id AND c.subject = 'pictures' AND e.code = '' ORDER BY r.id DESC LIMIT 1
) l ON true ORDER BY o.id;

-- name: BinPage :many
-- What lies in the bin, the longest first, behind one.
SELECT id, encode(sha256, 'hex')::text AS sha, bytes, binned_at::timestamptz AS binned_at FROM asset
WHERE binned_at IS NOT NULL AND (binned_at, id) > (@after::timestamptz, @after_id::bigint) ORDER BY binned_at, id LIMIT @most;

-- name: BinDue :many
-- What lies in the bin for longer than so many days.
SELECT id FROM asset WHERE binned_at < now() - make_interval(days => @days::int) ORDER BY binned_at, id LIMIT @most;

-- name: BinnedAll :many
SELECT id FROM asset WHERE binned_at IS NOT NULL ORDER BY id LIMIT @most;

-- name: UndosBroken :many
-- Which runs could not be taken back whole without what lies in the bin: those that took it off an owner and are not taken back, the newest first.
SELECT r.id, p.title, r.created_at, count(*)::int AS lines FROM asset a JOIN ledger_ref f ON f.class = 'asset' AND f.id = a.id JOIN run r ON r.plan_id = f.plan_id
    JOIN plan p ON p.id = r.plan_id JOIN run_entry e ON e.run_id = r.id AND e.seq = f.seq JOIN plan_change c ON c.plan_id = f.plan_id AND c.seq = f.seq
WHERE a.binned_at IS NOT NULL AND c.subject = 'pictures' AND e.code = '' AND NOT e.undone
    AND c.before->'pictures' @> jsonb_build_array(jsonb_build_object('asset', f.id))
GROUP BY r.id, p.title ORDER BY r.id DESC LIMIT @most;

-- name: HouseSetting :one
SELECT value FROM house_setting WHERE name = $1;

-- name: SetHouseSetting :exec
INSERT INTO house_setting (name, value, changed_by) VALUES (@name, @value, @person::bigint)
ON CONFLICT (name) DO UPDATE SET value = excluded.value, changed_by = excluded.changed_by, changed_at = now();

-- name: UncheckedAssets :many
-- Pictures that the checks of a version did not look at yet.
SELECT a.id, encode(a.sha256, 'hex')::text AS sha, a.format, a.bytes, a.width, a.height FROM asset a LEFT JOIN asset_fact f ON f.asset_id = a.id
WHERE (f.asset_id IS NULL OR f.version < @version) AND a.doomed_at IS NULL AND a.id > @after ORDER BY a.id LIMIT @most;

-- name: PicturesComeIn :one
SELECT EXISTS (SELECT 1 FROM job WHERE kind = 'take_in' AND state = 'working');

-- name: CountUnchecked :one
SELECT count(*) FROM asset a LEFT JOIN asset_fact f ON f.asset_id = a.id WHERE (f.asset_id IS NULL OR f.version < @version) AND a.doomed_at IS NULL;

-- name: PutFacts :exec
INSERT INTO asset_fact (asset_id, version, true_width, true_height, pad_left, pad_top, pad_right, pad_bottom, padded, sideways, profile, model, transparent, ground, ground_share, small, trouble)
SELECT i.id, i.version, i.true_width, i.true_height, i.pad_left, i.pad_top, i.pad_right, i.pad_bottom, i.padded, i.sideways, i.profile, i.model, i.transparent, i.ground, i.ground_share, i.small, i.trouble
FROM (SELECT unnest(@ids::bigint[]) AS id,
    @version::int AS version,
    unnest(@true_widths::int[]) AS true_width,
    unnest(@true_heights::int[]) AS true_height,
    unnest(@pad_lefts::int[]) AS pad_left,
    unnest(@pad_tops::int[]) AS pad_top,
    unnest(@pad_rights::int[]) AS pad_right,
    unnest(@pad_bottoms::int[]) AS pad_bottom,
    unnest(@paddings::int[]) AS padded,
    unnest(@turns::int[]) AS sideways,
    nullif(unnest(@profiles::text[]), '-') AS profile,
    unnest(@models::text[]) AS model,
    unnest(@alphas::boolean[]) AS transparent,
    unnest(@grounds::int[]) AS ground,
    unnest(@ground_shares::real[]) AS ground_share,
    nullif(unnest(@smalls::bytea[]), '') AS small,
    unnest(@troubles::text[]) AS trouble) i JOIN asset a ON a.id = i.id
ON CONFLICT (asset_id) DO UPDATE SET version = excluded.version, true_width = excluded.true_width, true_height = excluded.true_height, pad_left = excluded.pad_left, pad_top = excluded.pad_top,
    pad_right = excluded.pad_right, pad_bottom = excluded.pad_bottom, padded = excluded.padded, sideways = excluded.sideways, profile = excluded.profile, model = excluded.model,
    transparent = excluded.transparent, ground = excluded.ground, ground_share = excluded.ground_share, small = excluded.small, trouble = excluded.trouble;

-- name: SetLikeness :exec
UPDATE asset a SET likeness = n.likeness FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@likenesses::bigint[]) AS likeness) n WHERE a.id = n.id AND a.likeness IS DISTINCT FROM n.likeness;

-- name: AssetsWithRights :many
-- Pictures of whose rights anything is said.
SELECT asset_id FROM rights UNION SELECT a.asset_id FROM arrival a JOIN delivery d ON d.id = a.delivery_id WHERE d.may <> '' AND a.asset_id IS NOT NULL;

-- name: PlacedFacts :many
-- What was seen of pictures, behind one, and the categories in which they stand first on a product or a variant.
SELECT f.asset_id, a.width, a.height, f.true_width, f.true_height, f.pad_left, f.pad_top, f.pad_right, f.pad_bottom, f.sideways, f.profile, f.model, f.transparent, f.ground, f.ground_share, f.unfit,
    coalesce((SELECT array_agg(DISTINCT coalesce(o.category, u.category, 0)) FROM placement p JOIN owner o ON o.id = p.owner_id LEFT JOIN owner u ON u.id = o.parent AND o.kind = 'variant'
        WHERE p.asset_id = a.id AND p.position = 1 AND o.kind <> 'category' AND NOT o.retired), '{}')::bigint[] AS categories
FROM asset_fact f JOIN asset a ON a.id = f.asset_id WHERE f.asset_id > @after AND f.trouble = '' ORDER BY f.asset_id LIMIT @most;

-- name: SetUnfit :exec
UPDATE asset_fact f SET unfit = n.unfit FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@masks::int[]) AS unfit) n WHERE f.asset_id = n.id;

-- name: UnfitPage :many
-- Pictures with one of some faults, behind one; those that no owner shows only where everywhere.
SELECT f.asset_id, encode(a.sha256, 'hex')::text AS sha, a.width, a.height, a.bytes, f.true_width, f.true_height, f.pad_left, f.pad_top, f.pad_right, f.pad_bottom, f.sideways, f.profile, f.model,
    f.transparent, f.ground, f.ground_share, f.unfit
FROM asset_fact f JOIN asset a ON a.id = f.asset_id
WHERE f.asset_id > @after AND f.unfit <> 0 AND f.unfit & @mask::int <> 0 AND a.binned_at IS NULL AND a.doomed_at IS NULL
    AND (@everywhere::boolean OR EXISTS (SELECT 1 FROM placement p WHERE p.asset_id = a.id)) ORDER BY f.asset_id LIMIT @most;

-- name: UnfitCounts :many
SELECT b.bit::int AS bit, count(*)::bigint AS count FROM asset_fact f JOIN asset a ON a.id = f.asset_id, generate_series(0, 15) AS b(bit)
WHERE f.unfit <> 0 AND f.unfit & (1 << b.bit) <> 0 AND a.binned_at IS NULL AND a.doomed_at IS NULL AND EXISTS (SELECT 1 FROM placement p WHERE p.asset_id = a.id) GROUP BY b.bit;

-- name: OwnersShown :many
-- What owners show, behind one: placeholders apart.
SELECT o.id, o.kind, coalesce(o.category, u.category, CASE WHEN o.kind = 'category' THEN o.id END, 0)::bigint AS category, o.options, coalesce(o.parent, 0)::bigint AS parent,
    (SELECT count(*) FROM placement p JOIN asset a ON a.id = p.asset_id WHERE p.owner_id = o.id AND NOT a.placeholder)::int AS pictures,
    CASE WHEN o.kind = 'product' THEN (SELECT count(*) FROM owner v JOIN placement p ON p.owner_id = v.id JOIN asset a ON a.id = p.asset_id WHERE v.parent = o.id AND NOT a.placeholder) ELSE 0 END::int AS variants,
    CASE WHEN o.kind = 'variant' THEN (SELECT count(*) FROM placement p JOIN asset a ON a.id = p.asset_id WHERE p.owner_id = o.parent AND NOT a.placeholder) ELSE 0 END::int AS of_product,
    (SELECT count(*) FROM placement p JOIN asset a ON a.id = p.asset_id WHERE p.owner_id = o.id AND NOT a.placeholder
        AND NOT EXISTS (SELECT 1 FROM wording w WHERE w.owner_id = o.id AND w.asset_id = p.asset_id AND w.field = 'alt' AND w.text <> ''))::int AS wordless,
    (SELECT count(DISTINCT w.text) FROM placement p JOIN wording w ON w.owner_id = o.id AND w.asset_id = p.asset_id AND w.field = 'alt' AND w.text <> '' AND w.language = @language WHERE p.owner_id = o.id)::int AS texts,
    (SELECT a.palette FROM placement p JOIN asset a ON a.id = p.asset_id WHERE p.owner_id = o.id AND p.position = 1 AND NOT a.placeholder) AS palette,
    coalesce(g.gaps, -1)::int AS gaps, coalesce(g.category, -1)::bigint AS counted_for
FROM owner o LEFT JOIN owner u ON u.id = o.parent AND o.kind = 'variant' LEFT JOIN owner_gap g ON g.owner_id = o.id
WHERE o.id > @after AND NOT o.retired AND (u.id IS NULL OR NOT u.retired) ORDER BY o.id LIMIT @most;

-- name: SetGaps :exec
INSERT INTO owner_gap (owner_id, category, gaps) SELECT unnest(@ids::bigint[]), unnest(@categories::bigint[]), unnest(@masks::int[])
ON CONFLICT (owner_id) DO UPDATE SET category = excluded.category, gaps = excluded.gaps;

-- name: DropRetiredGaps :exec
DELETE FROM owner_gap g USING owner o LEFT JOIN owner u ON u.id = o.parent AND o.kind = 'variant' WHERE o.id = g.owner_id AND (o.retired OR coalesce(u.retired, false));

-- name: GapPage :many
-- Owners that miss one of some things, behind one; below some categories, or anywhere where none is named.
SELECT g.owner_id, g.category, g.gaps, o.kind, o.sku, o.barcode, o.title, o.options, coalesce(u.title, '')::text AS parent_title, coalesce(o.parent, 0)::bigint AS parent
FROM owner_gap g JOIN owner o ON o.id = g.owner_id LEFT JOIN owner u ON u.id = o.parent AND o.kind = 'variant'
WHERE g.owner_id > @after AND g.gaps <> 0 AND g.gaps & @mask::int <> 0 AND (cardinality(@categories::bigint[]) = 0 OR g.category = ANY (@categories::bigint[])) ORDER BY g.owner_id LIMIT @most;

-- name: GapCounts :many
SELECT b.bit::int AS bit, count(*)::bigint AS count FROM owner_gap g, generate_series(0, 15) AS b(bit) WHERE g.gaps <> 0 AND g.gaps & (1 << b.bit) <> 0 GROUP BY b.bit;

-- name: Coverage :many
-- How many owners count for each category, and how many of them miss nothing; of which there are none without a row.
SELECT category, count(*)::int AS owners, count(*) FILTER (WHERE gaps = 0)::int AS complete FROM owner_gap GROUP BY category ORDER BY category;

-- name: CopiesByID :many
SELECT a.id, a.width, a.height, a.bytes, a.format, a.likeness, a.palette, f.true_width, f.true_height, f.pad_left, f.pad_top, f.pad_right, f.pad_bottom, f.small
FROM asset a LEFT JOIN asset_fact f ON f.asset_id = a.id AND f.trouble = '' WHERE a.id = ANY (@ids::bigint[]) AND a.binned_at IS NULL AND a.doomed_at IS NULL AND a.likeness IS NOT NULL;

-- name: DropTwice :exec
DELETE FROM twice;

-- name: AddTwice :exec
INSERT INTO twice (asset_id, best_id, apart) SELECT i.id, i.best, i.apart
FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@bests::bigint[]) AS best, unnest(@aparts::int[]) AS apart) i JOIN asset a ON a.id = i.id JOIN asset b ON b.id = i.best;

-- name: TwicePage :many
-- Groups of pictures that are one, by their best, behind one of these.
SELECT t.best_id, t.asset_id, t.apart, encode(a.sha256, 'hex')::text AS sha, a.width, a.height, a.bytes, a.format, coalesce(f.true_width, a.width)::int AS true_width, coalesce(f.true_height, a.height)::int AS true_height,
    coalesce(f.padded, 0)::int AS padded, (SELECT count(*) FROM placement p WHERE p.asset_id = a.id)::int AS places
FROM (SELECT DISTINCT w.best_id FROM twice w JOIN asset x ON x.id = w.asset_id WHERE w.best_id > @after AND x.binned_at IS NULL AND x.doomed_at IS NULL
        ORDER BY w.best_id LIMIT @most) g JOIN twice t ON t.best_id = g.best_id JOIN asset a ON a.id = t.asset_id
    LEFT JOIN asset_fact f ON f.asset_id = a.id
WHERE a.binned_at IS NULL AND a.doomed_at IS NULL ORDER BY t.best_id, (t.asset_id = t.best_id) DESC, t.asset_id;

-- name: Copies :many
-- Pictures that are another in other bytes, with the best of each; of some groups by their best, or of all where none is named.
SELECT t.asset_id, t.best_id FROM twice t JOIN asset a ON a.id = t.asset_id
WHERE t.asset_id <> t.best_id AND a.binned_at IS NULL AND a.doomed_at IS NULL AND (coalesce(cardinality(@bests::bigint[]), 0) = 0 OR t.best_id = ANY (@bests::bigint[]));

-- name: CountTwice :one
SELECT count(DISTINCT best_id)::bigint FROM twice;

-- name: TidyState :one
SELECT owners, pictures, snapshot, limits, at FROM tidy_state;

-- name: SetTidyState :exec
INSERT INTO tidy_state (owners, pictures, snapshot, limits) VALUES (@owners, @pictures, @snapshot, @limits)
ON CONFLICT (only_row) DO UPDATE SET owners = excluded.owners, pictures = excluded.pictures, snapshot = excluded.snapshot, limits = excluded.limits, at = now();

-- name: EverythingStands :one
-- Of what state everything is now.
SELECT owners, pictures, pg_current_snapshot()::text AS snapshot FROM catalogue_state;

-- name: BinCounts :one
SELECT count(*)::bigint AS pictures, coalesce(sum(bytes), 0)::bigint AS bytes, coalesce(min(binned_at), now())::timestamptz AS oldest FROM asset WHERE binned_at IS NOT NULL;

-- name: SharedPage :many
-- Pictures that more than one product shows, itself or on a variant, behind one.
SELECT p.asset_id, encode(a.sha256, 'hex')::text AS sha, count(DISTINCT CASE o.kind WHEN 'variant' THEN o.parent ELSE o.id END)::int AS products
FROM placement p JOIN owner o ON o.id = p.owner_id JOIN asset a ON a.id = p.asset_id WHERE p.asset_id > @after AND o.kind <> 'category' AND NOT a.placeholder
GROUP BY p.asset_id, a.sha256 HAVING count(DISTINCT CASE o.kind WHEN 'variant' THEN o.parent ELSE o.id END) > 1 ORDER BY p.asset_id LIMIT @most;

-- name: CountShared :one
SELECT count(*)::bigint FROM (SELECT p.asset_id FROM placement p JOIN owner o ON o.id = p.owner_id JOIN asset a ON a.id = p.asset_id WHERE o.kind <> 'category' AND NOT a.placeholder
GROUP BY p.asset_id HAVING count(*) > 1 AND count(DISTINCT CASE o.kind WHEN 'variant' THEN o.parent ELSE o.id END) > 1) s;

-- name: PlacesOf :many
-- Where pictures stand, so many of each.
SELECT p.asset_id, p.owner_id, p.position, o.kind, o.sku, o.title, o.options, coalesce(u.title, '')::text AS parent_title, coalesce(u.id, o.id)::bigint AS product, coalesce(u.title, o.title)::text AS product_title
FROM unnest(@ids::bigint[]) AS want(id) CROSS JOIN LATERAL (SELECT * FROM placement p WHERE p.asset_id = want.id ORDER BY p.owner_id, p.position LIMIT @each) p
    JOIN owner o ON o.id = p.owner_id LEFT JOIN owner u ON u.id = o.parent AND o.kind = 'variant' ORDER BY p.asset_id, p.owner_id, p.position;

-- name: StorageFigures :many
-- How many pictures and bytes there are: by source, format, month and category.
WITH here AS (SELECT a.id, a.bytes, a.format, a.created_at FROM asset a WHERE a.binned_at IS NULL AND a.doomed_at IS NULL),
first AS (SELECT DISTINCT ON (v.asset_id) v.asset_id, coalesce(s.name, '') AS name FROM arrival v JOIN delivery d ON d.id = v.delivery_id LEFT JOIN source s ON s.id = d.source_id WHERE v.asset_id IS NOT NULL ORDER BY v.asset_id, v.id),
stands AS (SELECT DISTINCT p.asset_id, coalesce(o.category, u.category, CASE WHEN o.kind = 'category' THEN o.id END, 0) AS category FROM placement p JOIN owner o ON o.id = p.owner_id LEFT JOIN owner u ON u.id = o.parent AND o.kind = 'variant')
SELECT 'format'::text AS by_what, h.format AS name, count(*)::bigint AS pictures, sum(h.bytes)::bigint AS bytes FROM here h GROUP BY h.format
UNION ALL SELECT 'source', coalesce(f.name, ''), count(*)::bigint, sum(h.bytes)::bigint FROM here h LEFT JOIN first f ON f.asset_id = h.id GROUP BY coalesce(f.name, '')
UNION ALL SELECT 'month', to_char(h.created_at, 'YYYY-MM'), count(*)::bigint, sum(h.bytes)::bigint FROM here h GROUP BY to_char(h.created_at, 'YYYY-MM')
UNION ALL SELECT 'category', coalesce(c.title, ''), count(*)::bigint, sum(h.bytes)::bigint FROM here h LEFT JOIN stands t ON t.asset_id = h.id LEFT JOIN owner c ON c.id = t.category GROUP BY coalesce(c.title, '')
ORDER BY 1, 4 DESC, 2;

-- name: BytesOf :one
SELECT coalesce(sum(bytes), 0)::bigint FROM asset WHERE id = ANY (@ids::bigint[]);

-- name: HouseSettingBy :one
SELECT changed_by FROM house_setting WHERE name = $1;

-- name: ScrubState :one
SELECT last_asset, began_at, ended_at, looked, missing, differing, remade FROM scrub;

-- name: BeginScrub :exec
INSERT INTO scrub DEFAULT VALUES ON CONFLICT (only_row) DO UPDATE SET last_asset = 0, began_at = now(), ended_at = NULL, looked = 0, missing = 0, differing = 0, remade = 0;

-- name: StepScrub :exec
WITH said AS (UPDATE asset a SET broken = n.wrong FROM (SELECT unnest(@ids::bigint[]) AS id, unnest(@wrongs::text[]) AS wrong) n WHERE a.id = n.id)
UPDATE scrub SET last_asset = @last, looked = looked + @looked, missing = missing + @missing, differing = differing + @differing, remade = remade + @remade;

-- name: EndScrub :exec
UPDATE scrub SET ended_at = now();

-- name: AssetsBehind :many
SELECT id, encode(sha256, 'hex')::text AS sha, broken FROM asset WHERE id > @after AND doomed_at IS NULL ORDER BY id LIMIT @most;

-- name: ShasThere :many
SELECT sha256 FROM asset WHERE sha256 = ANY (@sha256s::bytea[]);

-- name: DropStrays :exec
DELETE FROM stray_blob;

-- name: AddStrays :exec
INSERT INTO stray_blob (key, bytes) SELECT unnest(@keys::text[]), unnest(@bytes::bigint[]) ON CONFLICT (key) DO NOTHING;

-- name: StillStray :many
-- Blobs that no picture knows now either; those that one knows meanwhile are forgotten.
WITH known AS (DELETE FROM stray_blob s USING asset a WHERE a.sha256 = decode(regexp_replace(regexp_replace(s.key, '^.*/', ''), '\.webp$', ''), 'hex'))
SELECT key FROM stray_blob s WHERE NOT EXISTS (SELECT 1 FROM asset a WHERE a.sha256 = decode(regexp_replace(regexp_replace(s.key, '^.*/', ''), '\.webp$', ''), 'hex')) ORDER BY key LIMIT @most;

-- name: RemoveStrays :exec
DELETE FROM stray_blob WHERE key = ANY (@keys::text[]);

-- name: StrayPage :many
SELECT key, bytes, found_at FROM stray_blob WHERE key > @after ORDER BY key LIMIT @most;

-- name: BrokenPage :many
SELECT id, encode(sha256, 'hex')::text AS sha, bytes, broken FROM asset WHERE broken <> '' AND id > @after AND doomed_at IS NULL ORDER BY id LIMIT @most;

-- name: BrokenCounts :one
SELECT (SELECT count(*) FROM asset WHERE broken <> '')::bigint AS broken, (SELECT count(*) FROM stray_blob)::bigint AS strays, (SELECT coalesce(sum(bytes), 0) FROM stray_blob)::bigint AS stray_bytes;

-- name: AddTidyRule :one
INSERT INTO tidy_rule (finding, title, days, created_by) VALUES (@finding, @title, @days, @created_by) RETURNING id;

-- name: RemoveTidyRule :execrows
DELETE FROM tidy_rule WHERE id = $1;

-- name: TidyRuleByID :one
-- A rule, and whether the plan that it made last still waits.
SELECT t.*, (p.id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM run r WHERE r.plan_id = p.id))::boolean AS waits FROM tidy_rule t LEFT JOIN plan p ON p.id = t.plan_id WHERE t.id = $1;

-- name: TidyRules :many
SELECT t.id, t.finding, t.days, t.plan_id, t.created_at, p.name AS person, s.next_at, s.each, s.minute, s.weekday, s.time_zone
FROM tidy_rule t JOIN person p ON p.id = t.created_by JOIN schedule s ON s.what = 'tidy' AND s.subject = t.id WHERE t.id > @after ORDER BY t.id LIMIT @most;

-- name: ProposeByRule :exec
-- Keeps which plan a rule made, and tells who made the rule.
WITH made AS (UPDATE tidy_rule t SET plan_id = @plan::bigint WHERE t.id = @id RETURNING t.created_by)
INSERT INTO notice (person_id, kind, subject, title, state, done, unit, notes)
SELECT m.created_by, 'tidy_plan', p.id, p.title, 'done', p.changes, 'changes', '[]' FROM made m, plan p WHERE p.id = @plan::bigint;

-- name: DropStalePlans :execrows
-- Plans that nobody applied for so many days, with their lines; a plan in hand is locked by who applies it.
WITH stale AS (SELECT p.id FROM plan p WHERE p.created_at < now() - make_interval(days => @days::int) AND NOT EXISTS (SELECT 1 FROM run r WHERE r.plan_id = p.id)
    AND NOT EXISTS (SELECT 1 FROM worksheet w WHERE w.plan_id = p.id) FOR UPDATE SKIP LOCKED),
refs AS (DELETE FROM ledger_ref f USING stale s WHERE f.plan_id = s.id)
DELETE FROM plan p USING stale s WHERE p.id = s.id;

-- name: DropEndedSessions :execrows
DELETE FROM session WHERE expires_at < now();

-- name: DropAbandoned :execrows
-- What was sent into deliveries that nobody closed for so many days; their bytes go with the next cleaning of the folder.
DELETE FROM upload u USING delivery d WHERE d.id = u.delivery_id AND d.open AND NOT u.done
    AND NOT EXISTS (SELECT 1 FROM upload o WHERE o.delivery_id = d.id AND o.created_at > now() - make_interval(days => @days::int)) AND d.created_at < now() - make_interval(days => @days::int);

-- name: PictureCards :many
-- Pictures as lists show them: what the first file was called that brought each, from where, and the first owner that shows it.
SELECT a.id, encode(a.sha256, 'hex')::text AS sha, a.bytes, a.format, a.width, a.height, a.created_at, a.placeholder, (a.binned_at IS NOT NULL)::boolean AS binned, a.tags, a.palette, a.likeness,
    coalesce(v.path, '')::text AS path, coalesce(v.source, '')::text AS source, (SELECT count(*) FROM placement p WHERE p.asset_id = a.id)::int AS places, coalesce(o.name, '')::text AS owner,
    coalesce(r.may, v.may, '')::text AS may
FROM asset a LEFT JOIN rights r ON r.asset_id = a.id
    LEFT JOIN LATERAL (SELECT v.path, coalesce(s.name, nullif(d.supplier, ''), d.title) AS source, d.may FROM arrival v JOIN delivery d ON d.id = v.delivery_id LEFT JOIN source s ON s.id = d.source_id
        WHERE v.asset_id = a.id ORDER BY v.id LIMIT 1) v ON true
    LEFT JOIN LATERAL (SELECT coalesce(nullif(w.sku, ''), w.title) AS name FROM placement p JOIN owner w ON w.id = p.owner_id WHERE p.asset_id = a.id ORDER BY p.owner_id LIMIT 1) o ON true
WHERE a.id = ANY (@ids::bigint[]);

-- name: FactsOfPictures :many
-- What was seen of pictures, as UnfitPage has it.
SELECT f.asset_id, encode(a.sha256, 'hex')::text AS sha, a.width, a.height, a.bytes, f.true_width, f.true_height, f.pad_left, f.pad_top, f.pad_right, f.pad_bottom, f.sideways, f.profile, f.model,
    f.transparent, f.ground, f.ground_share, f.unfit
FROM asset_fact f JOIN asset a ON a.id = f.asset_id
WHERE a.id = ANY (@ids::bigint[]);

-- name: PictureMore :one
SELECT a.note, coalesce(f.version, 0)::int AS version, coalesce(f.trouble, '')::text AS trouble, f.profile, coalesce(f.true_width, a.width)::int AS true_width, coalesce(f.true_height, a.height)::int AS true_height,
    coalesce(f.pad_left, 0)::int AS pad_left, coalesce(f.pad_top, 0)::int AS pad_top, coalesce(f.pad_right, 0)::int AS pad_right, coalesce(f.pad_bottom, 0)::int AS pad_bottom,
    coalesce(f.sideways, 0)::int AS sideways
FROM asset a LEFT JOIN asset_fact f ON f.asset_id = a.id WHERE a.id = @id;

-- name: StoodOn :many
-- Runs that put a picture on owners, or took it off them, the newest first.
SELECT r.id AS run, p.title, r.created_at, coalesce(nullif(o.sku, ''), o.title, '')::text AS owner,
    (c.after->'pictures' @> jsonb_build_array(jsonb_build_object('asset', @id::bigint)))::boolean AS came
FROM ledger_ref f JOIN run r ON r.plan_id = f.plan_id JOIN plan p ON p.id = r.plan_id JOIN run_entry e ON e.run_id = r.id AND e.seq = f.seq
    JOIN plan_change c ON c.plan_id = f.plan_id AND c.seq = f.seq LEFT JOIN owner o ON o.id = c.subject_id
WHERE f.class = 'asset' AND f.id = @id::bigint AND c.subject = 'pictures' AND e.code = ''
    AND coalesce(c.before->'pictures' @> jsonb_build_array(jsonb_build_object('asset', @id::bigint)), false) <> coalesce(c.after->'pictures' @> jsonb_build_array(jsonb_build_object('asset', @id::bigint)), false)
ORDER BY r.id DESC, f.seq LIMIT @most;

-- name: SourceNames :many
SELECT id, name FROM source ORDER BY name, id;

-- name: SetDerivedBytes :exec
INSERT INTO house_setting (name, value) VALUES ('derived_bytes', to_jsonb(@bytes::bigint)) ON CONFLICT (name) DO UPDATE SET value = excluded.value, changed_at = now();

-- name: FamilyLooks :many
-- Pictures of an owner's family, which is its product, that one's variants, and itself, with how they look; of very many some.
SELECT DISTINCT s.id, s.likeness::bigint AS likeness FROM owner o JOIN owner f ON f.id IN (o.id, o.parent) OR f.parent = coalesce(o.parent, o.id)
JOIN placement p ON p.owner_id = f.id JOIN asset s ON s.id = p.asset_id
WHERE o.id = @owner AND o.kind <> 'category' AND s.likeness IS NOT NULL AND NOT s.placeholder ORDER BY s.id LIMIT @most;
