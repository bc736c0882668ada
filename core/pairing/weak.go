package pairing

import (
	"bytes"
	"runtime"
	"slices"
	"strings"
	"sync"

	"ambrosa/core/names"
)

const (
	minNear  = 4  // letters and digits below which a slip could be anything
	maxTwice = 24 // and beyond which only one slip is looked for
	// maxTwiceKeys is how many keys are searched for two slips: among more, two slips lead to too many.
	maxTwiceKeys = 400_000

	maxHeads = 2  // tokens before a key that a supplier's prefix may have
	maxFound = 12 // candidates kept for one run of tokens
	maxParts = 64 // keys that a run is a part of, beyond which it says nothing
)

// weakStudy holds what names may mean that hold no key, computed for those that need it.
type weakStudy struct {
	weighed []bool
	files   map[int32][]run
}

// run is some tokens of a file's name, and the unit that all runs with this text share.
type run struct {
	unit     *unit
	from, to int16
}

// unit is a text that may be a damaged key: looked for once, however many names have it.
type unit struct {
	text      string // folded, less what separates
	canonical string
	zeroless  string // with the leading zeros of numbers gone
	found     []nearMiss
	parts     int  // keys it is a part of
	likeliest bool // the whole name less number, role and marks, so that two slips are worth looking for
}

// nearMiss is a key that a unit may mean.
type nearMiss struct {
	key      int32
	fit      Fit
	score    float32
	grade    Grade // what it is worth where it stays alone
	from, to int16 // of a part: which of the key's tokens
	differs  string
}

// alike folds what the eye confuses: the letter o and the digit 0; i, l and 1; and the letters of other scripts that
// look like Latin ones. Source: confusables.txt of UTS #39, as far as it concerns single letters of keys.
var alike = strings.NewReplacer("o", "0", "i", "1", "l", "1",
	"а", "a", "в", "b", "е", "e", "к", "k", "м", "m", "н", "h", "о", "0", "р", "p", "с", "c", "т", "t", "х", "x", "у", "y", "і", "1", "ѕ", "s",
	"α", "a", "β", "b", "ε", "e", "η", "n", "ι", "1", "κ", "k", "μ", "m", "ν", "v", "ο", "0", "ρ", "p", "τ", "t", "υ", "u", "χ", "x")

// weigh looks for the keys that the names of these files may mean: what they are a part of, are but for leading zeros,
// or one or two slips apart from. It goes once over the keys, asking for each whether a name wants it: time grows with
// the keys and the names, never with their product.
func (s *Study) weigh(files []int32) {
	w := &s.weak
	if w.weighed == nil {
		w.weighed, w.files = make([]bool, len(s.files)), map[int32][]run{}
	}
	drafts := make([][]draft, len(files))
	each(len(files), func(i int) {
		if !w.weighed[files[i]] {
			drafts[i] = s.draft(files[i])
		}
	})
	var fresh []*unit
	byText := map[string]*unit{}
	for i, f := range files {
		w.weighed[f] = true
		for _, d := range drafts[i] {
			u := byText[d.canonical]
			if u == nil {
				u = &unit{canonical: d.canonical, text: d.text, zeroless: d.zeroless}
				byText[u.canonical] = u
				fresh = append(fresh, u)
			}
			u.likeliest = u.likeliest || d.likeliest
			w.files[f] = append(w.files[f], run{u, d.from, d.to})
		}
	}
	// A bounded number of names at a time keeps the memory bounded, at the price of one more walk over the keys.
	for batch := range slices.Chunk(fresh, 400_000) {
		s.search(batch, false)
	}
	fresh = slices.DeleteFunc(fresh, func(u *unit) bool {
		return !u.likeliest || len(u.text) < minNear || len(u.text) > maxTwice || len(u.text) > s.index.longestCode+2 || slices.ContainsFunc(u.found, func(m nearMiss) bool { return m.grade == Likely })
	})
	if len(s.index.keys) > maxTwiceKeys {
		return
	}
	for batch := range slices.Chunk(fresh, 50_000) {
		s.search(batch, true)
	}
}

// known are the fields whose key stands plainly in a name: it has no slip in it, whether or not it is paired by.
func (s *Study) known(file int) []uint8 {
	var known []uint8
	for _, m := range s.met(file) {
		if m.agreement == strict && m.rest == 0 && m.fit != Folder {
			known = append(known, s.index.keys[m.key].field)
		}
	}
	return known
}

// coded reports whether every code that owners have is among the fields.
func (s *Study) coded(known []uint8) bool {
	if len(known) == 0 {
		return false
	}
	for f, field := range s.index.fields {
		if field != Title && field != Barcode && !slices.Contains(known, uint8(f)) {
			return false
		}
	}
	return true
}

// upTo are the places before n.
func upTo(n int) []int { return heads[:n] }

var heads = [maxHeads]int{0, 1}

// draft is a run of a name's tokens before it has its unit.
type draft struct {
	canonical, text, zeroless string
	from, to                  int16
	likeliest                 bool
}

