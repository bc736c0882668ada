package tidy

import (
	"cmp"
	"maps"
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
	return checks.SameShape(c.Width, c.Height, o.Width, o.Height)
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

// mostAlike is how many pictures may look nearly the same: more are no copies but pictures of nothing, as plain areas are.
const mostAlike = 200

// Near are the pictures, by their numbers, that hang together by likenesses of which each is near another: those among which copies are looked
// for. Each set has at least two and at most mostAlike. Cost: as likeness.Near.
func Near(ids []int64, looks []uint64) (all [][]int64) {
	of := make(map[uint64][]int64, len(looks))
	for i, look := range looks {
		of[look] = append(of[look], ids[i])
	}
	distinct := slices.Sorted(maps.Keys(of))
	for _, places := range likeness.Sets(len(distinct), likeness.Near(distinct, Alike)) {
		var set []int64
		for _, at := range places {
			set = append(set, of[distinct[at]]...)
		}
		if len(set) > 1 && len(set) <= mostAlike {
			slices.Sort(set)
			all = append(all, set)
		}
	}
	slices.SortFunc(all, func(a, b []int64) int { return cmp.Compare(a[0], b[0]) })
	return all
}

// Groups puts pictures together that are one in other bytes, by their places. Each group has at least two. Cost: by the pairs of all.
func Groups(copies []Copy) (all [][]int) {
	var same []likeness.Pair
	for i, c := range copies {
		for j := i + 1; j < len(copies); j++ {
			if c.IsSame(copies[j]) {
				same = append(same, likeness.Pair{A: int32(i), B: int32(j)})
			}
		}
	}
	for _, places := range likeness.Sets(len(copies), same) {
		if len(places) > 1 {
			all = append(all, places)
		}
	}
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
