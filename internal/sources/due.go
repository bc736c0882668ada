package sources

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"ambrosa/core/schedule"
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
	if err := when.Check(); err != nil {
		return err
	}
	return s.Store.SetSchedule(ctx, query.SetScheduleParams{What: scheduled, Subject: id, NextAt: when.Next(time.Now()), TimeZone: when.Zone.String(), Each: string(when.Each),
		Minute: int32(when.Minute), Weekday: int32(when.Weekday)})
}

// Due asks for the visits that are due, in the name of who made the source. One that was missed while the server was off comes once.
func (s *Sources) Due(ctx context.Context) error {
	return s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		due, err := q.DueSchedules(ctx, scheduled)
		if err != nil {
			return err
		}
		for _, d := range due {
			zone, err := time.LoadLocation(d.TimeZone)
			if err != nil {
				zone = time.UTC // it was known when it was kept
			}
			when := schedule.Schedule{Each: schedule.Each(d.Each), Minute: int(d.Minute), Weekday: int(d.Weekday), Zone: zone}
			if err := q.SetNext(ctx, query.SetNextParams{ID: d.ID, NextAt: when.Next(time.Now())}); err != nil {
				return err
			}
			of, err := q.SourceByID(ctx, d.Subject)
			if err != nil {
				return err
			}
			_, err = s.collectIn(ctx, q, tx, of.CreatedBy, d.Subject, nil, Wish{})
			switch {
			case errors.Is(err, ErrBusy), errors.Is(err, ErrNoGuide), errors.Is(err, pgx.ErrNoRows): // the one before is at it still, or it is gone
				slog.Info("a visit by the clock is left out", "source", d.Subject, "why", err)
			case err != nil:
				return err
			}
		}
		return nil
	})
}
