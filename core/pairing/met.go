package pairing

import (
	"maps"
	"slices"
	"strings"

	"ambrosa/core/names"
)

// met is a key standing in a path on token boundaries, with what stands beside it.
type met struct {
	key        int32 // into the index's keys
	fit        way
	from, to   int16 // tokens of the text it stands in, end exclusive
	level      int8  // 0 in the name, 1 in the nearest folder and so on
	number     int16
	notation   names.Notation
	agreement  agreement
	spelling   names.Spelling // how the name writes it, where that is without its umlauts and accents
	sense      names.Sense    // what else it may be, as what it stands in says
	among      company        // what is named with it
	all        bool           // it is all of what the sense says
	mixed      bool           // the name says something of another sense too
	dated      bool           // a date stands right before it
	compact    bool           // no separator stands in what was met
	across     bool           // it stands in several parts of the path
	shifted    bool           // separators stand elsewhere than in the key
	glued      bool           // a letter or digit stands right against it
	numberOnly bool           // the file's own name is a number, of a key that is a folder
	alike      bool           // what follows stands behind the same separator as the key's own parts
	start, end int32          // bytes of the path
	role       uint8          // what the picture shows, by its place among roles
	head, rest uint64         // of what stands before and behind the key and is no number, role or mark; 0 for nothing
	goesOn     uint32         // of the key and the shape of what follows it; 0 where nothing does, or a role or mark
	nextWord   uint32         // of the word that follows unexplained, 0 where none does
	headWord   uint32         // of the word right before it, unexplained
	below      uint64         // of what the folders between it and the file say, where it is a folder; 0 for nothing
	belowWord  uint32         // of their one word, 0 where there are more
	letter     uint32         // of the letter right behind it that reads as a number
	nextLength uint8          // of the word that follows, in bytes
	nextDigits bool           // and whether it is digits
	nextMixed  bool           // digits and letters without a separator, as codes have them
	restWords  uint8          // how many words follow unexplained
}

// way is a fit by its place among Fits.
type way uint8

const (
	byWhole way = iota
	byWithin
	byPart
	byFolder
	byWords
	byNear
)

// roleNames are what pictures show, the empty one first; roleNumbers their places.
var (
	roleNames   = append([]string{""}, slices.Sorted(maps.Keys(roleOrder))...)
	roleNumbers = func() map[string]uint8 {
		of := map[string]uint8{}
		for i, role := range roleNames {
			if _, known := of[role]; !known {
				of[role] = uint8(i)
			}
		}
		return of
	}()
)

func roleNumber(role string) uint8 {
	if role == "" {
		return 0
	}
	return roleNumbers[role]
}

// company says whether a name names a key alone.
type company uint8

const (
	alone     company = iota
	withOther         // another owner's key stands with it as in PK-10+20
	withGone          // something that looks like a key and is none does
	inRange           // it begins a range as in GRY-36-44
)

// hand is one core's working memory for reading names.
type hand struct {
	rolled
	flat      rolled // the same text without what parts digits
	flatSpans []span
	reader    names.Reader
	folder    []names.Token
	path      []names.Token // of the nearest folders and the name
	spans     []span
	borders   []int // where given, only keys that stand on both sides of one are looked for
	mets      []met
	ignored   []ignored
}

const (
	maxNameTokens = 256 // tokens of a name that are read; longer ones are no names
	maxMets       = 256 // keys that are told of one name
	longName      = 64  // tokens of a name beyond which
	maxMetsOfLong = 12  // only so many are
	deepest       = 120 // folders that are read, the nearest first
	maxAcross     = 3   // folders that a key may stand in
)

// read returns the keys that stand in a name: in its stem, else in its folders. lexicon says what is no key.
func (ix *Index) read(w *hand, n names.Name, lexicon names.Lexicon) []met {
	w.mets = w.mets[:0]
	tokens := n.Tokens[:min(len(n.Tokens), maxNameTokens)]
	ix.find(w, n.Path, tokens, 0, lexicon)
	for i := range w.mets {
		ix.surround(w, &w.mets[i], n.Path, tokens, lexicon)
	}
	ix.makeSense(w, 0, n.Path, tokens, lexicon)
	w.dropExplained(ix, n.Path, tokens, lexicon)
	ix.findCompany(w, n.Path, tokens, lexicon)
	if n.Stem.Start > 0 {
		ix.readFolders(w, n, tokens, lexicon)
	}
	return w.mets
}

