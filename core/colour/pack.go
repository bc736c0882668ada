package colour

import "math"

// Pack writes a palette in four bytes a swatch: L as 0 to 255, a and b plus 128, the share as 0 to 255.
func Pack(palette []Swatch) []byte {
	b := make([]byte, 0, 4*len(palette))
	for _, s := range palette {
		b = append(b, level(s.Lab.L*2.55), level(s.Lab.A+128), level(s.Lab.B+128), level(s.Share*255))
	}
	return b
}

// Unpack reads what Pack wrote; what is left over of it is dropped.
func Unpack(b []byte) []Swatch {
	palette := make([]Swatch, 0, len(b)/4)
	for ; len(b) >= 4; b = b[4:] {
		palette = append(palette, Swatch{Lab{float64(b[0]) / 2.55, float64(b[1]) - 128, float64(b[2]) - 128}, float64(b[3]) / 255})
	}
	return palette
}

func level(v float64) byte { return byte(max(0, min(255, math.Round(v)))) }
