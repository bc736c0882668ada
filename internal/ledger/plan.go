package ledger

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"ambrosa/core/change"
	"ambrosa/core/message"
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
	// ErrFinal is returned for taking back a run that nothing takes back.
	ErrFinal = errors.New("this run deleted for good; nothing takes it back")
)

// Draft is what a plan says beside its changes.
type Draft struct {
	Kind     string // "pairing", "catalogue", "order"
	Title    string
	Source   any // what it was made from; kept as JSON
	Counts   map[string]int
	Problems any // lines that are left out, and why; kept as JSON, nil for none
	Held     []Hold
	Person   int64
}

// Hold is a line that is left alone until somebody releases it, and by what it is held.
type Hold struct {
	Seq int32
	message.Message
}

// Keep keeps a plan and returns its number. Its lines are numbered as they come; a thing of a subject may stand in it once.
func (l *Ledger) Keep(ctx context.Context, d Draft, changes []change.Change) (id int64, err error) {
	err = l.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		id, err = l.KeepIn(ctx, q, d, changes)
		return err
	})
	return id, err
}

// KeepIn is Keep within a transaction.
func (l *Ledger) KeepIn(ctx context.Context, q *query.Queries, d Draft, changes []change.Change) (id int64, err error) {
	if len(changes) == 0 && d.Problems == nil {
		return 0, ErrNothingToDo
	}
	if l.Complete != nil {
		if err := l.Complete(ctx, q, changes, &d); err != nil {
			return 0, err
		}
	}
	rows := make([]query.AddPlanChangesParams, len(changes))
	var refs []query.AddLedgerRefsParams
	for i, c := range changes {
		s, err := l.subject(c.Subject)
		if err != nil {
			return 0, err
		}
		seq := int32(i + 1)
		rows[i] = query.AddPlanChangesParams{Seq: seq, Subject: c.Subject, SubjectID: c.ID, Before: c.Before, After: c.After}
		for _, r := range distinct(s.Refs(c)) {
			refs = append(refs, query.AddLedgerRefsParams{Seq: seq, Class: r.Class, ID: r.ID})
		}
	}
	if d.Problems == nil {
		d.Problems = []any{}
	}
	plan := query.AddPlanParams{Kind: d.Kind, Title: d.Title, Changes: int32(len(rows)), CreatedBy: d.Person}
	if plan.Source, err = object(d.Source); err != nil {
		return 0, err
	}
	if plan.Counts, err = object(d.Counts); err != nil {
		return 0, err
	}
	if plan.Problems, err = json.Marshal(d.Problems); err != nil {
		return 0, err
	}
	if id, err = q.AddPlan(ctx, plan); err != nil {
		return 0, err
	}
	for i := range rows {
		rows[i].PlanID = id
	}
	for i := range refs {
		refs[i].PlanID = id
	}
	if _, err = q.AddPlanChanges(ctx, rows); err != nil {
		return 0, err
	}
	if _, err = q.AddLedgerRefs(ctx, refs); err != nil {
		return 0, err
	}
	held, err := l.held(ctx, q, changes)
	if err != nil {
		return 0, err
	}
	return id, hold(ctx, q, id, append(held, d.Held...))
}

// held are the changes that their subjects hold.
func (l *Ledger) held(ctx context.Context, q *query.Queries, changes []change.Change) (all []Hold, err error) {
	of := map[string][]change.Change{}
	for i, c := range changes {
		c.Seq = int32(i + 1)
		of[c.Subject] = append(of[c.Subject], c)
	}
	for name, some := range of {
		s, err := l.subject(name)
		if err != nil {
			return nil, err
		}
		if h, ok := s.(Holder); ok {
			held, err := h.Holds(ctx, q, some)
			if err != nil {
				return nil, err
			}
			all = append(all, held...)
		}
	}
	return all, nil
}

// object is a value as JSON, {} for nil.
func object(v any) (json.RawMessage, error) {
	b, err := json.Marshal(v)
	if string(b) == "null" {
		b = []byte("{}")
	}
	return b, err
}

func distinct(refs []Ref) []Ref {
	seen := make(map[Ref]bool, len(refs))
	some := refs[:0]
	for _, r := range refs {
		if !seen[r] && r.ID != 0 {
			seen[r] = true
			some = append(some, r)
		}
	}
	return some
}

func hold(ctx context.Context, q *query.Queries, plan int64, held []Hold) error {
	if len(held) == 0 {
		return nil
	}
	rows := make([]query.AddHoldsParams, len(held))
	for i, h := range held {
		data, err := object(h.Data)
		if err != nil {
			return err
		}
		rows[i] = query.AddHoldsParams{PlanID: plan, Seq: h.Seq, Code: h.Code, Data: data}
	}
	_, err := q.AddHolds(ctx, rows)
	return err
}

