package pairing

import "ambrosa/core/names"

// rolled is a text whose every part can be hashed in constant time: a polynomial over its bytes, modulo 2^64 (R. Karp
// and M. Rabin, "Efficient randomized pattern-matching algorithms", IBM J. Res. Dev. 31, 1987). What meets by hash is
// always compared by its bytes too.
type rolled struct {
	text   []byte
	prefix []uint64 // prefix[i] is the hash of text[:i]
	power  []uint64
}

const base = 0x9e3779b97f4a7c15 | 1

// set takes the tokens' text, without what separates them, and appends where each begins, and the end.
func (r *rolled) set(tokens []names.Token, at []int) []int {
	r.text = r.text[:0]
	for _, t := range tokens {
		at = append(at, len(r.text))
		r.text = append(r.text, t.Folded...)
	}
	r.roll()
	return append(at, len(r.text))
}

func (r *rolled) setText(text string) {
	r.text = append(r.text[:0], text...)
	r.roll()
}

func (r *rolled) roll() {
	r.prefix = append(r.prefix[:0], 0)
	h := uint64(0)
	for _, c := range r.text {
		h = h*base + uint64(c) + 1
		r.prefix = append(r.prefix, h)
	}
	if len(r.power) == 0 {
		r.power = append(r.power, 1)
	}
	for len(r.power) <= len(r.text) {
		r.power = append(r.power, r.power[len(r.power)-1]*base)
	}
}

// part hashes text[i:j].
func (r *rolled) part(i, j int) uint64 { return r.prefix[j] - r.prefix[i]*r.power[j-i] }

// join hashes a text of two parts, of which the second is n bytes long.
func (r *rolled) join(a, b uint64, n int) uint64 { return a*r.power[n] + b }

// deletions calls yield with the hash of text[i:j] and of that text less each one byte, and where twice is set less
// each two. Two texts one edit apart share one of the first, two texts two edits apart one of the second; the idea of
// symmetric deletion (W. Garbe, 2012, from memory). Cost: linear in the length, or its square where twice is set.
func (r *rolled) deletions(i, j int, twice bool, yield func(hash uint64)) {
	yield(mix(r.part(i, j)))
	for x := i; x < j; x++ {
		if x > i && r.text[x] == r.text[x-1] {
			continue // the same text again
		}
		head := r.part(i, x)
		yield(mix(r.join(head, r.part(x+1, j), j-x-1)))
		if !twice {
			continue
		}
		for y := x + 1; y < j; y++ {
			yield(mix(r.join(r.join(head, r.part(x+1, y), y-x-1), r.part(y+1, j), j-y-1)))
		}
	}
}

// mix spreads a hash over all its bits (the finaliser of MurmurHash3, A. Appleby, public domain).
func mix(h uint64) uint64 {
	h ^= h >> 33
	h *= 0xff51afd7ed558ccd
	h ^= h >> 33
	h *= 0xc4ceb9fe1a85ec53
	return h ^ h>>33
}
