// Package likeness tells whether two pictures look the same though their bytes differ: another size, another
// compression.
package likeness

import "math/bits"

// Width and Height are the size in pixels to which a picture is shrunk before it is hashed.
const Width, Height = 9, 8

// Hash is the difference hash of a picture: for each of eight rows, whether each pixel is darker than its right
// neighbour by more than noise. grey holds Height rows of Width levels. Source: N. Krawetz, "Kind of like that" (2013), from memory; the
// noise that compression leaves on plain ground is left out of account (common practice, no source).
func Hash(grey [Width * Height]uint8) uint64 {
	var h uint64
	for y := range Height {
		for x := range Width - 1 {
			h <<= 1
			if int(grey[y*Width+x])+noise < int(grey[y*Width+x+1]) {
				h |= 1
			}
		}
	}
	return h
}

const noise = 2

// Of is the likeness of a picture of so many levels of grey, row by row.
func Of(grey []uint8, width int) uint64 {
	return Hash([Width * Height]uint8(shrink(grey, width, len(grey)/width, Width, Height)))
}

// Side is the side in pixels of the small rendering by which likeness is verified.
const Side = 16

// Small is a picture of so many levels of grey shrunk to Side × Side, whatever its shape.
func Small(grey []uint8, width int) []uint8 { return shrink(grey, width, len(grey)/width, Side, Side) }

// Verified reports whether two small renderings show one picture: no place of theirs differs by more than compression and scaling make it
// differ. Common practice, no source.
func Verified(a, b []uint8) bool {
	const most = 12
	if len(a) != Side*Side || len(b) != Side*Side {
		return false
	}
	for i := range a {
		if d := int(a[i]) - int(b[i]); d > most || d < -most {
			return false
		}
	}
	return true
}

// shrink returns the mean level of each cell of a grid of so many columns and rows.
func shrink(grey []uint8, width, height, columns, rows int) []uint8 {
	out := make([]uint8, columns*rows)
	for y := range rows {
		for x := range columns {
			x0, x1 := x*width/columns, max((x+1)*width/columns, x*width/columns+1)
			y0, y1 := y*height/rows, max((y+1)*height/rows, y*height/rows+1)
			sum, n := 0, 0
			for v := y0; v < min(y1, height); v++ {
				for u := x0; u < min(x1, width); u++ {
					sum += int(grey[v*width+u])
					n++
				}
			}
			if n > 0 {
				out[y*columns+x] = uint8(sum / n)
			}
		}
	}
	return out
}

// Same is the number of differing bits up to which two pictures of the same colours are taken for the same. Common
// practice, no source.
const Same = 4

// Distance is in how many bits two hashes differ.
func Distance(a, b uint64) int { return bits.OnesCount64(a ^ b) }
