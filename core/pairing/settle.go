package pairing

import (
	"cmp"
	"slices"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/names"
)

// candidate is an owner that a name may mean all the same.
type candidate struct {
	owner  int32
	likely bool // if it stays alone
	score  float64
	doubt  message.Message
	// One of these says what is said of it, where it is: few candidates ever are.
	reading *Reading
	titled  *titled
	miss    *nearMiss
	of      *missing // of the miss
}

// missing is a run of a name's tokens that misses keys, and what the name says behind it.
type missing struct {
	run
	span names.Span
	tail names.Tail
}

// candidates are those of one name, each owner's best.
type candidates []candidate

func (cs *candidates) add(c candidate) {
	for i := range *cs {
		if (*cs)[i].owner == c.owner {
			if old := &(*cs)[i]; c.likely != old.likely && c.likely || c.likely == old.likely && old.score < c.score {
				*old = c
			}
			return
		}
	}
	*cs = append(*cs, c)
}

// settling is one core's working memory for it.
type settling struct {
	reader names.Reader
	found  candidates
	tally  tally
}

// settle says what a name is worth in which no key stands for sure: likely where one owner stands clear of the others,
// contested where two do, else unclaimed with the nearest three.
func (s *Study) settle(working *settling, file int, v *verdict, allowed *allowance) Claim {
	path := s.files[file].Path
	n := working.reader.Read(path)
	found := working.found[:0]
	defer func() { working.found = found }()
	known := s.known(file)
	strong := 0 // tokens that the key met takes
	if v.best != nil {
		r := s.index.reading(path, v.best)
		c := candidate{reading: &r, owner: s.owner(v.best), likely: true, score: .8, doubt: v.doubt}
		if v.grade == Unclaimed {
			c.score, c.likely = .6, false
		}
		strong = int(v.best.to - v.best.from)
		if variant, ok := s.variantNamed(n, v.best, r); ok {
			c = variant
		} else if v.grade == Sure {
			return s.claim(file, v, new(Reading))
		}
		found.add(c)
	}
	for _, run := range s.weak.files[int32(file)] {
		if int(run.to-run.from) <= strong && v.best != nil && v.best.fit != byFolder {
			continue
		}
		s.nearMisses(n, run, known, allowed, &found)
	}
	s.words(working, file, n, v, known, allowed, &found)
	return s.best(found)
}

// bestFirst brings the few best to the front, in their order.
func (s *Study) bestFirst(found candidates) {
	for i := range min(maxSaid, len(found)) {
		best := i
		for k := i + 1; k < len(found); k++ {
			if a, b := &found[k], &found[best]; a.score > b.score || a.score == b.score && s.first(a, b) {
				best = k
			}
		}
		found[i], found[best] = found[best], found[i]
	}
}

// first reports whether one of two candidates as good is told first: what is met before what is missed, then by key, then by
// owner.
func (s *Study) first(a, b *candidate) bool {
	if a.miss == nil || b.miss == nil {
		if (a.miss == nil) != (b.miss == nil) {
			return a.miss == nil
		}
		return s.index.compareOwners(a.owner, b.owner) < 0
	}
	return s.index.before(a.miss.key, b.miss.key) < 0
}

// best is the claim that candidates make.
func (s *Study) best(found candidates) Claim {
	s.bestFirst(found)
	if len(found) == 0 {
		return Claim{Grade: Unclaimed, Doubt: message.New("doubt_no_match")}
	}
	best := found[0]
	claim := Claim{Grade: Unclaimed}
	if best.likely {
		rivals := 0
		for _, c := range found[1:] {
			if c.likely && c.score > best.score-.1 && !(s.index.parent[best.owner] == c.owner) {
				rivals++
			}
		}
		if rivals == 0 {
			r := s.read(&best)
			return Claim{Grade: Likely, Reading: &r, Doubt: best.doubt}
		}
		claim.Grade = Contested
	}
	claim.Candidates = make([]Reading, min(maxSaid, len(found)))
	for i := range claim.Candidates {
		claim.Candidates[i] = s.read(&found[i])
	}
	claim.Doubt = best.doubt
	if claim.Grade == Contested {
		claim.Doubt = message.New("doubt_two_near")
	}
	return claim
}

