package pairing

import (
	"slices"

	"ambrosa/core/message"
	"ambrosa/core/names"
)

// options finds the variants of a product by the words of what is said of them, such as a colour.
type options struct {
	variants []int32
	words    []int              // how many words each variant has
	having   map[string][]int32 // by word, the variants that have it, by their place
}

// maxVariants is how many variants the words beside a key may lead to; words that more have say too little.
const maxVariants = 2000

// optionsOf returns a product's; nil where it has no variants.
func (t *titles) optionsOf(ix *Index, product int32) *options {
	variants := t.children[product]
	if len(variants) == 0 {
		return nil
	}
	if known, ok := t.options.Load(product); ok {
		return known.(*options)
	}
	o := &options{variants: variants, words: make([]int, len(variants)), having: map[string][]int32{}}
	for i, v := range variants {
		for _, text := range ix.owners[v].Also {
			for _, token := range names.Tokens(text, 0) {
				if has := o.having[token.Folded]; len(has) == 0 || has[len(has)-1] != int32(i) {
					o.having[token.Folded] = append(has, int32(i))
					o.words[i]++
				}
			}
		}
	}
	known, _ := t.options.LoadOrStore(product, o)
	return known.(*options)
}

// named returns the one variant that most of the words name, -1 where several are named as much. One all of whose words are
// named comes before one of which only some are. Cost: the variants that the rarer words have, at most maxVariants.
func (o *options) named(words []string) int32 {
	counts := map[int32]int{}
	slices.SortFunc(words, func(a, b string) int { return len(o.having[a]) - len(o.having[b]) })
	sought := 0
	for _, word := range words {
		has := o.having[word]
		if sought += len(has); sought > maxVariants && len(counts) > 0 || len(has) > maxVariants {
			break
		}
		for _, v := range has {
			counts[v]++
		}
	}
	best, most, complete, alone := int32(-1), 0, false, false
	for v, count := range counts {
		all := count == o.words[v]
		switch {
		case best < 0 || count > most || count == most && all && !complete:
			best, most, complete, alone = v, count, all, true
		case count == most && all == complete:
			alone = false
		}
	}
	if !alone {
		return -1
	}
	return o.variants[best]
}

// variantNamed reads what stands beside a product's key as the option of one of its variants: PK-140 plum.
func (s *Study) variantNamed(n names.Name, m *met, r Reading) (candidate, bool) {
	o := s.index.titles().optionsOf(s.index, s.owner(m))
	if o == nil {
		return candidate{}, false
	}
	var beside []string
	say := func(tokens []names.Token) {
		for _, token := range tokens {
			if (int(m.end) <= token.Span.Start || token.Span.End <= int(m.start)) && len(o.having[token.Folded]) > 0 &&
				!slices.Contains(beside, token.Folded) {
				beside = append(beside, token.Folded)
			}
		}
	}
	say(n.Tokens)
	for at := range n.FolderSpans {
		if m.fit == byFolder && at.Start >= int(m.end) { // a folder below the product's
			say(names.Tokens(n.Path[at.Start:at.End], at.Start))
		}
	}
	variant := o.named(beside)
	if variant < 0 {
		return candidate{}, false
	}
	r.Owner, r.Score = s.index.owners[variant].ID, .9
	return candidate{reading: &r, owner: variant, likely: true, score: r.Score, doubt: message.New("doubt_variant_beside")}, true
}
