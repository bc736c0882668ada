package sources

import (
	"context"
	"errors"
	"log/slog"

	"ambrosa/core/schedule"
	"ambrosa/internal/due"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// scheduled is what the clock calls a visit.
const scheduled = "visit"

// Schedule has a source collected from by the clock, or no more where each is empty. schedule.ErrSchedule, ErrNotCollected.
func (s *Sources) Schedule(ctx context.Context, by Asker, id int64, when schedule.Schedule) error {
	of, err := s.mine(ctx, by, id)
	if err != nil {
		return err
	}
	if when.Each == "" {
		return s.Store.DropSchedule(ctx, query.DropScheduleParams{What: scheduled, Subject: id})
	}
	if !Kind(of.Kind).isVisited() {
		return ErrNotCollected
	}
	return due.Set(ctx, s.Store.Queries, scheduled, id, when)
}

// Due asks for the visits that are due, in the name of who made the source.
func (s *Sources) Due(ctx context.Context) error {
	return s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		return due.Each(ctx, q, scheduled, func(id int64) error {
			of, err := q.SourceByID(ctx, id)
			if err != nil {
				return err
			}
			_, err = s.collectIn(ctx, q, tx, of.CreatedBy, id, nil, Wish{})
			if errors.Is(err, ErrBusy) || errors.Is(err, ErrNoGuide) || errors.Is(err, pgx.ErrNoRows) { // the one before is at it still, or it is gone
				slog.Info("a visit by the clock is left out", "source", id, "why", err)
				return nil
			}
			return err
		})
	})
}