// surround reads what stands before and behind the key.
func (ix *Index) surround(w *hand, m *met, path string, tokens []names.Token, lexicon names.Lexicon) {
	tail := lexicon.ReadTail(path, tokens[m.to:])
	m.number, m.notation, m.role = int16(tail.Number), tail.Notation, roleNumber(tail.Role)
	m.rest = restHash(tokens[m.to:], tail.Rest)
	m.restWords = uint8(min(len(tail.Rest), 255))
	open := len(tail.Rest) > 0 && tail.Rest[0] == 0
	if open {
		next := tokens[m.to]
		m.nextWord, m.nextLength, m.nextDigits = hashWord(next.Folded), uint8(min(len(next.Folded), 255)), next.Digits
		m.nextMixed = int(m.to)+1 < len(tokens) && next.Digits && len(next.Folded) > 1 && tokens[m.to+1].Span.Start <= next.Span.End
	}
	if tail.Notation == names.Lettered && tail.NumberSpan == tokens[m.to].Span {
		m.letter = hashWord(tokens[m.to].Folded)
	}
	if next := int(m.to); next < len(tokens) && (open || tail.NumberSpan == tokens[next].Span || !tokens[next].Digits &&
		lexicon[tokens[next].Folded].Role == "") {
		m.goesOn = extension(ix.keys[m.key].hash, len(tokens[next].Folded), tokens[next].Digits)
		m.alike = alikeParted(path, tokens, int(m.from), next)
	}
	if m.from > 0 {
		head := lexicon.ReadTail(path, tokens[:m.from])
		m.head = restHash(tokens, head.Rest)
		if head.Notation == names.Lettered {
			m.head = restHash(tokens, []int{int(m.from) - 1}) // a letter before a key is no number: M in M10
		}
		if last := len(head.Rest) - 1; last >= 0 && head.Rest[last] == int(m.from)-1 {
			m.headWord = hashWord(tokens[m.from-1].Folded)
		}
		if m.role == 0 {
			m.role = roleNumber(head.Role)
		}
		if m.number == names.NoNumber && m.head == 0 && head.Notation != names.Lettered {
			m.number, m.notation = int16(head.Number), head.Notation
		}
	}
	m.fit = byWithin
	if m.head == 0 && m.rest == 0 {
		m.fit = byWhole
	}
}

// alikeParted reports whether token next stands behind what the key from one token on is parted by itself; a key of one
// part, behind a hyphen, a point or a slash.
func alikeParted(path string, tokens []names.Token, from, next int) bool {
	between := func(i int) string {
		if a, b := tokens[i-1].Span.End, tokens[i].Span.Start; a < b {
			return path[a:b]
		}
		return ""
	}
	gap := between(next)
	parted, points := false, false // what parts the key, and whether that is no hyphen
	for i := from + 1; i < next; i++ {
		own := between(i)
		if own == gap && own != "" {
			return true
		}
		parted = parted || own != ""
		points = points || own == "." || own == "/" || own == " "
	}
	if !parted {
		return gap == "-" || gap == "." || gap == "/" || gap == ""
	}
	return gap == "-" && points
}

// makeSense says of the mets from one on what else they may be, by what they stand in.
func (ix *Index) makeSense(w *hand, first int, path string, tokens []names.Token, lexicon names.Lexicon) {
	ask := false
	for _, m := range w.mets[first:] {
		key := &ix.keys[m.key]
		ask = ask || key.numeric || !key.telling || key.tokens <= 2
	}
	if !ask {
		return
	}
	said := names.NoSense
	for i := 0; i < len(tokens); {
		sense, n := lexicon.SenseAt(path, tokens, i)
		if n == 0 {
			i++
			continue
		}
		from, to := int16(i), int16(i+n)
		for k := first; k < len(w.mets) && sense == names.Date; k++ {
			w.mets[k].dated = w.mets[k].dated || w.mets[k].from == to
		}
		mixed := said == names.Counter
		if said != names.Counter {
			said = sense
		}
		for k := first; k < len(w.mets); k++ {
			m := &w.mets[k]
			inside := from <= m.from && m.to <= to
			cuts := from <= m.from && m.from < to && !inside && n > 1
			if key := &ix.keys[m.key]; inside && !ix.isBarcode(key) || cuts && key.numeric && !ix.isBarcode(key) || inside &&
				sense != names.Date && sense != names.Year {
				m.sense, m.all, m.mixed = sense, m.from == from && m.to == to, mixed
			} else if m.sense != names.NoSense && sense == names.Counter {
				m.mixed = true
			}
		}
		i += n
	}
}

