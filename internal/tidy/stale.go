package tidy

import (
	"context"
	"log/slog"
	"sync/atomic"

	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Cleared counts what the clock has cleared in this process, for those who watch it.
type Cleared struct {
	Plans, Sessions, Uploads atomic.Int64
}

// cleared of this process.
var cleared Cleared

// ClearedSoFar are the counts of this process.
func ClearedSoFar() *Cleared { return &cleared }

// abandonedDays is after how long a delivery that was opened for sending, and into which nothing was sent since, counts as abandoned.
const abandonedDays = 7

// ClearStale removes plans that nobody applied for long, sessions that ran out, and what was sent into deliveries that were never closed.
func (t *Tidy) ClearStale(ctx context.Context) error {
	l, err := t.Limits(ctx)
	if err != nil {
		return err
	}
	var plans, sessions, uploads int64
	err = t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if plans, err = q.DropStalePlans(ctx, int32(l.StalePlanDays)); err != nil {
			return err
		}
		if sessions, err = q.DropEndedSessions(ctx); err != nil {
			return err
		}
		uploads, err = q.DropAbandoned(ctx, abandonedDays)
		return err
	})
	if err != nil {
		return err
	}
	cleared.Plans.Add(plans)
	cleared.Sessions.Add(sessions)
	cleared.Uploads.Add(uploads)
	slog.Info("cleared by the clock", "plans", plans, "sessions", sessions, "uploads", uploads)
	return nil
}
