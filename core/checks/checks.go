// Package checks looks at one picture: whether it was made larger than it is, is padded, lies on its side, or has colours that browsers show
// otherwise. All are figures; what is too little or too much is for those who ask.
package checks

import "ambrosa/core/likeness"

// Version rises whenever a check says something else of the same picture.
const Version = 2

// Facts are what is seen of a picture. All sizes are in pixels, as it is seen after its EXIF orientation.
type Facts struct {
	Width       int     `json:"width"`
	Height      int     `json:"height"`
	TrueWidth   int     `json:"true_width"` // what it was made larger from; its width where it was not
	TrueHeight  int     `json:"true_height"`
	Padding     Sides   `json:"padding"`
	Sideways    int     `json:"sideways"` // degrees clockwise by which it must be turned where nobody heeds EXIF
	Profile     *string `json:"profile"`  // what its ICC profile calls itself; nil where it has none
	Model       string  `json:"model"`    // of its colours
	Transparent bool    `json:"transparent"`
	Ground      Ground  `json:"ground"`
	Likeness    uint64  `json:"likeness"` // see package likeness
	Small       []uint8 `json:"small"`    // see likeness.Small
}

// Models of colours.
const (
	RGB   = "rgb"
	Greys = "grey"
	CMYK  = "cmyk"
)

// IsEnlarged reports whether a picture was made larger than it is.
func (f Facts) IsEnlarged() bool { return f.TrueWidth < f.Width }

// PaddedShare is the widest border as a share of the side that it takes from, 0 to 1.
func (f Facts) PaddedShare() float64 {
	if f.Width == 0 || f.Height == 0 {
		return 0
	}
	across, down := float64(max(f.Padding.Left, f.Padding.Right))/float64(f.Width), float64(max(f.Padding.Top, f.Padding.Bottom))/float64(f.Height)
	return max(across, down)
}

// Look looks at a picture's pixels. Cost: some 20 ns a pixel.
func Look(c Colours) Facts {
	f := Facts{Width: c.Width, Height: c.Height, Padding: Padding(c), Ground: GroundOf(c)}
	grey := c.Grey()
	f.Likeness, f.Small = likeness.Of(grey.Levels, grey.Width), likeness.Small(grey.Levels, grey.Width)
	inner := grey.inside(f.Padding)
	width, height := Enlarged(inner)
	f.TrueWidth, f.TrueHeight = c.Width, c.Height
	if width < inner.Width {
		f.TrueWidth = max(1, c.Width*width/inner.Width)
		f.TrueHeight = max(1, c.Height*height/inner.Height)
	}
	return f
}

// Turns is by how many degrees clockwise a picture of an EXIF orientation must be turned. Source: CIPA DC-008, 4.6.5.1.6, from memory.
func Turns(orientation int) int {
	switch orientation {
	case 3, 4:
		return 180
	case 6, 7:
		return 90
	case 5, 8:
		return 270
	}
	return 0
}

// inside is what lies within a border, without the pixels beside it that compression touched.
func (g Grey) inside(s Sides) Grey {
	if s == (Sides{}) {
		return g
	}
	off := func(side int) int {
		if side == 0 {
			return 0
		}
		return side + block
	}
	x0, y0, x1, y1 := off(s.Left), off(s.Top), g.Width-off(s.Right), g.Height-off(s.Bottom)
	if x1-x0 < window || y1-y0 < window {
		return g
	}
	in := Grey{Width: x1 - x0, Height: y1 - y0, Levels: make([]uint8, 0, (x1-x0)*(y1-y0))}
	for y := y0; y < y1; y++ {
		in.Levels = append(in.Levels, g.Levels[y*g.Width+x0:y*g.Width+x1]...)
	}
	return in
}
