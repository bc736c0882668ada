// Package runs is the one door for change: plans are kept, applied in the background in chunks, written to
// the ledger, and taken back.
package runs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrNothingToDo is returned for a plan without a change.
	ErrNothingToDo = errors.New("everything already stands as wanted; there is nothing to change")
	// ErrApplied is returned for applying a plan a second time.
	ErrApplied = errors.New("this plan was applied already")
	// ErrState is returned where a run can't be stopped, resumed or undone, as it stands.
	ErrState = errors.New("the run is not in a state for this")
)

// Draft is what a plan says beside its changes.
type Draft struct {
	Kind     string // "pairing", "catalogue", "order"
	Title    string
	Delivery *int64
	Rule     change.Rule
	Problems []catalogue.Problem
	Person   int64
}

// KeepPictures keeps a plan of placements and gives its number.
func (r *Runner) KeepPictures(ctx context.Context, d Draft, changes []change.Change) (int64, error) {
	rows := make([]query.AddPlanChangesParams, len(changes))
	for i, c := range changes {
		rows[i] = query.AddPlanChangesParams{Seq: int32(i + 1), OwnerID: c.Owner, Subject: "pictures",
			Before: encode(orEmpty(c.Before)), After: encode(orEmpty(c.After))}
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
			HouseRule: string(d.Rule), Changes: int32(len(rows)), Problems: encode(d.Problems), CreatedBy: d.Person})
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

// PlanUndo keeps the inverse of what a run has changed, last change first, and gives the plan's number.
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
		id, err = q.AddRun(ctx, query.AddRunParams{PlanID: plan, CreatedBy: person})
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrApplied
		}
		if err != nil {
			return err
		}
		if err := store.Notify(ctx, tx, store.Topic("run", id)); err != nil {
			return err
		}
		return r.enqueueRun(ctx, tx, id)
	})
	return id, err
}

// Finish works on a run in this process, or waits for the one that is at it, until it ends.
func (r *Runner) Finish(ctx context.Context, run int64) error {
	for {
		if err := r.apply(ctx, run); err != nil {
			return err
		}
		rows, err := r.Store.Runs(ctx, query.RunsParams{ID: &run, Most: 1})
		if err != nil {
			return err
		}
		switch rows[0].State {
		case "done", "stopped":
			return nil
		case "failed":
			return fmt.Errorf("run %d failed: %s", run, rows[0].Note)
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
}

// Stop asks a run to end after the chunk in hand.
func (r *Runner) Stop(ctx context.Context, run int64) error {
	return r.move(ctx, run, "stopping", []string{"waiting", "running"}, false)
}

// Resume goes on where a run was stopped or failed.
func (r *Runner) Resume(ctx context.Context, run int64) error {
	return r.move(ctx, run, "waiting", []string{"stopped", "failed"}, true)
}

func (r *Runner) move(ctx context.Context, run int64, next string, now []string, enqueue bool) error {
	return r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		moved, err := q.MoveRunState(ctx, query.MoveRunStateParams{ID: run, Next: next, Now: now})
		if err != nil {
			return err
		}
		if moved == 0 {
			return ErrState
		}
		if err := store.Notify(ctx, tx, store.Topic("run", run)); err != nil {
			return err
		}
		if enqueue {
			return r.enqueueRun(ctx, tx, run)
		}
		return nil
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