// draft gives the runs of a name that may be a damaged key: the whole of it and what is left of it less number, role
// and marks, each also without the first tokens, which may be a supplier's prefix.
func (s *Study) draft(file int32) []draft {
	n := names.Read(s.files[file].Path)
	if len(n.Tokens) == 0 || len(n.Tokens) > maxNameTokens || s.lexicon.IsCamera(n.Path, n.Tokens) || s.coded(s.known(int(file))) {
		return nil
	}
	var drafts []draft
	var b []byte
	core := len(s.lexicon.Core(n.Path, n.Tokens))
	for from := range min(maxHeads+1, core) {
		for _, to := range []int{core, len(n.Tokens)} {
			if len(drafts) > 0 && int(drafts[len(drafts)-1].from) == from && int(drafts[len(drafts)-1].to) == to {
				continue
			}
			tokens := n.Tokens[from:to]
			b = appendCanonical(b[:0], tokens)
			if len(b) < 3 || len(b) > 2*s.index.longestCode+2 || len(tokens) > maxKeyTokens {
				continue
			}
			d := draft{canonical: string(b), from: int16(from), to: int16(to), likeliest: from == 0 || s.habits.heads[restHash(n.Tokens, upTo(from))]}
			b = b[:0]
			for _, t := range tokens {
				b = append(b, t.Folded...)
			}
			d.text = alike.Replace(string(b))
			b = b[:0]
			for _, t := range tokens {
				b = append(append(b, stripZeros(t)...), ' ')
			}
			d.zeroless = string(b)
			drafts = append(drafts, d)
		}
	}
	return drafts
}

func stripZeros(t names.Token) string {
	if !t.Digits {
		return t.Folded
	}
	if s := strings.TrimLeft(t.Folded, "0"); s != "" {
		return s
	}
	return "0"
}

// search looks for the units among the keys, on all cores. twice looks for two slips, else for one, for parts and for
// leading zeros.
func (s *Study) search(units []*unit, twice bool) {
	if len(units) == 0 {
		return
	}
	longest, entries := 0, 0
	for _, u := range units {
		n := len(u.text)
		longest = max(longest, n)
		if entries += n + 3; twice {
			entries += n * (n - 1) / 2
		}
	}
	sh := newShelf(units, entries, func(r *rolled, u *unit, put func(hash uint64)) {
		if len(u.text) >= minNear && len(u.text) <= s.index.longestCode+2 {
			r.setText(u.text)
			r.deletions(0, len(r.text), twice, put)
		}
		if !twice {
			r.setText(u.canonical)
			put(mix(r.part(0, len(r.text))) ^ saltPart)
			r.setText(u.zeroless)
			put(mix(r.part(0, len(r.text))) ^ saltZeros)
		}
	})
	var half *halves
	if twice {
		half = newHalves(units)
	}
	type hit struct {
		unit int32
		miss nearMiss
	}
	workers := runtime.GOMAXPROCS(0)
	hits := make([][]hit, workers)
	var wg sync.WaitGroup
	for w := range workers {
		wg.Go(func() {
			var r rolled
			var pieces []piece
			var seen []int32
			for k := w * len(s.index.keys) / workers; k < (w+1)*len(s.index.keys)/workers; k++ {
				key := &s.index.keys[k]
				if s.index.fields[key.field] == Title {
					continue
				}
				put := func(unit int32, m nearMiss) {
					m.key = int32(k)
					hits[w] = append(hits[w], hit{unit, m})
				}
				canonical := s.index.canonical(key)
				if twice && (len(canonical) > longest+10 || len(canonical) > maxTwice+2) {
					continue
				}
				pieces = s.index.pieces(key, pieces[:0])
				if s.index.fields[key.field] == Barcode {
					canonical = bytes.TrimLeft(canonical, "0")
					pieces = append(pieces[:0], piece{0, len(canonical), true})
				}
				if !twice {
					partsOf(sh, units, &r, pieces, canonical, put)
				}
				if len(canonical) < minNear {
					continue
				}
				r.text = r.text[:0]
				for _, p := range pieces {
					r.text = append(r.text, canonical[p.start:p.end]...)
				}
				r.roll()
				alikeInPlace(&r)
				if twice && !half.may(&r) {
					continue
				}
				seen = seen[:0]
				var keyText string
				r.deletions(0, len(r.text), twice, func(h uint64) {
					sh.find(h, func(u int32) {
						if slices.Contains(seen, u) {
							return
						}
						seen = append(seen, u)
						if keyText == "" {
							keyText = string(r.text)
						}
						if m, ok := nearness(units[u], keyText, canonical); ok {
							put(u, m)
						}
					})
				})
			}
		})
	}
	wg.Wait()
	for _, part := range hits {
		for _, h := range part {
			units[h.unit].add(h.miss)
		}
	}
}

