package pairing

import (
	"strings"

	"ambrosa/core/gtin"
	"ambrosa/core/names"
)

// met is a key standing in a path on token boundaries, with what stands beside it.
type met struct {
	key        int32 // into the index's keys
	fit        Fit
	from, to   int16 // tokens of the text it stands in, end exclusive
	level      int16 // 0 in the name, 1 in the nearest folder and so on
	number     int16
	notation   names.Notation
	agreement  agreement
	compact    bool   // no separator stands in what was met
	start, end int32  // bytes of the path
	role       string // what the picture shows
	head, rest uint64 // of what stands before and behind the key and is no number, role or mark; 0 for nothing
	goesOn     uint64 // of the key and the shape of what follows it unexplained; 0 where nothing does
}

// hand is one core's working memory for reading names.
type hand struct {
	rolled
	reader names.Reader
	folder []names.Token
	at     []int
	mets   []met
}

// maxNameTokens is how many tokens of a name are read; longer ones are no names.
const maxNameTokens = 256

// read gives the keys that stand in a name: in its stem, else in its folders. lexicon says what is no key.
func (ix *Index) read(w *hand, n names.Name, lexicon names.Lexicon) []met {
	w.mets = w.mets[:0]
	tokens := n.Tokens[:min(len(n.Tokens), maxNameTokens)]
	ix.find(w, n.Path, tokens, 0, lexicon)
	for i := range w.mets {
		ix.surround(w, &w.mets[i], n.Path, tokens, lexicon)
	}
	w.dropExplained(ix, n.Path, tokens, lexicon)
	own := len(w.mets)
	if n.Stem.Start > 0 {
		ix.readFolders(w, n, tokens, lexicon)
	}
	if lexicon.IsCamera(n.Path, tokens) {
		// A counter that is somebody's key is a counter all the same.
		kept := w.mets[:0]
		for i, m := range w.mets {
			if i >= own || m.from == 0 {
				kept = append(kept, m)
			}
		}
		w.mets = kept
	}
	return w.mets
}

// find appends every key that stands in the tokens.
func (ix *Index) find(w *hand, path string, tokens []names.Token, level int16, lexicon names.Lexicon) {
	w.at = w.set(tokens, w.at[:0])
	for i := range tokens {
		for j := i; j < len(tokens) && j-i < 2*ix.longest+2; j++ {
			for k := ix.first(mix(w.part(w.at[i], w.at[j+1]))); k != 0; k = ix.keys[k-1].next {
				key := &ix.keys[k-1]
				if ix.fields[key.field] == Barcode {
					continue
				}
				if how := agree(ix.canonical(key), tokens[i:j+1]); how != apart && !lexicon.CutsSize(path, tokens, j) {
					w.mets = append(w.mets, meeting(k-1, tokens, i, j+1, level, how))
				}
			}
		}
		if tokens[i].Digits && ix.barcodes {
			ix.findBarcode(w, tokens, i, level)
		}
	}
}

func meeting(key int32, tokens []names.Token, from, to int, level int16, how agreement) met {
	m := met{key: key, from: int16(from), to: int16(to), level: level, agreement: how, number: names.NoNumber, compact: true,
		start: int32(tokens[from].Span.Start), end: int32(tokens[to-1].Span.End)}
	for i := from + 1; i < to; i++ {
		m.compact = m.compact && tokens[i-1].Span.End == tokens[i].Span.Start
	}
	return m
}

// findBarcode reads digits, also in groups, as a barcode with a right check digit.
func (ix *Index) findBarcode(w *hand, tokens []names.Token, i int, level int16) {
	var digits [14]byte
	n := 0
	for j := i; j < len(tokens) && tokens[j].Digits && n+len(tokens[j].Folded) <= len(digits); j++ {
		n += copy(digits[n:], tokens[j].Folded)
		form, ok := gtin.Fourteen(string(digits[:n]))
		if !ok {
			continue
		}
		for k := ix.first(barcodeHash(form)); k != 0; k = ix.keys[k-1].next {
			if key := &ix.keys[k-1]; ix.fields[key.field] == Barcode && string(ix.canonical(key)) == form {
				w.mets = append(w.mets, meeting(k-1, tokens, i, j+1, level, strict))
			}
		}
	}
}

