package pairing

import (
	"slices"
	"sync"
	"sync/atomic"
)

// Two slips of the finger are two edits of these: a letter dropped from the key, a letter dropped from the name, a letter
// struck out in both, two neighbours swapped. For each way to make them both texts are rearranged so and compared by
// hash. One way at a time for all texts, so that what is searched stays small and near.

// searchTwice looks for the keys that are two slips from the units, on all cores. Cost: for texts of n letters about
// 2·n² steps a key, and n² / 2 a unit.
func (s *Study) searchTwice(units []*unit) {
	if len(units) == 0 {
		return
	}
	named := textsOf(len(units), func(i int, _ *view) (string, bool) { return units[i].text, true })
	keyed := textsOf(len(s.index.keys), func(i int, v *view) (string, bool) {
		k := &s.index.keys[i]
		if s.index.fields[k.field] == Title || k.length <= minNear {
			return "", false
		}
		v.see(s.index, int32(i))
		return string(v.slipped.text), len(v.slipped.text) > minNear
	})
	type job struct {
		slip
		named, keyed []texts
	}
	var jobs []job
	for n := range named {
		for k := max(0, n-2); k <= n+2 && k < len(keyed); k++ {
			if len(named[n]) > 0 && len(keyed[k]) > 0 {
				for _, way := range twoSlips(n, k) {
					jobs = append(jobs, job{way, named[n], keyed[k]})
				}
			}
		}
	}
	slices.SortStableFunc(jobs, func(a, b job) int { return len(b.of) + len(b.asks) - len(a.of) - len(a.asks) })
	var next atomic.Int32
	found := make([][]pair, cores())
	var wg sync.WaitGroup
	for w := range found {
		wg.Go(func() {
			var m matcher
			for j := int(next.Add(1)) - 1; j < len(jobs); j = int(next.Add(1)) - 1 {
				m.match(&jobs[j].slip, jobs[j].named, jobs[j].keyed)
			}
			found[w] = m.found
		})
	}
	wg.Wait()
	s.compareFound(units, slices.Concat(found...))
}

// pair is a unit and a key that may be near it.
type pair struct{ unit, key int32 }

// compareFound compares what the hashes led to.
func (s *Study) compareFound(units []*unit, found []pair) {
	slices.SortFunc(found, func(a, b pair) int {
		if a.unit != b.unit {
			return int(a.unit - b.unit)
		}
		return int(a.key - b.key)
	})
	found = slices.Compact(found)
	var wg sync.WaitGroup
	for w := range cores() {
		wg.Go(func() {
			var v view
			from, to := int32(w*len(units)/cores()), int32((w+1)*len(units)/cores())
			at, _ := slices.BinarySearchFunc(found, from, func(p pair, unit int32) int { return int(p.unit - unit) })
			for ; at < len(found) && found[at].unit < to; at++ {
				v.see(s.index, found[at].key)
				if u := units[found[at].unit]; u.canonical != string(v.canonical) {
					if m, ok := v.nearness(u, 2); ok {
						u.add(m)
					}
				}
			}
		})
	}
	wg.Wait()
}

// texts are some of one length, by columns.
type texts struct {
	ids     []int32
	letters [][]byte // of each place, every text's
	whole   []uint64 // the hash of each
}

// textsOf reads texts of at most maxTwice + 2 letters, by length, as each core has read them.
func textsOf(count int, read func(i int, v *view) (text string, ok bool)) (byLength [maxTwice + 3][]texts) {
	parts := make([][maxTwice + 3]texts, cores())
	var wg sync.WaitGroup
	for w := range parts {
		wg.Go(func() {
			var v view
			for i := w * count / len(parts); i < (w+1)*count/len(parts); i++ {
				if text, ok := read(i, &v); ok && len(text) <= maxTwice+2 {
					parts[w][len(text)].add(int32(i), text)
				}
			}
		})
	}
	wg.Wait()
	for _, p := range parts {
		for n := range p {
			if len(p[n].ids) > 0 {
				byLength[n] = append(byLength[n], p[n])
			}
		}
	}
	return byLength
}

func (t *texts) add(id int32, text string) {
	if t.letters == nil {
		t.letters = make([][]byte, len(text))
	}
	t.ids = append(t.ids, id)
	h := uint64(0)
	for i := range len(text) {
		t.letters[i] = append(t.letters[i], text[i])
		h = h*base + uint64(text[i]) + 1
	}
	t.whole = append(t.whole, h)
}

// hash gives the hashes of the texts from one to another, rearranged: what the places that change add to the whole's.
func (t *texts) hash(a arrangement, from, to int, into []uint64) []uint64 {
	into = append(into[:0], t.whole[from:to]...)
	constant, changes := a.changes(len(t.letters))
	for i, factor := range changes {
		if factor == 0 {
			continue
		}
		column := t.letters[i][from:to]
		into := into[:len(column)]
		for j, letter := range column {
			into[j] += factor * uint64(letter)
		}
	}
	for j, h := range into {
		h = (h + constant) * spread
		into[j] = h ^ h>>32
	}
	return into
}

