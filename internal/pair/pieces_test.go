package pair

import (
	"fmt"
	"math/rand/v2"
	"testing"
)

// Whoever reads a delivery in pieces while others decide, and then asks what changed since the first piece, has what stands; and
// so does whoever comes back with an older state, or with one that is not known any more.
func TestPieces(t *testing.T) {
	var names []string
	for i := range 23 {
		names = append(names, fmt.Sprintf("PK-140-AMB_%d.jpg", i+1))
	}
	st := newStation(t, names...)
	r := rand.New(rand.NewPCG(8, 8))
	decide := func() {
		t.Helper()
		at := st.arrivals[names[r.IntN(len(names))]]
		var err error
		if r.IntN(3) == 0 {
			err = st.TakeBack(ctx, st.delivery, st.person, []int64{at})
		} else {
			err = st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: at, Aside: r.IntN(2) == 0, Rank: 1 + r.IntN(9)}})
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	type board struct {
		version string
		lines   []Line
	}
	since := func(b board) board {
		t.Helper()
		asked := b.version
		for from := 0; ; {
			n, err := st.Since(ctx, st.delivery, asked, from, 4)
			if err != nil {
				t.Fatal(err)
			}
			if n.Whole && asked != "" {
				t.Fatalf("what changed since %s is not known", asked)
			}
			for _, i := range n.Changed {
				if i < len(b.lines) {
					b.lines[i] = n.Lines[i]
				} else {
					b.lines = append(b.lines, n.Lines[i])
				}
			}
			if from == 0 {
				b.version = n.Version
			}
			if n.Next == 0 {
				return b
			}
			from = n.Next
			if r.IntN(3) == 0 {
				decide()
			}
		}
	}
	for round := range 30 {
		b := since(board{})
		for range r.IntN(4) {
			decide()
		}
		b = since(since(b))
		p, err := st.Pair(ctx, st.delivery)
		if err != nil {
			t.Fatal(err)
		}
		for b.version != p.Version { // something was decided while it was asked
			b = since(b)
			if p, err = st.Pair(ctx, st.delivery); err != nil {
				t.Fatal(err)
			}
		}
		for i := range p.Lines {
			if !p.Lines[i].same(&b.lines[i]) {
				t.Fatalf("round %d: line %d is read as %+v, and is %+v", round, i, b.lines[i], p.Lines[i])
			}
		}
	}
	// Pictures of owners changed: whoever has an older state reads all lines again.
	b := since(board{})
	st.exec("UPDATE catalogue_state SET pictures = pictures + 1")
	if n, err := st.Since(ctx, st.delivery, b.version, 0, 4); err != nil || !n.Whole || len(n.Changed) != 4 || n.Next != 4 {
		t.Errorf("%+v, %v", n, err)
	}
}
