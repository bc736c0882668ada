package likeness

import (
	"math/bits"
	"slices"
	"sync"

	"ambrosa/core/cores"
)

// Pair are the places of two likenesses.
type Pair struct{ A, B int32 }

// Near returns all pairs of different likenesses that differ in at most so many bits, of a list without doubles; in no order. Of two such, cut
// into one part more than that, one part at least is the same in both: so only those of one bucket are compared. Source: D. Knuth, The Art of
// Computer Programming 3, 6.5 (the pigeonhole of approximate matching), from memory. Cost: for a million that lie anywhere and six bits, some
// five seconds of one core; where many have a part in common, up to all pairs of those.
func Near(all []uint64, within int) []Pair {
	parts := partsOf(within + 1)
	var found []Pair
	var mu sync.Mutex
	order := make([]int32, len(all))
	for p, part := range parts {
		buckets := bucketed(all, part, order)
		hashes := make([]uint64, len(all))
		for i, at := range order {
			hashes[i] = all[at]
		}
		earlier := parts[:p]
		work := make(chan [2]int, len(buckets))
		for _, b := range buckets {
			work <- b
		}
		close(work)
		var wg sync.WaitGroup
		for range cores.Count() {
			wg.Go(func() {
				var own []Pair
				for b := range work {
					own = inBucket(own, hashes[b[0]:b[1]], order[b[0]:b[1]], within, earlier)
				}
				mu.Lock()
				found = append(found, own...)
				mu.Unlock()
			})
		}
		wg.Wait()
	}
	return found
}

// inBucket adds the pairs of one bucket, but for those that share an earlier part: they were found there.
func inBucket(found []Pair, hashes []uint64, places []int32, within int, earlier []uint64) []Pair {
	for i, h := range hashes {
		for j := i + 1; j < len(hashes); j++ {
			x := h ^ hashes[j]
			if bits.OnesCount64(x) > within || slices.ContainsFunc(earlier, func(part uint64) bool { return x&part == 0 }) {
				continue
			}
			found = append(found, Pair{min(places[i], places[j]), max(places[i], places[j])})
		}
	}
	return found
}

// partsOf cuts 64 bits into so many parts of bits that lie apart, as neighbours in a picture are alike.
func partsOf(n int) []uint64 {
	parts := make([]uint64, n)
	for bit := range 64 {
		parts[bit%n] |= 1 << bit
	}
	return parts
}

// bucketed orders places by a part of what lies there, and returns where those with one value begin and end.
func bucketed(all []uint64, part uint64, order []int32) (buckets [][2]int) {
	for i := range order {
		order[i] = int32(i)
	}
	slices.SortFunc(order, func(a, b int32) int {
		x, y := all[a]&part, all[b]&part
		switch {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return int(a - b)
	})
	for from := 0; from < len(order); {
		to := from + 1
		for to < len(order) && (all[order[to]]^all[order[from]])&part == 0 {
			to++
		}
		if to-from > 1 {
			buckets = append(buckets, [2]int{from, to})
		}
		from = to
	}
	return buckets
}
