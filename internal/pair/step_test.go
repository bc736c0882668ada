package pair

import (
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"ambrosa/core/placement"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
)

// Two people decide, undo and do again in any order. A model keeps each one's steps: undo restores what a line was where it still is
// as the step left it, and leaves alone what the other decided later.
func TestSteps(t *testing.T) {
	var names []string
	for i := range 6 {
		names = append(names, fmt.Sprintf("PK-140-AMB_%d.jpg", i+1))
	}
	st := newStation(t, names...)
	other, err := st.Store.AddPerson(ctx, query.AddPersonParams{Name: "Brae", PasswordHash: "x", Role: "editor"})
	if err != nil {
		t.Fatal(err)
	}
	people := []int64{st.person, other}
	type state map[int64]string // by line: who decided what
	type step struct {
		before, after state
		undone        bool
	}
	now := state{}
	steps := map[int64][]*step{}
	r := rand.New(rand.NewPCG(3, 3))
	called := map[int64]string{st.person: st.name(st.person), other: "Brae"}
	undone, left := 0, 0
	for round := range 120 {
		who := people[r.IntN(2)]
		mine := steps[who]
		switch r.IntN(5) {
		case 0, 1:
			done := &step{state{}, state{}, false}
			var ds []Decision
			for _, at := range r.Perm(len(names))[:1+r.IntN(3)] {
				a := st.arrivals[names[at]]
				d := Decision{Arrival: a, Aside: r.IntN(3) == 0, Rank: 1 + r.IntN(9)}
				ds = append(ds, d)
				done.before[a], done.after[a] = now[a], fmt.Sprint(called[who], d.Aside, d.Rank)
				now[a] = done.after[a]
			}
			if err := st.Decide(ctx, st.delivery, who, ds); err != nil {
				t.Fatal(err)
			}
			steps[who] = append(slices.DeleteFunc(mine, func(s *step) bool { return s.undone }), done)
		default:
			again := r.IntN(3) == 0
			var of *step
			for _, s := range mine {
				if s.undone == again && (of == nil || !again) {
					of = s
				}
			}
			u, err := st.Undo(ctx, st.delivery, who, again)
			if of == nil {
				if !errors.Is(err, ErrNoStep) {
					t.Fatalf("round %d: nothing to undo gives %+v, %v", round, u, err)
				}
				break
			}
			if err != nil {
				t.Fatal(err)
			}
			of.undone = !again
			from, to := of.after, of.before
			if again {
				from, to = to, from
			}
			changed := 0
			for a := range from {
				if now[a] == from[a] {
					now[a] = to[a]
					changed++
				}
			}
			undone, left = undone+u.Lines, left+u.Left
			if u.Lines != changed || u.Left != len(from)-changed || u.Says.Code == "" {
				t.Fatalf("round %d: %+v, want %d changed of %d", round, u, changed, len(from))
			}
		}
		got := state{}
		rows, err := st.Store.Decisions(ctx, st.delivery)
		if err != nil {
			t.Fatal(err)
		}
		for _, d := range rows {
			got[d.ArrivalID] = fmt.Sprint(d.Person, d.Aside, d.Rank)
		}
		want := maps.Clone(now)
		maps.DeleteFunc(want, func(_ int64, s string) bool { return s == "" })
		if !maps.Equal(got, want) {
			t.Fatalf("round %d: stands %v, want %v", round, got, want)
		}
	}
	if undone < 20 || left < 5 {
		t.Errorf("only %d lines undone, %d left alone", undone, left)
	}
}

// The order given to owners' lines is the order they take; a line of another owner is refused. Undone, the names say it again, for
// all owners of the step.
func TestOrder(t *testing.T) {
	st := newStation(t, "PK-140-AMB_1.jpg", "PK-140-AMB_2.jpg", "PK-140-AMB_3.jpg", "CW-8803.jpg", "PK-140-PLM_1.jpg", "PK-140-PLM_2.jpg")
	places := func() (at []int) {
		p, err := st.Pair(ctx, st.delivery)
		if err != nil {
			t.Fatal(err)
		}
		for i, l := range p.Lines {
			if i == 3 {
				continue
			}
			at = append(at, l.Shares[0].Place)
		}
		return at
	}
	p, err := st.Pair(ctx, st.delivery)
	if err != nil {
		t.Fatal(err)
	}
	id := func(i int) int64 { return p.Lines[i].Arrival.ID }
	owner, lines := p.Lines[0].Owner(), []int64{id(2), id(0), id(1)}
	both := []Ordered{{owner, lines}, {p.Lines[4].Owner(), []int64{id(5), id(4)}}}
	if err := st.Order(ctx, st.delivery, st.person, both); err != nil || !slices.Equal(places(), []int{2, 3, 1, 2, 1}) {
		t.Errorf("ordered: %v, %v", places(), err)
	}
	if p, _ := st.Pair(ctx, st.delivery); p.Lines[0].Grade() != p.Lines[0].Claim.Grade {
		t.Error("the order made a line sure")
	}
	for _, wrong := range [][]int64{{id(3)}, {lines[0], lines[0]}, {1 << 40}, {id(4)}} {
		if err := st.Order(ctx, st.delivery, st.person, []Ordered{both[1], {owner, wrong}}); !errors.Is(err, ErrForeign) && !errors.Is(err, ErrDoubled) {
			t.Errorf("%v is put in order: %v", wrong, err)
		}
	}
	if _, err := st.Undo(ctx, st.delivery, st.person, false); err != nil || !slices.Equal(places(), []int{1, 2, 3, 1, 2}) {
		t.Errorf("undone: %v, %v", places(), err)
	}
}

