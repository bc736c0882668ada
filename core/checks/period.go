package checks

import (
	"cmp"
	"math"
	"math/cmplx"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"
)

// peak is a frequency, in periods a pixel, at which the sharpness of a picture comes and goes, and how far it stands out of those around it.
type peak struct{ at, height float64 }

const (
	lowest     = .22 // the frequency below which nothing is looked for: the picture's own shapes lie there
	mostPeaks  = 5
	around     = 40   // so many neighbours on each side of a frequency
	atEdge     = 40   // a second difference above this is an edge like any other
	ofGrid     = .012 // how near to JPEG's grid a frequency is taken for it
	evenedOver = 16   // pixels on each side over which the sharpness is evened out
)

// periods are the strongest frequencies of the second differences along the rows (or columns), added up over all of them. Those of JPEG's own
// grid of eight pixels are left out.
func (g Grey) periods(columns bool) []peak {
	length, lines, step, line := g.along(columns)
	if length < 2*window {
		return nil
	}
	power := spectrumOf(evened(g.bends(length, lines, step, line)))
	size := 2 * (len(power) - 1)
	var found []peak
	near := make([]float64, 0, 2*around)
	for i := int(lowest * float64(size)); i < len(power); i++ {
		at := float64(i) / float64(size)
		if grid := math.Abs(at*8 - math.Round(at*8)); grid/8 < max(ofGrid, 3/float64(length)) {
			continue
		}
		near = near[:0]
		for j := max(1, i-around); j < min(len(power), i+around+1); j++ {
			if j < i-6 || j > i+6 {
				near = append(near, power[j])
			}
		}
		slices.Sort(near)
		if height := power[i] / (near[len(near)/2] + 1e-9); height >= faintly {
			found = append(found, peak{at, height})
		}
	}
	slices.SortFunc(found, func(a, b peak) int { return cmp.Compare(b.height, a.height) })
	var apart []peak
	for _, p := range found {
		if len(apart) < mostPeaks && !slices.ContainsFunc(apart, p.near) {
			apart = append(apart, p)
		}
	}
	return apart
}

// near reports whether two peaks are one.
func (p peak) near(other peak) bool { return math.Abs(p.at-other.at) < .008 }

// bends adds up over all lines how much each place differs from the mean of its neighbours.
func (g Grey) bends(length, lines, step, line int) []float64 {
	sum := make([]float64, length)
	if step == 1 {
		for n := range lines {
			row := g.Levels[n*line : n*line+length]
			for i := 1; i < length-1; i++ {
				sum[i] += float64(min(abs(2*int(row[i])-int(row[i-1])-int(row[i+1])), atEdge))
			}
		}
		return sum
	}
	for i := 1; i < length-1; i++ { // row by row here, too: memory is read in its order
		above, at, below := g.Levels[(i-1)*step:], g.Levels[i*step:], g.Levels[(i+1)*step:]
		total := 0
		for n := range lines {
			total += min(abs(2*int(at[n])-int(above[n])-int(below[n])), atEdge)
		}
		sum[i] = float64(total)
	}
	return sum
}

// evened is how far each value stands from the mean around it.
func evened(v []float64) []float64 {
	out := make([]float64, len(v))
	sums := make([]float64, len(v)+1)
	for i, x := range v {
		sums[i+1] = sums[i] + x
	}
	for i := range v {
		from, to := max(0, i-evenedOver), min(len(v), i+evenedOver+1)
		if mean := (sums[to] - sums[from]) / float64(to-from); mean > 0 {
			out[i] = min(4, v[i]/mean) - 1
		}
	}
	return out
}

// spectrumOf is the magnitude by frequency of a series, filled up to a power of two.
func spectrumOf(v []float64) []float64 {
	size := 1
	for size < len(v) {
		size *= 2
	}
	x := make([]float64, size)
	for i, value := range v {
		x[i] = value * (.5 - .5*math.Cos(2*math.Pi*float64(i)/float64(len(v))))
	}
	out := make([]float64, size/2+1)
	for i, c := range fourier.NewFFT(size).Coefficients(nil, x) {
		out[i] = cmplx.Abs(c)
	}
	return out
}

// shared are the peaks that rows and columns have in common, or where only one of both has any, those that stand out clearly.
func shared(across, down []peak) (both []peak) {
	for _, a := range across {
		for _, b := range down {
			if a.near(b) {
				both = append(both, peak{(a.at + b.at) / 2, math.Sqrt(a.height * b.height)})
			}
		}
	}
	return both
}

func abs(n int) int { return max(n, -n) }
