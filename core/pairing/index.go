package pairing

import (
	"strings"

	"ambrosa/core/gtin"
	"ambrosa/core/names"
)

// Index finds keys by runs of tokens. Building it costs time and space linear in the keys' bytes; looking up
// every run of a name's n tokens costs n² hash steps, whatever the number of keys.
type Index struct {
	owners   []Owner
	entries  map[uint64][]entry
	barcodes map[string][]entry // by their 14 digits
	byID     map[int64]int
	longest  int // tokens in the longest key
	Unfit    []UnfitKey
}

type entry struct {
	canonical string
	owner     int // index into owners
	key       int // index into the owner's keys
}

// UnfitKey is a key that is never paired by, because it says too little.
type UnfitKey struct {
	Owner int64
	Key   Key
	Why   string
}

// NewIndex indexes the owners' keys. Keys that are empty, all separators or one letter are left out and
// listed in Unfit; an owner simply without a key is not listed.
func NewIndex(owners []Owner) *Index {
	ix := &Index{owners: owners, entries: make(map[uint64][]entry, len(owners)), barcodes: map[string][]entry{}, byID: make(map[int64]int, len(owners))}
	for o, owner := range owners {
		ix.byID[owner.ID] = o
		for k, key := range owner.Keys {
			if key.Text == "" {
				continue
			}
			if key.Field == Barcode {
				form, ok := gtin.Fourteen(strings.Map(onlyDigits, key.Text))
				if !ok {
					ix.Unfit = append(ix.Unfit, UnfitKey{owner.ID, key, "it is no barcode with a right check digit"})
					continue
				}
				ix.barcodes[form] = append(ix.barcodes[form], entry{form, o, k})
				continue
			}
			tokens := names.Tokens(key.Text, 0)
			canonical := names.Canonical(tokens)
			switch {
			case len(tokens) == 0:
				ix.Unfit = append(ix.Unfit, UnfitKey{owner.ID, key, "it is all separators"})
				continue
			case len(canonical) == 1:
				ix.Unfit = append(ix.Unfit, UnfitKey{owner.ID, key, "one letter or digit says too little"})
				continue
			}
			h := hashRun(hashStart, tokens)
			ix.entries[h] = append(ix.entries[h], entry{canonical, o, k})
			ix.longest = max(ix.longest, len(tokens))
		}
	}
	return ix
}

// hit is a key standing in a name on token boundaries.
type hit struct {
	entry
	from, to int // tokens of the name, end exclusive
}

// find gives every key that stands in the tokens, with the runs that lie inside a longer run marked by
// their place after it: longest first, then leftmost.
func (ix *Index) find(tokens []names.Token) []hit {
	var hits []hit
	for i := range tokens {
		if tokens[i].Digits && len(ix.barcodes) > 0 {
			if form, ok := gtin.Fourteen(tokens[i].Folded); ok {
				for _, e := range ix.barcodes[form] {
					hits = append(hits, hit{e, i, i + 1})
				}
			}
		}
		h := uint64(hashStart)
		for j := i; j < len(tokens) && j-i < 2*ix.longest+2; j++ {
			if j > i && tokens[j].Digits && tokens[j-1].Digits {
				h = hashByte(h, '-')
			}
			h = hashText(h, tokens[j].Folded)
			for _, e := range ix.entries[h] {
				if e.canonical == names.Canonical(tokens[i:j+1]) {
					hits = append(hits, hit{e, i, j + 1})
				}
			}
		}
	}
	return hits
}

// onlyDigits drops what groups the digits of a barcode and keeps everything else, to fail on it.
func onlyDigits(r rune) rune {
	if r == ' ' || r == '-' || r == '\u00a0' {
		return -1
	}
	return r
}

// FNV-1a, so that a run is extended by one token without hashing it anew.
const (
	hashStart = 14695981039346656037
	hashPrime = 1099511628211
)

func hashByte(h uint64, b byte) uint64 { return (h ^ uint64(b)) * hashPrime }

func hashText(h uint64, s string) uint64 {
	for i := range len(s) {
		h = hashByte(h, s[i])
	}
	return h
}

func hashRun(h uint64, tokens []names.Token) uint64 {
	for i, t := range tokens {
		if i > 0 && t.Digits && tokens[i-1].Digits {
			h = hashByte(h, '-')
		}
		h = hashText(h, t.Folded)
	}
	return h
}
