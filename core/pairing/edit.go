package pairing

import (
	"strings"

	"ambrosa/core/message"
)

// longestSlip is how long a stretch may be between the first and the last difference of two texts that one or two slips
// of the finger set apart.
const longestSlip = 24

// distance is the Damerau-Levenshtein distance: insertions, deletions, substitutions and swaps of neighbours, each
// counting one; most + 1 where it is more than most. Source: R. Lowrance and R. A. Wagner, "An extension of the
// string-to-string correction problem", JACM 22 (1975), section 2, here for costs of one. Cost: the product of the
// lengths of what differs between the first and the last difference.
func distance(a, b string, most int) int {
	for len(a) > 0 && len(b) > 0 && a[0] == b[0] {
		a, b = a[1:], b[1:]
	}
	for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	switch {
	case len(a)-len(b) > most || len(b)-len(a) > most:
		return most + 1
	case len(a) == 0 || len(b) == 0:
		return len(a) + len(b)
	case len(a) > longestSlip || len(b) > longestSlip:
		return most + 1 // such long stretches are not slips of the finger
	case len(a) == len(b):
		// The first and the last differ. Where nothing between does, they are two edits, or one swap.
		if len(a) == 1 || len(a) == 2 && a[0] == b[1] && a[1] == b[0] {
			return min(1, most+1)
		}
		if a[1:len(a)-1] == b[1:len(b)-1] {
			return min(2, most+1)
		}
	}
	// d[i+1][j+1] is the distance of a[:i] and b[:j]; row and column 0 stand for "no such letter before".
	var d [longestSlip + 2][longestSlip + 2]uint8
	var lastRow [256]uint8 // where in a a letter was last seen
	far := uint8(len(a) + len(b))
	for i := range uint8(len(a) + 1) {
		d[i+1][0], d[i+1][1] = far, i
	}
	for j := range uint8(len(b) + 1) {
		d[0][j+1], d[1][j+1] = far, j
	}
	d[0][0] = far
	for i := uint8(1); int(i) <= len(a); i++ {
		lastColumn := uint8(0)
		for j := uint8(1); int(j) <= len(b); j++ {
			row, column := lastRow[b[j-1]], lastColumn
			cost := uint8(1)
			if a[i-1] == b[j-1] {
				cost, lastColumn = 0, j
			}
			d[i+1][j+1] = min(d[i][j]+cost, d[i+1][j]+1, d[i][j+1]+1, d[row][column]+(i-row-1)+1+(j-column-1))
		}
		lastRow[a[i-1]] = i
	}
	return min(int(d[len(a)+1][len(b)+1]), most+1)
}

// difference says in a few words what differs between a name and a key.
func difference(name, key string) message.Message {
	from := 0
	for from < len(name) && from < len(key) && name[from] == key[from] {
		from++
	}
	end := 0
	for end < len(name)-from && end < len(key)-from && name[len(name)-1-end] == key[len(key)-1-end] {
		end++
	}
	has, wants := strings.ToUpper(strings.ToValidUTF8(name[from:len(name)-end], "")),
		strings.ToUpper(strings.ToValidUTF8(key[from:len(key)-end], ""))
	switch {
	case has == "":
		return message.New("differs_missing", "wants", wants)
	case wants == "":
		return message.New("differs_extra", "has", has)
	case len(has) == 2 && len(wants) == 2 && has[0] == wants[1] && has[1] == wants[0]:
		return message.New("differs_swapped", "has", has, "wants", wants)
	}
	return message.New("differs_instead", "has", has, "wants", wants)
}

// OneSlip reports whether two texts differ by one slip of the finger: a letter too much, too few or wrong, or two swapped.
func OneSlip(a, b string) bool { return distance(a, b, 1) == 1 }
