// Package catalogue keeps the owners: it reads them for pairing, finds them, names them, and brings products tables in, through a
// plan like every change.
package catalogue

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tablefiles"
)

// Look reads a table and says what importing it would change, and which rows can't be. Nothing is kept. New owners are numbered from
// -1 down. Cost: by the table, not the catalogue; a row stands in memory. Errors: those of Begin.
func Look(ctx context.Context, s *store.Store, path string) ([]core.Edit, []core.Problem, error) {
	rows, problems, err := readTable(path)
	if err != nil {
		return nil, nil, err
	}
	edits, more, err := Edits(ctx, s, rows)
	return edits, append(problems, more...), err
}

// Edits are what rows of a table would change of the catalogue, and what is wrong with the others. Nothing is kept. New owners are
// numbered from -1 down. Cost: by the rows, not the catalogue.
func Edits(ctx context.Context, s *store.Store, rows []core.Row) ([]core.Edit, []core.Problem, error) {
	rows, problems := core.Sound(rows)
	standing, last, err := touched(ctx, s, rows)
	if err != nil {
		return nil, nil, err
	}
	next := int64(0)
	edits, more := core.Plan(standing, rows, last, func() int64 { next--; return next })
	return edits, append(problems, more...), nil
}

// touched reads what of the catalogue rows can touch, and its highest ordinal.
func touched(ctx context.Context, s *store.Store, rows []core.Row) (standing []core.Owner, last int, err error) {
	identities, barcodes := core.Touched(rows)
	found, err := s.OwnersTouched(ctx, query.OwnersTouchedParams{Identities: identities, Barcodes: barcodes})
	if err != nil {
		return nil, 0, err
	}
	categories, err := s.AllCategories(ctx)
	if err != nil {
		return nil, 0, err
	}
	found = append(found, categories...)
	standing = make([]core.Owner, len(found))
	for i, o := range found {
		if standing[i], err = store.CatalogueOwner(o); err != nil {
			return nil, 0, err
		}
	}
	ordinal, err := s.LastOrdinal(ctx)
	return standing, int(ordinal), err
}

// readTable reads what a table says of owners, to its end.
func readTable(path string) (rows []core.Row, problems []core.Problem, err error) {
	err = sheet.With(path, "", func(all sheet.Rows) error {
		b, err := tablefiles.Begin(all)
		if err != nil {
			return err
		}
		if rows, problems, err = b.Owners(false); err != nil {
			return err
		}
		return nil
	})
	return rows, problems, err
}

// Check reads a table's beginning and returns the error with which reading it would end. Errors: those of Begin, core.ErrNoSKU.
func Check(path string) error {
	return sheet.With(path, "", func(all sheet.Rows) error {
		b, err := tablefiles.Begin(all)
		if err != nil {
			return err
		}
		return b.Knows()
	})
}

// PlanImport reads a table and keeps the plan of importing it; it returns the plan's number. Rows that can't be are the plan's
// problems. Errors: those of reading, and ledger.ErrNothingToDo.
func (im *Importer) PlanImport(ctx context.Context, name, path string, person int64) (int64, error) {
	draft, changes, err := im.draft(ctx, name, path, person)
	if err != nil {
		return 0, err
	}
	return im.Ledger.Keep(ctx, draft, changes)
}

// PlanText is PlanImport for a table that is given as a text.
func (im *Importer) PlanText(ctx context.Context, name, text string, person int64) (int64, error) {
	f, err := os.CreateTemp("", "ambrosa-table-*")
	if err != nil {
		return 0, err
	}
	defer os.Remove(f.Name())
	_, err = f.WriteString(text)
	if err := errors.Join(err, f.Close()); err != nil {
		return 0, err
	}
	return im.PlanImport(ctx, name, f.Name(), person)
}

// draft makes the plan of a table, and numbers what is new.
func (im *Importer) draft(ctx context.Context, name, path string, person int64) (ledger.Draft, []change.Change, error) {
	draft := ledger.Draft{Kind: "catalogue", Title: name, Person: person, Source: map[string]string{"table": name}}
	edits, problems, err := Look(ctx, im.Store, path)
	if err != nil {
		return draft, nil, err
	}
	if err := Number(ctx, im.Store, edits); err != nil {
		return draft, nil, err
	}
	if len(problems) > 0 {
		draft.Problems = problems
	}
	changes, err := core.Changes(edits)
	return draft, changes, err
}

// Number gives what is new its numbers for good: categories the one of their place, so that two imports planned side by
// side mean the same one, the others the next that are free.
func Number(ctx context.Context, s *store.Store, edits []core.Edit) error {
	var levels [][]*core.Owner // new categories by how deep they stand among the new ones
	depth := map[int64]int{}
	var others []int64
	for _, c := range edits {
		switch {
		case c.Before != nil:
		case c.After.Kind == core.Category:
			at := 0
			if above, ok := depth[c.After.Parent]; ok {
				at = above + 1
			}
			depth[c.ID] = at
			if at == len(levels) {
				levels = append(levels, nil)
			}
			levels[at] = append(levels[at], c.After)
		default:
			others = append(others, c.ID)
		}
	}
	to := make(map[int64]int64, len(others))
	for _, level := range levels {
		var p query.SeatCategoriesParams
		for _, o := range level {
			parent := o.Parent
			if n, ok := to[parent]; ok {
				parent = n
			}
			p.Parents, p.Titles = append(p.Parents, parent), append(p.Titles, core.Identity(o.Title))
		}
		if err := s.SeatCategories(ctx, p); err != nil {
			return err
		}
		ids, err := s.CategorySeats(ctx, query.CategorySeatsParams(p))
		if err != nil {
			return err
		}
		for i, o := range level {
			to[o.ID] = ids[i]
		}
	}
	ids, err := s.ReserveOwnerIDs(ctx, int32(len(others)))
	if err != nil {
		return err
	}
	for i, id := range others {
		to[id] = ids[i]
	}
	core.Renumber(edits, to)
	return nil
}

// Problems are those of a kept plan.
func Problems(ctx context.Context, s *store.Store, plan int64) ([]core.Problem, int32, error) {
	p, err := s.PlanByID(ctx, plan)
	if err != nil {
		return nil, 0, err
	}
	var problems []core.Problem
	if err := json.Unmarshal(p.Problems, &problems); err != nil {
		return nil, 0, fmt.Errorf("problems of plan %d: %w", plan, err)
	}
	return problems, p.Changes, nil
}
