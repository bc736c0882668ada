// Package due keeps when things are due by the clock, and says which are.
package due

import (
	"context"
	"time"

	"ambrosa/core/schedule"
	"ambrosa/internal/store/query"
)

// Set has a subject of some kind due by a schedule from now on. schedule.ErrSchedule.
func Set(ctx context.Context, q *query.Queries, what string, subject int64, when schedule.Schedule) error {
	if err := when.Check(); err != nil {
		return err
	}
	return q.SetSchedule(ctx, query.SetScheduleParams{What: what, Subject: subject, NextAt: when.Next(time.Now()), TimeZone: when.Zone.String(),
		Each: string(when.Each), Minute: int32(when.Minute), Weekday: int32(when.Weekday)})
}

// Each calls use for all subjects of a kind that are due, once each has its next time: one that was missed while the server was off comes once.
func Each(ctx context.Context, q *query.Queries, what string, use func(subject int64) error) error {
	all, err := q.DueSchedules(ctx, what)
	if err != nil {
		return err
	}
	for _, d := range all {
		zone, err := time.LoadLocation(d.TimeZone)
		if err != nil {
			zone = time.UTC // it was known when it was kept
		}
		when := schedule.Schedule{Each: schedule.Each(d.Each), Minute: int(d.Minute), Weekday: int(d.Weekday), Zone: zone}
		if err := q.SetNext(ctx, query.SetNextParams{ID: d.ID, NextAt: when.Next(time.Now())}); err != nil {
			return err
		}
		if err := use(d.Subject); err != nil {
			return err
		}
	}
	return nil
}
