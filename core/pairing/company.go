package pairing

import (
	"slices"
	"strconv"
	"strings"

	"ambrosa/core/names"
)

// joining are the words that name a second product beside the first, reaching those that name the end of a range. Common
// practice, no source.
var (
	joining  = map[string]bool{"und": true, "and": true, "et": true, "en": true, "plus": true}
	reaching = map[string]bool{"bis": true, "to": true, "till": true, "jusqu": true}
)

// findCompany finds what is named beside a key as in PK-10+20, NVY & PLM, KT-100 und KT-200, and the ranges as in GRY-36-44:
// the other owner's key is met too, and what looks like a key and is none is noted.
func (ix *Index) findCompany(w *hand, path string, tokens []names.Token, lexicon names.Lexicon) {
	for i := range len(w.mets) { // and not those that are appended on the way
		m := &w.mets[i]
		if m.agreement == apart || m.sense != names.NoSense {
			continue
		}
		at := int(m.to)
		if m.from > 0 && m.among == alone {
			before := int(m.from)
			if joining[tokens[before-1].Folded] {
				before--
			} else if !joined(path, tokens, before) {
				before = 0
			}
			if before > 0 && ix.looksLike(m, tokens[:before], true, false, lexicon) {
				m.among = withGone
			}
		}
		if at >= len(tokens) {
			continue
		}
		if !joining[tokens[at].Folded] && !joined(path, tokens, at) {
			if ix.anotherVariant(w, i, tokens, at, lexicon) || ix.anotherKey(w, i, tokens, at) {
				continue
			}
			if end := rangeEnd(path, tokens, m, lexicon); end > 0 {
				ix.rangeOf(w, i, path, tokens, end)
			}
			continue
		}
		if joining[tokens[at].Folded] {
			at++
		}
		if at < len(tokens) {
			ix.otherOf(w, i, path, tokens, at, lexicon)
		}
	}
}

// anotherVariant notes the word of another variant right behind a variant's key, as in NVY-PLM.
func (ix *Index) anotherVariant(w *hand, i int, tokens []names.Token, at int, lexicon names.Lexicon) bool {
	m := w.mets[i]
	if m.nextWord == 0 || m.nextDigits || m.to-m.from < 2 || lexicon.Says(tokens[at].Folded) {
		return false
	}
	other := ix.called(tokens[m.from:m.to-1], tokens[at:at+1], ix.keys[m.key].field)
	if other < 0 || ix.keys[other].owner == ix.keys[m.key].owner {
		return false
	}
	w.mets[i].among = withOther
	second := meeting(other, tokens, at, at+1, m.level, strict)
	second.fit, second.number, second.notation, second.role, second.among = byWithin, m.number, m.notation, m.role, withOther
	w.mets = append(w.mets, second)
	return true
}

// fewestAlike is how many digits a number must have to look like a key of digits.
const fewestAlike = 6

// anotherKey notes what looks just like this key, begins as it does, and is none: KT-100 KT-999, perhaps with a word between.
func (ix *Index) anotherKey(w *hand, i int, tokens []names.Token, at int) bool {
	m := &w.mets[i]
	if m.restWords == 0 {
		return false
	}
	pieces := ix.pieces(&ix.keys[m.key], nil)
	canonical := ix.canonical(&ix.keys[m.key])
	for from := at; from <= at+1 && from+len(pieces) <= len(tokens) && len(pieces) > 0; from++ {
		same := true
		for k, p := range pieces {
			t := tokens[from+k]
			same = same && t.Digits == p.digits && len(t.Folded) == p.end-p.start && (k > 0 || p.digits ||
				t.Folded == string(canonical[p.start:p.end]))
		}
		if !same || pieces[0].digits && len(canonical) < fewestAlike {
			continue
		}
		if !slices.ContainsFunc(w.mets, func(o met) bool {
			return int(o.from) == from && int(o.to) == from+len(pieces) &&
				o.agreement == strict
		}) {
			m.among = withGone
			return true
		}
	}
	return false
}

// joined reports whether token at is joined to the one before it by a plus, an ampersand or a comma.
func joined(path string, tokens []names.Token, at int) bool {
	if names.Added(path, tokens[at]) {
		return true
	}
	if at == 0 || tokens[at-1].Span.End >= tokens[at].Span.Start {
		return false
	}
	gap := strings.TrimSpace(path[tokens[at-1].Span.End:tokens[at].Span.Start])
	return gap == "," || gap == ";"
}

// otherOf looks for the second key from token at on: alone it is met anyhow, so it is one that shares the beginning of the first.
func (ix *Index) otherOf(w *hand, i int, path string, tokens []names.Token, at int, lexicon names.Lexicon) {
	m := w.mets[i]
	for q := min(len(tokens), at+4); q > at; q-- {
		// As many tokens as this key has, so that it is not the product of a variant.
		for p := int(m.to) - 1; p > int(m.from) && p+q-at >= int(m.to); p-- {
			if other := ix.called(tokens[m.from:p], tokens[at:q], ix.keys[m.key].field); other >= 0 && ix.keys[other].owner != ix.keys[m.key].owner {
				w.mets[i].among = withOther
				second := meeting(other, tokens, at, q, m.level, strict)
				second.fit, second.number, second.notation, second.role, second.among = byWithin, m.number, m.notation, m.role, withOther
				w.mets = append(w.mets, second)
				return
			}
		}
	}
	byPlus := names.Added(path, tokens[at])
	// Another key that is met there says enough, unless what stands there is longer, and as long as this one.
	for k := range w.mets {
		if o := &w.mets[k]; k != i && int(o.from) == at && o.agreement == strict && ix.keys[o.key].owner != ix.keys[m.key].owner &&
			ix.keys[o.key].telling &&
			(o.to-o.from >= m.to-m.from || !ix.looksLike(&m, tokens[at:], false, byPlus, lexicon)) {
			return
		}
	}
	if ix.looksLike(&m, tokens[at:], false, byPlus, lexicon) {
		w.mets[i].among = withGone
	}
}

