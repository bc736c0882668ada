package pairing

import "bytes"

// kin is what the keys of a catalogue have in common: how they go on, and in which words they differ. A name that goes on in
// the same way behind a key, or differs in such a word, means a key that the catalogue lacks, not that one.
type kin struct {
	goesOn map[uint64]struct{} // the beginning of a key, and the shape of the token that follows it
	shapes map[uint64]int32    // what several first tokens of a key look like: how many do
	ends   map[uint64]int32    // the last word of a key: how many keys have it
	starts map[uint64]int32    // the first
	enough int32               // how many make it a style
}

// fewest are so many keys alike, or one of a hundred: fewer are no style.
const fewest = 3

func (ix *Index) findKin() *kin {
	k := &kin{make(map[uint64]struct{}, len(ix.keys)), map[uint64]int32{}, map[uint64]int32{}, map[uint64]int32{}, fewest}
	k.enough = max(fewest, int32(len(ix.keys)/100))
	var r rolled
	var pieces []piece
	for i := range ix.keys {
		key := &ix.keys[i]
		if key.tokens < 2 || ix.fields[key.field] == Title {
			continue
		}
		canonical := ix.canonical(key)
		pieces = ix.pieces(key, pieces[:0])
		if len(pieces) == 0 {
			continue
		}
		r.text = append(r.text[:0], canonical...)
		r.roll()
		shape := uint64(0)
		for j, p := range pieces {
			if j > 0 {
				k.goesOn[extension(mix(r.part(0, pieces[j-1].end)), p.end-p.start, p.digits)] = struct{}{}
			}
			if shape = addShape(shape, p.end-p.start, p.digits); j > 0 {
				k.shapes[shape]++
			}
		}
		first, last := pieces[0], pieces[len(pieces)-1]
		k.ends[hashWord(canonical[last.start:last.end])]++
		k.starts[hashWord(canonical[first.start:first.end])]++
	}
	return k
}

// extension is the hash of a key's beginning and the shape of the token that follows: so many digits, or letters.
func extension(beginning uint64, length int, digits bool) uint64 {
	return addShape(beginning, length, digits)
}

func addShape(shape uint64, length int, digits bool) uint64 {
	of := uint64(length) << 1
	if digits {
		of |= 1
	}
	return mix(shape*base + of + 1)
}

func hashWord[T string | []byte](word T) uint64 {
	h := uint64(0)
	for i := range len(word) {
		h = h*base + uint64(word[i]) + 1
	}
	return mix(h)
}

// endsIn reports whether a word is the last token of a key.
func (ix *Index) endsIn(k *indexed, word string) bool {
	lengths := ix.lengths(k)
	return int(lengths[len(lengths)-1]) == len(word) && bytes.HasSuffix(ix.canonical(k), []byte(word))
}