// surround reads what stands before and behind the key.
func (ix *Index) surround(w *hand, m *met, path string, tokens []names.Token, lexicon names.Lexicon) {
	tail := lexicon.ReadTail(path, tokens[m.to:])
	m.number, m.notation, m.role = int16(tail.Number), tail.Notation, tail.Role
	m.rest = restHash(tokens[m.to:], tail.Rest)
	if len(tail.Rest) > 0 && tail.Rest[0] == 0 {
		m.goesOn = extension(w.part(w.at[m.from], w.at[m.to]), len(tokens[m.to].Folded), tokens[m.to].Digits)
	}
	if m.from > 0 {
		head := lexicon.ReadTail(path, tokens[:m.from])
		m.head = restHash(tokens, head.Rest)
		if m.role == "" {
			m.role = head.Role
		}
		if m.number == names.NoNumber && m.head == 0 && head.Notation != names.Lettered {
			m.number, m.notation = int16(head.Number), head.Notation
		}
	}
	m.fit = Within
	if m.head == 0 && m.rest == 0 {
		m.fit = Whole
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

// dropExplained drops keys that are but a number, size, date or mark beside a longer key: 12 in PK-100_12.
func (w *hand) dropExplained(ix *Index, path string, tokens []names.Token, lexicon names.Lexicon) {
	if len(w.mets) < 2 {
		return
	}
	best := -1
	for i := range w.mets {
		m := &w.mets[i]
		if m.agreement == strict && ix.keys[m.key].telling && (best < 0 || m.end-m.start > w.mets[best].end-w.mets[best].start) {
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
		explained := (m.to <= b.from || m.from >= b.to) && (!key.telling || key.numeric && key.length <= 5)
		for t := int(m.from); t < int(m.to); t++ {
			explained = explained && !open[t]
		}
		if !explained {
			kept = append(kept, m)
		}
	}
	w.mets = kept
}

// readFolders appends the keys that folders are, the nearest to the file first; and those that begin in a folder and
// end in the name, as a SKU with a slash in it does.
func (ix *Index) readFolders(w *hand, n names.Name, own []names.Token, lexicon names.Lexicon) {
	tail := lexicon.ReadTail(n.Path, own)
	var rest uint64
	if !lexicon.IsCamera(n.Path, own) {
		rest = restHash(own, tail.Rest)
	}
	level := int16(0)
	for at := range n.FolderSpans {
		level++
		w.folder = names.AppendTokens(w.folder[:0], n.Path[at.Start:at.End], at.Start)
		tokens := w.folder
		if len(tokens) == 0 || len(tokens) > maxNameTokens {
			continue
		}
		first := len(w.mets)
		ix.find(w, n.Path, tokens, level, lexicon)
		for i := first; i < len(w.mets); i++ {
			m := &w.mets[i]
			ix.surround(w, m, n.Path, tokens, lexicon)
			whole := m.fit == Whole
			m.fit, m.number, m.notation, m.rest, m.goesOn = Folder, int16(tail.Number), tail.Notation, rest, 0
			if !whole {
				m.head = 1
			}
			if tail.Role != "" {
				m.role = tail.Role
			}
			if !ix.keys[m.key].telling && !whole || m.agreement != strict {
				w.mets[i].key = -1
			}
		}
		kept := w.mets[:first]
		for _, m := range w.mets[first:] {
			if m.key >= 0 {
				kept = append(kept, m)
			}
		}
		w.mets = kept
	}
	ix.across(w, n, own, lexicon)
}

// across reads keys that begin in the nearest folders and end in the name.
func (ix *Index) across(w *hand, n names.Name, own []names.Token, lexicon names.Lexicon) {
	if len(own) == 0 || len(w.mets) > 0 {
		return
	}
	folders := n.Folders()
	if len(folders) == 0 || len(folders[0]) == 0 {
		return
	}
	var tokens []names.Token
	for i := min(len(folders), 3) - 1; i >= 0; i-- {
		tokens = append(tokens, folders[i]...)
	}
	border := int16(len(tokens))
	if tokens = append(tokens, own...); len(tokens) > maxNameTokens {
		return
	}
	ix.find(w, n.Path, tokens, 0, lexicon)
	kept := w.mets[:0]
	for _, m := range w.mets {
		if m.from < border && m.to > border && ix.keys[m.key].telling && m.agreement == strict {
			ix.surround(w, &m, n.Path, tokens, lexicon)
			m.fit = Folder
			m.head = 0
			kept = append(kept, m)
		}
	}
	w.mets = kept
}

// reading turns a met key into what is said of it.
func (ix *Index) reading(path string, m *met) Reading {
	key := &ix.keys[m.key]
	text := ix.text(m.key)
	return Reading{Owner: ix.owners[key.owner].ID, Field: ix.fields[key.field], Key: text, Fit: m.fit, Number: numberOf(int(m.number)), Role: m.role,
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
	onlySeparators    = []string{"separators"}
	onlyCase          = []string{"case"}
	separatorsAndCase = []string{"separators", "case"}
	leadingZeros      = []string{"leading zeros"}
	spelling          = []string{"spelling"}
)

func separators(s string) string {
	return strings.Map(func(r rune) rune {
		if '0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || r >= 0x80 {
			return 'x'
		}
		return r
	}, s)
}
