package colour

import (
	"cmp"
	"slices"
)

// Swatch is a colour of a picture and the share of it that has it, 0 to 1, of what is not background.
type Swatch struct {
	Lab   Lab
	Share float64
}

const (
	sameGround = 9.0 // CIEDE2000 below which a pixel belongs to the background
	sameSwatch = 12.0
	colourless = 14.0
	mostSwatch = 5
)

// Palette returns the colours that stand out in a picture, the largest first: its pixels less the background, which is
// what its border mostly shows, gathered greedily by nearness. pixels are rows of width. Cost: the pixels, and the square
// of the coarse colours met.
func Palette(pixels []RGB, width int) []Swatch {
	if width <= 0 || len(pixels) < width {
		return nil
	}
	height := len(pixels) / width
	border := map[RGB]int{}
	for i, p := range pixels[:width*height] {
		if x, y := i%width, i/width; x == 0 || y == 0 || x == width-1 || y == height-1 {
			border[coarse(p)]++
		}
	}
	ground, most := RGB{}, 0
	for c, n := range border {
		if n > most || n == most && less(c, ground) {
			ground, most = c, n
		}
	}
	// A background makes up much of the border and has next to no colour: a close-up is coloured to its border.
	hasGround := most*3 >= 2*(width+height)-4 && ground.Lab().Chroma() < colourless
	counts := map[RGB]int{}
	for _, p := range pixels[:width*height] {
		counts[coarse(p)]++
	}
	groundLab := ground.Lab()
	type bin struct {
		lab   Lab
		count int
		rgb   RGB
	}
	var bins []bin
	total := 0
	for c, n := range counts {
		lab := c.Lab()
		if hasGround && Difference(lab, groundLab) < sameGround {
			continue
		}
		bins = append(bins, bin{lab, n, c})
		total += n
	}
	slices.SortFunc(bins, func(a, b bin) int {
		if d := cmp.Compare(b.count, a.count); d != 0 {
			return d
		}
		if less(a.rgb, b.rgb) {
			return -1
		}
		return 1
	})
	var swatches []Swatch
	for _, b := range bins {
		at := slices.IndexFunc(swatches, func(s Swatch) bool { return Difference(s.Lab, b.lab) < sameSwatch })
		if at < 0 {
			if len(swatches) < 4*mostSwatch {
				swatches = append(swatches, Swatch{b.lab, float64(b.count)})
			}
			continue
		}
		s := &swatches[at]
		w := float64(b.count) / (s.Share + float64(b.count))
		s.Lab = Lab{s.Lab.L + w*(b.lab.L-s.Lab.L), s.Lab.A + w*(b.lab.A-s.Lab.A), s.Lab.B + w*(b.lab.B-s.Lab.B)}
		s.Share += float64(b.count)
	}
	slices.SortStableFunc(swatches, func(a, b Swatch) int { return cmp.Compare(b.Share, a.Share) })
	swatches = swatches[:min(len(swatches), mostSwatch)]
	for i := range swatches {
		swatches[i].Share /= float64(total)
	}
	return swatches
}

// coarse keeps five bits a channel, so that a photograph's thousands of tones are hundreds.
func coarse(c RGB) RGB { return RGB{c.R&0xf8 | 4, c.G&0xf8 | 4, c.B&0xf8 | 4} }

func less(a, b RGB) bool {
	return cmp.Or(cmp.Compare(a.R, b.R), cmp.Compare(a.G, b.G), cmp.Compare(a.B, b.B)) < 0
}
