// Package gallery finds pictures among all that there are: by what they are, by parts of all that is written of them, and by how they look.
// It holds all of them in memory, some 250 bytes each, and goes through them; a million take milliseconds.
package gallery

import (
	"cmp"
	"slices"
	"strings"
)

// Line is one picture.
type Line struct {
	ID       int64
	Facets   Facets
	Source   int64 // that it first came from; 0 for none
	Likeness uint64
	HasLook  bool   // whether its likeness is known
	Text     string // all that is written of it, one thing a line
}

// chunkLines are so many that a change copies together.
const chunkLines = 1024

// chunk is some lines by their numbers, upwards, column by column.
type chunk struct {
	ids      []int64
	facets   []Facets
	sources  []int64
	likeness []uint64
	marks    []marks
	texts    []string
	all      Facets // what any of them is
}

// Shelf is all pictures as they stand at one moment. It is never changed; With makes another that shares what stayed.
type Shelf struct {
	chunks []*chunk
	count  int
}

// Len is how many pictures there are.
func (s *Shelf) Len() int { return s.count }

// New makes a shelf of lines in any order. Where two have one number the last counts.
func New(lines []Line) *Shelf { return (&Shelf{}).With(lines, nil) }

// With is the shelf with lines added or put in the place of those of their numbers, and without some. Cost: by the lines, and the chunks that
// they lie in.
func (s *Shelf) With(lines []Line, gone []int64) *Shelf {
	lines = slices.Clone(lines)
	slices.SortStableFunc(lines, func(a, b Line) int { return cmp.Compare(a.ID, b.ID) })
	next := &Shelf{chunks: slices.Clone(s.chunks), count: s.count}
	copied := map[int]bool{}
	own := func(n int) *chunk {
		if !copied[n] {
			next.chunks[n], copied[n] = next.chunks[n].clone(), true
		}
		return next.chunks[n]
	}
	settle := func() {
		for n := range copied {
			next.chunks[n].sum()
		}
		copied = map[int]bool{}
		next.chunks = slices.DeleteFunc(next.chunks, func(c *chunk) bool { return len(c.ids) == 0 })
	}
	for _, id := range gone {
		if n, i, there := next.find(id); there && len(next.chunks[n].ids) > 0 {
			if own(n).remove(i); len(next.chunks[n].ids) == 0 {
				settle() // an empty chunk has no place among the others
			}
			next.count--
		}
	}
	settle()
	for _, l := range lines {
		n, i, there := next.find(l.ID)
		if there {
			own(n).set(i, l)
			continue
		}
		next.count++
		if n == len(next.chunks) || n == len(next.chunks)-1 && i >= chunkLines && i == len(next.chunks[n].ids) {
			n, i = len(next.chunks), 0
			next.chunks = append(next.chunks, &chunk{})
			copied[n] = true
		}
		own(n).insert(i, l)
	}
	settle()
	return next
}

// find returns where a number stands, or would stand.
func (s *Shelf) find(id int64) (n, i int, there bool) {
	n, _ = slices.BinarySearchFunc(s.chunks, id, func(c *chunk, id int64) int {
		switch {
		case len(c.ids) == 0 || c.ids[len(c.ids)-1] < id:
			return -1
		default:
			return 1
		}
	})
	if n == len(s.chunks) {
		if n == 0 {
			return 0, 0, false
		}
		return n - 1, len(s.chunks[n-1].ids), false // behind the last
	}
	i, there = slices.BinarySearch(s.chunks[n].ids, id)
	return n, i, there
}

func (c *chunk) clone() *chunk {
	return &chunk{ids: slices.Clone(c.ids), facets: slices.Clone(c.facets), sources: slices.Clone(c.sources), likeness: slices.Clone(c.likeness),
		marks: slices.Clone(c.marks), texts: slices.Clone(c.texts)}
}

func (c *chunk) set(i int, l Line) {
	if l.HasLook {
		l.Facets |= looked
	}
	c.ids[i], c.facets[i], c.sources[i], c.likeness[i], c.texts[i] = l.ID, l.Facets|present, l.Source, l.Likeness, strings.ToLower(l.Text)
	c.marks[i] = marksOf(c.texts[i])
}

func (c *chunk) insert(i int, l Line) {
	c.ids, c.facets, c.sources = slices.Insert(c.ids, i, 0), slices.Insert(c.facets, i, 0), slices.Insert(c.sources, i, 0)
	c.likeness, c.marks, c.texts = slices.Insert(c.likeness, i, 0), slices.Insert(c.marks, i, marks{}), slices.Insert(c.texts, i, "")
	c.set(i, l)
}

func (c *chunk) remove(i int) {
	c.ids, c.facets, c.sources = slices.Delete(c.ids, i, i+1), slices.Delete(c.facets, i, i+1), slices.Delete(c.sources, i, i+1)
	c.likeness, c.marks, c.texts = slices.Delete(c.likeness, i, i+1), slices.Delete(c.marks, i, i+1), slices.Delete(c.texts, i, i+1)
}

func (c *chunk) sum() {
	c.all = 0
	for _, f := range c.facets {
		c.all |= f
	}
}
