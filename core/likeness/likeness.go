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

// Same is the number of differing bits up to which two pictures of the same colours are taken for the same. Common
// practice, no source.
const Same = 4

// Distance is in how many bits two hashes differ.
func Distance(a, b uint64) int { return bits.OnesCount64(a ^ b) }
