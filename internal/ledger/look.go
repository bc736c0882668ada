package ledger

import (
	"context"
	"encoding/json"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Line is a line of a plan as it is shown.
type Line struct {
	change.Change
	Made     bool            // it is in the ledger
	Undone   bool            // it was made, and taken back
	Why      message.Message // why it was, or would be, left alone; none where it is or would be made
	Held     bool            // it is left alone unless somebody releases it
	Released string          // who released it, where it was held
	Reason   string          // why they did
	Refs     []Ref
}

// Lines returns lines of a plan behind one, so many at most; only those that were left alone where leftOnly. Of lines that are not
// in the ledger it says which would be left alone if the plan were applied now: nothing is locked, so it is a look, not a promise.
func (l *Ledger) Lines(ctx context.Context, plan int64, after int32, most int, leftOnly bool) (lines []Line, err error) {
	err = l.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		rows, err := q.PlanChanges(ctx, query.PlanChangesParams{PlanID: plan, AfterSeq: after, LeftOnly: leftOnly, Most: int32(most)})
		if err != nil {
			return err
		}
		lines = make([]Line, len(rows))
		ahead := map[string][]change.Change{}
		for i, r := range rows {
			if lines[i], err = l.line(r); err != nil {
				return err
			}
			if !r.Made && lines[i].Why.Code == "" {
				ahead[r.Subject] = append(ahead[r.Subject], lines[i].Change)
			}
		}
		why := map[int32]message.Message{}
		for _, group := range ahead {
			if err := l.foresee(ctx, tx, group, why); err != nil {
				return err
			}
		}
		for i := range lines {
			if w, is := why[lines[i].Seq]; is {
				lines[i].Why = w
			}
		}
		return nil
	})
	return lines, err
}

func (l *Ledger) line(r query.PlanChangesRow) (Line, error) {
	line := Line{Change: change.Change{Seq: r.Seq, Subject: r.Subject, ID: r.SubjectID, Before: r.Before, After: r.After},
		Made: r.Made, Undone: r.Undone, Released: r.ReleasedBy, Reason: r.Reason}
	code, data := r.Code, r.Data
	if !r.Made && r.Held != "" && r.ReleasedBy == "" {
		line.Held, code, data = true, r.Held, r.HeldData
	}
	s, err := l.subject(r.Subject)
	if err != nil {
		return line, err
	}
	if line.Why, err = kept(code, data); err != nil {
		return line, err
	}
	line.Refs = distinct(s.Refs(line.Change))
	return line, nil
}

// kept is a message as it is kept: a code, and its data as JSON.
func kept(code string, data json.RawMessage) (message.Message, error) {
	m := message.Message{Code: code}
	err := json.Unmarshal(data, &m.Data)
	return m, err
}

// Foreseeing is what a subject is besides that can tell what Write would leave alone, without writing.
type Foreseeing interface {
	Foresee(context.Context, pgx.Tx, []change.Change) ([]Left, error)
}

// foresee says which changes of one subject would be left alone.
func (l *Ledger) foresee(ctx context.Context, tx pgx.Tx, group []change.Change, why map[int32]message.Message) error {
	free, err := l.unchanged(ctx, tx, group, why)
	if err != nil {
		return err
	}
	if s, can := l.subjects[group[0].Subject].(Foreseeing); can {
		left, err := s.Foresee(ctx, tx, free)
		if err != nil {
			return err
		}
		for _, one := range left {
			why[one.Seq] = one.Message
		}
	}
	return nil
}
