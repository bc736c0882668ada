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

// deletions appends the hash of the text and of the text less each one byte: two texts one slip apart share one of them
// (symmetric deletion, W. Garbe, 2012, from memory). Cost: linear in the length.
func (r *rolled) deletions(into []uint64) []uint64 {
	n := len(r.text)
	into = append(into, mix(r.part(0, n)))
	for x := range n {
		if x > 0 && r.text[x] == r.text[x-1] {
			continue // the same text again
		}
		into = append(into, mix(r.join(r.part(0, x), r.part(x+1, n), n-x-1)))
	}
	return into
}

// mix spreads a hash over all its bits (the finaliser of MurmurHash3, A. Appleby, public domain).
func mix(h uint64) uint64 {
	h ^= h >> 33
	h *= 0xff51afd7ed558ccd
	h ^= h >> 33
	h *= 0xc4ceb9fe1a85ec53
	return h ^ h>>33
}
