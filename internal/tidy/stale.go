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
	Plans, Sessions, Uploads, Deliveries atomic.Int64
}

// cleared of this process.
var cleared Cleared

// ClearedSoFar are the counts of this process.
func ClearedSoFar() *Cleared { return &cleared }

// abandonedDays is after how long a delivery that was opened for sending, and into which nothing was sent since, counts as abandoned.
const abandonedDays = 7

// removedAtOnce is how many removed deliveries go at a time; the next time it goes on.
const removedAtOnce = 50

// ClearStale removes plans that nobody applied for long, sessions that ran out, what was sent into deliveries that were never closed, and deliveries
// that were removed for as long as the bin keeps pictures.
func (t *Tidy) ClearStale(ctx context.Context) error {
	l, err := t.Limits(ctx)
	if err != nil {
		return err
	}
	var plans, sessions, uploads, deliveries int64
	err = t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if plans, err = q.DropStalePlans(ctx, int32(l.StalePlanDays)); err != nil {
			return err
		}
		if sessions, err = q.DropEndedSessions(ctx); err != nil {
			return err
		}
		if uploads, err = q.DropAbandoned(ctx, abandonedDays); err != nil {
			return err
		}
		deliveries, err = dropRemoved(ctx, q, int32(l.BinDays))
		return err
	})
	if err != nil {
		return err
	}
	cleared.Plans.Add(plans)
	cleared.Sessions.Add(sessions)
	cleared.Uploads.Add(uploads)
	cleared.Deliveries.Add(deliveries)
	slog.Info("cleared by the clock", "plans", plans, "sessions", sessions, "uploads", uploads, "deliveries", deliveries)
	return nil
}

func dropRemoved(ctx context.Context, q *query.Queries, days int32) (int64, error) {
	ids, err := q.DeliveriesDue(ctx, query.DeliveriesDueParams{Days: days, Most: removedAtOnce})
	if err != nil || len(ids) == 0 {
		return 0, err
	}
	if err := q.KeepSaidRights(ctx, ids); err != nil {
		return 0, err
	}
	return q.DropDeliveries(ctx, ids)
}