func alikeInPlace(r *rolled) {
	folded := false
	for i, c := range r.text {
		switch {
		case c == 'o':
			r.text[i] = '0'
		case c == 'i' || c == 'l':
			r.text[i] = '1'
		case c >= 0x80:
			r.text = append(r.text[:0], alike.Replace(string(r.text))...)
			r.roll()
			return
		default:
			continue
		}
		folded = true
	}
	if folded {
		r.roll()
	}
}

// partsOf looks for units that are a run of the key's tokens, or the key but for leading zeros.
func partsOf(sh *shelf, units []*unit, r *rolled, pieces []piece, canonical []byte, put func(int32, nearMiss)) {
	r.text = r.text[:0]
	zeros := false
	for _, p := range pieces {
		text := canonical[p.start:p.end]
		if p.digits {
			zeros = true
			if text = bytes.TrimLeft(text, "0"); len(text) == 0 {
				text = canonical[p.end-1 : p.end]
			}
		}
		r.text = append(append(r.text, text...), ' ')
	}
	if zeros {
		r.roll()
		sh.find(mix(r.part(0, len(r.text)))^saltZeros, func(at int32) {
			u := units[at]
			if u.zeroless == string(r.text) && u.canonical != string(canonical) {
				// A spreadsheet eats all the leading zeros or none.
				m := nearMiss{fit: Near, score: .78, grade: Unclaimed, differs: zerosDiffer}
				if bare(u.canonical, u.zeroless) || bare(string(canonical), u.zeroless) {
					m.score, m.grade = .9, Likely
				}
				put(at, m)
			}
		})
	}
	if len(pieces) < 2 {
		return
	}
	r.text = append(r.text[:0], canonical...)
	r.roll()
	for i, first := range pieces {
		for j, last := range pieces[i:] {
			if i == 0 && j == len(pieces)-1 || last.end-first.start < 3 {
				continue
			}
			sh.find(mix(r.part(first.start, last.end))^saltPart, func(at int32) {
				if units[at].canonical == string(canonical[first.start:last.end]) {
					put(at, nearMiss{fit: Part, score: .7, grade: Likely, from: int16(i), to: int16(i + j + 1)})
				}
			})
		}
	}
}

// bare reports whether no number of a text has leading zeros.
func bare(canonical, zeroless string) bool {
	return strings.ReplaceAll(canonical, "-", "") == strings.ReplaceAll(zeroless, " ", "")
}

const (
	zerosDiffer  = "leading zeros differ"
	groupsDiffer = "its digits are grouped otherwise"
)

// nearness weighs a slip. A swapped, dropped or added letter, or one the eye confuses, is likely a slip; another letter,
// and any digit, may as well mean another product.
func nearness(u *unit, keyText string, canonical []byte) (nearMiss, bool) {
	if u.canonical == string(canonical) {
		return nearMiss{}, false // that is no near miss but the key itself
	}
	m := nearMiss{fit: Near, grade: Unclaimed}
	if u.text == keyText {
		plain := strings.ReplaceAll(string(canonical), "-", "")
		if strings.ReplaceAll(u.canonical, "-", "") == plain {
			m.score, m.differs = .8, groupsDiffer
			return m, true
		}
		m.score, m.grade, m.differs = .88, Likely, difference(strings.ReplaceAll(u.canonical, "-", ""), plain)
		return m, true
	}
	d := distance(u.text, keyText, 2)
	switch {
	case d == 1 && digits(u.text) == digits(keyText) && (len(u.text) != len(keyText) || sortedBytes(u.text) == sortedBytes(keyText)):
		m.score, m.grade = .86, Likely
	case d == 1 && sortedBytes(u.text) == sortedBytes(keyText):
		m.score = .75
	case d == 1 && len(u.text) != len(keyText):
		m.score = .72
	case d == 1:
		m.score = .65
	case d == 2 && len(keyText) >= minNear+1:
		m.score = .5
		if sortedBytes(u.text) == sortedBytes(keyText) {
			m.score = .55
		}
	default:
		return m, false
	}
	if len(keyText) <= minNear {
		m.grade = Unclaimed
	}
	m.differs = difference(strings.ReplaceAll(u.canonical, "-", ""), strings.ReplaceAll(string(canonical), "-", ""))
	return m, true
}

func digits(s string) string {
	return strings.Map(func(r rune) rune {
		if '0' <= r && r <= '9' {
			return r
		}
		return -1
	}, s)
}

func sortedBytes(s string) string {
	b := []byte(s)
	slices.Sort(b)
	return string(b)
}

func (u *unit) add(m nearMiss) {
	if m.fit == Part {
		if u.parts++; u.parts > maxParts {
			return
		}
		u.found = append(u.found, m)
		return
	}
	near := 0
	worst := -1
	for i := range u.found {
		if u.found[i].fit != Near {
			continue
		}
		if u.found[i].key == m.key {
			if u.found[i].score < m.score {
				u.found[i] = m
			}
			return
		}
		near++
		if worst < 0 || u.found[i].score < u.found[worst].score {
			worst = i
		}
	}
	switch {
	case near < maxFound:
		u.found = append(u.found, m)
	case u.found[worst].score < m.score:
		u.found[worst] = m
	}
}
