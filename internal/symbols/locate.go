package symbols

import (
	"cmp"
	"image"
	"math"
	"slices"
)

// blockSide is how many pixels a block has in which gradients are summed.
const blockSide = 12

// block sums the gradients of its pixels: the structure tensor (J. Bigün and G. Granlund, "Optimal orientation detection of linear symmetry",
// ICCV 1987, from memory).
type block struct{ xx, yy, xy float64 }

// energy is how much it changes, all directions together; coherent is how much of that in one direction, which is angle, in radians.
func (b block) energy() float64   { return b.xx + b.yy }
func (b block) coherent() float64 { return math.Hypot(b.xx-b.yy, 2*b.xy) }
func (b block) angle() float64    { return math.Atan2(2*b.xy, b.xx-b.yy) / 2 }

// blocks are those of a picture, line by line.
type blocks struct {
	all           []block
	width, height int
}

// newBlocks sums the gradients of every second line. Cost: one look at each of their pixels.
func newBlocks(g grey) blocks {
	b := blocks{width: g.width / blockSide, height: g.height / blockSide}
	b.all = make([]block, b.width*b.height)
	for by := range b.height {
		for y := max(1, by*blockSide); y < min(g.height-1, (by+1)*blockSide); y += 2 {
			above, line, below := g.row(y-1), g.row(y), g.row(y+1)
			for bx := range b.width {
				xx, yy, xy := 0, 0, 0
				for x := max(1, bx*blockSide); x < min(g.width-1, (bx+1)*blockSide); x++ {
					dx, dy := int(line[x+1])-int(line[x-1]), int(below[x])-int(above[x])
					xx, yy, xy = xx+dx*dx, yy+dy*dy, xy+dx*dy
				}
				of := &b.all[by*b.width+bx]
				of.xx, of.yy, of.xy = of.xx+float64(xx), of.yy+float64(yy), of.xy+float64(xy)
			}
		}
	}
	for i := range b.all {
		const n = blockSide * blockSide / 2
		b.all[i].xx, b.all[i].yy, b.all[i].xy = b.all[i].xx/n, b.all[i].yy/n, b.all[i].xy/n
	}
	return b
}

// region is where a bar code may stand: its middle in pixels, the angle across its bars, and how far it reaches along and across that.
type region struct {
	x, y, angle, along, across float64
	score                      float64
}

func (r region) bounds() image.Rectangle {
	sin, cos := math.Sincos(r.angle)
	dx, dy := math.Abs(r.along*cos)+math.Abs(r.across*sin), math.Abs(r.along*sin)+math.Abs(r.across*cos)
	return image.Rect(int(r.x-dx), int(r.y-dy), int(r.x+dx)+1, int(r.y+dy)+1)
}

const (
	leastCoherent = 90.  // of a block of bars, in squared levels
	leastShare    = .4   // of its energy
	likeAngle     = .26  // radians by which blocks of one code differ at most
	leastEnergy   = 250. // of a block of a matrix code
)

// bars are regions of blocks that change in one direction alike: bar codes, or what looks so. The likeliest come first.
func (b blocks) bars() (all []region) {
	seen := make([]bool, len(b.all))
	isBars := func(i int) bool {
		c := b.all[i].coherent()
		return !seen[i] && c > leastCoherent && c > leastShare*b.all[i].energy()
	}
	for start := range b.all {
		if !isBars(start) {
			continue
		}
		seen[start] = true
		group, sum := []int{start}, b.all[start]
		for n := 0; n < len(group); n++ {
			b.near(group[n], func(i int) {
				if isBars(i) && apart(b.all[i].angle(), sum.angle(), math.Pi) < likeAngle {
					seen[i] = true
					group = append(group, i)
					sum.xx, sum.yy, sum.xy = sum.xx+b.all[i].xx, sum.yy+b.all[i].yy, sum.xy+b.all[i].xy
				}
			})
		}
		r := b.region(group, sum.angle())
		area := float64(len(group)) * blockSide * blockSide
		if r.along*2 >= 4*blockSide && r.across*2 >= 1.5*blockSide && area >= .4*4*r.along*r.across {
			r.score = area * math.Sqrt(sum.coherent()/float64(len(group)))
			all = append(all, r)
		}
	}
	slices.SortFunc(all, func(a, b region) int { return cmp.Compare(b.score, a.score) })
	return all
}

