// Package schedule says when what is due comes again.
package schedule

import (
	"errors"
	"time"
)

// ErrSchedule is returned for a schedule that can't be.
var ErrSchedule = errors.New("a schedule is each hour, day or week, at a minute of it")

// Each is how often something is due.
type Each string

const (
	Hour Each = "hour"
	Day  Each = "day"
	Week Each = "week"
)

// Schedule is what is due each hour, day or week. Minute is that of the hour, or of the day; Weekday is 0 for Sunday.
type Schedule struct {
	Each    Each
	Minute  int
	Weekday int
	Zone    *time.Location
}

// Check returns ErrSchedule for one that can't be.
func (s Schedule) Check() error {
	most := 24 * 60
	if s.Each == Hour {
		most = 60
	}
	known := s.Each == Hour || s.Each == Day || s.Each == Week
	if !known || s.Minute < 0 || s.Minute >= most || s.Weekday < 0 || s.Weekday > 6 || s.Zone == nil {
		return ErrSchedule
	}
	return nil
}

// Next is the first time behind a moment. Where clocks are put forward over it, it comes as much later as they are; where they are put back,
// it comes once.
func (s Schedule) Next(after time.Time) time.Time {
	at := after.In(s.Zone)
	if s.Each == Hour {
		// Hours go on evenly, whatever the clocks there do.
		next := after.Truncate(time.Minute).Add(time.Duration(s.Minute-at.Minute()) * time.Minute)
		for !next.After(after) {
			next = next.Add(time.Hour)
		}
		return next
	}
	for day := 0; ; day++ {
		next := time.Date(at.Year(), at.Month(), at.Day()+day, s.Minute/60, s.Minute%60, 0, 0, s.Zone)
		if next.After(after) && (s.Each == Day || int(next.Weekday()) == s.Weekday) {
			return next
		}
	}
}