func (st *station) name(person int64) (name string) {
	if err := st.Store.Pool.QueryRow(ctx, "SELECT name FROM person WHERE id = $1", person).Scan(&name); err != nil {
		st.t.Fatal(err)
	}
	return name
}

// What is counted as ready under a rule is what the plan under that rule changes.
func TestReady(t *testing.T) {
	st := newStation(t, "PK-140-AMB_1.jpg", "PK-140-AMB_2.jpg", "PK-140-PLM.jpg", "CW-8803.jpg")
	lines := func(rule placement.Rule) Readiness {
		t.Helper()
		r, err := st.Ready(ctx, st.delivery, rule)
		if err != nil {
			t.Fatal(err)
		}
		changes := 0
		if plan, err := st.Plan(ctx, st.delivery, st.person, "ready", rule); err == nil {
			if err := st.Store.Pool.QueryRow(ctx, "SELECT changes FROM plan WHERE id = $1", plan).Scan(&changes); err != nil {
				t.Fatal(err)
			}
		} else if !errors.Is(err, ledger.ErrNothingToDo) {
			t.Fatal(err)
		}
		if changes != r.Owners {
			t.Errorf("%s: %d owners are said to change, the plan changes %d", rule, r.Owners, changes)
		}
		return r
	}
	before := lines(placement.OnlyWhereEmpty)
	if before.Lines < 3 {
		t.Fatalf("ready: %+v", before)
	}
	plan, err := st.Plan(ctx, st.delivery, st.person, "apply", placement.OnlyWhereEmpty)
	if err != nil {
		t.Fatal(err)
	}
	run, err := st.Ledger.Apply(ctx, plan, st.person)
	if err == nil {
		_, err = st.Ledger.Finish(ctx, run)
	}
	if err != nil {
		t.Fatal(err)
	}
	for _, rule := range placement.Rules {
		if r := lines(rule); r.Lines != 0 {
			t.Errorf("after the run %s lets through %+v", rule, r)
		}
	}
}

// A line that was read through is to be read again once it goes to somebody else, and is marked again where that is undone.
func TestCheck(t *testing.T) {
	st := newStation(t, "PK-140-AMB_1.jpg", "PK-140-PLM.jpg", "CW-8803.jpg")
	state := func() (marked string) {
		t.Helper()
		p, err := st.Pair(ctx, st.delivery)
		if err != nil {
			t.Fatal(err)
		}
		left := 0
		for i := range p.Lines {
			if p.Lines[i].Kinds&Checked != 0 {
				marked += p.Lines[i].Arrival.Path + " "
			} else if p.Lines[i].Ready() {
				left++
			}
		}
		if left != p.Counts.ToRead {
			t.Errorf("%d are left to read, counted %d", left, p.Counts.ToRead)
		}
		return marked
	}
	one, two := st.arrivals["PK-140-AMB_1.jpg"], st.arrivals["PK-140-PLM.jpg"]
	other := func() int64 {
		p, _ := st.Pair(ctx, st.delivery)
		return p.Lines[1].Owner()
	}()
	if err := st.Check(ctx, st.delivery, st.person, []int64{one, two}, true); err != nil || state() != "PK-140-AMB_1.jpg PK-140-PLM.jpg " {
		t.Errorf("marked: %q, %v", state(), err)
	}
	if err := st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: one, Owners: []Share{{Owner: other}}}}); err != nil || state() != "PK-140-PLM.jpg " {
		t.Errorf("given to another: %q, %v", state(), err)
	}
	if _, err := st.Undo(ctx, st.delivery, st.person, false); err != nil || state() != "PK-140-AMB_1.jpg PK-140-PLM.jpg " {
		t.Errorf("undone: %q, %v", state(), err)
	}
	if err := st.Check(ctx, st.delivery, st.person, []int64{two}, false); err != nil || state() != "PK-140-AMB_1.jpg " {
		t.Errorf("taken off: %q, %v", state(), err)
	}
	if err := st.Check(ctx, st.delivery, st.person, []int64{1 << 40}, true); !errors.Is(err, ErrForeign) {
		t.Errorf("a line of nobody: %v", err)
	}
}
