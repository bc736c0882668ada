package pair

import (
	"encoding/json"
	"errors"
	"slices"
	"testing"

	"ambrosa/core/catalogue"
	"ambrosa/core/placement"
	"ambrosa/internal/ledger"
)

// Decisions that mean nothing are refused, all of them, and whatever is stored the board is shown.
func TestUnsoundDecisions(t *testing.T) {
	st := newStation(t, "PK-140-AMB_1.jpg", "PK-150.jpg", "words.jpg")
	st.exec("UPDATE arrival SET asset_id = NULL, problem = 'not_picture', message = NULL WHERE path = 'words.jpg'")
	st.exec("UPDATE catalogue_state SET owners = owners + 1")
	one, two, words := st.arrivals["PK-140-AMB_1.jpg"], st.arrivals["PK-150.jpg"], st.arrivals["words.jpg"]
	amber, box := st.sku("PK-140-AMB"), st.sku("PK-150")
	before := st.says()
	for name, c := range map[string]struct {
		decisions []Decision
		want      error
	}{
		"nobody among several":   {[]Decision{{Arrival: one, Owners: []Share{{Owner: amber}, {Owner: 0}}}}, ErrDoubled},
		"less than nobody":       {[]Decision{{Arrival: one, Owners: []Share{{Owner: -1}}}}, ErrDoubled},
		"an owner twice":         {[]Decision{{Arrival: one, Owners: []Share{{Owner: amber}, {Owner: amber, Rank: 2}}}}, ErrDoubled},
		"a line twice":           {[]Decision{{Arrival: one, Aside: true}, {Arrival: two, Aside: true}, {Arrival: one}}, ErrDoubled},
		"a rank beyond the type": {[]Decision{{Arrival: one, Owners: []Share{{Owner: amber, Rank: 1 << 40}}}}, ErrRank},
		"a rank below nothing":   {[]Decision{{Arrival: one, Rank: -1}}, ErrRank},
		"a line without picture": {[]Decision{{Arrival: one, Aside: true}, {Arrival: words, Owners: []Share{{Owner: box}}}}, ErrNoPicture},
		"nothing that is there":  {[]Decision{{Arrival: 1 << 60, Aside: true}}, ErrForeign},
	} {
		if err := st.Decide(ctx, st.delivery, st.person, c.decisions); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
	}
	st.expect(before)
	// A row as an earlier version could leave it: one owner and nobody.
	st.exec("INSERT INTO decision (arrival_id, owner_id, seq, person_id) VALUES ($1, $2, 0, $3), ($1, NULL, 1, $3)", one, box, st.person)
	st.exec("UPDATE delivery SET bench_version = bench_version + 1")
	st.expect(map[string]string{"PK-140-AMB_1.jpg": "sure PK-150.2 by mo", "PK-150.jpg": "sure PK-150.1"})
}

// A plan is made of a delivery that is ready, says when it is out of date, and what would be left alone, also in the catalogue.
func TestPlanSaysWhatChanged(t *testing.T) {
	st := newStation(t, "PK-140-AMB_1.jpg", "PK-150.jpg")
	for _, state := range []string{"open", "waiting", "working", "stopping", "stopped", "failed"} {
		st.exec("UPDATE delivery SET open = $1", state == "open")
		st.exec("UPDATE job SET state = $1 WHERE $1 <> 'open' AND kind = 'take_in'", state)
		if _, err := st.Plan(ctx, st.delivery, st.person, "test", placement.AddAfter); !errors.Is(err, ErrNotReady) {
			t.Errorf("planned while it is %s: %v", state, err)
		}
	}
	st.exec("UPDATE job SET state = 'done' WHERE kind = 'take_in'")
	stale := func(plan int64) bool {
		t.Helper()
		p, err := st.Store.PlanByID(ctx, plan)
		if err != nil {
			t.Fatal(err)
		}
		var source Source
		if err := json.Unmarshal(p.Source, &source); err != nil {
			t.Fatal(err)
		}
		old, err := st.Stale(ctx, source)
		if err != nil {
			t.Fatal(err)
		}
		return old
	}
	plan := func() int64 {
		t.Helper()
		id, err := st.Plan(ctx, st.delivery, st.person, "test", placement.AddAfter)
		if err != nil {
			t.Fatal(err)
		}
		if stale(id) {
			t.Error("a plan is out of date at once")
		}
		return id
	}
	first := plan()
	if err := st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: st.arrivals["PK-150.jpg"], Aside: true}}); err != nil {
		t.Fatal(err)
	}
	if !stale(first) {
		t.Error("a decision was made since")
	}
	second := plan()
	st.load("sku,title\nPK-150,Lark Box\n")
	if !stale(second) {
		t.Error("the catalogue changed since")
	}
	third := plan()
	st.run(plan()) // only pictures change by it
	if stale(third) {
		t.Error("pictures alone put a plan out of date")
	}

	// Lines of a catalogue plan that would be left alone are told before it is applied, as they are then.
	owner := func(id int64) (o catalogue.Owner) {
		t.Helper()
		rows, err := st.Store.OwnerRecords(ctx, []int64{id})
		if err != nil || len(rows) != 1 {
			t.Fatal(rows, err)
		}
		o = catalogue.Owner{ID: id, Kind: rows[0].Kind, SKU: rows[0].Sku, Title: rows[0].Title, Ordinal: int(rows[0].Ordinal), Options: map[string]string{}}
		if rows[0].Category != nil {
			o.Category = *rows[0].Category
		}
		return o
	}
	box, reel := owner(st.sku("PK-150")), owner(st.sku("T-100"))
	box.Options, reel.Options = map[string]string{"supplier code": "CW-8803"}, map[string]string{"supplier code": "CW-8804"}
	was, taken := box, reel
	was.Title, taken.SKU = "Something else", "PK-150"
	changes, err := catalogue.Changes([]catalogue.Edit{{ID: box.ID, Before: &was, After: &box}, {ID: reel.ID, Before: &reel, After: &taken},
		{ID: 777, Before: &was, After: &box}, {ID: st.sku("PK-140"), After: &box}})
	if err != nil {
		t.Fatal(err)
	}
	id, err := st.Ledger.Keep(ctx, ledger.Draft{Kind: "catalogue", Title: "test", Person: st.person}, changes)
	if err != nil {
		t.Fatal(err)
	}
	says := func() (all []string) {
		t.Helper()
		lines, err := st.Ledger.Lines(ctx, id, 0, 10, false)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range lines {
			all = append(all, l.Why.Code)
		}
		return all
	}
	shown := says()
	st.run(id)
	if applied := says(); !slices.Equal(shown, applied) || slices.Contains(shown, "") {
		t.Errorf("shown are %q, then became of it %q", shown, applied)
	}
}
