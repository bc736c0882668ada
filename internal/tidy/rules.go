package tidy

import (
	"context"
	"errors"
	"time"

	"ambrosa/core/schedule"
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
	if err := when.Check(); err != nil {
		return 0, err
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if id, err = q.AddTidyRule(ctx, query.AddTidyRuleParams{Finding: finding, Title: title, Days: int32(days), CreatedBy: person}); err != nil {
			return err
		}
		return q.SetSchedule(ctx, query.SetScheduleParams{What: scheduled, Subject: id, NextAt: when.Next(time.Now()), TimeZone: when.Zone.String(), Each: string(when.Each),
			Minute: int32(when.Minute), Weekday: int32(when.Weekday)})
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
	due, err := t.Store.DueSchedules(ctx, scheduled)
	if err != nil {
		return err
	}
	for _, d := range due {
		zone, err := time.LoadLocation(d.TimeZone)
		if err != nil {
			zone = time.UTC // it was known when it was kept
		}
		when := schedule.Schedule{Each: schedule.Each(d.Each), Minute: int(d.Minute), Weekday: int(d.Weekday), Zone: zone}
		if err := t.Store.SetNext(ctx, query.SetNextParams{ID: d.ID, NextAt: when.Next(time.Now())}); err != nil {
			return err
		}
		if err := t.propose(ctx, d.Subject); err != nil && !errors.Is(err, ledger.ErrNothingToDo) && !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
	}
	return nil
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
