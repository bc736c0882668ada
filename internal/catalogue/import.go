// Package catalogue keeps the owners: it reads them for pairing, finds them, names them, and brings products tables in, through a
// plan like every change.
package catalogue

import (
	"context"
	"encoding/json"
	"fmt"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// Look reads a products table and says what bringing it in would change, and which rows can't be. Nothing is kept. New
// owners are numbered from -1 down. Cost: by the table, not the catalogue. Errors: those of core/catalogue's Read.
func Look(ctx context.Context, s *store.Store, text string) ([]core.Edit, []core.Problem, error) {
	rows, problems, err := core.Read(text)
	if err != nil {
		return nil, nil, err
	}
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

// PlanImport reads a products table and keeps the plan of bringing it in; it returns the plan's number. Rows
// that can't be are the plan's problems. Errors: those of core/catalogue's Read, and ledger.ErrNothingToDo.
func (im *Importer) PlanImport(ctx context.Context, name, text string, person int64) (int64, error) {
	draft, changes, err := im.draft(ctx, name, text, person)
	if err != nil {
		return 0, err
	}
	return im.Ledger.Keep(ctx, draft, changes)
}

// draft makes the plan of a table, and numbers what is new.
func (im *Importer) draft(ctx context.Context, name, text string, person int64) (ledger.Draft, []change.Change, error) {
	draft := ledger.Draft{Kind: "catalogue", Title: name, Person: person, Source: map[string]string{"table": name}}
	edits, problems, err := Look(ctx, im.Store, text)
	if err != nil {
		return draft, nil, err
	}
	if err := number(ctx, im.Store, edits); err != nil {
		return draft, nil, err
	}
	if len(problems) > 0 {
		draft.Problems = problems
	}
	changes, err := core.Changes(edits)
	return draft, changes, err
}

// number returns what is new its numbers for good: categories the one of their place, so that two imports planned side by
// side mean the same one, the others the next that are free.
func number(ctx context.Context, s *store.Store, edits []core.Edit) error {
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
