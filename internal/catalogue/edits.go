// Package catalogue keeps the owners: it reads them for pairing, finds them, names them, writes them out, and says what rows of
// a table would change of them.
package catalogue

import (
	"context"

	core "ambrosa/core/catalogue"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

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
