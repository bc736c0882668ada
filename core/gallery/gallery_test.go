package gallery

import (
	"fmt"
	"math/bits"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
)

// model is the same, line by line, as anybody would write it.
type model map[int64]Line

func (m model) find(q Query) (f Found) {
	f = Found{IDs: []int64{}, Facets: map[string]int{}, Sources: map[int64]int{}}
	fits := func(l Line, butGroup int, anySource bool) bool {
		for _, mask := range q.Facets {
			if butGroup >= 0 && slices.ContainsFunc(groups[butGroup], func(n named) bool { return n.Facets&mask != 0 }) {
				continue
			}
			if l.Facets&mask == 0 {
				return false
			}
		}
		for _, w := range q.Words {
			if !strings.Contains(strings.ToLower(l.Text), w) {
				return false
			}
		}
		if q.Like != nil && (!l.HasLook || bits.OnesCount64(l.Likeness^q.Like.Likeness) > q.Like.Within) {
			return false
		}
		return anySource || q.Source == 0 || l.Source == q.Source
	}
	for _, g := range groups {
		for _, n := range g {
			f.Facets[n.Name] = 0
		}
	}
	for _, l := range m {
		if fits(l, -1, false) {
			f.Count++
			if q.Before == 0 || l.ID < q.Before {
				f.IDs = append(f.IDs, l.ID)
			}
		}
		if fits(l, -1, true) {
			f.Sources[l.Source]++
		}
		for g := range groups {
			for _, n := range groups[g] {
				if l.Facets&n.Facets != 0 && fits(l, g, false) {
					f.Facets[n.Name]++
				}
			}
		}
	}
	slices.Sort(f.IDs)
	slices.Reverse(f.IDs)
	f.IDs = f.IDs[:min(len(f.IDs), q.Most)]
	return f
}

var said = strings.Fields("delta box sled parafoil reel amber teal night front back detail Tarn Corrie Windhover pk-dlt-140 9520000000017 größe ŁÓDŹ")

func madeUp(r *rand.Rand, id int64) Line {
	l := Line{ID: id, Source: int64(r.IntN(4)), Likeness: r.Uint64() & 0xff, HasLook: r.IntN(5) > 0}
	for _, g := range groups {
		l.Facets |= g[r.IntN(len(g))].Facets
	}
	for range 1 + r.IntN(4) {
		l.Text += said[r.IntN(len(said))] + fmt.Sprint(r.IntN(30)) + "\n"
	}
	return l
}

// Whatever is added, changed and taken out, a search finds what the model finds.
func TestFind(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 1))
	shelf, m := New(nil), model{}
	for step := range 60 {
		var lines []Line
		var gone []int64
		for range r.IntN(400) {
			l := madeUp(r, 1+r.Int64N(6000))
			lines = append(lines, l)
		}
		for range r.IntN(80) {
			gone = append(gone, 1+r.Int64N(6000))
		}
		before := shelf.Find(Query{Most: 10})
		last := shelf
		shelf = shelf.With(lines, gone)
		for _, id := range gone {
			delete(m, id)
		}
		for _, l := range lines {
			m[l.ID] = l
		}
		if shelf.Len() != len(m) {
			t.Fatalf("step %d: there are %d, %d in the model", step, shelf.Len(), len(m))
		}
		if again := last.Find(Query{Most: 10}); !reflect.DeepEqual(before, again) {
			t.Fatal("a shelf that was there before has changed")
		}
		for range 8 {
			q := Query{Most: 1 + r.IntN(50), Source: int64(r.IntN(3))}
			for range r.IntN(3) {
				w := strings.ToLower(said[r.IntN(len(said))])
				from := r.IntN(len(w) - 1)
				q.Words = append(q.Words, w[from:])
			}
			var names []string
			for range r.IntN(4) {
				g := groups[r.IntN(len(groups))]
				names = append(names, g[r.IntN(len(g))].Name)
			}
			slices.Sort(names)
			q.Facets, _ = Masks(slices.Compact(names))
			if r.IntN(2) == 0 {
				q.Before = 1 + r.Int64N(6000)
			}
			if r.IntN(4) == 0 {
				q.Like = &Look{Likeness: r.Uint64() & 0xff, Within: r.IntN(4)}
			}
			got, want := shelf.Find(q), m.find(q)
			if !reflect.DeepEqual(got, want) {
				t.Fatalf("step %d, %+v:\n%+v\nwant\n%+v", step, q, got, want)
			}
		}
	}
	if _, ok := Masks([]string{"no such facet"}); ok {
		t.Error("a facet that there is not was taken for one")
	}
}

// BenchmarkFind searches a million pictures.
func BenchmarkFind(b *testing.B) {
	r := rand.New(rand.NewPCG(2, 2))
	lines := make([]Line, 1_000_000)
	for i := range lines {
		lines[i] = madeUp(r, int64(i+1))
		lines[i].Text = fmt.Sprintf("spring/corrie/PK-%d_%d.jpg\nCorrie Sailcloth\nPK-%d %s", i, i%4, i/3, lines[i].Text)
	}
	shelf := New(lines)
	for name, q := range map[string]Query{"all": {}, "filters": {Facets: []Facets{Unplaced, Square, JPEG}}, "none": {Facets: []Facets{Placeholder, Tall, WebP, Dark, Enlarged}, Source: 3},
		"rare word": {Words: []string{"pk-998877"}}, "common word": {Words: []string{"corrie"}}, "words": {Words: []string{"delta", "amber7"}}, "like": {Like: &Look{5, 0}}} {
		q.Most = 200
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				shelf.Find(q)
			}
		})
	}
	b.Run("one changed", func(b *testing.B) {
		for b.Loop() {
			shelf.With(lines[500_000:500_001], nil)
		}
	})
}
