package runs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/jobs"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// chunkChanges is how many owners one transaction changes: large enough that the statements' own cost
// vanishes, small enough that a stop is felt at once.
const chunkChanges = 2000

// apply works through a run's plan. Each chunk and its ledger lines commit together, so it can be ended
// anywhere and taken up again at the first line not yet in the ledger.
func (r *Runner) apply(ctx context.Context, run int64) error {
	for more := true; more; {
		var err error
		if more, err = r.chunk(ctx, run); err != nil {
			return err
		}
	}
	return nil
}

// chunk applies the next changes of a run and reports whether there are more. jobs.ErrStopped where it was asked to stop.
func (r *Runner) chunk(ctx context.Context, run int64) (more bool, err error) {
	stopped := false
	err = r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		at, err := q.LockRun(ctx, run)
		if err != nil {
			return err
		}
		if state := jobs.State(at.State); state.Over() {
			return nil
		} else if state == jobs.Stopping {
			stopped, err = r.Jobs.Step(ctx, q, tx, Work, run, int64(at.Done), int64(at.Changes), 0)
			return err
		}
		rows, err := q.ChunkChanges(ctx, query.ChunkChangesParams{PlanID: at.PlanID, Seq: at.Done, Most: chunkChanges})
		if err != nil {
			return err
		}
		w := &writer{q: q, tx: tx, why: map[int32]string{}}
		if err := w.apply(ctx, rows, at.Undoes); err != nil {
			return err
		}
		if err := w.ledger(ctx, run, rows, at.Undoes); err != nil {
			return err
		}
		if err := touch(ctx, q, tx, rows, len(w.why)); err != nil {
			return err
		}
		left := int32(len(w.why))
		if err := q.AddToRun(ctx, query.AddToRunParams{ID: run, Applied: int32(len(rows)) - left, LeftAlone: left}); err != nil {
			return err
		}
		done := at.Done
		if len(rows) > 0 {
			done = rows[len(rows)-1].Seq
		}
		if stopped, err = r.Jobs.Step(ctx, q, tx, Work, run, int64(done), int64(at.Changes), 0); err != nil {
			return err
		}
		if more = done < at.Changes && len(rows) > 0; !more {
			err = r.Jobs.Finish(ctx, q, tx, Work, run)
		}
		killpoint.Pass(killpoint.ChunkWritten)
		return err
	})
	if err == nil {
		killpoint.Pass(killpoint.ChunkCommitted)
		if stopped && more {
			err = jobs.ErrStopped
		}
	}
	return more && !stopped, err
}

// touch lets those who read the catalogue know that it changed: which of its parts, unless every line was left alone.
func touch(ctx context.Context, q *query.Queries, tx pgx.Tx, rows []query.ChunkChangesRow, leftAlone int) error {
	if len(rows) == leftAlone {
		return nil
	}
	owners := slices.ContainsFunc(rows, func(c query.ChunkChangesRow) bool { return c.Subject == "owner" })
	pictures := slices.ContainsFunc(rows, func(c query.ChunkChangesRow) bool { return c.Subject == "pictures" })
	if pictures {
		if err := q.TouchPictures(ctx); err != nil {
			return err
		}
	}
	if !owners {
		return nil
	}
	if err := q.TouchOwners(ctx); err != nil {
		return err
	}
	return store.Notify(ctx, tx, store.Topic("catalogue", 0))
}

// writer makes a chunk's changes. why says, by line, why one was left alone.
type writer struct {
	q   *query.Queries
	tx  pgx.Tx
	why map[int32]string
}

const (
	changedSince = "It changed since the plan was made."
	goneSince    = "The product is no longer in the catalogue."
	undoneSince  = "It was taken back already."
)

// catalogueLock is the advisory lock under which owners are made, altered and removed: what one does rests on what others
// have not done yet, so they take turns, chunk by chunk.
const catalogueLock = 953

// apply makes the changes in their order, but for those that another undo has taken back. All owners that the chunk touches
// or stands on are locked first, in one order for everybody, so that two runs wait for each other and never in a circle.
func (w *writer) apply(ctx context.Context, rows []query.ChunkChangesRow, undoes *int64) error {
	if undoes != nil {
		seqs := make([]int32, 0, len(rows))
		for _, c := range rows {
			if c.Undoes != nil {
				seqs = append(seqs, *c.Undoes)
			}
		}
		undone, err := w.q.UndoneLines(ctx, query.UndoneLinesParams{RunID: *undoes, Seqs: seqs})
		if err != nil {
			return err
		}
		rows = slices.DeleteFunc(slices.Clone(rows), func(c query.ChunkChangesRow) bool {
			gone := c.Undoes != nil && slices.Contains(undone, *c.Undoes)
			if gone {
				w.why[c.Seq] = undoneSince
			}
			return gone
		})
	}
	ids := ownerIDs(rows)
	catalogueToo := false
	for _, c := range rows {
		if c.Subject != "owner" {
			continue
		}
		catalogueToo = true
		var before, after *catalogue.Owner
		if err := decode(c, &before, &after); err != nil {
			return err
		}
		for _, o := range []*catalogue.Owner{before, after} {
			if o != nil {
				ids = append(ids, o.Parent, o.Category)
			}
		}
	}
	if catalogueToo {
		if _, err := w.tx.Exec(ctx, "SELECT pg_advisory_xact_lock($1)", catalogueLock); err != nil {
			return err
		}
		// Removing an owner waits for whoever puts a picture on it, and the other way round.
		if _, err := w.tx.Exec(ctx, "SELECT id FROM owner WHERE id = ANY ($1) ORDER BY id FOR UPDATE", ids); err != nil {
			return err
		}
	}
	return w.write(ctx, rows)
}

