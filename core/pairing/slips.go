package pairing

import (
	"slices"
	"sync/atomic"

	"ambrosa/core/cores"
)

// Slips of the finger are edits: a letter dropped from the key, a letter dropped from the name, a letter struck out in both,
// two neighbours swapped. For each way to make one or two of them both texts are rearranged so and compared by hash. One way
// at a time for all texts, so that what is searched stays small and near.

// searchSlips looks for the keys that are some ways from the units, on all cores; most is how much longer than the other
// one may be. Cost: for texts of n letters some 4·n steps a key for one slip, n² for two.
func (s *Study) searchSlips(units []*unit, keyed *keyTexts, ways func(n, k int) []slip, most int) {
	named, _ := textsOf(len(units), func(i int, v *view) []byte {
		v.scratch.text = v.scratch.text[:0]
		if len(units[i].text) >= minNear && len(units[i].text) <= maxTwice {
			v.scratch.text = append(v.scratch.text, units[i].text...)
		}
		return v.scratch.text
	})
	type job struct {
		slip
		named, keyed []texts
	}
	var jobs []job
	for n := range named {
		for k := max(0, n-most); k <= n+most && k < len(keyed.byLength); k++ {
			if len(named[n]) > 0 && len(keyed.byLength[k]) > 0 {
				for _, way := range ways(n, k) {
					jobs = append(jobs, job{way, named[n], keyed.byLength[k]})
				}
			}
		}
	}
	slices.SortStableFunc(jobs, func(a, b job) int { return len(b.of) + len(b.asks) - len(a.of) - len(a.asks) })
	var next atomic.Int32
	matchers := make([]matcher, cores.Count())
	cores.Share(len(matchers), func(w, _, _ int) {
		m := &matchers[w]
		m.found, m.units = make([][]pair, len(matchers)), len(units)
		for j := int(next.Add(1)) - 1; j < len(jobs); j = int(next.Add(1)) - 1 {
			m.match(&jobs[j].slip, jobs[j].named, jobs[j].keyed)
		}
	})
	cores.Share(len(matchers), func(_, from, to int) {
		for part := from; part < to; part++ {
			var found []pair
			for _, m := range matchers {
				found = append(found, m.found[part]...)
			}
			s.compareFound(units, keyed, found, most)
		}
	})
}

// pair is a unit, in the upper half, and a key that may be near it.
type pair uint64

// compareFound compares what the hashes led to.
func (s *Study) compareFound(units []*unit, keyed *keyTexts, found []pair, most int) {
	slices.Sort(found)
	var v view
	for i, p := range found {
		if i > 0 && p == found[i-1] {
			continue
		}
		key, u := int32(uint32(p)), units[p>>32]
		text := keyed.text(key)
		if u.text != string(text) && len(text) >= minNear {
			if m, ok := slipped(u.text, string(text), most); ok {
				m.key = key
				u.add(s.index, m)
			}
			continue
		}
		if v.see(s.index, key); u.canonical != string(v.canonical) {
			if m, ok := v.nearness(u, most); ok {
				u.add(s.index, m)
			}
		}
	}
}

// slip is a way to be some slips apart: one of the arrangements of a name is one of those of a key.
type slip struct{ of, asks []arrangement }

// oneSlip are the ways for a name of n letters and a key of k.
func oneSlip(n, k int) (ways []slip) {
	name, key := asItStands(n), asItStands(k)
	switch k - n {
	case 0:
		for i := range n {
			ways = append(ways, slip{[]arrangement{name.strike(i)}, []arrangement{key.strike(i)}})
		}
		ways = append(ways, slip{[]arrangement{name}, every(n-1, key.swap)})
	case 1:
		ways = append(ways, slip{[]arrangement{name}, every(k, key.drop)})
	case -1:
		ways = append(ways, slip{every(n, name.drop), []arrangement{key}})
	}
	return ways
}

// twoSlips are the ways for a name of n letters and a key of k.
func twoSlips(n, k int) (ways []slip) {
	name, key := asItStands(n), asItStands(k)
	switch k - n {
	case 0:
		for i := range n {
			for j := i + 1; j < n; j++ {
				ways = append(ways, slip{[]arrangement{name.strike(i).strike(j)}, []arrangement{key.strike(i).strike(j)}})
			}
			for from := range 2 { // every second swap at once
				ways = append(ways, slip{[]arrangement{name.strike(i).pair(from)}, []arrangement{key.strike(i).pair(from)}})
			}
		}
		ways = append(ways, slip{every(n-1, name.swap), every(n-1, key.swap)}, slip{every(n, name.drop), every(n, key.drop)})
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

// matcher matches one way after the other.
type matcher struct {
	shelf  shelf
	hashes []uint64
	passed []int32
	found  [][]pair // by part of the units
	units  int      // so many
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
				m.shelf.find(m.hashes[i], func(unit int32) {
					part := int(unit) * len(m.found) / m.units
					m.found[part] = append(m.found[part], pair(unit)<<32|pair(ids[i]))
				})
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
