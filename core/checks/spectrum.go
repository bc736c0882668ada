package checks

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Grey is a picture as levels of grey, row by row.
type Grey struct {
	Width, Height int
	Levels        []uint8
}

// along tells how a picture's rows (or columns) lie in its levels: how long and how many they are, and how far it is from one place to the next
// and from one line to the next.
func (g Grey) along(columns bool) (length, lines, step, line int) {
	if columns {
		return g.Height, g.Width, g.Width, 1
	}
	return g.Width, g.Height, 1, g.Width
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
	length, lines, step, line := g.along(columns)
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
	var levels [window]float64
	var found [window/2 + 1]complex128
	transform := fourier.NewFFT(window)
	for _, p := range places {
		mean := 0.0
		for i := range window {
			levels[i] = float64(g.Levels[p.at+i*p.step])
			mean += levels[i]
		}
		mean /= window
		power := 0.0
		for i := range window {
			levels[i] = (levels[i] - mean) * hann[i]
			power += levels[i] * levels[i]
		}
		if power == 0 {
			continue
		}
		transform.Coefficients(found[:], levels[:])
		for k := 1; k < window/2; k++ {
			s[k] += (real(found[k])*real(found[k]) + imag(found[k])*imag(found[k])) / power
		}
	}
	for k := range s {
		s[k] /= float64(max(1, len(places)))
	}
	return s
}

var hann = func() (h [window]float64) {
	for i := range window {
		h[i] = .5 - .5*math.Cos(2*math.Pi*(float64(i)+.5)/window)
	}
	return h
}()
