package checks

import "ambrosa/core/colour"

// Colours is a picture as levels of red, green and blue, row by row.
type Colours struct {
	Width, Height int
	Levels        []uint8
}

func (c Colours) at(x, y int) [3]uint8 { return [3]uint8(c.Levels[3*(y*c.Width+x):]) }

// Grey is the luma of a picture.
func (c Colours) Grey() Grey {
	g := Grey{Width: c.Width, Height: c.Height, Levels: make([]uint8, c.Width*c.Height)}
	for i := range g.Levels {
		p := c.Levels[3*i : 3*i+3 : 3*i+3]
		g.Levels[i] = colour.RGB{R: p[0], G: p[1], B: p[2]}.Luma()
	}
	return g
}

// unlike reports whether two colours differ by more than so much in one of their parts.
func unlike(a, b [3]uint8, by int) bool {
	for i := range a {
		if abs(int(a[i])-int(b[i])) > by {
			return true
		}
	}
	return false
}
