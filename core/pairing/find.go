package pairing

import (
	"cmp"
	"slices"
	"strings"

	"ambrosa/core/gtin"
	"ambrosa/core/names"
)

// find appends every key that stands in the tokens, also in the spellings of tokens with umlauts and accents.
func (ix *Index) find(w *hand, path string, tokens []names.Token, level int8, lexicon names.Lexicon) {
	first := len(w.mets)
	ix.findSpelled(w, path, tokens, tokens, names.AsWritten, level, lexicon)
	for _, as := range []names.Spelling{names.Expanded, names.Bare} {
		if spelled, differs := spelledTokens(tokens, as); differs {
			ix.findSpelled(w, path, tokens, spelled, as, level, lexicon)
		}
	}
	switch {
	case len(tokens) > longName && len(w.mets)-first > maxMetsOfLong:
		w.mets = thin(w.mets, first, maxMetsOfLong)
	case len(w.mets)-first > maxMets:
		w.mets = thin(w.mets, first, maxMets)
	}
}

// findSpelled appends the keys that stand in spelled, which are the tokens in a spelling.
func (ix *Index) findSpelled(w *hand, path string, tokens, spelled []names.Token, as names.Spelling, level int8, lexicon names.Lexicon) {
	w.spans = w.set(spelled, w.spans[:0])
	parted := w.parting || len(ix.joined) > 0
	if parted {
		w.flatSpans = w.flat.setFlat(spelled, w.flatSpans[:0])
	}
	for i := range tokens {
		own := len(w.mets)
		begin := i
		if len(w.borders) > 0 {
			at := slices.IndexFunc(w.borders, func(b int) bool { return b > i })
			if at < 0 {
				break
			}
			begin = w.borders[at]
		}
		for j := begin; j < len(tokens) && j-i < 2*ix.longest+2; j++ {
			from, to := w.spans[i].start, w.spans[j].end
			if as != names.AsWritten && !spelledOtherwise(tokens[i:j+1], spelled[i:j+1]) {
				continue // found as it is written
			}
			if ix.shapes.has(w.shape(from, to)) {
				for k := ix.first(mix(w.part(from, to))); k != 0; k = ix.keys[k-1].next {
					key := &ix.keys[k-1]
					if key.numeric && key.spelling == names.AsWritten && ix.isBarcode(key) || string(ix.canonical(key)) != string(w.text[from:to]) {
						continue
					}
					ix.meet(w, k-1, tokens, i, j+1, strict, as, path, level, lexicon)
				}
			}
			if parted {
				hash := mix(w.flat.part(w.flatSpans[i].start, w.flatSpans[j].end))
				if w.parting && j > i && ix.shapes.has(w.flat.shape(w.flatSpans[i].start, w.flatSpans[j].end)) {
					for k := ix.first(hash); k != 0; k = ix.keys[k-1].next {
						if key := &ix.keys[k-1]; !ix.isBarcode(key) && agree(ix.canonical(key), spelled[i:j+1]) == split {
							ix.meet(w, k-1, tokens, i, j+1, split, as, path, level, lexicon)
						}
					}
				}
				if len(ix.joined) > 0 {
					for k := ix.firstJoined(hash); k != 0; k = ix.nextJoined[k-1] {
						if agree(ix.canonical(&ix.keys[k-1]), spelled[i:j+1]) == fused {
							ix.meet(w, k-1, tokens, i, j+1, fused, as, path, level, lexicon)
						}
					}
				}
			}
		}
		if len(tokens) > longName {
			w.mets = longestTwo(w.mets, own)
		}
		if as == names.AsWritten && tokens[i].Digits && ix.barcodes {
			ix.findBarcode(w, tokens, i, level)
		}
	}
}

// spansPlus reports whether a plus parts the tokens that parts two keys: it is not written in the key, and not for every space.
func (ix *Index) spansPlus(key int32, path string, tokens []names.Token) bool {
	plus, others := false, false
	for i := 1; i < len(tokens); i++ {
		switch {
		case tokens[i-1].Span.End >= tokens[i].Span.Start:
		case names.Added(path, tokens[i]):
			plus = true
			others = others || tokens[i].Digits && tokens[i-1].Digits
		default:
			others = true
		}
	}
	return plus && others && !strings.ContainsAny(ix.text(key), "+&")
}

// shifted reports whether tokens are parted where the key is not, and the key where they are not: MZ979-XXL for MZ979X-XL.
func (ix *Index) shifted(key int32, tokens []names.Token) bool {
	theirs := ix.lengths(&ix.keys[key])
	same := len(theirs) == len(tokens)
	for i := 0; same && i < len(theirs); i++ {
		same = int(theirs[i]) == len(tokens[i].Folded)
	}
	if same || ix.keys[key].spelling != names.AsWritten {
		return false
	}
	own, others := parted(tokens), parted(names.Tokens(ix.text(key), 0))
	lacks := func(a, b []int) bool {
		return slices.ContainsFunc(a, func(at int) bool { return !slices.Contains(b, at) })
	}
	return lacks(own, others) && lacks(others, own)
}

