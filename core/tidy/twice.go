package tidy

import (
	"cmp"
	"slices"
	"strings"

	"ambrosa/core/checks"
	"ambrosa/core/colour"
	"ambrosa/core/likeness"
)

// Copy is a picture as it is compared with others that look the same.
type Copy struct {
	ID            int64
	Width, Height int
	Bytes         int64
	Format        string
	Likeness      uint64
	Palette       []colour.Swatch
	Small         []uint8       // see likeness.Small
	Facts         *checks.Facts // nil where it was not looked at yet
}

// Alike is in how many bits of their likenesses two pictures may differ that are one.
const Alike = 6

// IsSame reports whether two pictures are one in other bytes: they look the same, also in a small rendering, have the same colours and the same
// shape but for a fiftieth.
func (c Copy) IsSame(o Copy) bool {
	if likeness.Distance(c.Likeness, o.Likeness) > Alike || !colour.Alike(c.Palette, o.Palette) || !likeness.Verified(c.Small, o.Small) {
		return false
	}
	x, y := c.Width*o.Height, o.Width*c.Height
	return x*50 <= y*51 && y*50 <= x*51
}

// Reason says why a picture is the best of some.
type Reason string

const (
	MostPixels      Reason = "most_pixels"      // that it truly has
	NotPadded       Reason = "not_padded"       // others have a border
	LeastCompressed Reason = "least_compressed" // most bytes a pixel, or without loss
	CameFirst       Reason = "came_first"
)

// trulyHas is how many pixels a picture truly has.
func (c Copy) trulyHas() int {
	if c.Facts == nil {
		return c.Width * c.Height
	}
	return c.Facts.TrueWidth * c.Facts.TrueHeight
}

func (c Copy) isPadded() bool { return c.Facts != nil && c.Facts.PaddedShare() > 0 }

// lossless is whether a format keeps what it is given. WebP and AVIF may or may not.
func (c Copy) lossless() bool { return c.Format == "PNG" || c.Format == "TIFF" }

// compression orders by how little was lost: bytes a pixel, those without loss first.
func (c Copy) compression() float64 {
	perPixel := float64(c.Bytes) / float64(max(1, c.Width*c.Height))
	if c.lossless() {
		perPixel += 1000
	}
	return perPixel
}

// Best is the place of the best of pictures that are one, and why it is, the first difference to the next best. More than one in a hundred more
// pixels count.
func Best(copies []Copy) (best int, why Reason) {
	order := make([]int, len(copies))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { n, _ := better(copies[a], copies[b]); return n })
	if len(order) < 2 {
		return 0, CameFirst
	}
	_, why = better(copies[order[0]], copies[order[1]])
	return order[0], why
}

// better is below 0 where a is better than b. Pixels are compared by their steps of a hundredth, so that the order has no circles.
func better(a, b Copy) (int, Reason) {
	if n := cmp.Compare(step(b.trulyHas()), step(a.trulyHas())); n != 0 {
		return n, MostPixels
	}
	if a.isPadded() != b.isPadded() {
		if a.isPadded() {
			return 1, NotPadded
		}
		return -1, NotPadded
	}
	if n := cmp.Compare(b.compression(), a.compression()); n != 0 {
		return n, LeastCompressed
	}
	return cmp.Compare(a.ID, b.ID), CameFirst
}

// step is the number of hundredths by which a number can grow from 1 to it: a logarithm in whole steps.
func step(n int) int {
	steps, at := 0, 1.
	for at < float64(n) {
		at *= 1.02
		steps++
	}
	return steps
}

// Groups puts pictures together that are one in other bytes. near are the pairs of places in copies whose likenesses lie near each other, in any
// order. Each group has at least two, its members by their numbers. Cost: by the pairs.
func Groups(copies []Copy, near []likeness.Pair) [][]int {
	parent := make([]int32, len(copies))
	for i := range parent {
		parent[i] = int32(i)
	}
	root := func(i int32) int32 {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for _, p := range near {
		if copies[p.A].IsSame(copies[p.B]) {
			parent[root(p.A)] = root(p.B)
		}
	}
	members := map[int32][]int{}
	for i := range copies {
		r := root(int32(i))
		members[r] = append(members[r], i)
	}
	var all [][]int
	for _, m := range members {
		if len(m) > 1 {
			slices.SortFunc(m, func(a, b int) int { return cmp.Compare(copies[a].ID, copies[b].ID) })
			all = append(all, m)
		}
	}
	slices.SortFunc(all, func(a, b []int) int { return cmp.Compare(copies[a[0]].ID, copies[b[0]].ID) })
	return all
}

// Shared says what to think of one picture on several products.
type Shared string

const (
	Meant   Shared = "meant"   // on one product and its variants
	Mistake Shared = "mistake" // on products whose titles have no word in common
	Unclear Shared = "unclear"
)

// JudgeShared judges a picture by the titles of the products that show it, or whose variants do.
func JudgeShared(titles []string) Shared {
	if len(titles) < 2 {
		return Meant
	}
	common := map[string]bool{}
	for i, title := range titles {
		words := map[string]bool{}
		for _, w := range strings.Fields(strings.ToLower(title)) {
			if len([]rune(w)) >= 3 {
				words[w] = true
			}
		}
		if i == 0 {
			common = words
			continue
		}
		for w := range common {
			if !words[w] {
				delete(common, w)
			}
		}
	}
	if len(common) == 0 {
		return Mistake
	}
	return Unclear
}