// restHash is what words beside a key are known by; 0 for none.
func restHash(tokens []names.Token, rest []int) uint64 {
	var h uint64
	for _, i := range rest {
		for j := range len(tokens[i].Folded) {
			h = h*base + uint64(tokens[i].Folded[j]) + 1
		}
		h = mix(h)
	}
	return h
}

// dropExplained drops keys that are but a number, size, date or mark beside another key: 12 in PK-100_12, 2001 in B7_2001.
func (w *hand) dropExplained(ix *Index, path string, tokens []names.Token, lexicon names.Lexicon) {
	if len(w.mets) < 2 {
		return
	}
	better := func(a, b *met) bool {
		x, y := &ix.keys[a.key], &ix.keys[b.key]
		if x.telling != y.telling {
			return x.telling
		}
		if a.fit != b.fit && !x.telling {
			return a.fit == byWhole
		}
		return a.end-a.start > b.end-b.start
	}
	best := -1
	for i := range w.mets {
		m := &w.mets[i]
		if m.agreement != strict || m.sense != names.NoSense || !ix.keys[m.key].telling && m.fit != byWhole {
			continue
		}
		if best < 0 || better(m, &w.mets[best]) {
			best = i
		}
	}
	if best < 0 {
		return
	}
	b := w.mets[best]
	open := map[int]bool{}
	for _, i := range lexicon.ReadTail(path, tokens[b.to:]).Rest {
		open[int(b.to)+i] = true
	}
	for _, i := range lexicon.ReadTail(path, tokens[:b.from]).Rest {
		open[i] = true
	}
	kept := w.mets[:0]
	for _, m := range w.mets {
		key := &ix.keys[m.key]
		little := !key.telling || key.numeric && key.length <= 5 || ix.fields[key.field] == Title && key.tokens == 1
		explained := (m.to <= b.from || m.from >= b.to) && (little || m.sense != names.NoSense)
		for t := int(m.from); t < int(m.to); t++ {
			explained = explained && !open[t]
		}
		if !explained {
			kept = append(kept, m)
		}
	}
	w.mets = kept
}

// reading turns a met key into what is said of it.
func (ix *Index) reading(path string, m *met) Reading {
	key := &ix.keys[m.key]
	text := ix.text(m.key)
	return Reading{Owner: ix.owners[key.owner].ID, Field: ix.fields[key.field], Key: text, Fit: Fits[m.fit], Number: numberOf(int(m.number)),
		Role:     roleNames[m.role],
		NameSpan: names.Span{Start: int(m.start), End: int(m.end)}, KeySpan: names.Span{Start: 0, End: len(text)},
		Score: 1, Folded: folded(path[m.start:m.end], text)}
}

// numbers are what a Reading's Number points to, so that a million of them cost nothing.
var numbers = func() (all [10_000]int) {
	for i := range all {
		all[i] = i
	}
	return all
}()

func numberOf(n int) *int {
	if n < 0 || n >= len(numbers) {
		return nil
	}
	return &numbers[n]
}

// folded says what differs between two texts whose canonical forms are the same.
func folded(name, key string) []string {
	if name == key {
		return nil
	}
	plain := func(s string) string {
		return strings.Map(func(r rune) rune {
			if r < 0x80 && !('0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z') {
				return -1
			}
			return r
		}, s)
	}
	a, b := plain(name), plain(key)
	switch {
	case a == b:
		return onlySeparators
	case strings.EqualFold(a, b) && separators(name) == separators(key):
		return onlyCase
	case strings.EqualFold(a, b):
		return separatorsAndCase
	}
	if strings.TrimLeft(a, "0") == strings.TrimLeft(b, "0") {
		return leadingZeros
	}
	return spelling
}

var (
	onlySeparators    = []string{"folded_separators"}
	onlyCase          = []string{"folded_case"}
	separatorsAndCase = []string{"folded_separators", "folded_case"}
	leadingZeros      = []string{"folded_zeros"}
	spelling          = []string{"folded_spelling"}
)

func separators(s string) string {
	return strings.Map(func(r rune) rune {
		if '0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || r >= 0x80 {
			return 'x'
		}
		return r
	}, s)
}

// shapeOf is what a key's tokens and what follows it look like.
func (m *met) shapeOf(pieces []piece) (shape uint64) {
	for _, p := range pieces {
		shape = addShape(shape, p.end-p.start, p.digits)
	}
	return addShape(shape, int(m.nextLength), m.nextDigits)
}

// looseOf is shapeOf where short words are alike.
func (m *met) looseOf(pieces []piece) (shape uint64) {
	for _, p := range pieces {
		shape = addLoose(shape, p.end-p.start, p.digits)
	}
	return addLoose(shape, int(m.nextLength), m.nextDigits)
}