// Release lets held lines of a plan go, all that are held where none is named, and keeps who did and why. It returns how many
// there were. ErrApplied where the plan has a run.
func (l *Ledger) Release(ctx context.Context, plan, person int64, seqs []int32, reason string) (n int64, err error) {
	if seqs == nil {
		seqs = []int32{}
	}
	err = l.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		p, err := q.PlanByID(ctx, plan)
		if err != nil {
			return err
		}
		if p.RunID != nil {
			return ErrApplied
		}
		n, err = q.ReleaseLines(ctx, query.ReleaseLinesParams{PlanID: plan, Person: person, Reason: reason, Seqs: seqs})
		return err
	})
	return n, err
}

// PlanUndo keeps the inverse of what a run has changed and what still stands of it, last change first, and returns the plan's
// number. Errors: ErrState while it works, ErrUndone where all of it is taken back, ErrNothingToDo.
func (l *Ledger) PlanUndo(ctx context.Context, run, person int64) (id int64, err error) {
	err = l.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		rows, err := q.Runs(ctx, query.RunsParams{ID: &run, Most: 1})
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			return pgx.ErrNoRows
		}
		of := rows[0]
		if slices.Contains(l.Final, of.Kind) {
			return ErrFinal
		}
		if !jobs.State(of.State).Over() {
			return fmt.Errorf("%w: it is still at work; stop it first", ErrState)
		}
		if of.Applied == 0 {
			return ErrNothingToDo
		}
		if of.Applied == of.Undone {
			return fmt.Errorf("%w already, by run %d", ErrUndone, of.UndoneBy)
		}
		if _, err := q.LockRun(ctx, run); err != nil { // who asks at the same time waits here
			return err
		}
		id, err = q.UndoJustAsked(ctx, query.UndoJustAskedParams{RunID: run, PersonID: person, Changes: of.Applied - of.Undone, Seconds: twice})
		if !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
		id, err = q.AddPlan(ctx, query.AddPlanParams{Kind: "undo", Title: of.Title, Source: of.Source, Counts: []byte("{}"),
			Undoes: &run, Problems: []byte("[]"), CreatedBy: person})
		if err != nil {
			return err
		}
		count, err := q.InversePlanChanges(ctx, query.InversePlanChangesParams{PlanID: id, RunID: run})
		if err != nil {
			return err
		}
		if err := q.InverseLedgerRefs(ctx, query.InverseLedgerRefsParams{PlanID: id, OfPlan: of.PlanID}); err != nil {
			return err
		}
		return q.SetPlanChanges(ctx, query.SetPlanChangesParams{ID: id, Changes: int32(count)})
	})
	return id, err
}

// twice is within how many seconds the same person who asks for the same again means the same: a double click.
const twice = 10

// Apply makes a run of a plan and asks for the work, in one transaction. ErrApplied where it has one, but for one that the same
// person asked for a moment ago.
func (l *Ledger) Apply(ctx context.Context, plan, person int64) (id int64, err error) {
	err = l.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		id, err = l.ApplyIn(ctx, q, tx, plan, person)
		return err
	})
	return id, err
}

// ApplyIn is Apply within a transaction.
func (l *Ledger) ApplyIn(ctx context.Context, q *query.Queries, tx pgx.Tx, plan, person int64) (id int64, err error) {
	if err := q.LockPlan(ctx, plan); err != nil { // who asks at the same time waits here
		return 0, err
	}
	p, err := q.PlanByID(ctx, plan)
	if err != nil {
		return 0, err
	}
	if p.RunID != nil {
		id, err = q.RunJustAsked(ctx, query.RunJustAskedParams{PlanID: plan, PersonID: person, Seconds: twice})
		if errors.Is(err, pgx.ErrNoRows) {
			return 0, ErrApplied
		}
		return id, err
	}
	if p.Changes == 0 {
		return 0, ErrNothingToDo
	}
	if p.Undoes != nil {
		if err := undoable(ctx, q, *p.Undoes); err != nil {
			return 0, err
		}
	}
	if id, err = q.AddRun(ctx, query.AddRunParams{PlanID: plan, CreatedBy: person}); err != nil {
		return 0, err
	}
	return id, l.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Work, Subject: id, Title: p.Title, Total: int64(p.Changes), Person: person})
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
func (l *Ledger) Stop(ctx context.Context, run int64) error { return l.Jobs.Stop(ctx, Work, run) }

// Resume goes on where a run was stopped or failed. ErrUndone where some of it was taken back, or is being: it would put
// half of itself back. Then the plan is made again.
func (l *Ledger) Resume(ctx context.Context, run int64) error {
	return l.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
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
		return l.Jobs.Resume(ctx, q, tx, Work, run)
	})
}
