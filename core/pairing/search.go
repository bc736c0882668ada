package pairing

import (
	"bytes"

	"ambrosa/core/cores"
)

// search looks for the units among the keys, on all cores: for those that a key is but for leading zeros, and those that are
// a part of a key; and for one slip where texts are too long for searchSlips.
func (s *Study) search(units []*unit) {
	long := func(text int) bool { return text >= maxTwice }
	entries := 0
	for _, u := range units {
		if entries += 2; long(len(u.text)) {
			entries += len(u.text) + 1
		}
	}
	var sh shelf
	sh.makeRoom(entries, cores.Count())
	sh.fill(units, func(r *rolled, u *unit, into []uint64) []uint64 {
		if long(len(u.text)) && len(u.text) <= s.index.longestCode+2 {
			r.setText(u.text)
			into = r.deletions(into)
		}
		r.setText(u.canonical)
		into = append(into, mix(r.part(0, len(r.text)))^saltPart)
		r.setText(u.zeroless)
		return append(into, mix(r.part(0, len(r.text)))^saltZeros)
	})
	type hit struct {
		unit int32
		miss nearMiss
	}
	hits := make([][]hit, cores.Count())
	cores.Share(len(s.index.keys), func(w, from, to int) {
		var v view
		var hashes []uint64
		var passed []int32
		seen := make([]int32, len(units)) // the last key that each unit was compared with, plus one
		for k := from; k < to; k++ {
			if !s.index.nearable(&s.index.keys[k]) {
				continue
			}
			v.see(s.index, int32(k))
			hashes = v.hashesOfParts(hashes[:0])
			if long(len(v.slipped.text)) {
				v.slipped.roll()
				hashes = v.slipped.deletions(hashes)
			}
			passed = sh.sift(hashes, passed)
			for _, i := range passed {
				sh.find(hashes[i], func(u int32) {
					if seen[u] == int32(k+1) {
						return
					}
					seen[u] = int32(k + 1)
					v.compare(units[u], func(m nearMiss) { hits[w] = append(hits[w], hit{u, m}) })
				})
			}
		}
	})
	for _, part := range hits {
		for _, h := range part {
			units[h.unit].add(s.index, h.miss)
		}
	}
}

// Salts keep apart what is looked for in one shelf.
const (
	saltPart  = 0x51ed270b7a3c9d1f
	saltZeros = 0x2545f4914f6cdd1d
)

// view is a key as it is compared with units.
type view struct {
	barcode   bool // it is one
	key       int32
	canonical []byte  // of a barcode less its leading zeros
	pieces    []piece // its tokens
	slipped   rolled  // the text that slips are looked for in: tokens without what parts them, alike letters as one
	zeroless  []byte  // tokens less the leading zeros of numbers, each with a space behind; empty where none is a number
	scratch   rolled
}

func (v *view) see(ix *Index, key int32) {
	k := &ix.keys[key]
	v.key = key
	v.barcode = ix.isBarcode(k)
	v.canonical, v.pieces = ix.compared(k, v.pieces[:0])
	v.slipped.text = v.slipped.text[:0]
	for _, p := range v.pieces {
		v.slipped.text = append(v.slipped.text, v.canonical[p.start:p.end]...)
	}
	v.slipped.text = foldAlike(v.slipped.text)
}

// nearable reports whether names may miss a key: titles are found by their words, and a house code is whole or nothing.
func (ix *Index) nearable(k *indexed) bool { return ix.fields[k.field] != Title && !k.house }

// compared is a key's canonical text and its tokens, those of a barcode less its leading zeros.
func (ix *Index) compared(k *indexed, into []piece) ([]byte, []piece) {
	canonical := ix.canonical(k)
	if ix.isBarcode(k) {
		canonical = bytes.TrimLeft(canonical, "0")
		return canonical, append(into, piece{0, len(canonical), true})
	}
	return canonical, ix.pieces(k, into)
}

// hashesOfParts appends the hashes of every run of the key's tokens that is not the whole, and of the key less its
// leading zeros.
func (v *view) hashesOfParts(into []uint64) []uint64 {
	v.zeroless = v.zeroless[:0]
	zeros := false
	for _, p := range v.pieces {
		text := v.canonical[p.start:p.end]
		if p.digits {
			zeros = true
			if text = bytes.TrimLeft(text, "0"); len(text) == 0 {
				text = v.canonical[p.end-1 : p.end]
			}
		}
		v.zeroless = append(append(v.zeroless, text...), ' ')
	}
	if zeros {
		v.scratch.text = append(v.scratch.text[:0], v.zeroless...)
		v.scratch.roll()
		into = append(into, mix(v.scratch.part(0, len(v.zeroless)))^saltZeros)
	} else {
		v.zeroless = v.zeroless[:0]
	}
	if len(v.pieces) < 2 {
		return into
	}
	v.scratch.text = append(v.scratch.text[:0], v.canonical...)
	v.scratch.roll()
	v.parts(func(from, to int) bool {
		into = append(into, mix(v.scratch.part(v.pieces[from].start, v.pieces[to-1].end))^saltPart)
		return true
	})
	return into
}

// parts calls yield with every run of tokens that is not the whole and says enough, till it returns false.
func (v *view) parts(yield func(from, to int) bool) {
	for i, first := range v.pieces {
		for j, last := range v.pieces[i:] {
			if whole := i == 0 && j == len(v.pieces)-1; !whole && last.end-first.start >= minPart && !yield(i, i+j+1) {
				return
			}
		}
	}
}

// compare calls yield with what makes the key one that the unit may mean.
func (v *view) compare(u *unit, yield func(nearMiss)) {
	if u.canonical == string(v.canonical) {
		return // that is no near miss but the key itself
	}
	if m, ok := v.nearness(u, 1); ok {
		yield(m)
	}
	if len(v.zeroless) > 0 && u.zeroless == string(v.zeroless) {
		yield(v.withoutZeros(u))
	}
	if len(u.canonical) < len(v.canonical) {
		v.parts(func(from, to int) bool {
			if u.canonical != string(v.canonical[v.pieces[from].start:v.pieces[to-1].end]) {
				return true
			}
			yield(nearMiss{key: v.key, how: partOf, score: .7, likely: true, from: int16(from), to: int16(to)})
			return false
		})
	}
}
