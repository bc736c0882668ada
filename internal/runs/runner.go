package runs

import (
	"context"
	"fmt"

	"ambrosa/internal/jobs"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// Work is the kind of work that a run is.
const Work = "run"

// Runner keeps plans and does runs, as work in the background.
type Runner struct {
	Store *store.Store
	Jobs  *jobs.Jobs
}

// New makes a runner and registers its work.
func New(s *store.Store, j *jobs.Jobs) *Runner {
	r := &Runner{Store: s, Jobs: j}
	j.Register(jobs.Kind{Name: Work, Unit: "changes", Workers: 4, Work: r.apply, Topic: "run"})
	return r
}

// Finish works on a run in this process, or waits for the one that is at it, until it ends, and gives how it ended.
func (r *Runner) Finish(ctx context.Context, run int64) (query.RunsRow, error) {
	if _, err := r.Jobs.Finished(ctx, Work, run); err != nil {
		return query.RunsRow{}, err
	}
	rows, err := r.Store.Runs(ctx, query.RunsParams{ID: &run, Most: 1})
	if err != nil {
		return query.RunsRow{}, err
	}
	if rows[0].State == "failed" {
		return rows[0], fmt.Errorf("run %d failed: %s", run, rows[0].Note)
	}
	return rows[0], nil
}
