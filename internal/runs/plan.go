// Package runs is the one door for change: plans are kept, applied in the background in chunks, written to
// the ledger, and taken back.
package runs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/jobs"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrNothingToDo is returned for a plan without a change.
	ErrNothingToDo = errors.New("everything already stands as wanted; there is nothing to change")
	// ErrApplied is returned for applying a plan a second time.
	ErrApplied = errors.New("this plan was applied already")
	// ErrState is returned where a run can't be stopped, resumed or undone, as it stands.
	ErrState = jobs.ErrState
	// ErrUndone is returned for going on with a run, or taking one back, of which too much is taken back already.
	ErrUndone = errors.New("the run was taken back")
)

// Draft is what a plan says beside its changes.
type Draft struct {
	Kind     string // "pairing", "catalogue", "order"
	Title    string
	Delivery *int64
	Rule     change.Rule
	Problems []catalogue.Problem
	Person   int64
	Basis    string // what it was made from; where that has changed the plan is out of date
	gone     int32
}

// KeepPictures keeps a plan of placements and gives its number.
func (r *Runner) KeepPictures(ctx context.Context, d Draft, changes []change.Change) (int64, error) {
	rows := make([]query.AddPlanChangesParams, len(changes))
	for i, c := range changes {
		rows[i] = query.AddPlanChangesParams{Seq: int32(i + 1), OwnerID: c.Owner, Subject: "pictures",
			Before: encode(orEmpty(c.Before)), After: encode(orEmpty(c.After))}
		d.gone += int32(len(change.Gone(c.Before, c.After)))
	}
	return r.keep(ctx, d, rows)
}

// KeepOwners keeps a plan of products, variants and categories and gives its number.
func (r *Runner) KeepOwners(ctx context.Context, d Draft, changes []catalogue.Change) (int64, error) {
	rows := make([]query.AddPlanChangesParams, len(changes))
	for i, c := range changes {
		rows[i] = query.AddPlanChangesParams{Seq: int32(i + 1), OwnerID: c.ID, Subject: "owner", Before: encode(c.Before), After: encode(c.After)}
	}
	return r.keep(ctx, d, rows)
}

func (r *Runner) keep(ctx context.Context, d Draft, rows []query.AddPlanChangesParams) (id int64, err error) {
	if len(rows) == 0 && len(d.Problems) == 0 {
		return 0, ErrNothingToDo
	}
	if d.Problems == nil {
		d.Problems = []catalogue.Problem{}
	}
	err = r.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		id, err = q.AddPlan(ctx, query.AddPlanParams{Kind: d.Kind, Title: d.Title, DeliveryID: d.Delivery,
			HouseRule: string(d.Rule), Changes: int32(len(rows)), Problems: encode(d.Problems), CreatedBy: d.Person, Basis: d.Basis, Gone: d.gone})
		if err != nil {
			return err
		}
		for i := range rows {
			rows[i].PlanID = id
		}
		_, err = q.AddPlanChanges(ctx, rows)
		return err
	})
	return id, err
}

// PlanUndo keeps the inverse of what a run has changed and what still stands of it, last change first, and gives the plan's
// number. Errors: ErrState while it works, ErrUndone where all of it is taken back, ErrNothingToDo.
func (r *Runner) PlanUndo(ctx context.Context, run, person int64) (id int64, err error) {
	err = r.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		rows, err := q.Runs(ctx, query.RunsParams{ID: &run, Most: 1})
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			return pgx.ErrNoRows
		}
		of := rows[0]
		if of.State != "done" && of.State != "stopped" && of.State != "failed" {
			return fmt.Errorf("%w: it is still at work; stop it first", ErrState)
		}
		if of.Applied == 0 {
			return ErrNothingToDo
		}
		if of.Applied == of.Undone {
			return fmt.Errorf("%w already, by run %d", ErrUndone, of.UndoneBy)
		}
		id, err = q.AddPlan(ctx, query.AddPlanParams{Kind: "undo", Title: "Undo: " + of.Title, DeliveryID: of.DeliveryID,
			Undoes: &run, Problems: []byte("[]"), CreatedBy: person})
		if err != nil {
			return err
		}
		count, err := q.InversePlanChanges(ctx, query.InversePlanChangesParams{PlanID: id, RunID: run})
		if err != nil {
			return err
		}
		return q.SetPlanChanges(ctx, query.SetPlanChangesParams{ID: id, Changes: int32(count)})
	})
	return id, err
}

// Apply makes a run of a plan and asks for the work, in one transaction. ErrApplied where it has one.
func (r *Runner) Apply(ctx context.Context, plan, person int64) (id int64, err error) {
	err = r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		p, err := q.PlanByID(ctx, plan)
		if err != nil {
			return err
		}
		if p.Changes == 0 {
			return ErrNothingToDo
		}
		if p.Undoes != nil && p.RunID == nil {
			if err := undoable(ctx, q, *p.Undoes); err != nil {
				return err
			}
		}
		id, err = q.AddRun(ctx, query.AddRunParams{PlanID: plan, CreatedBy: person})
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrApplied
		}
		if err != nil {
			return err
		}
		return r.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Work, Subject: id, Title: p.Title, Total: int64(p.Changes), Person: person})
	})
	return id, err
}

// undoable returns an error where a run can't be taken back now: it is at work, or somebody is at it already.
func undoable(ctx context.Context, q *query.Queries, run int64) error {
	of, err := q.LockRun(ctx, run)
	if err != nil {
		return err
	}
	if !jobs.State(of.State).Over() {
		return fmt.Errorf("%w: run %d is at work; stop it first", ErrState, run)
	}
	busy, err := q.UndoAtWork(ctx, run)
	if err == nil && busy {
		err = fmt.Errorf("%w: run %d is being taken back at this moment", ErrState, run)
	}
	return err
}

// Stop asks a run to end after the chunk in hand.
func (r *Runner) Stop(ctx context.Context, run int64) error { return r.Jobs.Stop(ctx, Work, run) }

// Resume goes on where a run was stopped or failed. ErrUndone where some of it was taken back, or is being: it would put
// half of itself back. Then the plan is made anew.
func (r *Runner) Resume(ctx context.Context, run int64) error {
	return r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		at, err := q.LockRun(ctx, run)
		if err != nil {
			return err
		}
		busy, err := q.UndoAtWork(ctx, run)
		if err != nil {
			return err
		}
		if at.Undone > 0 || busy {
			return fmt.Errorf("%w, so it can't go on; make the plan again", ErrUndone)
		}
		if at.Undoes != nil {
			if err := undoable(ctx, q, *at.Undoes); err != nil {
				return err
			}
		}
		return r.Jobs.Resume(ctx, q, tx, Work, run)
	})
}

func orEmpty(p []change.Picture) []change.Picture {
	if p == nil {
		return []change.Picture{}
	}
	return p
}

func encode(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // plain values always encode
	}
	return b
}
