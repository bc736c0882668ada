package symbols

import (
	"cmp"
	"image"
	"math"
	"slices"

	"ambrosa/core/symbol"
)

const (
	mostSymbols  = 32 // that are read of one picture
	mostBars     = 10 // regions of bars that are looked at closely
	mostMatrices = 6
)

// linear and matrix are the formats of either kind.
var (
	linear = formats(symbol.EAN13, symbol.EAN8, symbol.UPCA, symbol.UPCE, symbol.ITF14, symbol.Code128)
	matrix = formats(symbol.QR, symbol.DataMatrix)
)

// reading is a picture being read.
type reading struct {
	grey
	found   []symbol.Symbol
	covered []image.Rectangle
}

// read reads the bar codes of a picture, whatever their number, size and angle: those that libzxing finds in it, then those in regions that look
// like one, set upright. They come from top to bottom.
func read(g grey) []symbol.Symbol {
	r := &reading{grey: g}
	if g.width < 8 || g.height < 8 {
		return nil
	}
	for rest, n := g, 0; n < mostSymbols; rest, n = g.covered(r.covered), n+1 {
		f, ok := first(rest, allFormats, 2, false)
		if !ok {
			break
		}
		r.add(f, f.corners)
	}
	b := newBlocks(g)
	for i, at := range b.bars() {
		if i == mostBars || len(r.found) >= mostSymbols {
			break
		}
		if !r.has(at) {
			r.bars(at)
		}
	}
	for i, at := range b.matrices() {
		if i == mostMatrices || len(r.found) >= mostSymbols {
			break
		}
		if !r.has(at) {
			r.matrix(at)
		}
	}
	slices.SortStableFunc(r.found, func(a, b symbol.Symbol) int {
		return cmp.Or(cmp.Compare(a.Box.Y, b.Box.Y), cmp.Compare(a.Box.X, b.Box.X))
	})
	return r.found
}

// has reports whether a region is one where a code was found.
func (r *reading) has(at region) bool {
	for _, c := range r.covered {
		if image.Pt(int(at.x), int(at.y)).In(c) {
			return true
		}
	}
	return false
}

// add keeps a code that was found at four corners, where it can be, and covers it.
func (r *reading) add(f found, corners [4]image.Point) {
	if f.Format.Linear() {
		corners = r.stretched(corners[0], corners[1])
	}
	box := image.Rectangle{corners[0], corners[0]}
	for _, p := range corners {
		box.Min.X, box.Min.Y, box.Max.X, box.Max.Y = min(box.Min.X, p.X), min(box.Min.Y, p.Y), max(box.Max.X, p.X), max(box.Max.Y, p.Y)
	}
	r.covered = append(r.covered, box.Inset(-6))
	box = box.Intersect(image.Rect(0, 0, r.width, r.height))
	f.Box = symbol.Box{X: box.Min.X, Y: box.Min.Y, Width: box.Dx(), Height: box.Dy()}
	if f.Sound() && !slices.ContainsFunc(r.found, func(s symbol.Symbol) bool { return s.Format == f.Format && s.Text == f.Text && s.Box.Overlaps(f.Box) }) {
		r.found = append(r.found, f.Symbol)
	}
}

// upright is a region set upright: across its bars is to the right. back is where its places lie in the picture.
func (g grey) upright(at region, along, across, scale float64) (u grey, back func(x, y float64) image.Point) {
	u = newGrey(max(1, int(2*along*scale)), max(1, int(2*across*scale)))
	sin, cos := math.Sincos(at.angle)
	place := func(x, y float64) (float64, float64) {
		du, dv := (x-float64(u.width-1)/2)/scale, (y-float64(u.height-1)/2)/scale
		return at.x + du*cos - dv*sin, at.y + du*sin + dv*cos
	}
	for y := range u.height {
		px, py := place(0, float64(y))
		g.sample(u.row(y), px, py, cos/scale, sin/scale)
	}
	return u, func(x, y float64) image.Point {
		px, py := place(x, y)
		return image.Pt(int(math.Round(px)), int(math.Round(py)))
	}
}

// bars reads a region of bars: it is set upright, and lines along its bars are taken together, which takes noise out. What is read counts where
// another part of it, or another scale, says the same, and none says otherwise as often.
func (r *reading) bars(at region) {
	votes := map[symbol.Symbol]int{}
	best := map[symbol.Symbol]found{}
	const quiet = 30
	for _, scale := range []float64{2, 3, 1} {
		if at.along*scale > 3000 {
			continue
		}
		u, back := r.upright(at, at.along+quiet, at.across*.9, scale)
		bands := min(6, max(2, int(at.across*1.8/5)))
		for n := range bands {
			line := u.band(u.height*n/bands, max(u.height*n/bands+1, u.height*(n+1)/bands))
			middle := float64(u.height*(2*n+1)) / float64(2*bands)
			vote := func(f found) {
				if !f.Sound() || !f.Format.Linear() {
					return
				}
				votes[f.Symbol]++
				if _, known := best[f.Symbol]; !known {
					f.corners[0], f.corners[1] = back(float64(f.corners[0].X), middle), back(float64(f.corners[1].X), middle)
					best[f.Symbol] = f
				}
			}
			if f, ok := first(line, linear, 2, false); ok {
				vote(f)
			} else {
				for _, f := range all(line, 1) {
					vote(f)
				}
			}
		}
	}
	var most symbol.Symbol
	second := 0
	for s, n := range votes {
		if n > votes[most] {
			most, second = s, max(second, votes[most])
		} else {
			second = max(second, n)
		}
	}
	if votes[most] >= 2 && votes[most] > second {
		r.add(best[most], best[most].corners)
	}
}

// band is the mean of some lines, so many times.
func (g grey) band(from, to int) grey {
	const times = 8
	sum := make([]int, g.width)
	for y := from; y < to; y++ {
		for x, l := range g.row(y) {
			sum[x] += int(l)
		}
	}
	b := newGrey(g.width, times)
	for x, s := range sum {
		level := byte(s / (to - from))
		for y := range times {
			b.row(y)[x] = level
		}
	}
	return b
}

// matrix reads a region of a matrix code, as it is and set upright, in several scales.
func (r *reading) matrix(at region) {
	part := r.part(at.bounds())
	if part.width < 3 {
		return
	}
	at.angle = fourfold(part)
	reach := max(at.along, at.across)*1.25 + 8
	for _, scale := range []float64{2, 3, 1.5, 1} {
		if reach*scale > 900 {
			continue
		}
		u, back := r.upright(at, reach, reach, scale)
		f, ok := first(u, matrix, 2, false)
		if !ok {
			if f, ok = first(u, matrix, 2, true); !ok {
				continue
			}
		}
		for i, p := range f.corners {
			f.corners[i] = back(float64(p.X), float64(p.Y))
		}
		r.add(f, f.corners)
		return
	}
}
