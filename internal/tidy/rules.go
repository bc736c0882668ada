package tidy

import (
	"context"
	"errors"

	"ambrosa/core/schedule"
	"ambrosa/internal/due"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// scheduled is what the clock calls a rule.
const scheduled = "tidy"

// What rules propose.
const (
	OrphansRule = "orphans"
	TwiceRule   = "twice"
)

// AddRule has the clock propose something, in plans of a title, and returns the rule's number. Errors: ErrFinding, schedule.ErrSchedule.
func (t *Tidy) AddRule(ctx context.Context, person int64, finding, title string, days int, when schedule.Schedule) (id int64, err error) {
	if finding != OrphansRule && finding != TwiceRule {
		return 0, ErrFinding
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if id, err = q.AddTidyRule(ctx, query.AddTidyRuleParams{Finding: finding, Title: title, Days: int32(days), CreatedBy: person}); err != nil {
			return err
		}
		return due.Set(ctx, q, scheduled, id, when)
	})
	return id, err
}

// RemoveRule ends a rule. pgx.ErrNoRows where it is not there.
func (t *Tidy) RemoveRule(ctx context.Context, id int64) error {
	return t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		n, err := q.RemoveTidyRule(ctx, id)
		if err == nil && n == 0 {
			err = pgx.ErrNoRows
		}
		return errors.Join(err, q.DropSchedule(ctx, query.DropScheduleParams{What: scheduled, Subject: id}))
	})
}

// Rules makes the plans that are due, in the name of who made each rule, and tells them. One that still waits is not made again.
func (t *Tidy) Rules(ctx context.Context) error {
	return due.Each(ctx, t.Store.Queries, scheduled, func(rule int64) error {
		err := t.propose(ctx, rule)
		if errors.Is(err, ledger.ErrNothingToDo) || errors.Is(err, pgx.ErrNoRows) {
			return nil
		}
		return err
	})
}

func (t *Tidy) propose(ctx context.Context, id int64) error {
	rule, err := t.Store.TidyRuleByID(ctx, id)
	if err != nil || rule.Waits {
		return err
	}
	var plan int64
	switch rule.Finding {
	case TwiceRule:
		plan, err = t.KeepBest(ctx, rule.CreatedBy, rule.Title, nil)
	default:
		plan, err = t.BinOrphans(ctx, rule.CreatedBy, rule.Title, int(rule.Days))
	}
	if err != nil {
		return err
	}
	return t.Store.ProposeByRule(ctx, query.ProposeByRuleParams{ID: id, Plan: plan})
}

// ask asks for the clock's work before its time.
func (t *Tidy) ask(ctx context.Context, kind string) error {
	return t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error { return t.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: kind}) })
}
