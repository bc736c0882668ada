package pairing

import (
	"bytes"
	"cmp"
	"strings"
)

// table finds the first of the keys that share a hash, with open addressing: each slot is the upper half of a hash, and the
// place of the key plus one.
type table []uint64

func (t *table) makeRoom(entries int) { *t = make(table, powerOfTwo(2*entries)) }

// slot is where the keys of a hash stand, or would; hashOf returns the hash of a key.
func (t table) slot(hash uint64, hashOf func(key int32) uint64) *uint64 {
	mask := uint64(len(t) - 1)
	for pos := hash & mask; ; pos = (pos + 1) & mask {
		if slot := t[pos]; slot == 0 || slot^hash < 1<<32 && hashOf(int32(uint32(slot))-1) == hash {
			return &t[pos]
		}
	}
}

// first returns the first key of a canonical text's hash plus one, 0 where there is none.
func (ix *Index) first(hash uint64) int32 {
	t := ix.written
	mask := uint64(len(t) - 1)
	for pos := hash & mask; ; pos = (pos + 1) & mask {
		slot := t[pos]
		if slot == 0 {
			return 0
		}
		if head := int32(uint32(slot)); slot^hash < 1<<32 && ix.keys[head-1].hash == hash {
			return head
		}
	}
}

// firstJoined returns the first key that parts digits, of a text's hash less its hyphens, plus one; 0 where there is none.
func (ix *Index) firstJoined(hash uint64) int32 {
	return int32(uint32(*ix.joined.slot(hash, func(k int32) uint64 { return ix.joinedHash(&ix.keys[k]) })))
}

// before compares two keys, whatever order they were given in: by field, spelling, text and owner.
func (ix *Index) before(a, b int32) int {
	x, y := &ix.keys[a], &ix.keys[b]
	if c := cmp.Or(cmp.Compare(x.field, y.field), cmp.Compare(x.spelling, y.spelling)); c != 0 {
		return c
	}
	if c := bytes.Compare(ix.canonical(x), ix.canonical(y)); c != 0 {
		return c
	}
	if c := ix.compareOwners(x.owner, y.owner); c != 0 {
		return c
	}
	return strings.Compare(ix.text(a), ix.text(b))
}

func (ix *Index) compareOwners(a, b int32) int {
	if a == b {
		return 0
	}
	return ix.compare(&ix.owners[a], &ix.owners[b])
}

// insert files a key by its text, in its place among those that share it. Of those that many owners share, the first few of
// each field are enough to say that it is contested.
func (ix *Index) insert(i int32) {
	key := &ix.keys[i]
	slot := ix.written.slot(key.hash, func(k int32) uint64 { return ix.keys[k].hash })
	if *slot == 0 {
		*slot = key.hash&^0xffffffff | uint64(i+1)
		return
	}
	// The chain is in order, so that what is left out is the last of its field.
	var before, first, lastBefore int32 = 0, 0, 0 // places plus one: before i's place, first of its field, before the last of it
	same := 0
	placed := false
	head := int32(uint32(*slot))
	for prev, k := int32(0), head; k != 0; prev, k = k, ix.keys[k-1].next {
		if !placed && ix.before(i, k-1) < 0 {
			before, placed = prev, true
		}
		if ix.keys[k-1].field == key.field {
			if same++; first == 0 {
				first = k
			}
			lastBefore = prev
		}
		if !placed && ix.keys[k-1].next == 0 {
			before, placed = k, true
			break
		}
	}
	more := int32(0)
	if first != 0 {
		more = ix.more[first-1]
	}
	if same == maxSame {
		more++
		last := first
		if lastBefore != 0 && ix.keys[lastBefore-1].field == key.field {
			last = ix.keys[lastBefore-1].next
		}
		if ix.before(i, last-1) > 0 {
			ix.more[first-1] = more
			return
		}
		if before == last {
			before = lastBefore
		}
		ix.link(slot, lastBefore, ix.keys[last-1].next)
	}
	if more > 0 {
		delete(ix.more, first-1)
	}
	if before == 0 {
		key.next = int32(uint32(*slot))
	} else {
		key.next = ix.keys[before-1].next
	}
	ix.link(slot, before, i+1)
	for k := int32(uint32(*slot)); k != 0 && more > 0; k = ix.keys[k-1].next {
		if ix.keys[k-1].field == key.field {
			ix.more[k-1] = more
			break
		}
	}
}

// link makes one key the next of another, or the first of a slot where that is 0.
func (ix *Index) link(slot *uint64, before, next int32) {
	if before == 0 {
		*slot = ix.keys[max(next, 1)-1].hash&^0xffffffff | uint64(next)
		return
	}
	ix.keys[before-1].next = next
}

// insertJoined files the keys that part digits also by their text less its hyphens, the first few of each such text.
func (ix *Index) insertJoined() {
	hashes := func(k int32) uint64 { return ix.joinedHash(&ix.keys[k]) }
	for i := range ix.keys {
		key := &ix.keys[i]
		if bytes.IndexByte(ix.canonical(key), '-') < 0 {
			continue
		}
		hash := ix.joinedHash(key)
		slot := ix.joined.slot(hash, hashes)
		count, before := 0, int32(0)
		for k := int32(uint32(*slot)); k != 0 && ix.before(int32(i), k-1) > 0; k = ix.nextJoined[k-1] {
			before = k
			count++
		}
		if count >= maxSame {
			continue
		}
		if before == 0 {
			ix.nextJoined[i] = int32(uint32(*slot))
			*slot = hash&^0xffffffff | uint64(i+1)
		} else {
			ix.nextJoined[i] = ix.nextJoined[before-1]
			ix.nextJoined[before-1] = int32(i + 1)
		}
		for k := int32(i + 1); k != 0; k = ix.nextJoined[k-1] {
			if count++; count == maxSame {
				ix.nextJoined[k-1] = 0
			}
		}
	}
}

// joinedHash is that of a canonical text less its hyphens.
func (ix *Index) joinedHash(k *indexed) uint64 {
	h := uint64(0)
	for _, c := range ix.canonical(k) {
		if c != '-' {
			h = h*base + uint64(c) + 1
		}
	}
	return mix(h)
}

// filter says of what a text looks like whether any key looks so: the kinds of its characters, by their hash.
type filter [64]uint64

func (f *filter) put(shape uint64) { f[shape>>58] |= 1 << (shape >> 52 & 63) }

func (f *filter) has(shape uint64) bool { return f[shape>>58]>>(shape>>52&63)&1 != 0 }

func newFilter(parts []Index) (all filter) {
	for i := range parts {
		for j, word := range parts[i].shapes {
			all[j] |= word
		}
	}
	return all
}
