package schedule

import (
	"testing"
	"time"
	_ "time/tzdata"
)

// TestNext has the days on which clocks are put forward (2026-03-29) and back (2026-10-25) in Europe/Berlin. Source: IANA Time Zone
// Database, from the library.
func TestNext(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	kolkata, err := time.LoadLocation("Asia/Kolkata")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		of          Schedule
		after, want string
	}{
		{Schedule{Day, 7 * 60, 0, berlin}, "2026-11-26T05:59:59Z", "2026-11-26T06:00:00Z"},
		{Schedule{Day, 7 * 60, 0, berlin}, "2026-11-26T06:00:00Z", "2026-11-27T06:00:00Z"},
		{Schedule{Day, 7 * 60, 0, berlin}, "2026-03-28T12:00:00Z", "2026-03-29T05:00:00Z"},
		{Schedule{Day, 2*60 + 30, 0, berlin}, "2026-03-28T12:00:00Z", "2026-03-29T01:30:00Z"}, // 02:30 is not there: 03:30
		{Schedule{Day, 2*60 + 30, 0, berlin}, "2026-03-29T01:30:00Z", "2026-03-30T00:30:00Z"},
		{Schedule{Day, 2*60 + 30, 0, berlin}, "2026-10-24T12:00:00Z", "2026-10-25T01:30:00Z"}, // 02:30 is there twice: once is enough
		{Schedule{Day, 2*60 + 30, 0, berlin}, "2026-10-25T01:30:00Z", "2026-10-26T01:30:00Z"},
		{Schedule{Week, 8 * 60, 1, berlin}, "2026-11-26T00:00:00Z", "2026-11-30T07:00:00Z"},
		{Schedule{Week, 8 * 60, 4, berlin}, "2026-11-26T07:00:00Z", "2026-12-03T07:00:00Z"},
		{Schedule{Hour, 15, 0, kolkata}, "2026-11-26T05:00:00Z", "2026-11-26T05:45:00Z"}, // half an hour beside
		{Schedule{Hour, 15, 0, berlin}, "2026-11-26T05:15:00Z", "2026-11-26T06:15:00Z"},
		{Schedule{Hour, 0, 0, berlin}, "2026-10-25T00:30:00Z", "2026-10-25T01:00:00Z"},
	} {
		after, err := time.Parse(time.RFC3339, c.after)
		if err != nil || c.of.Check() != nil {
			t.Fatal(err, c.of.Check())
		}
		if got := c.of.Next(after).UTC().Format(time.RFC3339); got != c.want {
			t.Errorf("%v behind %s: %s, want %s", c.of, c.after, got, c.want)
		}
	}
	for _, s := range []Schedule{{"month", 0, 0, berlin}, {Day, 1440, 0, berlin}, {Hour, 60, 0, berlin}, {Week, 0, 7, berlin}, {Day, -1, 0, berlin}, {Day, 0, 0, nil}} {
		if s.Check() == nil {
			t.Errorf("%v passes", s)
		}
	}
}
