package sources

import (
	"cmp"
	"context"
	"errors"
	"log/slog"

	"ambrosa/core/placement"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// What a source wants done with tables that come along with its pictures.
const (
	TablesPlan  = "plan"  // their plan is made, and waits for a person
	TablesApply = "apply" // it is applied, too, where it has no problem and nothing is held
)

// TableReady does with a table that was checked what its source wants, once. It is told of every table, and does nothing with those that a
// person sent or planned with already.
func (s *Sources) TableReady(ctx context.Context, table int64) error {
	t, err := s.Store.TakeFoundTable(ctx, table)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil || t.Wish == "" {
		return err
	}
	if err := s.planTable(ctx, table, t); err != nil {
		return errors.Join(err, s.Store.LeaveFoundTable(context.WithoutCancel(ctx), table)) // the clock tries again
	}
	return nil
}

func (s *Sources) planTable(ctx context.Context, table int64, t query.TakeFoundTableRow) error {
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

// takeTables does with tables what their sources want, where that was not done when they were checked.
func (s *Sources) takeTables(ctx context.Context) error {
	waiting, err := s.Store.WaitingTables(ctx)
	if err != nil {
		return err
	}
	for _, table := range waiting {
		if err := s.TableReady(ctx, table); err != nil {
			slog.Error("a table of a source can't be planned", "table", table, "error", err)
		}
	}
	return nil
}
