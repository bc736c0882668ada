// Package ledger is the one door for change: plans are kept, applied in the background in chunks, written to the ledger, and
// taken back. What the changes are of it knows only by the interface Subject.
package ledger

import (
	"context"
	"fmt"

	"ambrosa/core/change"
	"ambrosa/internal/jobs"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// Work is the kind of work that a run is.
const Work = "run"

// Ledger keeps plans and does runs, as work in the background.
type Ledger struct {
	Store *store.Store
	Jobs  *jobs.Jobs
	// Complete adds to changes what follows from them before they are kept, such as the texts of pictures that are new on their owners, and
	// to the draft what it counted; nil for nothing.
	Complete func(context.Context, *query.Queries, []change.Change, *Draft) error
	// Final are the kinds of plans whose runs nothing takes back.
	Final    []string
	subjects map[string]Subject

	hasOutside bool // whether any of them does work outside the database
}

// New makes a ledger of some subjects and registers its work.
func New(s *store.Store, j *jobs.Jobs, subjects ...Subject) *Ledger {
	l := &Ledger{Store: s, Jobs: j, subjects: map[string]Subject{}}
	l.Register(subjects...)
	j.Register(jobs.Kind{Name: Work, Unit: "changes", Workers: 4, Work: l.apply, Topic: "run"})
	return l
}

// Finish works on a run in this process, or waits for the one that is at it, until it ends, and returns how it ended.
func (l *Ledger) Finish(ctx context.Context, run int64) (query.RunsRow, error) {
	if _, err := l.Jobs.Finished(ctx, Work, run); err != nil {
		return query.RunsRow{}, err
	}
	rows, err := l.Store.Runs(ctx, query.RunsParams{ID: &run, Most: 1})
	if err != nil {
		return query.RunsRow{}, err
	}
	if rows[0].State == string(jobs.Failed) {
		return rows[0], fmt.Errorf("run %d failed; the ledger says why", run)
	}
	return rows[0], nil
}
