package pairing

import (
	"math/bits"
	"runtime"
	"sync"
)

// shelf finds units by hashes of what is looked for: a part for each core that fills it, by the hash's top bits, with
// open addressing. Each slot holds half a hash and the unit's place plus one.
type shelf struct {
	parts []shelfPart
}

type shelfPart struct {
	slots []uint64
	bits  []uint64 // a first look, small enough to stay near, which most questions do not pass
}

// maxShared is how many units one hash leads to, beyond which it says nothing.
const maxShared = 64

// newShelf fills a shelf with what hashes gives of each unit, on all cores: at most so many entries.
func newShelf(units []*unit, entries int, hashes func(r *rolled, u *unit, put func(hash uint64))) *shelf {
	sh := &shelf{make([]shelfPart, 1<<(bits.Len(uint(min(runtime.GOMAXPROCS(0), 64)))-1))} // a power of two
	entries += entries/8 + 1024                                                            // the hashes don't fall evenly
	var wg sync.WaitGroup
	for w := range sh.parts {
		wg.Go(func() {
			part := &sh.parts[w]
			part.slots = make([]uint64, powerOfTwo(3*entries/2/len(sh.parts)))
			part.bits = make([]uint64, powerOfTwo(8*entries/len(sh.parts))/64)
			var r rolled
			at := uint64(0)
			put := func(h uint64) {
				if sh.part(h) == part {
					part.put(h, at)
				}
			}
			for i, u := range units {
				at = uint64(i + 1)
				hashes(&r, u, put)
			}
		})
	}
	wg.Wait()
	return sh
}

func powerOfTwo(least int) int {
	n := 1024
	for n < least {
		n *= 2
	}
	return n
}

func (sh *shelf) part(hash uint64) *shelfPart { return &sh.parts[hash>>40&uint64(len(sh.parts)-1)] }

func (p *shelfPart) put(hash, unit uint64) {
	bit := hash >> 16 & uint64(len(p.bits)*64-1)
	p.bits[bit/64] |= 1 << (bit % 64)
	mask := uint64(len(p.slots) - 1)
	shared := 0
	for pos := hash & mask; ; pos = (pos + 1) & mask {
		slot := p.slots[pos]
		if slot == 0 {
			p.slots[pos] = hash&^0xffffffff | unit
			return
		}
		if slot^hash < 1<<32 {
			if shared++; shared == maxShared || slot&0xffffffff == unit {
				return
			}
		}
	}
}

// find calls yield with the place of each unit that the hash may lead to.
func (sh *shelf) find(hash uint64, yield func(unit int32)) {
	p := sh.part(hash)
	if bit := hash >> 16 & uint64(len(p.bits)*64-1); p.bits[bit/64]&(1<<(bit%64)) == 0 {
		return
	}
	mask := uint64(len(p.slots) - 1)
	for pos := hash & mask; ; pos = (pos + 1) & mask {
		slot := p.slots[pos]
		if slot == 0 {
			return
		}
		if slot^hash < 1<<32 {
			yield(int32(uint32(slot)) - 1)
		}
	}
}

// Salts keep apart what is looked for in one shelf.
const (
	saltPart  = 0x51ed270b7a3c9d1f
	saltZeros = 0x2545f4914f6cdd1d
	saltLeft  = 0x9fb21c651e98df25
	saltRight = 0xd6e8feb86659fd93
)

// halves is a first look for two slips: of two texts two edits apart, one half is the same or each is one edit apart, so
// that the many deletions of two letters need be tried only there. It is a Bloom filter (B. H. Bloom, CACM 13, 1970).
type halves struct {
	bits []uint64
}

func newHalves(units []*unit) *halves {
	entries := 0
	for _, u := range units {
		entries += 6 * len(u.text)
	}
	hv := &halves{make([]uint64, powerOfTwo(10*entries)/64)}
	var r rolled
	for _, u := range units {
		r.setText(u.text)
		n := len(r.text)
		// The key may be up to two longer or shorter, and its half one longer or shorter again.
		for p := (n-2)/2 - 1; p <= (n+2)/2+2; p++ {
			if p >= 1 && p <= n {
				hv.put(mix(r.part(0, p)) ^ saltLeft)
				r.deletions(0, p, false, hv.put)
			}
		}
		for q := n - ((n + 2) - (n+2)/2 + 1); q <= n-((n-2)-(n-2)/2-2); q++ {
			if q >= 0 && q < n {
				hv.put(mix(r.part(q, n)) ^ saltRight)
				r.deletions(q, n, false, func(h uint64) { hv.put(^h) })
			}
		}
	}
	return hv
}

func (hv *halves) put(h uint64) {
	a, b := hv.places(h)
	hv.bits[a/64] |= 1 << (a % 64)
	hv.bits[b/64] |= 1 << (b % 64)
}

func (hv *halves) places(h uint64) (a, b uint64) {
	mask := uint64(len(hv.bits)*64 - 1)
	return h & mask, h >> 28 & mask
}

func (hv *halves) has(h uint64) bool {
	a, b := hv.places(h)
	return hv.bits[a/64]&(1<<(a%64)) != 0 && hv.bits[b/64]&(1<<(b%64)) != 0
}

// may reports whether the halves of the text agree with those of the units so far that two edits could remain: one half
// as it is, or each but for one edit. It is parted in two places, as a swap across the one is none across the other.
func (hv *halves) may(r *rolled) bool {
	n := len(r.text)
	return hv.agree(r, n/2) || n > 3 && hv.agree(r, n/2+1)
}

func (hv *halves) agree(r *rolled, at int) bool {
	n := len(r.text)
	if hv.has(mix(r.part(0, at))^saltLeft) || hv.has(mix(r.part(at, n))^saltRight) {
		return true
	}
	found := false
	r.deletions(0, at, false, func(h uint64) { found = found || hv.has(h) })
	if !found {
		return false
	}
	found = false
	r.deletions(at, n, false, func(h uint64) { found = found || hv.has(^h) })
	return found
}