// parted returns where separators stand, in letters and digits from the first token on.
func parted(tokens []names.Token) (at []int) {
	n := 0
	for i, t := range tokens {
		if i > 0 && tokens[i-1].Span.End < t.Span.Start {
			at = append(at, n)
		}
		n += len(t.Folded)
	}
	return at
}

func spelledOtherwise(tokens, spelled []names.Token) bool {
	for i := range tokens {
		if tokens[i].Folded != spelled[i].Folded {
			return true
		}
	}
	return false
}

// isBarcode reports whether a key is compared as a barcode, by its fourteen digits.
func (ix *Index) isBarcode(k *indexed) bool { return ix.fields[k.field] == Barcode && !k.house }

// meet appends a key that is met, unless it takes the beginning of a size.
func (ix *Index) meet(w *hand, key int32, tokens []names.Token, from, to int, how agreement, as names.Spelling, path string, level int8,
	lexicon names.Lexicon) {
	if lexicon.CutsSize(path, tokens, to-1) {
		return
	}
	if from+1 < to && ix.spansPlus(key, path, tokens[from:to]) {
		return
	}
	if spelled := ix.keys[key].spelling; spelled != names.AsWritten {
		if as != names.AsWritten && as != spelled {
			return
		}
		as = spelled
		for _, m := range w.mets { // as it is written comes first
			if m.from == int16(from) && m.to == int16(to) && m.level == level && ix.keys[m.key].owner == ix.keys[key].owner {
				return
			}
		}
	}
	m := meeting(key, tokens, from, to, level, how)
	m.spelling = as
	m.shifted = how == strict && ix.shifted(key, tokens[from:to])
	w.mets = append(w.mets, m)
}

// longestTwo keeps, of the mets from one on, which begin at one token and come the shortest first, those of the two greatest
// lengths.
func longestTwo(mets []met, first int) []met {
	from, lengths := len(mets), 0
	for from > first {
		if to := mets[from-1].to; from == len(mets) || to != mets[from].to {
			if lengths++; lengths > 2 {
				break
			}
		}
		from--
	}
	return append(mets[:first], mets[from:]...)
}

// thin keeps, of the mets from one on, the first few that stand in no longer one.
func thin(mets []met, first, most int) []met {
	all := mets[first:]
	slices.SortStableFunc(all, func(a, b met) int { return cmp.Or(cmp.Compare(a.from, b.from), cmp.Compare(b.to, a.to)) })
	kept := mets[:first]
	end, start := int16(-1), int16(-1)
	for _, m := range all {
		if m.to > end || m.from == start {
			if m.to > end {
				end, start = m.to, m.from
			}
			if kept = append(kept, m); len(kept)-first == most {
				break
			}
		}
	}
	return kept
}

func meeting(key int32, tokens []names.Token, from, to int, level int8, how agreement) met {
	m := met{key: key, from: int16(from), to: int16(to), level: level, agreement: how, number: names.NoNumber, compact: true,
		start: int32(tokens[from].Span.Start), end: int32(tokens[to-1].Span.End)}
	for i := from + 1; i < to; i++ {
		m.compact = m.compact && tokens[i-1].Span.End >= tokens[i].Span.Start
	}
	m.glued = from > 0 && tokens[from-1].Span.End >= tokens[from].Span.Start || to < len(tokens) &&
		tokens[to-1].Span.End >= tokens[to].Span.Start
	return m
}

// findBarcode reads digits, also in groups, as a barcode with a right check digit.
func (ix *Index) findBarcode(w *hand, tokens []names.Token, i int, level int8) {
	var digits [14]byte
	n := 0
	for j := i; j < len(tokens) && tokens[j].Digits && n+len(tokens[j].Folded) <= len(digits); j++ {
		n += copy(digits[n:], tokens[j].Folded)
		if n != 8 && n < 12 {
			continue // only these are forms of a barcode: other zeros make another number
		}
		form, ok := gtin.Fourteen(string(digits[:n]))
		if !ok {
			continue
		}
		for k := ix.first(barcodeHash(form)); k != 0; k = ix.keys[k-1].next {
			if key := &ix.keys[k-1]; ix.isBarcode(key) && string(ix.canonical(key)) == form {
				w.mets = append(w.mets, meeting(k-1, tokens, i, j+1, level, strict))
			}
		}
	}
}
