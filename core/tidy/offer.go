package tidy

import (
	"cmp"
	"slices"
	"strings"
)

// OfferKey is something by which a picture may be known to belong to an owner, and what it is worth: a code is worth more than a word.
type OfferKey struct {
	Words  []string // all of which must be written of the picture, in small letters
	Looks  *uint64  // the likeness that it must be near to, where there are no words
	Shown  []int64  // else these: the pictures in which its barcode can be read
	Weight float64
}

// CodeKey is the key of an owner whose barcode can be read in some pictures: worth as much as one that is written in their names.
func CodeKey(pictures []int64) OfferKey { return OfferKey{Shown: pictures, Weight: 16} }

// LookKeys are the keys of an owner whose family shows pictures of some likenesses: its product, and the other variants of that.
func LookKeys(likenesses []uint64) []OfferKey {
	keys := make([]OfferKey, len(likenesses))
	for i := range likenesses {
		keys[i] = OfferKey{Looks: &likenesses[i], Weight: 3}
	}
	return keys
}

// OfferKeys are the keys of an owner: its SKU and barcode, its SKU's parts together, its title as a whole, and the title's words one by one.
func OfferKeys(sku, barcode, title string, options []string) (keys []OfferKey) {
	add := func(weight float64, words ...string) {
		kept := words[:0]
		for _, w := range words {
			if w = strings.ToLower(strings.TrimSpace(w)); len(w) > 1 {
				kept = append(kept, w)
			}
		}
		if len(kept) > 0 {
			keys = append(keys, OfferKey{Words: kept, Weight: weight})
		}
	}
	add(16, sku)
	add(16, barcode)
	parts := strings.FieldsFunc(sku, func(r rune) bool { return r == '-' || r == '_' || r == ' ' || r == '.' || r == '/' })
	if len(parts) > 1 {
		add(8, slices.Clone(parts)...)
	}
	words := strings.Fields(title)
	if len(words) > 1 {
		add(6, append(slices.Clone(words), options...)...)
		add(4, slices.Clone(words)...)
	}
	for _, w := range append(words, options...) {
		if len([]rune(w)) > 2 {
			add(1, w)
		}
	}
	return keys
}

// BestOffers are the pictures that most of some keys speak for, the best first. find returns the pictures that a key speaks for. A key that finds
// very many says little: its weight is shared among them.
func BestOffers(keys []OfferKey, most int, find func(OfferKey) []int64) []int64 {
	const telling = 40 // pictures that a key may find and still count in full
	worth := map[int64]float64{}
	for _, k := range keys {
		found := find(k)
		each := k.Weight * min(1, float64(telling)/float64(max(1, len(found))))
		for _, id := range found {
			worth[id] += each
		}
	}
	ids := make([]int64, 0, len(worth))
	for id, w := range worth {
		if w >= 1 {
			ids = append(ids, id)
		}
	}
	slices.SortFunc(ids, func(a, b int64) int { return cmp.Or(cmp.Compare(worth[b], worth[a]), cmp.Compare(a, b)) })
	return ids[:min(len(ids), most)]
}