// nearMisses adds what a run of the name may mean, but for fields whose key is known.
func (s *Study) nearMisses(n names.Name, run run, known []uint8, allowed *allowance, found *candidates) {
	if len(run.unit.found) == 0 {
		return
	}
	sibling := s.goesOnAsKeys(n, run)
	// A word that other keys end in tells this one apart from the key: XS is no slip of S.
	last := n.Tokens[run.to-1]
	parting := !last.Digits && s.index.kin().ends[hashWord(last.Folded)] >= fewest
	of := &missing{run, names.Span{Start: n.Tokens[run.from].Span.Start, End: n.Tokens[run.to-1].Span.End}, s.lexicon.ReadTail(n.Path,
		n.Tokens[run.to:])}
	var parts []*nearMiss
	for i := range run.unit.found {
		m := &run.unit.found[i]
		key := &s.index.keys[m.key]
		switch {
		case !allowed.met(key.field, m.way()) || slices.Contains(known, key.field):
		case m.how == partOf:
			parts = append(parts, m)
		default:
			likely := m.likely && !sibling && !(parting && m.how == bySlips && (!s.index.endsIn(key, last.Folded) ||
				s.index.called(n.Tokens[run.from:run.to-1], nil, key.field) >= 0))
			found.add(candidate{owner: key.owner, likely: likely, score: float64(m.score) - .02*float64(run.from), miss: m, of: of})
		}
	}
	// A part counts where the whole name less number, role and marks is one.
	if len(parts) == 0 || run.unit.parts > maxParts || run.from > 0 {
		return
	}
	// The shortest lacks least.
	slices.SortFunc(parts, func(a, b *nearMiss) int {
		if c := cmp.Compare(s.index.keys[a.key].length, s.index.keys[b.key].length); c != 0 {
			return c
		}
		return s.index.before(a.key, b.key)
	})
	enough, _, _ := telling(n.Tokens[run.from:run.to])
	if sibling {
		enough = false
	}
	one, family := true, true
	first := s.index.keys[parts[0].key].owner
	product := s.index.parent[first]
	if product < 0 {
		product = first
	}
	for _, m := range parts {
		owner := s.index.keys[m.key].owner
		one = one && owner == first
		family = family && (owner == product || s.index.parent[owner] == product)
	}
	if family && !one {
		r := s.readMiss(parts[0], of)
		r.Owner, r.KeySpan, r.Score = s.index.owners[product].ID, names.Span{}, .72
		found.add(candidate{owner: product, likely: enough, score: r.Score, doubt: message.New("doubt_part_of_product"),
			reading: &r})
	}
	score := .7
	if !one {
		score = .58 // before two slips, behind one
	}
	for _, m := range parts {
		found.add(candidate{owner: s.index.keys[m.key].owner, likely: one && enough, score: score, miss: m, of: of})
	}
}

// goesOnAsKeys reports whether keys begin with a run and go on as the name does behind it: then it is a key of its own, and not
// in the catalogue.
func (s *Study) goesOnAsKeys(n names.Name, run run) bool {
	if int(run.to) >= len(n.Tokens) {
		return false
	}
	if run.unit.parts > maxParts {
		return true
	}
	next := n.Tokens[run.to]
	for i := range run.unit.found {
		m := &run.unit.found[i]
		if m.how != partOf || m.from > 0 {
			continue
		}
		if pieces := s.index.pieces(&s.index.keys[m.key], nil); int(m.to) < len(pieces) {
			if p := pieces[m.to]; p.digits == next.Digits && p.end-p.start == len(next.Folded) {
				return true
			}
		}
	}
	return false
}

// read is what is said of a candidate.
func (s *Study) read(c *candidate) Reading {
	switch {
	case c.reading != nil:
		return *c.reading
	case c.titled != nil:
		return s.readTitled(c)
	}
	r := s.readMiss(c.miss, c.of)
	r.Score = c.score
	return r
}

// readMiss is what is said of a key that a run of a name misses.
func (s *Study) readMiss(m *nearMiss, of *missing) Reading {
	key := &s.index.keys[m.key]
	text := s.index.text(m.key)
	r := Reading{Owner: s.index.owners[key.owner].ID, Field: s.index.fields[key.field], Key: text, Fit: Fits[m.way()],
		Number: numberOf(of.tail.Number), Role: of.tail.Role,
		NameSpan: of.span, KeySpan: names.Span{Start: 0, End: len(text)}}
	if m.how == partOf {
		tokens := names.Tokens(text, 0)
		r.KeySpan = names.Span{Start: tokens[m.from].Span.Start, End: tokens[m.to-1].Span.End}
		r.Differs = lacks(text, r.KeySpan)
		return r
	}
	r.Differs = s.index.differs(of.unit, m)
	if letter := strings.TrimPrefix(of.unit.canonical, string(s.index.canonical(key))); len(letter) == 1 &&
		of.tail.Number == names.NoNumber && 'a' <= letter[0] && letter[0] <= 'z' {
		r.Number = numberOf(int(letter[0]-'a') + 1) // a letter right behind a key that ends in letters
	}
	return r
}

// lacks says what of a key a part lacks.
func lacks(key string, part names.Span) message.Message {
	before, after := key[:part.Start], key[part.End:]
	switch {
	case after == "":
		return message.New("lacks_before", "before", before)
	case before == "":
		return message.New("lacks_after", "after", after)
	}
	return message.New("lacks_both", "before", before, "after", after)
}
