package pairing

import (
	"math"
	"slices"
	"strings"
	"sync"

	"ambrosa/core/message"
	"ambrosa/core/names"
)

// titles finds owners by the words of their titles. A variant has its product's words and its own options'.
type titles struct {
	word     map[string]int32
	spelled  map[string]int32 // words with umlauts and accents, as others write them
	owners   [][]int32        // of each word
	rarity   []float64        // of each word
	weight   []float64        // of each owner: its words' rarity together
	words    []int32          // of each owner, one after the other
	at       []int32          // where an owner's words begin
	children map[int32][]int32
	options  sync.Map // of products that were asked for
}

const (
	maxTitleWords = 64
	maxSought     = 8000 // owners that have one of a name's words, the rare ones first, beyond which words find nobody
	wordsNeeded   = .6   // share of a title's weight below which it is no candidate
)

func (ix *Index) indexTitles() *titles {
	t := &titles{word: map[string]int32{}, spelled: map[string]int32{}, at: make([]int32, len(ix.owners)+1), children: map[int32][]int32{}}
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
	t.spell()
	t.rarity, t.weight = make([]float64, len(t.owners)), make([]float64, len(ix.owners))
	for w := range t.rarity {
		t.rarity[w] = math.Log(1 + float64(len(ix.owners))/float64(1+len(t.owners[w])))
	}
	for i := range t.weight {
		for _, w := range t.of(int32(i)) {
			t.weight[i] += t.rarity[w]
		}
	}
	return t
}

// spell notes how words with umlauts and accents are written without them. Where two words would be written the same, the
// first by the alphabet is meant.
func (t *titles) spell() {
	words := make([]string, 0, len(t.word))
	for word := range t.word {
		words = append(words, word)
	}
	slices.Sort(words)
	for _, as := range []names.Spelling{names.Expanded, names.Bare, names.Dropped} {
		for _, word := range words {
			spelled, differs := names.Spell(word, as)
			if _, taken := t.spelled[spelled]; differs && !taken && len(spelled) > 1 {
				t.spelled[spelled] = t.word[word]
			}
		}
	}
}