// matrices are regions of blocks that change much in all directions: matrix codes, or what looks so. The likeliest come first.
func (b blocks) matrices() (all []region) {
	energies := make([]float64, len(b.all))
	for i := range b.all {
		energies[i] = b.all[i].energy()
	}
	if len(energies) == 0 {
		return nil
	}
	sorted := slices.Sorted(slices.Values(energies))
	least := max(leastEnergy, 2*sorted[len(sorted)/2])
	seen := make([]bool, len(b.all))
	for start := range b.all {
		if seen[start] || energies[start] < least {
			continue
		}
		seen[start] = true
		group, sum := []int{start}, 0.
		for n := 0; n < len(group); n++ {
			sum += energies[group[n]]
			b.near(group[n], func(i int) {
				if !seen[i] && energies[i] >= least {
					seen[i] = true
					group = append(group, i)
				}
			})
		}
		r := b.region(group, 0)
		w, h := r.along, r.across
		if min(w, h)*2 < 1.5*blockSide || max(w, h) > 2.2*min(w, h) || float64(len(group))*blockSide*blockSide < .35*4*w*h {
			continue
		}
		r.score = sum / math.Sqrt(float64(len(group)))
		all = append(all, r)
	}
	slices.SortFunc(all, func(a, b region) int { return cmp.Compare(b.score, a.score) })
	return all
}

func (b blocks) near(i int, use func(int)) {
	x, y := i%b.width, i/b.width
	for dy := -1; dy <= 1; dy++ {
		for dx := -1; dx <= 1; dx++ {
			if nx, ny := x+dx, y+dy; nx >= 0 && ny >= 0 && nx < b.width && ny < b.height {
				use(ny*b.width + nx)
			}
		}
	}
}

// region is the rectangle at an angle that holds some blocks.
func (b blocks) region(group []int, angle float64) region {
	sin, cos := math.Sincos(angle)
	u0, u1, v0, v1 := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	for _, i := range group {
		x, y := (float64(i%b.width)+.5)*blockSide, (float64(i/b.width)+.5)*blockSide
		u, v := x*cos+y*sin, -x*sin+y*cos
		u0, u1, v0, v1 = min(u0, u), max(u1, u), min(v0, v), max(v1, v)
	}
	u, v := (u0+u1)/2, (v0+v1)/2
	const half = blockSide / 2
	return region{x: u*cos - v*sin, y: u*sin + v*cos, angle: angle, along: (u1-u0)/2 + half, across: (v1-v0)/2 + half}
}

// apart is by how much two angles differ, of which those a turn apart are the same.
func apart(a, b, turn float64) float64 {
	d := math.Mod(math.Abs(a-b), turn)
	return min(d, turn-d)
}

// fourfold is the angle to which the gradients of a part of a picture keep, whatever of its four directions: how a matrix code is turned.
func fourfold(g grey) float64 {
	re, im := 0., 0.
	for y := 1; y < g.height-1; y++ {
		above, line, below := g.row(y-1), g.row(y), g.row(y+1)
		for x := 1; x < g.width-1; x++ {
			dx, dy := float64(line[x+1])-float64(line[x-1]), float64(below[x])-float64(above[x])
			if n := dx*dx + dy*dy; n > 100 {
				c2, s2 := dx*dx-dy*dy, 2*dx*dy
				re, im = re+(c2*c2-s2*s2)/n, im+2*c2*s2/n
			}
		}
	}
	return math.Atan2(im, re) / 4
}
