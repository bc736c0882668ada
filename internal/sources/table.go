package sources

import (
	"cmp"
	"context"
	"errors"

	"ambrosa/core/placement"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"

	"github.com/jackc/pgx/v5"
)

// What a source wants done with tables that come along with its pictures.
const (
	TablesPlan  = "plan"  // their plan is made, and waits for a person
	TablesApply = "apply" // it is applied, too, where it has no problem and nothing is held
)

// TableReady does with a table that was checked what its source wants. It is told of every table, and does nothing with those that a person
// sent or planned with already.
func (s *Sources) TableReady(ctx context.Context, table int64) error {
	t, err := s.Store.FoundTable(ctx, table)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil || t.Wish == "" || t.PlanID != nil || !t.Checked || jobs.State(t.State) != jobs.Done {
		return err
	}
	rule := placement.Rule(cmp.Or(t.HouseRule, string(placement.OnlyWhereEmpty)))
	plan, err := s.Tables.Plan(ctx, table, t.CreatedBy, rule)
	if errors.Is(err, ledger.ErrNothingToDo) {
		return nil
	}
	if err != nil || t.Wish != TablesApply || t.Stopped > 0 {
		return err
	}
	p, err := s.Store.PlanByID(ctx, plan)
	if err != nil || p.Held > 0 || string(p.Problems) != "[]" || p.Changes == 0 {
		return err
	}
	_, err = s.Ledger.Apply(ctx, plan, t.CreatedBy)
	return err
}