// lookup finds the word of titles that a token is, in one spelling or another.
func (t *titles) lookup(folded string) (word int32, ok bool) {
	if word, ok = t.word[folded]; ok {
		return word, true
	}
	if word, ok = t.spelled[folded]; ok {
		return word, true
	}
	for _, as := range []names.Spelling{names.Expanded, names.Bare} {
		if spelled, differs := names.Spell(folded, as); differs {
			if word, ok = t.word[spelled]; ok {
				return word, true
			}
		}
	}
	return 0, false
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

// titled is a name as it is read for titles: the words that titles have, and how many of them stand in the name itself.
type titled struct {
	name names.Name
	mine []int32
	own  int
}

// tally is one core's working memory for counting how much of each owner's title stands in a name.
type tally struct {
	now     int32 // the name that counts
	counted []int32
	met     []float64 // by owner, where counted is now
	owners  []int32
}

// count adds up, by owner, the rarity of some words.
func (y *tally) count(t *titles, words []int32) {
	if y.counted == nil {
		y.counted, y.met = make([]int32, len(t.weight)), make([]float64, len(t.weight))
	}
	y.now++
	y.owners = y.owners[:0]
	for _, w := range words {
		for _, owner := range t.owners[w] {
			if y.counted[owner] != y.now {
				y.counted[owner], y.met[owner] = y.now, 0
				y.owners = append(y.owners, owner)
			}
			y.met[owner] += t.rarity[w]
		}
	}
}

// words adds the owners whose title's words stand in the name or its folders, the rare ones weighing more (inverse
// document frequency: K. Spärck Jones, "A statistical interpretation of term specificity", 1972). They are sought once for
// each name, whatever the ladder.
func (s *Study) words(working *settling, file int, n names.Name, v *verdict, known []uint8, allowed *allowance, found *candidates) {
	field := slices.Index(s.index.fields, Title)
	if field < 0 || !allowed.met(uint8(field), byWords) || slices.Contains(known, uint8(field)) || v.best != nil &&
		s.index.fields[s.index.keys[v.best.key].field] != Title {
		return
	}
	t := s.index.titles()
	in := &titled{name: n}
	in.take(t, n.Tokens)
	in.own = len(in.mine)
	level := 0
	for at := range n.FolderSpans {
		if level++; level > 2 {
			break
		}
		in.take(t, names.Tokens(n.Path[at.Start:at.End], at.Start))
	}
	if s.weak.titled[file] == nil {
		s.weak.titled[file] = s.seek(working, t, in)
	}
	for _, o := range s.weak.titled[file] {
		found.add(candidate{owner: o.owner, likely: o.likely, score: o.score, titled: in})
	}
}

// scored is an owner by its title, and what that is worth.
type scored struct {
	score  float64
	owner  int32
	likely bool
}

// seek finds the owners whose titles stand in a name: the best maxFound, the best first, never nil. Cost: the owners of the
// name's rarest words, at most maxSought.
func (s *Study) seek(working *settling, t *titles, in *titled) []scored {
	rare := slices.Clone(in.mine)
	slices.SortFunc(rare, func(a, b int32) int { return len(t.owners[a]) - len(t.owners[b]) })
	sought, owners := 0, 0
	for _, w := range rare {
		if owners += len(t.owners[w]); owners > maxSought {
			break
		}
		sought++
	}
	others := 0.0 // what the words that are not sought could add
	for _, w := range rare[sought:] {
		others += t.rarity[w]
	}
	working.tally.count(t, rare[:sought])
	best := []scored{}
	for _, owner := range working.tally.owners {
		if working.tally.met[owner]+others < (wordsNeeded-.001)*t.weight[owner] {
			continue
		}
		if o, enough := t.compare(in, owner); enough {
			best = s.index.keep(best, o)
		}
	}
	return best
}

// keep keeps the best maxFound, the best first; of those as good the owner that comes first.
func (ix *Index) keep(best []scored, o scored) []scored {
	at := len(best)
	for at > 0 && (best[at-1].score < o.score || best[at-1].score == o.score && ix.compareOwners(o.owner, best[at-1].owner) < 0) {
		at--
	}
	if at == maxFound {
		return best
	}
	return slices.Insert(best, at, o)[:min(len(best)+1, maxFound)]
}

func (in *titled) take(t *titles, tokens []names.Token) {
	for _, token := range tokens[:min(len(tokens), maxTitleWords)] {
		if w, ok := t.lookup(token.Folded); ok && !slices.Contains(in.mine, w) {
			in.mine = append(in.mine, w)
		}
	}
}

// compare says what an owner's title is worth, and whether enough of it stands in a name.
func (t *titles) compare(in *titled, owner int32) (o scored, enough bool) {
	met, count, inName := 0.0, 0, false
	document := t.of(owner)
	for _, w := range document {
		if at := slices.Index(in.mine, w); at >= 0 {
			met += t.rarity[w]
			count++
			inName = inName || at < in.own
		}
	}
	coverage := met / t.weight[owner]
	// More words met is better where all are met: the variant before its product.
	score := .6*coverage + .12*float64(min(len(document), 20))/10
	return scored{score, owner, coverage > .999}, count >= 2 && coverage >= wordsNeeded && inName
}

// readTitled is what is said of an owner by the words of its title that stand among those of a name.
func (s *Study) readTitled(c *candidate) Reading {
	t := s.index.titles()
	n, owner := c.titled.name, c.owner
	document := t.of(owner)
	span := names.Span{}
	last := -1
	for i, token := range n.Tokens {
		if w, ok := t.lookup(token.Folded); ok && slices.Contains(document, w) {
			if span.Empty() {
				span.Start = token.Span.Start
			}
			span.End = token.Span.End
			last = i
		}
	}
	tail := s.lexicon.ReadTail(n.Path, n.Tokens[last+1:])
	title := s.index.titleOf(owner)
	var differs message.Message
	if !c.likely {
		var missing []string
		for _, text := range append([]string{s.index.titleOf(s.index.parent[owner]), title}, s.index.owners[owner].Also...) {
			for _, token := range names.Tokens(text, 0) {
				if w := t.word[token.Folded]; !slices.Contains(c.titled.mine, w) && !slices.Contains(missing, token.Folded) {
					missing = append(missing, token.Folded)
				}
			}
		}
		differs = message.New("differs_missing", "wants", strings.Join(missing, " "))
	}
	return Reading{Owner: s.index.owners[owner].ID, Field: Title, Key: title, Fit: Words, Number: numberOf(tail.Number), Role: tail.Role,
		NameSpan: span, KeySpan: names.Span{Start: 0, End: len(title)}, Score: c.score, Differs: differs}
}
