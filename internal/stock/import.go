// Package stock brings products tables into the catalogue, through a plan like every change.
package stock

import (
	"context"
	"encoding/json"
	"fmt"

	"ambrosa/core/catalogue"
	"ambrosa/internal/runs"
	"ambrosa/internal/store"
)

// PlanImport reads a products table and keeps the plan of bringing it in; it gives the plan's number. Rows
// that can't be are the plan's problems. Errors: those of catalogue.Read, and runs.ErrNothingToDo.
func PlanImport(ctx context.Context, s *store.Store, r *runs.Runner, name, text string, person int64) (int64, error) {
	rows, problems, err := catalogue.Read(text)
	if err != nil {
		return 0, err
	}
	standing, err := s.AllOwners(ctx)
	if err != nil {
		return 0, err
	}
	owners := make([]catalogue.Owner, len(standing))
	for i, o := range standing {
		if owners[i], err = store.CatalogueOwner(o); err != nil {
			return 0, err
		}
	}
	// As many as could be wanted at once: a product or variant a row, and a category for each part of its path.
	most := len(rows)
	for _, row := range rows {
		most += len(row.Category)
	}
	ids, err := s.ReserveOwnerIDs(ctx, int32(most))
	if err != nil {
		return 0, err
	}
	changes, more := catalogue.Plan(owners, rows, func() int64 {
		id := ids[0]
		ids = ids[1:]
		return id
	})
	if name == "" {
		name = "Products table"
	}
	return r.KeepOwners(ctx, runs.Draft{Kind: "catalogue", Title: name, Person: person, Problems: append(problems, more...)}, changes)
}

// Problems are those of a kept plan.
func Problems(ctx context.Context, s *store.Store, plan int64) ([]catalogue.Problem, int32, error) {
	p, err := s.PlanByID(ctx, plan)
	if err != nil {
		return nil, 0, err
	}
	var problems []catalogue.Problem
	if err := json.Unmarshal(p.Problems, &problems); err != nil {
		return nil, 0, fmt.Errorf("problems of plan %d: %w", plan, err)
	}
	return problems, p.Changes, nil
}
