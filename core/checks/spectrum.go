package checks

import (
	"math"
	"slices"
)

// Grey is a picture as levels of grey, row by row.
type Grey struct {
	Width, Height int
	Levels        []uint8
}

// window is over how many pixels a spectrum is taken.
const window = 64

// spectrum is the mean power by frequency of the places along the rows where a picture is sharpest; entry k is of k periods in a window.
type spectrum [window / 2]float64

// place is where a window begins, and how sharp the picture is there.
type place struct{ at, step, sharp int }

// The windows along one direction: begun every so many pixels, in one line of so many; the sharpest so many count.
const (
	mostLines    = 256
	mostWindows  = 1500
	leastWindows = 40 // below which nothing can be said
	faint        = 6  // the difference between neighbours below which a window shows no edge
)

// places are the windows along rows (or columns) in which neighbours differ most, the sharpest first.
func (g Grey) places(columns bool) []place {
	length, lines, step, line := g.Width, g.Height, 1, g.Width
	if columns {
		length, lines, step, line = g.Height, g.Width, g.Width, 1
	}
	if length < window {
		return nil
	}
	var all []place
	every := max(1, lines/mostLines)
	for n := 0; n < lines; n += every {
		for from := 0; from+window <= length; from += window / 2 {
			p := place{at: n*line + from*step, step: step}
			for i := window / 8; i < window*7/8; i++ {
				a, b := g.Levels[p.at+i*step], g.Levels[p.at+(i+1)*step]
				p.sharp = max(p.sharp, int(a)-int(b), int(b)-int(a))
			}
			if p.sharp >= faint {
				all = append(all, p)
			}
		}
	}
	slices.SortFunc(all, func(a, b place) int { return b.sharp - a.sharp })
	return all[:min(len(all), mostWindows, max(leastWindows, len(all)/4))]
}

func (g Grey) spectrum(places []place) (s spectrum) {
	var re, im [window]float64
	for _, p := range places {
		mean := 0.0
		for i := range window {
			re[i] = float64(g.Levels[p.at+i*p.step])
			mean += re[i]
		}
		mean /= window
		power := 0.0
		for i := range window {
			re[i] = (re[i] - mean) * hann[i]
			im[i] = 0
			power += re[i] * re[i]
		}
		if power == 0 {
			continue
		}
		transform(&re, &im)
		for k := 1; k < window/2; k++ {
			s[k] += (re[k]*re[k] + im[k]*im[k]) / power
		}
	}
	for k := range s {
		s[k] /= float64(max(1, len(places)))
	}
	return s
}

var hann, cosines, sines = func() (h, c, s [window]float64) {
	for i := range window {
		h[i] = .5 - .5*math.Cos(2*math.Pi*(float64(i)+.5)/window)
		c[i], s[i] = math.Cos(2*math.Pi*float64(i)/window), -math.Sin(2*math.Pi*float64(i)/window)
	}
	return h, c, s
}()

// transform is the discrete Fourier transform of one window in place: Cooley and Tukey's, of radix two.
func transform(re, im *[window]float64) {
	for i, j := 1, 0; i < window; i++ {
		bit := window >> 1
		for ; j&bit != 0; bit >>= 1 {
			j ^= bit
		}
		j ^= bit
		if i < j {
			re[i], re[j], im[i], im[j] = re[j], re[i], im[j], im[i]
		}
	}
	for size := 2; size <= window; size *= 2 {
		half, turn := size/2, window/size
		for from := 0; from < window; from += size {
			for k := range half {
				c, s := cosines[k*turn], sines[k*turn]
				a, b := from+k, from+k+half
				r, i := re[b]*c-im[b]*s, re[b]*s+im[b]*c
				re[b], im[b] = re[a]-r, im[a]-i
				re[a], im[a] = re[a]+r, im[a]+i
			}
		}
	}
}