// spread brings a hash's lower bits up (D. E. Knuth, The Art of Computer Programming 3, section 6.4).
const spread = 0x9e3779b97f4a7c15

// arrangement is a text made of another's letters: their places, and struck where any letter may stand.
type arrangement []int8

const struck = -1

func plainly(n int) arrangement {
	a := make(arrangement, n)
	for i := range a {
		a[i] = int8(i)
	}
	return a
}

func (a arrangement) strike(i int) arrangement {
	a = slices.Clone(a)
	a[i] = struck
	return a
}

func (a arrangement) swap(i int) arrangement {
	a = slices.Clone(a)
	a[i], a[i+1] = a[i+1], a[i]
	return a
}

func (a arrangement) drop(i int) arrangement { return slices.Delete(slices.Clone(a), i, i+1) }

// powers are those of rolled's polynomial.
var powers = func() (p [maxTwice + 3]uint64) {
	p[0] = 1
	for i := range p[1:] {
		p[i+1] = p[i] * base
	}
	return p
}()

// changes is what the hash of an arrangement is more than that of the n letters as they stand: a constant, and a factor
// for each letter.
func (a arrangement) changes(n int) (constant uint64, factors [maxTwice + 2]uint64) {
	for i, place := range a {
		if place != struck {
			constant += powers[len(a)-1-i]
			factors[place] += powers[len(a)-1-i]
		}
	}
	for i := range n {
		constant -= powers[n-1-i]
		factors[i] -= powers[n-1-i]
	}
	return constant, factors
}

// slip is a way to be two slips apart: one of the arrangements of a name is one of those of a key.
type slip struct{ of, asks []arrangement }

// twoSlips are the ways for a name of n letters and a key of k, but for one letter dropped from each, which the search for
// one slip finds.
func twoSlips(n, k int) (ways []slip) {
	name, key := plainly(n), plainly(k)
	switch k - n {
	case 0:
		for i := range n {
			for j := i + 1; j < n; j++ {
				ways = append(ways, slip{[]arrangement{name.strike(i).strike(j)}, []arrangement{key.strike(i).strike(j)}})
			}
			ways = append(ways, slip{[]arrangement{name.strike(i)}, every(n-1, func(j int) arrangement { return key.swap(j).strike(i) })})
		}
		ways = append(ways, slip{every(n-1, name.swap), every(n-1, key.swap)})
	case 1:
		for i := range n {
			ways = append(ways, slip{[]arrangement{name.strike(i)}, every(k, func(j int) arrangement { return key.drop(j).strike(i) })})
		}
		ways = append(ways, slip{every(n-1, name.swap), every(k, key.drop)})
	case 2:
		for i := range k {
			ways = append(ways, slip{[]arrangement{name}, every(k-1-i, func(j int) arrangement { return key.drop(i).drop(i + j) })})
		}
	case -1, -2:
		for _, way := range twoSlips(k, n) {
			ways = append(ways, slip{way.asks, way.of})
		}
	}
	return ways
}

func every(n int, of func(i int) arrangement) []arrangement {
	as := make([]arrangement, n)
	for i := range as {
		as[i] = of(i)
	}
	return as
}

// matcher matches one way after the other.
type matcher struct {
	shelf  shelf
	hashes []uint64
	passed []int32
	found  []pair
}

// block is how many texts are rearranged at once.
const block = 2048

func (m *matcher) match(way *slip, named, keyed []texts) {
	entries := 0
	for _, t := range named {
		entries += len(t.ids) * len(way.of)
	}
	m.shelf.makeRoom(entries, 1)
	for _, t := range named {
		m.hashed(&t, way.of, func(ids []int32) {
			for i, h := range m.hashes {
				m.shelf.put(h, ids[i])
			}
		})
	}
	for _, t := range keyed {
		m.hashed(&t, way.asks, func(ids []int32) {
			m.passed = m.shelf.sift(m.hashes, m.passed)
			for _, i := range m.passed {
				m.shelf.find(m.hashes[i], func(unit int32) { m.found = append(m.found, pair{unit, ids[i]}) })
			}
		})
	}
}

// hashed calls use for each block of texts in each arrangement.
func (m *matcher) hashed(t *texts, as []arrangement, use func(ids []int32)) {
	for from := 0; from < len(t.ids); from += block {
		to := min(from+block, len(t.ids))
		for _, a := range as {
			m.hashes = t.hash(a, from, to, m.hashes)
			use(t.ids[from:to])
		}
	}
}
