package owner

import (
	"context"
	"encoding/json"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// line is a change on its way: what shall stand, in full; nil where the owner is taken out.
type line struct {
	change.Change
	after *catalogue.Owner
}

// lines reads changes: what shall stand is what stands now, with the fields that change.
func lines(ctx context.Context, q *query.Queries, changes []change.Change) ([]line, error) {
	now, err := standing(ctx, q, change.IDs(changes))
	if err != nil {
		return nil, err
	}
	all := make([]line, len(changes))
	for i, c := range changes {
		all[i].Change = c
		if change.None(c.After) {
			continue
		}
		fields := c.After
		if o, stands := now[c.ID]; stands {
			if fields, err = change.Merge(o.JSON(), c.After); err != nil {
				return nil, err
			}
		}
		after, err := catalogue.ReadOwner(c.ID, fields)
		if err != nil {
			return nil, err
		}
		all[i].after = &after
	}
	return all, nil
}

// act is what a line does; those that do the same are done together.
type act int

const (
	adds act = iota
	alters
	removes
)

func (l line) act() act {
	switch {
	case change.None(l.Before):
		return adds
	case l.after == nil:
		return removes
	}
	return alters
}

// writer makes a chunk's changes and notes which are left alone.
type writer struct {
	q    *query.Queries
	tx   pgx.Tx
	left []ledger.Left
}

func (w *writer) leave(l line, code string, data ...any) {
	w.left = append(w.left, ledger.Left{Seq: l.Seq, Message: message.New(code, data...)})
}

// Write makes owners, alters them and takes them out.
func (Subject) Write(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	w := &writer{q: query.New(tx), tx: tx}
	all, err := lines(ctx, w.q, changes)
	if err != nil {
		return nil, err
	}
	for len(all) > 0 {
		n := 1
		for n < len(all) && all[n].act() == all[0].act() {
			n++
		}
		switch all[0].act() {
		case adds:
			err = w.add(ctx, all[:n])
		case alters:
			err = w.alter(ctx, all[:n])
		case removes:
			err = w.remove(ctx, all[:n])
		}
		if err != nil {
			return nil, err
		}
		all = all[n:]
	}
	if len(w.left) == len(changes) {
		return w.left, nil
	}
	return w.left, w.q.TouchOwners(ctx)
}

// Foresee tells whose SKU somebody else has.
func (Subject) Foresee(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	w := &writer{q: query.New(tx), tx: tx}
	all, err := lines(ctx, w.q, changes)
	if err != nil {
		return nil, err
	}
	all = slices.DeleteFunc(all, func(l line) bool { return l.after == nil })
	taken, err := w.taken(ctx, all)
	for i, l := range all {
		if taken[i] {
			w.leave(l, "sku_taken", "sku", l.after.SKU)
		}
	}
	return w.left, err
}

// taken tells by line whether somebody else has the SKU that an owner shall have.
func (w *writer) taken(ctx context.Context, all []line) ([]bool, error) {
	identities := make([]string, len(all))
	for i, l := range all {
		identities[i] = identity(*l.after)
	}
	rows, err := w.q.OwnersNamed(ctx, identities)
	if err != nil {
		return make([]bool, len(all)), err
	}
	holder := make(map[string]int64, len(rows))
	for _, r := range rows {
		holder[*r.Identity] = r.ID
	}
	taken := make([]bool, len(all))
	for i, l := range all {
		has := holder[identities[i]]
		taken[i] = has != 0 && has != l.ID
	}
	return taken, nil
}

// identity is the form in which an owner's SKU is unique; empty where it has none.
func identity(o catalogue.Owner) string {
	if o.SKU == "" {
		return ""
	}
	return catalogue.Identity(o.SKU)
}

// ownerColumns are the owner table's columns that are written; ownerValues reads them out of JSON records.
const (
	ownerColumns = "id, kind, parent, category, sku, identity, barcode, code, title, titles, options, attributes, ordinal, retired"
	ownerValues  = `SELECT (r->>'id')::bigint, r->>'kind', (r->>'parent')::bigint, (r->>'category')::bigint, coalesce(r->>'sku', ''),
	nullif(r->>'identity', ''), coalesce(r->>'barcode', ''), coalesce(r->>'code', ''), coalesce(r->>'title', ''), coalesce(r->'titles', '{}'),
	coalesce(r->'options', '{}'), coalesce(r->'attributes', '{}'), coalesce((r->>'ordinal')::int, 0), coalesce((r->>'retired')::boolean, false)
	FROM jsonb_array_elements($1::jsonb) r`
)

// records are lines for ownerValues.
func records(all []line) (json.RawMessage, error) {
	type record struct {
		ID       int64  `json:"id"`
		Identity string `json:"identity,omitempty"`
		catalogue.Owner
	}
	rows := make([]record, len(all))
	for i, l := range all {
		rows[i] = record{ID: l.ID, Identity: identity(*l.after), Owner: *l.after}
	}
	return json.Marshal(rows)
}

// grounded tells whether what owners stand on is there. It is locked already.
func (w *writer) grounded(ctx context.Context, all []line) (func(line) bool, error) {
	var ids []int64
	for _, l := range all {
		ids = append(ids, l.after.Parent, l.after.Category)
	}
	found, err := w.q.OwnersThere(ctx, ids)
	if err != nil {
		return nil, err
	}
	there := map[int64]bool{0: true}
	for _, id := range found {
		there[id] = true
	}
	return func(l line) bool { return there[l.after.Parent] && there[l.after.Category] }, nil
}

// add adds owners, level by level: what another stands on is added before it.
func (w *writer) add(ctx context.Context, all []line) error {
	pending := make(map[int64]bool, len(all))
	for _, l := range all {
		pending[l.ID] = true
	}
	for len(all) > 0 {
		var now, later []line
		for _, l := range all {
			if pending[l.after.Parent] || pending[l.after.Category] {
				later = append(later, l)
			} else {
				now = append(now, l)
			}
		}
		if len(now) == 0 {
			for _, l := range later {
				w.leave(l, "own_ground")
			}
			return nil
		}
		if err := w.level(ctx, now); err != nil {
			return err
		}
		for _, l := range now {
			delete(pending, l.ID)
		}
		all = later
	}
	return nil
}

// level adds owners of which none stands on another.
func (w *writer) level(ctx context.Context, all []line) error {
	grounded, err := w.grounded(ctx, all)
	if err != nil {
		return err
	}
	can := make([]line, 0, len(all))
	for _, l := range all {
		if grounded(l) {
			can = append(can, l)
		} else {
			w.leave(l, "ground_missing")
		}
	}
	values, err := records(can)
	if err != nil {
		return err
	}
	inserted, err := w.tx.Query(ctx, "INSERT INTO owner ("+ownerColumns+") "+ownerValues+" ON CONFLICT DO NOTHING RETURNING id", values)
	if err != nil {
		return err
	}
	ids, err := pgx.CollectRows(inserted, pgx.RowTo[int64])
	if err != nil {
		return err
	}
	done := make(map[int64]bool, len(ids))
	for _, id := range ids {
		done[id] = true
	}
	for _, l := range can {
		if !done[l.ID] {
			w.leave(l, "sku_taken", "sku", l.after.SKU)
		}
	}
	return nil
}

func (w *writer) alter(ctx context.Context, all []line) error {
	grounded, err := w.grounded(ctx, all)
	if err != nil {
		return err
	}
	taken, err := w.taken(ctx, all)
	if err != nil {
		return err
	}
	can := make([]line, 0, len(all))
	for i, l := range all {
		if !grounded(l) {
			w.leave(l, "ground_missing")
		} else if taken[i] {
			w.leave(l, "sku_taken", "sku", l.after.SKU)
		} else {
			can = append(can, l)
		}
	}
	values, err := records(can)
	if err != nil {
		return err
	}
	_, err = w.tx.Exec(ctx, `UPDATE owner o SET kind = n.kind, parent = n.parent, category = n.category, sku = n.sku, identity = n.identity,
		barcode = n.barcode, code = n.code, title = n.title, titles = n.titles, options = n.options, attributes = n.attributes, ordinal = n.ordinal, retired = n.retired
		FROM (`+ownerValues+`) AS n (`+ownerColumns+`) WHERE o.id = n.id`, values)
	return err
}

// remove takes owners out that nothing stands on any more, but for what goes with them.
func (w *writer) remove(ctx context.Context, all []line) error {
	going := make(map[int64]line, len(all))
	for _, l := range all {
		going[l.ID] = l
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
			w.leave(going[id], "owner_in_use")
			delete(going, id)
		}
	}
}
