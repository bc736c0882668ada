package checks

import "slices"

// Ground is what a picture stands before: the middle colour along its rim, and the share of the rim that has it, 0 to 1.
type Ground struct {
	Colour [3]uint8 `json:"colour"`
	Share  float64  `json:"share"`
}

// IsWhite reports whether a picture stands before white. Common practice, no source.
func (g Ground) IsWhite() bool {
	return g.Share >= .6 && min(g.Colour[0], g.Colour[1], g.Colour[2]) >= 248
}

// GroundOf looks along a picture's rim, a hundredth of its sides wide.
func GroundOf(c Colours) Ground {
	wide := max(1, min(c.Width, c.Height)/100)
	var rim [][3]uint8
	step := max(1, c.Width/400)
	for x := 0; x < c.Width; x += step {
		for n := range wide {
			rim = append(rim, c.at(x, n), c.at(x, c.Height-1-n))
		}
	}
	step = max(1, c.Height/400)
	for y := wide; y < c.Height-wide; y += step {
		for n := range wide {
			rim = append(rim, c.at(n, y), c.at(c.Width-1-n, y))
		}
	}
	var g Ground
	levels := make([]uint8, len(rim))
	for part := range g.Colour {
		for i, p := range rim {
			levels[i] = p[part]
		}
		slices.Sort(levels)
		g.Colour[part] = levels[len(levels)/2]
	}
	alike := 0
	for _, p := range rim {
		if !unlike(p, g.Colour, noise) {
			alike++
		}
	}
	g.Share = float64(alike) / float64(max(1, len(rim)))
	return g
}
