package tidy

import (
	"errors"
	"fmt"
	"testing"
	"time"

	"ambrosa/core/placement"
	"ambrosa/core/schedule"
	core "ambrosa/core/tidy"
)

// A rule makes a plan that waits, and tells who made the rule; while it waits no other is made.
func TestRules(t *testing.T) {
	h := newHouse(t, 3)
	when := schedule.Schedule{Each: schedule.Week, Minute: 420, Weekday: 1, Zone: time.UTC}
	if _, err := h.AddRule(ctx, h.person, "nothing", "x", 0, when); !errors.Is(err, ErrFinding) {
		t.Errorf("a rule for nothing: %v", err)
	}
	id, err := h.AddRule(ctx, h.person, OrphansRule, "Mondays", 90, when)
	if err != nil {
		t.Fatal(err)
	}
	for round, want := range []string{"0 0", "1 1 Mondays 3", "1 1 Mondays 3"} {
		if round > 0 {
			h.exec("UPDATE schedule SET next_at = now() - interval '3 weeks'") // missed while the server was off: it comes once
		}
		if err := h.Rules(ctx); err != nil {
			t.Fatal(err)
		}
		got := h.one("SELECT (SELECT count(*) FROM plan) || ' ' || (SELECT count(*) FROM notice) || coalesce((SELECT ' ' || title || ' ' || changes FROM plan), '')")
		if got != want {
			t.Errorf("round %d: %s, want %s", round, got, want)
		}
		if h.one("SELECT (next_at > now())::text FROM schedule") != "true" {
			t.Error("it is due still")
		}
	}
	if err := h.RemoveRule(ctx, id); err != nil {
		t.Error(err)
	}
	if got := h.one("SELECT ((SELECT count(*) FROM tidy_rule) + (SELECT count(*) FROM schedule))::text"); got != "0" {
		t.Error("the rule or its schedule is there still")
	}
}

// The clock empties the bin only where an admin said so, and only what lay in it long enough by the database's clock; one that went wrong and
// put a picture into it tomorrow deletes nothing. Plans that nobody applied go, and so do sessions that ran out.
func TestEmptyByClock(t *testing.T) {
	h := newHouse(t, 4)
	h.run(h.Bin(ctx, h.person, "", []int64{1, 2, 3}))
	h.exec("UPDATE asset SET binned_at = now() + CASE id WHEN 1 THEN interval '-40 days' WHEN 2 THEN interval '-29 days' ELSE interval '1 day' END WHERE binned_at IS NOT NULL")
	there := func() string { return h.one("SELECT string_agg(id::text, ',' ORDER BY id) FROM asset") }
	finish := func() {
		t.Helper()
		if err := h.EmptyByClock(ctx); err != nil {
			t.Fatal(err)
		}
		if h.one("SELECT count(*)::text FROM plan WHERE kind = 'empty_bin'") != "0" {
			if _, err := h.Ledger.Finish(ctx, h.lastRun()); err != nil {
				t.Fatal(err)
			}
		}
	}
	finish()
	if got := there(); got != "1,2,3,4" {
		t.Errorf("nobody said that the clock may: %s", got)
	}
	l := core.Usual
	l.BinDays = 0
	if err := h.SetLimits(ctx, h.person, l); !errors.Is(err, ErrLimits) {
		t.Errorf("a bin of no days: %v", err)
	}
	l.BinDays, l.EmptiesByClock = 30, true
	if err := h.SetLimits(ctx, h.person, l); err != nil {
		t.Fatal(err)
	}
	finish()
	if got := there(); got != "2,3,4" || h.blobs() != 3 {
		t.Errorf("left are %s and %d blobs", got, h.blobs())
	}
	if _, err := h.Place(ctx, h.person, "old", []int64{1}, []int64{4}, placement.AddAfter); err != nil {
		t.Fatal(err)
	}
	h.exec("UPDATE plan SET created_at = now() - interval '1 year'")
	h.exec("INSERT INTO session (token_hash, person_id, csrf, expires_at) VALUES ('a', $1, '', now() - interval '1 day'), ('b', $1, '', now() + interval '1 day')", h.person)
	if err := h.ClearStale(ctx); err != nil {
		t.Fatal(err)
	}
	if got := h.one("SELECT (SELECT count(*) FROM plan WHERE title = 'old') || ' ' || (SELECT count(*) FROM plan) || ' ' || (SELECT count(*) FROM session)"); got != "0 2 1" {
		t.Errorf("old plans, plans, sessions: %s", got)
	}
}

func (h *house) lastRun() (id int64) {
	h.Helper()
	if err := h.Store.Pool.QueryRow(ctx, "SELECT max(id) FROM run").Scan(&id); err != nil {
		h.Fatal(err)
	}
	return id
}

// While pictures come in, only a few are looked at each time the clock asks; all once they are in.
func TestLookBesideTakingIn(t *testing.T) {
	h := newHouse(t, 2*lookedBeside+1)
	h.exec("INSERT INTO job (kind, subject, state) VALUES ('take_in', 1, 'working')")
	for _, want := range []int{lookedBeside, 2 * lookedBeside, 2*lookedBeside + 1} {
		if err := h.look(); err != nil {
			t.Fatal(err)
		}
		if got := h.one("SELECT count(*)::text FROM asset_fact"); got != fmt.Sprint(want) {
			t.Errorf("%s are looked at, want %d", got, want)
		}
	}
	h.exec("DELETE FROM asset_fact")
	h.exec("UPDATE job SET state = 'done' WHERE kind = 'take_in'")
	if err := h.look(); err != nil || h.one("SELECT count(*)::text FROM asset_fact") != fmt.Sprint(2*lookedBeside+1) {
		t.Error("not all are looked at when nothing comes in", err)
	}
}
