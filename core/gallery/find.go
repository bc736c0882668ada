package gallery

import (
	"math"
	"math/bits"
	"slices"
	"strings"
)

// Query says which pictures are meant; all of it must fit.
type Query struct {
	Words  []string // parts of what is written, in small letters
	Facets []Facets // of each one must be there
	Source int64    // 0 for any
	Before int64    // only those with smaller numbers; 0 for all
	Most   int      // how many numbers are returned
	Like   *Look    // only those that look like this
}

// AsksForState reports whether a search names what is done with pictures: placed, not placed, in the bin …
func (q Query) AsksForState() bool {
	return slices.ContainsFunc(q.Facets, func(m Facets) bool { return m&(Placed|Unplaced|Placeholder|Binned|Kept) != 0 })
}

// Look is how a picture looks, and in how many of its bits another may differ.
type Look struct {
	Likeness uint64
	Within   int
}

// Counted is to how many pictures are counted; of more nobody needs the number.
const Counted = 10_000

// Found is what a search finds, the newest first.
type Found struct {
	IDs     []int64
	Count   int            // of all, also before the page; Counted + 1 where there are more
	Facets  map[string]int // by name: how many would be found with it, in the place of the others of its group
	Sources map[int64]int  // by source, the same
}

// Find searches. Cost: of a million pictures some 15 ms, with words some 30.
func (s *Shelf) Find(q Query) Found {
	if q.Before == 0 {
		q.Before = math.MaxInt64
	}
	wanted := make([]marks, len(q.Words))
	for i, w := range q.Words {
		wanted[i] = marksOf(w)
	}
	found := Found{IDs: []int64{}, Facets: map[string]int{}, Sources: map[int64]int{}}
	tally := newTally(q)
	for n := len(s.chunks) - 1; n >= 0; n-- {
		c := s.chunks[n]
		if tally.misses(c.all) > 1 { // not even with another facet in the place of one
			continue
		}
		for i := len(c.ids) - 1; i >= 0; i-- {
			missed, which := tally.match(c.facets[i], c.sources[i])
			if missed > 1 || tally.knows(c.facets[i], c.sources[i], which) && (missed > 0 || found.Count > Counted && (c.ids[i] >= q.Before || len(found.IDs) >= q.Most)) {
				continue
			}
			if !c.says(i, q.Words, wanted) || q.Like != nil && !c.looks(i, *q.Like) {
				continue
			}
			tally.count(c.facets[i], c.sources[i], missed, which)
			if missed > 0 {
				continue
			}
			found.Count = min(found.Count+1, Counted+1)
			if c.ids[i] < q.Before && len(found.IDs) < q.Most {
				found.IDs = append(found.IDs, c.ids[i])
			}
		}
	}
	tally.tell(&found)
	return found
}

func (c *chunk) says(i int, words []string, wanted []marks) bool {
	for n, w := range words {
		if !c.marks[i].hold(wanted[n]) || !strings.Contains(c.texts[i], w) {
			return false
		}
	}
	return true
}

func (c *chunk) looks(i int, like Look) bool {
	return c.facets[i]&looked != 0 && bits.OnesCount64(c.likeness[i]^like.Likeness) <= like.Within
}

// Looks are the likenesses of all pictures that are not in the bin and of which it is known.
func (s *Shelf) Looks() (ids []int64, likeness []uint64) {
	for _, c := range s.chunks {
		for i, f := range c.facets {
			if f&looked != 0 && f&Binned == 0 {
				ids, likeness = append(ids, c.ids[i]), append(likeness, c.likeness[i])
			}
		}
	}
	return ids, likeness
}

// tally counts, for the filters beside a list, what each would find in the place of the others of its group.
type tally struct {
	masks   []Facets
	groups  []int // the group of each mask
	source  int64
	bits    [][64]int // by group whose mask is left out, last of all with none left out
	full    []Facets  // the same: those of which enough are counted
	sources map[int64]int
}

func newTally(q Query) *tally {
	t := &tally{masks: q.Facets, source: q.Source, sources: map[int64]int{}, bits: make([][64]int, len(groups)+1), full: make([]Facets, len(groups)+1)}
	for _, m := range q.Facets {
		t.groups = append(t.groups, slices.IndexFunc(groups, func(g []named) bool {
			return slices.ContainsFunc(g, func(f named) bool { return f.Facets&m != 0 })
		}))
	}
	return t
}

const sourceMissed = -2

func (t *tally) misses(all Facets) (n int) {
	for _, m := range t.masks {
		if all&m == 0 {
			n++
		}
	}
	return n
}

// match tells how many of what is wanted a picture lacks, and which group it was.
func (t *tally) match(f Facets, source int64) (missed, which int) {
	which = len(groups)
	for i, m := range t.masks {
		if f&m == 0 {
			if missed++; missed > 1 {
				return missed, which
			}
			which = t.groups[i]
		}
	}
	if t.source != 0 && source != t.source {
		missed++
		which = sourceMissed
	}
	return missed, which
}

// knows reports whether enough are counted of all that a picture would count for.
func (t *tally) knows(f Facets, source int64, which int) bool {
	if which == sourceMissed {
		return t.sources[source] > Counted
	}
	return f&^t.full[which] == 0 && (which < len(groups) || t.sources[source] > Counted)
}

func (t *tally) count(f Facets, source int64, missed, which int) {
	if which == sourceMissed {
		t.sources[source]++
		return
	}
	if missed == 0 && t.sources[source] <= Counted {
		t.sources[source]++
	}
	of := &t.bits[which]
	for f &^= t.full[which]; f != 0; f &= f - 1 {
		bit := bits.TrailingZeros64(uint64(f))
		if of[bit]++; of[bit] > Counted {
			t.full[which] |= 1 << bit
		}
	}
}

func (t *tally) tell(found *Found) {
	for g, group := range groups {
		for _, f := range group {
			bit := bits.TrailingZeros64(uint64(f.Facets))
			n := t.bits[len(groups)][bit]
			if slices.Contains(t.groups, g) {
				n += t.bits[g][bit]
			}
			found.Facets[f.Name] = min(n, Counted+1)
		}
	}
	for source, n := range t.sources {
		found.Sources[source] = min(n, Counted+1)
	}
}
