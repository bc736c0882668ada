package pairing

import (
	"slices"
	"sync/atomic"
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
	matchers := make([]matcher, cores())
	share(len(matchers), func(w, _, _ int) {
		m := &matchers[w]
		m.found, m.units = make([][]pair, len(matchers)), len(units)
		for j := int(next.Add(1)) - 1; j < len(jobs); j = int(next.Add(1)) - 1 {
			m.match(&jobs[j].slip, jobs[j].named, jobs[j].keyed)
		}
	})
	share(len(matchers), func(_, from, to int) {
		for share := from; share < to; share++ {
			var found []pair
			for _, m := range matchers {
				found = append(found, m.found[share]...)
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
				u.add(m)
			}
			continue
		}
		if v.see(s.index, key); u.canonical != string(v.canonical) {
			if m, ok := v.nearness(u, most); ok {
				u.add(m)
			}
		}
	}
}

// keyTexts are the texts of keys that slips are looked for in.
type keyTexts struct {
	byLength [maxTwice + 3][]texts
	shares   []textShare
	count    int
}

func (s *Study) keyTexts() *keyTexts {
	k := &keyTexts{count: len(s.index.keys)}
	k.byLength, k.shares = textsOf(k.count, func(i int, v *view) []byte {
		if key := &s.index.keys[i]; s.index.fields[key.field] == Title || key.length < minNear {
			return nil
		}
		v.see(s.index, int32(i))
		return v.slipped.text
	})
	return k
}

// text is that of a key which has one.
func (k *keyTexts) text(key int32) []byte {
	share := int(key) * len(k.shares) / k.count
	for int(key) >= k.shares[share].to {
		share++
	}
	for int(key) < k.shares[share].from {
		share--
	}
	of := &k.shares[share]
	return of.all[of.at[int(key)-of.from]:of.at[int(key)-of.from+1]]
}

// textShare are the texts that one core has read, one after the other.
type textShare struct {
	from, to int
	all      []byte
	at       []uint32
}

// texts are some of one length, by columns.
type texts struct {
	ids     []int32
	letters [][]byte // of each place, every text's
	whole   []uint64 // the hash of each
}

// textsOf reads texts of at most maxTwice + 2 letters, by length, as each core has read them; read says none by nil.
func textsOf(count int, read func(i int, v *view) []byte) (byLength [maxTwice + 3][]texts, shares []textShare) {
	parts := make([][maxTwice + 3]texts, cores())
	shares = make([]textShare, cores())
	share(count, func(w, from, to int) {
		var v view
		var counts [maxTwice + 3]int
		of := textShare{from: from, to: to, at: make([]uint32, 1, to-from+1)}
		for i := from; i < to; i++ {
			if text := read(i, &v); len(text) <= maxTwice+2 {
				of.all = append(of.all, text...)
				counts[len(text)]++
			}
			of.at = append(of.at, uint32(len(of.all)))
		}
		for i := range to - from {
			if text := of.all[of.at[i]:of.at[i+1]]; len(text) > 0 {
				parts[w][len(text)].add(int32(from+i), text, counts[len(text)])
			}
		}
		shares[w] = of
	})
	for _, p := range parts {
		for n := range p {
			if len(p[n].ids) > 0 {
				byLength[n] = append(byLength[n], p[n])
			}
		}
	}
	return byLength, shares
}

// add adds one text of so many that come.
func (t *texts) add(id int32, text []byte, count int) {
	if t.letters == nil {
		t.letters, t.ids, t.whole = make([][]byte, len(text)), make([]int32, 0, count), make([]uint64, 0, count)
		for i := range t.letters {
			t.letters[i] = make([]byte, 0, count)
		}
	}
	t.ids = append(t.ids, id)
	h := uint64(0)
	for i, letter := range text {
		t.letters[i] = append(t.letters[i], letter)
		h = h*base + values[letter]
	}
	t.whole = append(t.whole, h)
}

// hash gives the hashes of the texts from one to another, rearranged: what the places that change add to the whole's.
func (t *texts) hash(a arrangement, from, to int, into []uint64) []uint64 {
	into = append(into[:0], t.whole[from:to]...)
	for i, factor := range a.changes(len(t.letters)) {
		if factor == 0 {
			continue
		}
		column := t.letters[i][from:to]
		into := into[:len(column)]
		for j, letter := range column {
			into[j] += factor * values[letter]
		}
	}
	for j, h := range into {
		h *= spread
		into[j] = h ^ h>>32
	}
	return into
}

// values stand for letters: of two of them, the sum says which they are.
var values = func() (of [256]uint64) {
	for c := range of {
		of[c] = mix(uint64(c) + 1)
	}
	return of
}()

// spread brings a hash's lower bits up (D. E. Knuth, The Art of Computer Programming 3, section 6.4).
const spread = 0x9e3779b97f4a7c15

// arrangement is a text made of another's letters: their places, and struck where any letter may stand. From one place
// on, if that is not unpaired, letters are taken two by two whichever comes first.
type arrangement struct {
	places []int8
	paired int
}

const (
	struck   = -1
	unpaired = -1
)

func asItStands(n int) arrangement {
	a := arrangement{make([]int8, n), unpaired}
	for i := range a.places {
		a.places[i] = int8(i)
	}
	return a
}

func (a arrangement) strike(i int) arrangement {
	a.places = slices.Clone(a.places)
	a.places[i] = struck
	return a
}

func (a arrangement) swap(i int) arrangement {
	a.places = slices.Clone(a.places)
	a.places[i], a.places[i+1] = a.places[i+1], a.places[i]
	return a
}

func (a arrangement) drop(i int) arrangement {
	a.places = slices.Delete(slices.Clone(a.places), i, i+1)
	return a
}

func (a arrangement) pair(from int) arrangement {
	a.paired = from
	return a
}

// powers are those of rolled's polynomial.
var powers = func() (p [maxTwice + 3]uint64) {
	p[0] = 1
	for i := range p[1:] {
		p[i+1] = p[i] * base
	}
	return p
}()

// changes is what the hash of an arrangement is more than that of the n letters as they stand: a factor for each. Two that
// are paired have one factor.
func (a arrangement) changes(n int) (factors [maxTwice + 2]uint64) {
	last := len(a.places) - 1
	for i, place := range a.places {
		if place == struck {
			continue
		}
		power := powers[last-i]
		if a.paired != unpaired && i >= a.paired && (i-a.paired)%2 == 1 {
			power = powers[last-i+1]
		}
		factors[place] += power
	}
	for i := range n {
		factors[i] -= powers[n-1-i]
	}
	return factors
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
	found  [][]pair // by share of the units
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
					share := int(unit) * len(m.found) / m.units
					m.found[share] = append(m.found[share], pair(unit)<<32|pair(ids[i]))
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
