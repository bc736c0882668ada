package symbols

import (
	"image"
	"math"
)

// likeBars is how alike two lines across the same bars are: their correlation is at least so high.
const likeBars = .6

// stretched are the four corners of a linear code of which a line across its bars was read: it goes on along its bars as far as lines there
// look alike.
func (g grey) stretched(from, to image.Point) [4]image.Point {
	length := math.Hypot(float64(to.X-from.X), float64(to.Y-from.Y))
	if length < 8 {
		return [4]image.Point{from, to, to, from}
	}
	// The bars may stand askew to the line: the gradients around it say how.
	around := image.Rectangle{from, to}.Canon().Inset(-4)
	sum := tensor(g.part(around))
	sin, cos := math.Sincos(sum.angle() + math.Pi/2)
	line := func(at float64) []float64 {
		n := min(int(length), 400)
		levels := make([]float64, n)
		for i := range levels {
			part := float64(i) / float64(n-1)
			levels[i] = g.at(float64(from.X)+part*float64(to.X-from.X)+at*cos, float64(from.Y)+part*float64(to.Y-from.Y)+at*sin)
		}
		return levels
	}
	read := line(0)
	reach := func(step float64) float64 {
		at, missed := 0., 0
		for d := step; math.Abs(d) < 2*length; d += step {
			if correlation(read, line(d)) >= likeBars {
				at, missed = d, 0
			} else if missed++; missed == 3 {
				break
			}
		}
		return at
	}
	up, down := reach(-2), reach(2)
	move := func(p image.Point, by float64) image.Point {
		return image.Pt(p.X+int(math.Round(by*cos)), p.Y+int(math.Round(by*sin)))
	}
	return [4]image.Point{move(from, up), move(to, up), move(to, down), move(from, down)}
}

// tensor sums the gradients of all pixels of a part.
func tensor(g grey) (sum block) {
	for y := 1; y < g.height-1; y++ {
		above, line, below := g.row(y-1), g.row(y), g.row(y+1)
		for x := 1; x < g.width-1; x++ {
			dx, dy := float64(line[x+1])-float64(line[x-1]), float64(below[x])-float64(above[x])
			sum.xx, sum.yy, sum.xy = sum.xx+dx*dx, sum.yy+dy*dy, sum.xy+dx*dy
		}
	}
	return sum
}

// correlation is Pearson's of two lines as long; 0 where one of them does not change.
func correlation(a, b []float64) float64 {
	n := float64(len(a))
	var sa, sb, saa, sbb, sab float64
	for i := range a {
		sa, sb, saa, sbb, sab = sa+a[i], sb+b[i], saa+a[i]*a[i], sbb+b[i]*b[i], sab+a[i]*b[i]
	}
	va, vb := saa-sa*sa/n, sbb-sb*sb/n
	if va < 1 || vb < 1 {
		return 0
	}
	return (sab - sa*sb/n) / math.Sqrt(va*vb)
}
