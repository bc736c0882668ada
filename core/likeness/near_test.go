package likeness

import (
	"cmp"
	"math/bits"
	"math/rand/v2"
	"slices"
	"sync/atomic"
	"testing"
	"time"

	"ambrosa/core/cores"
)

// some are likenesses of which some lie near others.
func some(r *rand.Rand, n int) []uint64 {
	all := make([]uint64, 0, n)
	for len(all) < n {
		h := r.Uint64()
		if len(all) > 0 && r.IntN(10) == 0 {
			h = all[r.IntN(len(all))]
			for range 1 + r.IntN(8) {
				h ^= 1 << r.IntN(64)
			}
		}
		all = append(all, h)
	}
	slices.Sort(all)
	return slices.Compact(all)
}

func byPlace(a, b Pair) int { return cmp.Or(cmp.Compare(a.A, b.A), cmp.Compare(a.B, b.B)) }

// Checked against comparing all with all.
func TestNear(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	for within := range 9 {
		all := some(r, 2000)
		var want []Pair
		for i := range all {
			for j := i + 1; j < len(all); j++ {
				if bits.OnesCount64(all[i]^all[j]) <= within {
					want = append(want, Pair{int32(i), int32(j)})
				}
			}
		}
		got := Near(all, within)
		slices.SortFunc(got, byPlace)
		if !slices.Equal(got, want) {
			t.Errorf("within %d: %d pairs, want %d", within, len(got), len(want))
		}
	}
}

// BenchmarkNear finds the near ones of a million, and compares that with popcount of a tenth of them with all, on all cores, times ten.
func BenchmarkNear(b *testing.B) {
	all := some(rand.New(rand.NewPCG(1, 1)), 1_000_000)
	for b.Loop() {
		begun := time.Now()
		pairs := Near(all, 6)
		took := time.Since(begun)
		begun = time.Now()
		tenth := all[:len(all)/10]
		var brute, ours atomic.Int64
		cores.Share(len(tenth), func(_, from, to int) {
			n := int64(0)
			for i, h := range tenth[from:to] {
				for j, o := range all {
					if bits.OnesCount64(h^o) <= 6 && j != from+i && (j >= len(tenth) || j > from+i) {
						n++
					}
				}
			}
			brute.Add(n)
		})
		whole := time.Since(begun) * 10
		for _, p := range pairs {
			if int(p.A) < len(tenth) || int(p.B) < len(tenth) {
				ours.Add(1)
			}
		}
		b.ReportMetric(took.Seconds(), "s")
		b.ReportMetric(took.Seconds()/whole.Seconds(), "of-brute-force")
		b.ReportMetric(float64(ours.Load())/float64(brute.Load()), "recall")
	}
}
