package pairing

import (
	"math/bits"
	"sync"
)

// shelf finds units by hashes of what is looked for, with open addressing. A Bloom filter of two bits in one word (B. H.
// Bloom, CACM 13, 1970), small enough to stay near, keeps most questions from the slots.
type shelf struct {
	words     []uint64 // of the filter
	wordShift int      // leaves as many of a hash's top bits as there are words
	// parts hold the slots, one for each core that fills it, by the hash's top bits: each slot half a hash and the unit's
	// place plus one.
	parts     [][]uint64
	partShift int
}

// maxShared is how many units one hash leads to, beyond which it says nothing.
const maxShared = 256

// makeRoom empties a shelf for so many entries, in parts that as many cores can fill at once.
func (sh *shelf) makeRoom(entries, cores int) {
	parts := bits.Len(uint(min(cores, 64))) - 1 // as a power of two
	sh.words = emptied(sh.words, powerOfTwo(12*entries/64))
	sh.wordShift, sh.partShift = 65-bits.Len(uint(len(sh.words))), 64-parts
	if len(sh.parts) != 1<<parts {
		sh.parts = make([][]uint64, 1<<parts)
	}
	entries += entries/8 + 256 // the hashes don't fall evenly
	for i := range sh.parts {
		sh.parts[i] = emptied(sh.parts[i], powerOfTwo(3*entries/2>>parts))
	}
}

func emptied(s []uint64, size int) []uint64 {
	if cap(s) < size {
		return make([]uint64, size)
	}
	s = s[:size]
	clear(s)
	return s
}

func powerOfTwo(least int) int {
	n := 1024
	for n < least {
		n *= 2
	}
	return n
}

// fill puts in what hashes appends of each unit, on all cores.
func (sh *shelf) fill(units []*unit, hashes func(r *rolled, u *unit, into []uint64) []uint64) {
	var wg sync.WaitGroup
	for w := range sh.parts {
		wg.Go(func() {
			var r rolled
			var all []uint64
			for i, u := range units {
				all = hashes(&r, u, all[:0])
				for _, h := range all {
					if h>>sh.partShift == uint64(w) {
						sh.put(h, int32(i))
					}
				}
			}
		})
	}
	wg.Wait()
}

// look returns a hash's word in the filter and its bits there. The hash's top bits say which word, so that each part has
// its own.
func (sh *shelf) look(hash uint64) (word, bits uint64) {
	return hash >> sh.wordShift, 1<<(hash&63) | 1<<(hash>>6&63)
}

func (sh *shelf) put(hash uint64, unit int32) {
	word, bits := sh.look(hash)
	sh.words[word] |= bits
	slots := sh.parts[hash>>sh.partShift]
	mask := uint64(len(slots) - 1)
	shared := 0
	for pos := hash & mask; ; pos = (pos + 1) & mask {
		slot := slots[pos]
		if slot == 0 {
			slots[pos] = hash&^0xffffffff | uint64(unit+1)
			return
		}
		if slot^hash < 1<<32 {
			if shared++; shared == maxShared || int32(uint32(slot))-1 == unit {
				return
			}
		}
	}
}

// sift appends the places of the hashes that may lead to a unit. Asked for many at once, the memory answers many at once.
func (sh *shelf) sift(hashes []uint64, into []int32) []int32 {
	for len(into) < len(hashes) {
		into = append(into, 0)
	}
	n := 0
	for i, h := range hashes {
		word := sh.words[h>>sh.wordShift]
		into[n] = int32(i)
		n += int(word >> (h & 63) & (word >> (h >> 6 & 63)) & 1) // no branch to be guessed wrong
	}
	return into[:n]
}

// find calls yield with the place of each unit that a hash may lead to.
func (sh *shelf) find(hash uint64, yield func(unit int32)) {
	slots := sh.parts[hash>>sh.partShift]
	mask := uint64(len(slots) - 1)
	for pos := hash & mask; slots[pos] != 0; pos = (pos + 1) & mask {
		if slot := slots[pos]; slot^hash < 1<<32 {
			yield(int32(uint32(slot)) - 1)
		}
	}
}
