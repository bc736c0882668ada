package pairing

import (
	"bytes"

	"ambrosa/core/cores"
	"ambrosa/core/names"
)

// kin is what the keys of a catalogue have in common: how they go on, and in which words they differ. A name that goes on in
// the same way behind a key, or differs in such a word, means a key that the catalogue lacks, not that one.
type kin struct {
	goesOn map[uint32]struct{} // a key that others begin with, and the shape of the token that follows it
	shapes map[uint64]int32    // what several first tokens of a key look like: how many do
	ends   map[uint32]int32    // the last word of a key: how many keys have it
	starts map[uint32]int32    // the first
	loose  map[uint64]int32    // as shapes, where short words are alike whatever their length: S and XL
	said   map[uint32]struct{} // words of what else is said of owners, such as colours
	enough int32               // how many make it a style
}

// fewest are so many keys alike, or one of a hundred: fewer are no style.
const fewest = 3

func newKin() kin {
	return kin{map[uint32]struct{}{}, map[uint64]int32{}, map[uint32]int32{}, map[uint32]int32{}, map[uint64]int32{}, map[uint32]struct{}{},
		fewest}
}

func (ix *Index) findKin() *kin {
	parts := make([]kin, cores.Count())
	cores.Share(len(ix.keys), func(w, from, to int) {
		parts[w] = newKin()
		var r rolled
		var pieces []piece
		for i := from; i < to; i++ {
			pieces = parts[w].take(ix, &ix.keys[i], &r, pieces[:0])
		}
	})
	cores.Share(len(ix.owners), func(w, from, to int) {
		for i := from; i < to; i++ {
			for _, text := range ix.owners[i].Also {
				for _, t := range names.Tokens(text, 0) {
					if !t.Digits {
						parts[w].said[hashWord(t.Folded)] = struct{}{}
					}
				}
			}
		}
	})
	all := newKin()
	all.enough = max(fewest, int32(len(ix.keys)/100))
	for _, part := range parts {
		for beginning := range part.goesOn {
			all.goesOn[beginning] = struct{}{}
		}
		for word := range part.said {
			all.said[word] = struct{}{}
		}
		addCounts(all.loose, part.loose)
		addCounts(all.shapes, part.shapes)
		addCounts(all.ends, part.ends)
		addCounts(all.starts, part.starts)
	}
	return &all
}

func addCounts[K comparable](to, from map[K]int32) {
	for what, n := range from {
		to[what] += n
	}
}

// take counts one key; pieces is room for its tokens.
func (k *kin) take(ix *Index, key *indexed, r *rolled, pieces []piece) []piece {
	if key.tokens < 2 || ix.fields[key.field] == Title {
		return pieces
	}
	if pieces = ix.pieces(key, pieces); len(pieces) == 0 {
		return pieces
	}
	canonical := ix.canonical(key)
	r.text = append(r.text[:0], canonical...)
	r.rollShapes()
	shape, loose := uint64(0), uint64(0)
	for j, p := range pieces {
		if j > 0 {
			if end := pieces[j-1].end; ix.shapes.has(r.shape(0, end)) {
				if beginning := mix(r.part(0, end)); ix.first(beginning) != 0 {
					k.goesOn[extension(beginning, p.end-p.start, p.digits)] = struct{}{}
				}
			}
		}
		if shape = addShape(shape, p.end-p.start, p.digits); j > 0 {
			k.shapes[shape]++
		}
		if loose = addLoose(loose, p.end-p.start, p.digits); j > 0 {
			k.loose[loose]++
		}
	}
	if last := pieces[len(pieces)-1]; !last.digits {
		k.ends[hashWord(canonical[last.start:last.end])]++
	}
	if first := pieces[0]; !first.digits {
		k.starts[hashWord(canonical[first.start:first.end])]++
	}
	return pieces
}

// extension is the hash of a key and the shape of the token that follows: so many digits, or letters.
func extension(beginning uint64, length int, digits bool) uint32 {
	return uint32(addShape(beginning, length, digits) >> 32)
}

func addShape(shape uint64, length int, digits bool) uint64 {
	of := uint64(length) << 1
	if digits {
		of |= 1
	}
	return mix(shape*base + of + 1)
}

// shortWord is how long words are that are alike whatever their length.
const shortWord = 4

func addLoose(shape uint64, length int, digits bool) uint64 {
	if !digits && length < shortWord {
		length = shortWord
	}
	return addShape(shape, length, digits)
}

// tellsApart reports whether a word is one that tells owners apart: other keys end in it, or it is said of some.
func (k *kin) tellsApart(word uint32) bool {
	_, said := k.said[word]
	return word != 0 && (said || k.ends[word] >= fewest)
}

func hashWord[T string | []byte](word T) uint32 {
	h := uint64(0)
	for i := range len(word) {
		h = h*base + uint64(word[i]) + 1
	}
	return uint32(mix(h)>>32) | 1 // never 0, which is for no word
}

// endsIn reports whether a word is the last token of a key.
func (ix *Index) endsIn(k *indexed, word string) bool {
	lengths := ix.lengths(k)
	return int(lengths[len(lengths)-1]) == len(word) && bytes.HasSuffix(ix.canonical(k), []byte(word))
}
