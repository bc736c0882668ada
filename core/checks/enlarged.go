package checks

import "math"

// Enlarged tells how many pixels a picture truly has: those from which it was made larger, or its own where nothing speaks for that. Two
// things speak: its spectrum ends well below what its pixels promise, and how sharp it is comes and goes with the distance of the pixels
// that it was made from. The second is after A. C. Gallagher, "Detection of linear and cubic interpolation in JPEG compressed images"
// (2005), from memory; the thresholds are fitted to made pictures (common practice, no source).
func Enlarged(g Grey) (trueWidth, trueHeight int) {
	across, down := g.way(false), g.way(true)
	scale := scaled(across, down)
	return int(math.Round(float64(g.Width) / scale)), int(math.Round(float64(g.Height) / scale))
}

// way is what the rows of a picture say, or its columns.
type way struct {
	known   bool    // whether there are edges enough to say anything
	drop    float64 // by how many decibels the spectrum falls from its height to its end, and
	cliff   float64 // by how many within eight of its steps; both against what falls by itself with the frequency
	end     float64 // where it ends, in periods a pixel
	halfway float64
	peaks   []peak
}

func (g Grey) way(columns bool) way {
	places := g.places(columns)
	w := way{known: len(places) >= leastWindows}
	if !w.known {
		return w
	}
	s := g.spectrum(places)
	var level, smooth [window / 2]float64
	for k := 2; k < len(s); k++ {
		level[k] = 10 * math.Log10(s[k]*float64(k*k)+1e-12)
	}
	height := math.Inf(-1)
	for k := 3; k < len(s)-1; k++ {
		smooth[k] = (level[k-1] + level[k] + level[k+1]) / 3
		if k >= 4 && k < 29 {
			height = max(height, smooth[k])
		}
	}
	w.drop = height - (smooth[28]+smooth[29]+smooth[30])/3
	for k := 4; k+8 < len(s)-1; k++ {
		if fall := smooth[k] - smooth[k+8]; fall > w.cliff {
			w.cliff, w.end = fall, float64(k+4)/window
		}
	}
	w.halfway = mean(smooth[14:18]) - mean(smooth[4:8])
	w.peaks = g.periods(columns)
	return w
}

const (
	leastScale    = 1.3  // what was made larger by less can not be told
	falls         = 16.5 // drop and cliff together, from which the spectrum alone says that a picture was made larger
	fallsALittle  = 5.   // from which it does together with a period
	leastByPeriod = 1.45
	fallsHalfway  = -5. // decibels
	clearly       = 6.  // by how much a period stands out of what is around it
	faintly       = 4.
)

// scaled is by how much a picture was made larger; 1 where it was not, or nobody can tell.
func scaled(across, down way) float64 {
	falling, end, half := 0., 0., 0.
	switch {
	case across.known && down.known:
		falling, end, half = (across.falling()+down.falling())/2, math.Sqrt(across.end*down.end), (across.halfway+down.halfway)/2
	case across.known:
		falling, end, half = across.falling(), across.end, across.halfway
	case down.known:
		falling, end, half = down.falling(), down.end, down.halfway
	default:
		return 1
	}
	byEnd := max(leastScale, .5/end)
	best, stands := 0., 0.
	for _, p := range shared(across.peaks, down.peaks) {
		scale := 1 / (1 - p.at) // both have this period
		if half < fallsHalfway {
			scale = 1 / p.at
		}
		if near := scale / byEnd; p.height > stands && near > .5 && near < 2 && (falling >= falls || scale > leastByPeriod) {
			best, stands = scale, p.height
		}
	}
	switch {
	case falling >= falls && best > 0:
		return best
	case falling >= falls:
		return byEnd
	case falling >= fallsALittle && stands >= clearly:
		return best
	}
	return 1
}

func mean(v []float64) float64 {
	sum := 0.
	for _, x := range v {
		sum += x
	}
	return sum / float64(len(v))
}

func (w way) falling() float64 { return w.drop + w.cliff }