// looksLike reports whether the tokens begin, or end, as a key like this one or its last part does; behind a plus any number does.
func (ix *Index) looksLike(m *met, tokens []names.Token, atEnd, byPlus bool, lexicon names.Lexicon) bool {
	lengths := ix.lengths(&ix.keys[m.key])
	pieces := ix.pieces(&ix.keys[m.key], nil)
	if len(pieces) != len(lengths) || len(pieces) == 0 {
		return false
	}
	same := func(t names.Token, p piece) bool { return t.Digits == p.digits && len(t.Folded) == p.end-p.start }
	alike := func(tokens []names.Token, pieces []piece) bool {
		if len(tokens) < len(pieces) {
			return false
		}
		if atEnd {
			tokens = tokens[len(tokens)-len(pieces):]
		}
		for i, p := range pieces {
			if !same(tokens[i], p) {
				return false
			}
		}
		return true
	}
	if alike(tokens, pieces) || codeLike(tokens, atEnd) {
		return true
	}
	if atEnd {
		return false
	}
	next := tokens[0]
	if next.Digits && byPlus {
		return true
	}
	last := pieces[len(pieces)-1]
	return len(pieces) > 1 && same(next, last) && !lexicon.Says(next.Folded)
}

// codeLike reports whether tokens begin, or end, as codes do: with words and a number of at least three digits.
func codeLike(tokens []names.Token, atEnd bool) bool {
	if atEnd {
		last := len(tokens) - 1
		return last > 0 && tokens[last].Digits && len(tokens[last].Folded) >= 3 && !tokens[last-1].Digits
	}
	for i, t := range tokens[:min(len(tokens), 4)] {
		if t.Digits {
			return i > 0 && len(t.Folded) >= 3
		}
	}
	return false
}

// called returns the first key of a field whose text is that of two runs of tokens; -1 where there is none.
func (ix *Index) called(a, b []names.Token, field uint8) int32 {
	var text []byte
	text = appendCanonical(text, append(append([]names.Token{}, a...), b...))
	h := uint64(0)
	for _, c := range text {
		h = h*base + uint64(c) + 1
	}
	for k := ix.first(mix(h)); k != 0; k = ix.keys[k-1].next {
		if key := &ix.keys[k-1]; key.field == field && int(key.tokens) == len(a)+len(b) && string(ix.canonical(key)) == string(text) {
			return k - 1
		}
	}
	return -1
}

// rangeEnd returns where the end of a range stands that a key's last number begins, 0 where none does: a number as long, and
// greater, behind a dash or a word.
func rangeEnd(path string, tokens []names.Token, m *met, lexicon names.Lexicon) int {
	first, at := tokens[m.to-1], int(m.to)
	word := reaching[tokens[at].Folded]
	if word {
		at++
	}
	if at >= len(tokens) || !first.Digits || !tokens[at].Digits {
		return 0
	}
	if sense, _ := lexicon.SenseAt(path, tokens, at); sense != names.NoSense {
		return 0
	}
	last := tokens[at]
	if len(first.Folded) != len(last.Folded) || len(first.Folded) < 2 || len(first.Folded) > 4 || first.Folded[0] == '0' ||
		last.Folded <= first.Folded {
		return 0
	}
	if word {
		return at
	}
	if first.Span.End >= last.Span.Start {
		return 0
	}
	switch gap := strings.TrimSpace(path[first.Span.End:last.Span.Start]); gap {
	case "–", "~", "～", "—", "…", "..":
		return at
	case "-":
		if m.to-m.from == 1 || alikeParted(path, tokens, int(m.from), at) {
			return at
		}
	}
	return 0
}

// rangeOf notes a range, and meets the key that its end is. Behind a hyphen it is one only where a key stands for its end or
// for something between.
func (ix *Index) rangeOf(w *hand, i int, path string, tokens []names.Token, end int) {
	m := w.mets[i]
	begin := tokens[m.from : m.to-1]
	other := ix.called(begin, tokens[end:end+1], ix.keys[m.key].field)
	if other < 0 && strings.TrimSpace(path[tokens[m.to-1].Span.End:tokens[end].Span.Start]) == "-" &&
		!ix.soldBetween(begin, tokens[m.to-1], tokens[end], ix.keys[m.key].field) {
		return
	}
	w.mets[i].among = inRange
	if other < 0 || ix.keys[other].owner == ix.keys[m.key].owner {
		return
	}
	second := meeting(other, tokens, end, end+1, m.level, strict)
	second.fit, second.among = byWithin, inRange
	w.mets = append(w.mets, second)
}

// widest is how far the two ends of a range of sizes may be apart.
const widest = 60

func (ix *Index) soldBetween(begin []names.Token, first, last names.Token, field uint8) bool {
	from, errFrom := strconv.Atoi(first.Folded)
	to, errTo := strconv.Atoi(last.Folded)
	if errFrom != nil || errTo != nil {
		return false
	}
	for n := from + 1; n < min(to, from+widest); n++ {
		if ix.called(begin, []names.Token{{Folded: strconv.Itoa(n), Digits: true}}, field) >= 0 {
			return true
		}
	}
	return false
}
