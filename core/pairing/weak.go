package pairing

import (
	"cmp"
	"encoding/binary"
	"slices"
	"strings"

	"ambrosa/core/cores"
	"ambrosa/core/names"
)

const (
	minNear  = 4  // letters and digits below which a slip could be anything
	minPart  = 3  // bytes below which a part of a key says nothing
	maxTwice = 24 // and beyond which only one slip is looked for
	// maxTwiceWork is names times keys beyond which two slips are not looked for: among so many they lead to too many.
	maxTwiceWork = 50_000_000_000

	maxHeads = 2  // tokens before a key that a supplier's prefix may have
	maxSaid  = 3  // candidates that people are told
	maxFound = 12 // candidates kept for one run of tokens
	maxZeros = 6  // bytes that a name may be longer than the longest key: hyphens and zeros
	maxParts = 64 // keys that a run is a part of, beyond which it says nothing
)

// weakStudy holds what names may mean that hold no key, computed for those that need it.
type weakStudy struct {
	weighed []bool
	files   map[int32][]run // by file
	titled  [][]scored      // by file: the owners whose titles stand in its name; nil where they were not sought
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

// weigh looks for the keys that the names of so many files may mean: what they are a part of, are but for leading zeros,
// or one or two slips apart from. It goes once over the keys, asking for each whether a name wants it: time grows with
// the keys and the names, never with their product.
func (s *Study) weigh(files []int32) {
	w := &s.weak
	if w.weighed == nil {
		w.weighed, w.files = make([]bool, len(s.files)), map[int32][]run{}
		if slices.Contains(s.index.fields, Title) {
			w.titled = make([][]scored, len(s.files))
		}
	}
	drafts := make([][]draft, len(files))
	cores.Share(len(files), func(_, from, to int) {
		var reader names.Reader
		for i := from; i < to; i++ {
			if f := files[i]; !w.weighed[f] {
				drafts[i] = s.draft(&reader, f)
			}
		}
	})
	var fresh []*unit
	byText := map[string]*unit{}
	total := 0
	for i := range drafts {
		total += len(drafts[i])
	}
	runs, space := make([]run, 0, total), make([]unit, 0, total)
	for i, f := range files {
		if w.weighed[f] {
			continue
		}
		w.weighed[f] = true
		first := len(runs)
		for _, d := range drafts[i] {
			u := byText[d.canonical]
			if u == nil {
				space = append(space, unit{canonical: d.canonical, text: d.text, zeroless: d.zeroless})
				u = &space[len(space)-1]
				byText[u.canonical] = u
				fresh = append(fresh, u)
			}
			u.likeliest = u.likeliest || d.likeliest
			runs = append(runs, run{u, d.from, d.to})
		}
		if len(runs) > first {
			w.files[f] = runs[first:len(runs):len(runs)]
		}
	}
	// A bounded number of names at a time keeps the memory bounded, at the price of one more walk over the keys.
	if len(fresh) == 0 {
		return
	}
	// In order, so that where a hash leads to too many the same ones are told, however the names came.
	inOrder(fresh)
	keyed := s.keyTexts()
	for batch := range slices.Chunk(fresh, 400_000) {
		s.search(batch)
		s.searchSlips(batch, keyed, oneSlip, 1)
	}
	if fresh = slices.DeleteFunc(fresh, s.tooFar); len(fresh)*len(s.index.keys) > maxTwiceWork {
		return
	}
	for batch := range slices.Chunk(fresh, 200_000) {
		s.searchSlips(batch, keyed, twoSlips, 2)
	}
}

// inOrder sorts units by their text. Most are told apart by its first eight bytes.
func inOrder(units []*unit) {
	type headed struct {
		head uint64
		unit *unit
	}
	all := make([]headed, len(units))
	for i, u := range units {
		var first [8]byte
		copy(first[:], u.canonical)
		all[i] = headed{binary.BigEndian.Uint64(first[:]), u}
	}
	slices.SortFunc(all, func(a, b headed) int {
		if c := cmp.Compare(a.head, b.head); c != 0 {
			return c
		}
		return strings.Compare(a.unit.canonical, b.unit.canonical)
	})
	for i := range all {
		units[i] = all[i].unit
	}
}

// tooFar reports whether two slips are not worth looking for in a unit.
func (s *Study) tooFar(u *unit) bool {
	if !u.likeliest || len(u.text) < minNear || len(u.text) > maxTwice || len(u.text) > s.index.longestCode+2 {
		return true
	}
	// Nor where one slip leads to as many keys of every field as are said.
	nearer := make([]int, len(s.index.fields))
	for _, m := range u.found {
		if m.likely {
			return true
		}
		if m.how == bySlips && m.score > twiceAtMost {
			nearer[s.index.keys[m.key].field]++
		}
	}
	for f, field := range s.index.fields {
		if field != Title && nearer[f] < maxSaid {
			return false
		}
	}
	return true
}

// known are the fields whose key stands plainly in a name: it has no slip in it, whether or not it is paired by.
func (s *Study) known(file int) []uint8 {
	var known []uint8
	for _, m := range s.met(file) {
		if m.agreement == strict && m.rest == 0 && m.fit != byFolder {
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

// draft returns the runs of a name that may be a damaged key: the whole of it and what is left of it less number, role
// and marks, each also without the first tokens, which may be a supplier's prefix.
func (s *Study) draft(reader *names.Reader, file int32) (drafts []draft) {
	defer func() {
		if recover() != nil {
			drafts = nil
		}
	}()
	n := reader.Read(s.files[file].Path)
	if len(n.Tokens) == 0 || len(n.Tokens) > maxNameTokens || s.lexicon.IsCamera(n.Path, n.Tokens) || s.coded(s.known(int(file))) {
		return nil
	}
	drafts = make([]draft, 0, 2)
	var space [128]byte
	b := space[:0]
	core := len(s.lexicon.Core(n.Path, n.Tokens))
	first, last := 0, min(maxHeads, core-1)
	for f := last; f > 0; f-- {
		if s.habits.heads[restHash(n.Tokens, upTo(f))] {
			first, last = f, f // what many names begin with is no part of a key
		}
	}
	for from := first; from <= last; from++ {
		for _, to := range []int{core, len(n.Tokens)} {
			if len(drafts) > 0 && int(drafts[len(drafts)-1].from) == from && int(drafts[len(drafts)-1].to) == to {
				continue
			}
			tokens := n.Tokens[from:to]
			if s.saysOtherwise(n, from, to) {
				continue
			}
			b = appendCanonical(b[:0], tokens)
			if len(b) < 3 || len(b) > s.index.longestCode+maxZeros || len(tokens) > maxKeyTokens {
				continue
			}
			d := draft{from: int16(from), to: int16(to), likeliest: from == first || s.habits.heads[restHash(n.Tokens, upTo(from))]}
			canonical := len(b)
			for _, t := range tokens {
				b = append(b, t.Folded...)
			}
			b = append(b[:canonical], foldAlike(b[canonical:])...)
			text := len(b)
			for _, t := range tokens {
				b = append(append(b, stripZeros(t)...), ' ')
			}
			all := string(b)
			d.canonical, d.text, d.zeroless = all[:canonical], all[canonical:text], all[text:]
			drafts = append(drafts, d)
		}
	}
	return drafts
}

// saysOtherwise reports whether a run is no key of one owner: an order's number or a date, or two keys joined by a plus.
func (s *Study) saysOtherwise(n names.Name, from, to int) bool {
	for i := from + 1; i < to; i++ {
		if names.Added(n.Path, n.Tokens[i]) {
			return true
		}
	}
	for i := 0; i <= from; {
		_, takes := s.lexicon.SenseAt(n.Path, n.Tokens, i)
		if takes > 0 && i+takes >= to {
			return true
		}
		i += max(takes, 1)
	}
	return false
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

// add keeps a near miss: of slips the best few, and of those as good the first by their keys.
func (u *unit) add(ix *Index, m nearMiss) {
	if m.how == partOf {
		if u.parts++; u.parts > maxParts {
			return
		}
		u.found = append(u.found, m)
		return
	}
	near := 0
	worst := -1
	for i := range u.found {
		if u.found[i].how == partOf {
			continue
		}
		if u.found[i].key == m.key {
			if u.found[i].score < m.score {
				u.found[i] = m
			}
			return
		}
		near++
		if worst < 0 || ix.better(&u.found[worst], &u.found[i]) {
			worst = i
		}
	}
	switch {
	case near < maxFound:
		u.found = append(u.found, m)
	case ix.better(&m, &u.found[worst]):
		u.found[worst] = m
	}
}

// better reports whether one near miss comes before another.
func (ix *Index) better(a, b *nearMiss) bool {
	if a.score != b.score {
		return a.score > b.score
	}
	return ix.before(a.key, b.key) < 0
}
