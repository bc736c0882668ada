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
func Of(grey []uint8, width int) uint64 { return Hash(shrink(grey, width, len(grey)/width)) }

// shrink returns the mean level of each cell of the grid that a likeness is taken of.
func shrink(grey []uint8, width, height int) (out [Width * Height]uint8) {
	for y := range Height {
		for x := range Width {
			x0, x1 := x*width/Width, max((x+1)*width/Width, x*width/Width+1)
			y0, y1 := y*height/Height, max((y+1)*height/Height, y*height/Height+1)
			sum, n := 0, 0
			for v := y0; v < min(y1, height); v++ {
				for u := x0; u < min(x1, width); u++ {
					sum += int(grey[v*width+u])
					n++
				}
			}
			if n > 0 {
				out[y*Width+x] = uint8(sum / n)
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
