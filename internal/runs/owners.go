package runs

import (
	"context"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// ownerColumns reads owner records out of JSON; what it gives fits the table's columns.
const ownerColumns = `SELECT (r->>'id')::bigint, r->>'kind', (r->>'parent')::bigint, (r->>'category')::bigint, coalesce(r->>'sku', ''),
	nullif(r->>'identity', ''), coalesce(r->>'barcode', ''), coalesce(r->>'title', ''), coalesce(r->'options', '{}'), coalesce((r->>'ordinal')::int, 0)
	FROM jsonb_array_elements($1::jsonb) r`

type ownerRecord struct {
	ID       int64  `json:"id"`
	Identity string `json:"identity,omitempty"`
	catalogue.Owner
}

func record(id int64, o catalogue.Owner) ownerRecord {
	r := ownerRecord{ID: id, Owner: o}
	if o.SKU != "" {
		r.Identity = catalogue.Identity(o.SKU)
	}
	return r
}

// Why an owner was left alone.
const (
	takenSince  = "Its SKU was taken since the plan was made."
	noGround    = "What it belongs to is not in the catalogue."
	thereSince  = "It is in the catalogue already."
	heldSince   = "It has pictures, or something belongs to it, that came since."
	circleSince = "It would stand on itself."
)

// make adds owners, level by level: what another stands on is added before it.
func (w *writer) make(ctx context.Context, rows []query.ChunkChangesRow) error {
	pending := make(map[int64]bool, len(rows))
	for _, c := range rows {
		pending[c.OwnerID] = true
	}
	for len(rows) > 0 {
		var level []ownerRecord
		var now, later []query.ChunkChangesRow
		for _, c := range rows {
			var before, after *catalogue.Owner
			if err := decode(c, &before, &after); err != nil {
				return err
			}
			if pending[after.Parent] || pending[after.Category] {
				later = append(later, c)
				continue
			}
			now = append(now, c)
			level = append(level, record(c.OwnerID, *after))
		}
		if len(now) == 0 {
			for _, c := range later {
				w.why[c.Seq] = circleSince
			}
			return nil
		}
		ground, err := w.ground(ctx, level)
		if err != nil {
			return err
		}
		grounded := slices.DeleteFunc(slices.Clone(level), func(r ownerRecord) bool { return !ground(r) })
		inserted, err := w.tx.Query(ctx, `INSERT INTO owner (id, kind, parent, category, sku, identity, barcode, title, options, ordinal) `+
			ownerColumns+` ON CONFLICT DO NOTHING RETURNING id`, encode(grounded))
		if err != nil {
			return err
		}
		made, err := pgx.CollectRows(inserted, pgx.RowTo[int64])
		if err != nil {
			return err
		}
		done := make(map[int64]bool, len(made))
		for _, id := range made {
			done[id] = true
		}
		var missing []int64
		for _, c := range now {
			delete(pending, c.OwnerID)
			if !done[c.OwnerID] {
				missing = append(missing, c.OwnerID)
			}
		}
		rows = later
		if len(missing) == 0 {
			continue
		}
		standing, err := standingOwners(ctx, w.q, missing)
		if err != nil {
			return err
		}
		for i, c := range now {
			_, stands := standing[c.OwnerID]
			switch {
			case done[c.OwnerID]:
			case stands:
				w.why[c.Seq] = thereSince
			case !ground(level[i]):
				w.why[c.Seq] = noGround
			default:
				w.why[c.Seq] = takenSince
			}
		}
	}
	return nil
}

// ground locks what records stand on, and tells whether it is there.
func (w *writer) ground(ctx context.Context, records []ownerRecord) (func(ownerRecord) bool, error) {
	var ids []int64
	for _, r := range records {
		ids = append(ids, r.Parent, r.Category)
	}
	there, err := w.lock(ctx, ids)
	if err != nil {
		return nil, err
	}
	there[0] = true
	return func(r ownerRecord) bool { return there[r.Parent] && there[r.Category] }, nil
}

// unchanged locks the owners of lines and gives each whose owner stands as the plan found it to do, with what shall stand.
func (w *writer) unchanged(ctx context.Context, rows []query.ChunkChangesRow, do func(c query.ChunkChangesRow, after *catalogue.Owner)) error {
	ids := ownerIDs(rows)
	if _, err := w.lock(ctx, ids); err != nil {
		return err
	}
	standing, err := standingOwners(ctx, w.q, ids)
	if err != nil {
		return err
	}
	for _, c := range rows {
		var before, after *catalogue.Owner
		if err := decode(c, &before, &after); err != nil {
			return err
		}
		before.ID = c.OwnerID
		if now, ok := standing[c.OwnerID]; !ok {
			w.why[c.Seq] = goneSince
		} else if !now.Equal(*before) {
			w.why[c.Seq] = changedSince
		} else {
			do(c, after)
		}
	}
	return nil
}

func (w *writer) alter(ctx context.Context, rows []query.ChunkChangesRow) error {
	var records []ownerRecord
	var lines []int32
	err := w.unchanged(ctx, rows, func(c query.ChunkChangesRow, after *catalogue.Owner) {
		records, lines = append(records, record(c.OwnerID, *after)), append(lines, c.Seq)
	})
	if err != nil {
		return err
	}
	ground, err := w.ground(ctx, records)
	if err != nil {
		return err
	}
	identities := make([]string, len(records))
	for i, r := range records {
		identities[i] = r.Identity
	}
	named, err := ownersNamed(ctx, w.q, identities)
	if err != nil {
		return err
	}
	can := make([]ownerRecord, 0, len(records))
	for i, r := range records {
		if holder := named[r.Identity]; !ground(r) {
			w.why[lines[i]] = noGround
		} else if holder != 0 && holder != r.ID {
			w.why[lines[i]] = takenSince
		} else {
			can = append(can, r)
		}
	}
	_, err = w.tx.Exec(ctx, `UPDATE owner o SET kind = n.kind, parent = n.parent, category = n.category, sku = n.sku, identity = n.identity,
		barcode = n.barcode, title = n.title, options = n.options, ordinal = n.ordinal
		FROM (`+ownerColumns+`) AS n (id, kind, parent, category, sku, identity, barcode, title, options, ordinal) WHERE o.id = n.id`, encode(can))
	return err
}

// remove takes owners out that nothing stands on any more, but for what goes with them.
func (w *writer) remove(ctx context.Context, rows []query.ChunkChangesRow) error {
	going := map[int64]int32{}
	if err := w.unchanged(ctx, rows, func(c query.ChunkChangesRow, _ *catalogue.Owner) { going[c.OwnerID] = c.Seq }); err != nil {
		return err
	}
	for {
		ids := make([]int64, 0, len(going))
		for id := range going {
			ids = append(ids, id)
		}
		held, err := w.tx.Query(ctx, `SELECT DISTINCT o.id FROM owner o WHERE o.id = ANY ($1) AND (
			EXISTS (SELECT 1 FROM placement p WHERE p.owner_id = o.id)
			OR EXISTS (SELECT 1 FROM owner c WHERE (c.parent = o.id OR c.category = o.id) AND c.id <> ALL ($1)))`, ids)
		if err != nil {
			return err
		}
		kept, err := pgx.CollectRows(held, pgx.RowTo[int64])
		if err != nil {
			return err
		}
		if len(kept) == 0 {
			_, err := w.tx.Exec(ctx, "DELETE FROM owner WHERE id = ANY ($1)", ids)
			return err
		}
		for _, id := range kept {
			w.why[going[id]] = heldSince
			delete(going, id)
		}
	}
}

// standingOwners gives owners as they stand now; those that are gone are missing.
func standingOwners(ctx context.Context, q *query.Queries, ids []int64) (map[int64]catalogue.Owner, error) {
	rows, err := q.OwnerRecords(ctx, ids)
	if err != nil {
		return nil, err
	}
	standing := make(map[int64]catalogue.Owner, len(rows))
	for _, o := range rows {
		if standing[o.ID], err = store.CatalogueOwner(o); err != nil {
			return nil, err
		}
	}
	return standing, nil
}

// ownersNamed tells who has SKUs now, by the form in which they are the same.
func ownersNamed(ctx context.Context, q *query.Queries, identities []string) (map[string]int64, error) {
	rows, err := q.OwnersNamed(ctx, identities)
	has := make(map[string]int64, len(rows))
	for _, r := range rows {
		has[*r.Identity] = r.ID
	}
	return has, err
}
