package gallery

// marks say which runs of three bytes a text may have: a bit each, several runs to a bit. A text that lacks one of a word's does not hold the
// word; most texts are told apart so, without being read. Source: B. H. Bloom, "Space/time trade-offs in hash coding with allowable errors"
// (1970), from memory, with one bit a run.
type marks [4]uint64

func marksOf(text string) (m marks) {
	for i := 0; i+3 <= len(text); i++ {
		run := uint32(text[i]) | uint32(text[i+1])<<8 | uint32(text[i+2])<<16
		bit := run * 0x9e3779b1 >> 24 // the golden ratio's share of 2^32: neighbours fall far apart
		m[bit>>6] |= 1 << (bit & 63)
	}
	return m
}

// hold reports whether all of some marks are here.
func (m marks) hold(some marks) bool {
	return m[0]&some[0] == some[0] && m[1]&some[1] == some[1] && m[2]&some[2] == some[2] && m[3]&some[3] == some[3]
}
