package pairing

import (
	"math"
	"slices"
	"strings"

	"ambrosa/core/names"
)

// titles finds owners by the words of their titles. A variant has its product's words and its own options'.
type titles struct {
	word     map[string]int32
	owners   [][]int32 // of each word
	words    []int32   // of each owner, one after the other
	at       []int32   // where an owner's words begin
	children map[int32][]int32
}

const (
	maxTitleWords = 64
	maxPosting    = 2000 // owners of one word, beyond which it finds nobody
	rareWords     = 4    // words of a name by which owners are looked for
	wordsNeeded   = .6   // share of a title's weight below which it is no candidate
)

func (ix *Index) indexTitles() *titles {
	t := &titles{word: map[string]int32{}, at: make([]int32, len(ix.owners)+1), children: map[int32][]int32{}}
	var mine []int32
	take := func(text string) {
		for _, token := range names.Tokens(text, 0) {
			w, ok := t.word[token.Folded]
			if !ok {
				w = int32(len(t.owners))
				t.word[token.Folded] = w
				t.owners = append(t.owners, nil)
			}
			if !slices.Contains(mine, w) && len(mine) < maxTitleWords {
				mine = append(mine, w)
			}
		}
	}
	title := func(o *Owner) (found bool) {
		for _, k := range o.Keys {
			if k.Field == Title && k.Text != "" {
				take(k.Text)
				found = true
			}
		}
		return found
	}
	for i := range ix.owners {
		o := &ix.owners[i]
		mine = mine[:0]
		p := ix.parent[i]
		if p >= 0 {
			title(&ix.owners[p])
			t.children[p] = append(t.children[p], int32(i))
		}
		if title(o) || p >= 0 && len(mine) > 0 {
			for _, text := range o.Also {
				take(text)
			}
		}
		for _, w := range mine {
			t.owners[w] = append(t.owners[w], int32(i))
		}
		t.words = append(t.words, mine...)
		t.at[i+1] = int32(len(t.words))
	}
	return t
}

// titleOf is an owner's title; empty where it has none or is -1.
func (ix *Index) titleOf(owner int32) string {
	if owner < 0 {
		return ""
	}
	for _, k := range ix.owners[owner].Keys {
		if k.Field == Title {
			return k.Text
		}
	}
	return ""
}

func (t *titles) of(owner int32) []int32 { return t.words[t.at[owner]:t.at[owner+1]] }

// words adds the owners whose title's words stand in the name or its folders, the rare ones weighing more (inverse
// document frequency: K. Spärck Jones, "A statistical interpretation of term specificity", 1972).
func (s *Study) words(n names.Name, v *verdict, known []uint8, allowed *allowance, found *candidates) {
	field := slices.Index(s.index.fields, Title)
	if field < 0 || !allowed.met(uint8(field), Words) || slices.Contains(known, uint8(field)) || v.best != nil && s.index.fields[s.index.keys[v.best.key].field] != Title {
		return
	}
	t := s.index.titles()
	idf := func(w int32) float64 {
		return math.Log(1 + float64(len(s.index.owners))/float64(1+len(t.owners[w])))
	}
	var mine []int32
	take := func(tokens []names.Token) {
		for _, token := range tokens[:min(len(tokens), maxTitleWords)] {
			if w, ok := t.word[token.Folded]; ok && !slices.Contains(mine, w) {
				mine = append(mine, w)
			}
		}
	}
	take(n.Tokens)
	own := len(mine)
	for i, folder := range n.Folders() {
		if i < 2 {
			take(folder)
		}
	}
	rare := slices.Clone(mine)
	slices.SortFunc(rare, func(a, b int32) int { return len(t.owners[a]) - len(t.owners[b]) })
	seen := map[int32]bool{}
	for _, w := range rare[:min(rareWords, len(rare))] {
		if len(t.owners[w]) > maxPosting {
			break
		}
		for _, owner := range t.owners[w] {
			if seen[owner] {
				continue
			}
			seen[owner] = true
			met, total, count, inName := 0.0, 0.0, 0, false
			document := t.of(owner)
			for _, w := range document {
				total += idf(w)
				if at := slices.Index(mine, w); at >= 0 {
					met += idf(w)
					count++
					inName = inName || at < own
				}
			}
			coverage := met / total
			if count < 2 || coverage < wordsNeeded || !inName {
				continue
			}
			s.addWords(n, owner, mine, coverage, found)
		}
	}
}

// addWords adds an owner by the words of its title that stand among those of the name.
func (s *Study) addWords(n names.Name, owner int32, mine []int32, coverage float64, found *candidates) {
	t := s.index.titles()
	document := t.of(owner)
	span := names.Span{}
	last := -1
	for i, token := range n.Tokens {
		if w, ok := t.word[token.Folded]; ok && slices.Contains(document, w) {
			if span.Empty() {
				span.Start = token.Span.Start
			}
			span.End = token.Span.End
			last = i
		}
	}
	tail := s.lexicon.ReadTail(n.Path, n.Tokens[last+1:])
	title := s.index.titleOf(owner)
	likely, differs := true, ""
	if coverage <= .999 {
		var missing []string
		for _, text := range append([]string{s.index.titleOf(s.index.parent[owner]), title}, s.index.owners[owner].Also...) {
			for _, token := range names.Tokens(text, 0) {
				if w := t.word[token.Folded]; !slices.Contains(mine, w) && !slices.Contains(missing, token.Folded) {
					missing = append(missing, token.Folded)
				}
			}
		}
		likely, differs = false, "“"+strings.Join(missing, " ")+"” is missing"
	}
	// More words met is better where all are met: the variant before its product.
	r := Reading{Owner: s.index.owners[owner].ID, Field: Title, Key: title, Fit: Words, Number: numberOf(tail.Number), Role: tail.Role,
		NameSpan: span, KeySpan: names.Span{Start: 0, End: len(title)}, Score: .6*coverage + .12*float64(min(len(document), 20))/10, Differs: differs}
	found.add(candidate{owner: owner, likely: likely, score: r.Score, reading: &r})
}

// variantNamed reads what stands beside a product's key as the option of one of its variants: PK-140 plum.
func (s *Study) variantNamed(n names.Name, m *met, r Reading) (candidate, bool) {
	t := s.index.titles()
	children := t.children[s.owner(m)]
	if len(children) == 0 {
		return candidate{}, false
	}
	beside := map[string]bool{}
	for i, token := range n.Tokens {
		if m.fit == Folder || i < int(m.from) || i >= int(m.to) {
			beside[token.Folded] = true
		}
	}
	best, most, alone := int32(-1), 0, false
	for _, child := range children {
		count, all := 0, true
		for _, text := range s.index.owners[child].Also {
			for _, token := range names.Tokens(text, 0) {
				if beside[token.Folded] {
					count++
				} else {
					all = false
				}
			}
		}
		switch {
		case count == 0 || !all && count < most:
		case count > most:
			best, most, alone = child, count, true
		case count == most:
			alone = false
		}
	}
	if !alone {
		return candidate{}, false
	}
	r.Owner, r.Score = s.index.owners[best].ID, .9
	return candidate{reading: &r, owner: best, likely: true, score: r.Score, doubt: "What stands beside it names this variant."}, true
}
