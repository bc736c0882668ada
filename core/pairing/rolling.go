package pairing

import "ambrosa/core/names"

// rolled is a text whose every part can be hashed in constant time: a polynomial over its bytes, modulo 2^64 (R. Karp
// and M. Rabin, "Efficient randomized pattern-matching algorithms", IBM J. Res. Dev. 31, 1987). What meets by hash is
// always compared by its bytes too.
type rolled struct {
	text    []byte
	prefix  []uint64 // prefix[i] is the hash of text[:i]
	power   []uint64
	shapes  []uint64 // as prefix, of what kind each byte is
	parting bool     // digits are parted in it
}

const base = 0x9e3779b97f4a7c15 | 1

// span is where a token stands in a text.
type span struct{ start, end int }

// set takes the tokens' canonical text and appends where each stands in it.
func (r *rolled) set(tokens []names.Token, at []span) []span {
	r.text = r.text[:0]
	r.parting = false
	for i, t := range tokens {
		if i > 0 && t.Digits && tokens[i-1].Digits {
			r.text = append(r.text, '-')
			r.parting = true
		}
		start := len(r.text)
		r.text = append(r.text, t.Folded...)
		at = append(at, span{start, len(r.text)})
	}
	r.rollShapes()
	return at
}

// setFlat is set without what parts digits.
func (r *rolled) setFlat(tokens []names.Token, at []span) []span {
	r.text = r.text[:0]
	for _, t := range tokens {
		start := len(r.text)
		r.text = append(r.text, t.Folded...)
		at = append(at, span{start, len(r.text)})
	}
	r.rollShapes()
	return at
}

// rollShapes is roll, with what the text looks like.
func (r *rolled) rollShapes() {
	r.prefix, r.shapes = append(r.prefix[:0], 0), append(r.shapes[:0], 0)
	h, s := uint64(0), uint64(0)
	for _, c := range r.text {
		h = h*base + uint64(c) + 1
		s = s*base + kinds[c]
		r.prefix, r.shapes = append(r.prefix, h), append(r.shapes, s)
	}
	r.raise()
}

// kinds of bytes, as far as texts look alike or not: letters, digits, what parts digits.
var kinds = func() (of [256]uint64) {
	for c := range of {
		of[c] = 1
	}
	for c := '0'; c <= '9'; c++ {
		of[c] = 2
	}
	of['-'] = 3
	return of
}()

// shape is what text[i:j] looks like.
func (r *rolled) shape(i, j int) uint64 { return (r.shapes[j] - r.shapes[i]*r.power[j-i]) * spread }

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
	r.raise()
}

func (r *rolled) raise() {
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