// write makes the changes in their order, together as far as they are of one kind.
func (w *writer) write(ctx context.Context, rows []query.ChunkChangesRow) error {
	kind := func(c query.ChunkChangesRow) string {
		switch {
		case c.Subject == "pictures":
			return "pictures"
		case isNull(c.Before):
			return "make"
		case isNull(c.After):
			return "remove"
		}
		return "alter"
	}
	for len(rows) > 0 {
		n := 1
		for n < len(rows) && kind(rows[n]) == kind(rows[0]) {
			n++
		}
		var err error
		switch kind(rows[0]) {
		case "pictures":
			err = w.pictures(ctx, rows[:n])
		case "make":
			err = w.make(ctx, rows[:n])
		case "alter":
			err = w.alter(ctx, rows[:n])
		case "remove":
			err = w.remove(ctx, rows[:n])
		}
		if err != nil {
			return err
		}
		rows = rows[n:]
	}
	return nil
}

func (w *writer) pictures(ctx context.Context, rows []query.ChunkChangesRow) error {
	ids := ownerIDs(rows)
	there, err := w.lock(ctx, ids)
	if err != nil {
		return err
	}
	standing, err := standingPictures(ctx, w.q, ids)
	if err != nil {
		return err
	}
	var clear []int64
	var placements [][]any
	for _, c := range rows {
		var before, after []change.Picture
		if err := decode(c, &before, &after); err != nil {
			return err
		}
		switch {
		case !there[c.OwnerID]:
			w.why[c.Seq] = goneSince
		case !slices.Equal(standing[c.OwnerID], before):
			w.why[c.Seq] = changedSince
		default:
			if len(before) > 0 {
				clear = append(clear, c.OwnerID)
			}
			for i, p := range after {
				placements = append(placements, []any{c.OwnerID, int32(i + 1), p.Asset, p.Alt})
			}
		}
	}
	if _, err := w.tx.Exec(ctx, "DELETE FROM placement WHERE owner_id = ANY ($1)", clear); err != nil {
		return err
	}
	_, err = w.tx.CopyFrom(ctx, pgx.Identifier{"placement"}, []string{"owner_id", "position", "asset_id", "alt"}, pgx.CopyFromRows(placements))
	return err
}

// lock holds the owners, in one order for everybody, until the chunk commits: two runs on one product take
// turns. It gives those that are there.
func (w *writer) lock(ctx context.Context, ids []int64) (map[int64]bool, error) {
	rows, err := w.tx.Query(ctx, "SELECT id FROM owner WHERE id = ANY ($1) ORDER BY id FOR NO KEY UPDATE", ids)
	if err != nil {
		return nil, err
	}
	locked, err := pgx.CollectRows(rows, pgx.RowTo[int64])
	there := make(map[int64]bool, len(locked))
	for _, id := range locked {
		there[id] = true
	}
	return there, err
}

// ledger writes what became of each line, and, where it takes another run's lines back, that they are.
func (w *writer) ledger(ctx context.Context, run int64, rows []query.ChunkChangesRow, undoes *int64) error {
	_, err := w.tx.CopyFrom(ctx, pgx.Identifier{"run_entry"}, []string{"run_id", "seq", "why"},
		pgx.CopyFromSlice(len(rows), func(i int) ([]any, error) { return []any{run, rows[i].Seq, w.why[rows[i].Seq]}, nil }))
	if err != nil || undoes == nil {
		return err
	}
	made := make([]int32, 0, len(rows))
	for _, c := range rows {
		if w.why[c.Seq] == "" {
			made = append(made, c.Seq)
		}
	}
	return w.q.SettleUndo(ctx, query.SettleUndoParams{Run: run, Seqs: made})
}

func standingPictures(ctx context.Context, q *query.Queries, ids []int64) (map[int64][]change.Picture, error) {
	rows, err := q.PlacedAssets(ctx, ids)
	standing := map[int64][]change.Picture{}
	for _, p := range rows {
		standing[p.OwnerID] = append(standing[p.OwnerID], change.Picture{Asset: p.AssetID, Alt: p.Alt})
	}
	return standing, err
}

// Standing gives the owners' pictures as they stand now.
func (r *Runner) Standing(ctx context.Context, ids []int64) (map[int64][]change.Picture, error) {
	return standingPictures(ctx, r.Store.Queries, ids)
}

func ownerIDs(rows []query.ChunkChangesRow) []int64 {
	ids := make([]int64, len(rows))
	for i, c := range rows {
		ids[i] = c.OwnerID
	}
	return ids
}

func decode(c query.ChunkChangesRow, before, after any) error {
	if err := json.Unmarshal(c.Before, before); err != nil {
		return fmt.Errorf("line %d of the plan: %w", c.Seq, err)
	}
	if err := json.Unmarshal(c.After, after); err != nil {
		return fmt.Errorf("line %d of the plan: %w", c.Seq, err)
	}
	return nil
}

func isNull(j json.RawMessage) bool { return len(j) == 0 || string(j) == "null" }
