package pairing

import (
	"cmp"
	"slices"
	"strings"

	"ambrosa/core/names"
)

// candidate is an owner that a name may mean all the same.
type candidate struct {
	Reading
	owner int32
	grade Grade // what it is worth if it stays alone
	doubt string
}

// settle says what a name is worth in which no key stands for sure: likely where one owner stands clear of the others,
// contested where two do, else unclaimed with the nearest three.
func (s *Study) settle(file int, v *verdict, allowed *allowance) Claim {
	path := s.files[file].Path
	n := names.Read(path)
	var found []candidate
	add := func(c candidate) {
		for i := range found {
			if found[i].owner == c.owner {
				if found[i].Score < c.Score {
					found[i] = c
				}
				return
			}
		}
		found = append(found, c)
	}
	known := s.known(file)
	strong := 0 // tokens that the key met takes
	if v.best != nil {
		r := s.index.reading(path, v.best)
		c := candidate{Reading: r, owner: s.owner(v.best), grade: Likely, doubt: v.doubt}
		if c.Score = .8; v.grade == Unclaimed {
			c.Score, c.grade = .6, Unclaimed
		}
		strong = int(v.best.to - v.best.from)
		if variant, ok := s.variantNamed(n, v.best, r); ok {
			c = variant
		} else if v.grade == Sure {
			return s.claim(file, v, new(Reading))
		}
		add(c)
	}
	for _, run := range s.weak.files[int32(file)] {
		if int(run.to-run.from) <= strong && v.best != nil && v.best.fit != Folder {
			continue
		}
		s.nearMisses(n, run, known, allowed, add)
	}
	s.words(n, v, known, allowed, add)
	return s.settled(found)
}

func (s *Study) settled(found []candidate) Claim {
	slices.SortStableFunc(found, func(a, b candidate) int { return cmp.Compare(b.Score, a.Score) })
	if len(found) == 0 {
		return Claim{Grade: Unclaimed, Why: "Nothing in the catalogue is called like this."}
	}
	best := found[0]
	claim := Claim{Grade: Unclaimed}
	if best.grade == Likely {
		rivals := 0
		for _, c := range found[1:] {
			if c.grade == Likely && c.Score > best.Score-.1 && !(s.index.parent[best.owner] == c.owner) {
				rivals++
			}
		}
		if rivals == 0 {
			return Claim{Grade: Likely, Reading: &best.Reading, Why: explain(&best.Reading, best.doubt)}
		}
		claim.Grade = Contested
	}
	for _, c := range found[:min(3, len(found))] {
		claim.Candidates = append(claim.Candidates, c.Reading)
	}
	switch {
	case claim.Grade == Contested:
		claim.Why = "Two owners are as near: neither can be believed."
	case best.doubt != "":
		claim.Why = best.doubt
	default:
		claim.Why = "Nobody has this key. Nearest: " + explain(&best.Reading, "")
	}
	return claim
}

// nearMisses adds what a run of the name may mean, but for fields whose key is known.
func (s *Study) nearMisses(n names.Name, run run, known []uint8, allowed *allowance, add func(candidate)) {
	if len(run.unit.found) == 0 {
		return
	}
	// Where keys go on as this name does, it is a key of its own, and not in the catalogue.
	sibling := false
	if int(run.to) < len(n.Tokens) {
		var r rolled
		at := r.set(n.Tokens[run.from:run.to], nil)
		_, sibling = s.index.extensions()[extension(r.part(0, at[len(at)-1]), len(n.Tokens[run.to].Folded), n.Tokens[run.to].Digits)]
	}
	tail := s.lexicon.ReadTail(n.Path, n.Tokens[run.to:])
	span := names.Span{Start: n.Tokens[run.from].Span.Start, End: n.Tokens[run.to-1].Span.End}
	var parts []nearMiss
	for _, m := range run.unit.found {
		key := &s.index.keys[m.key]
		if !allowed.met(key.field, m.fit()) || slices.Contains(known, key.field) {
			continue
		}
		if m.how == partOf {
			parts = append(parts, m)
			continue
		}
		keyText := s.index.key(key).Text
		number := tail.Number
		if letter := strings.TrimPrefix(run.unit.canonical, string(s.index.canonical(key))); len(letter) == 1 && number == names.NoNumber && 'a' <= letter[0] && letter[0] <= 'z' {
			number = int(letter[0]-'a') + 1 // a letter right behind a key that ends in letters
		}
		add(candidate{owner: key.owner, grade: grade(m.likely && !sibling), Reading: Reading{Owner: s.index.owners[key.owner].ID, Field: s.index.fields[key.field], Key: keyText, Fit: Near,
			Number: numberOf(number), Role: tail.Role, NameSpan: span, KeySpan: names.Span{Start: 0, End: len(keyText)},
			Score: float64(m.score) - .02*float64(run.from), Differs: s.index.differs(run.unit, &m)}})
	}
	// A part counts where the whole name less number, role and marks is one.
	if len(parts) == 0 || run.unit.parts > maxParts || run.from > 0 {
		return
	}
	enough, _ := telling(n.Tokens[run.from:run.to])
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
		key := s.index.key(&s.index.keys[parts[0].key]).Text
		add(candidate{owner: product, grade: grade(enough), doubt: "The keys it is a part of are all of this product.", Reading: Reading{
			Owner: s.index.owners[product].ID, Field: s.index.fields[s.index.keys[parts[0].key].field], Key: key, Fit: Part, Number: numberOf(tail.Number), Role: tail.Role,
			NameSpan: span, KeySpan: names.Span{Start: 0, End: 0}, Score: .72, Differs: missing(key, partSpan(key, parts[0]))}})
	}
	for _, m := range parts {
		key := &s.index.keys[m.key]
		text := s.index.key(key).Text
		c := candidate{owner: key.owner, grade: grade(one && enough), Reading: Reading{Owner: s.index.owners[key.owner].ID, Field: s.index.fields[key.field], Key: text, Fit: Part,
			Number: numberOf(tail.Number), Role: tail.Role, NameSpan: span, KeySpan: partSpan(text, m), Score: .7, Differs: missing(text, partSpan(text, m))}}
		if !one {
			c.Score = .58 // before two slips, behind one
		}
		add(c)
	}
}

func grade(likely bool) Grade {
	if likely {
		return Likely
	}
	return Unclaimed
}

// partSpan is where in a key's text a part stands.
func partSpan(key string, m nearMiss) names.Span {
	tokens := names.Tokens(key, 0)
	return names.Span{Start: tokens[m.from].Span.Start, End: tokens[m.to-1].Span.End}
}

// missing says what of a key a part lacks.
func missing(key string, part names.Span) string {
	var lacks []string
	if part.Start > 0 {
		lacks = append(lacks, "“"+key[:part.Start]+"” before")
	}
	if part.End < len(key) {
		lacks = append(lacks, "“"+key[part.End:]+"” behind")
	}
	return "it lacks " + strings.Join(lacks, " and ")
}
