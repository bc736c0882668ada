package pairing

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"ambrosa/core/names"
)

// candidate is an owner that a name nobody claims may mean, with what it is worth between 0 and 1.
type candidate struct {
	Reading
	score float64
	grade Grade // what it is worth if it stays alone: Likely or Unclaimed
	how   string
}

// leftover is a file whose name holds no key, with what it may mean all the same.
type leftover struct {
	name  names.Name
	core  []names.Token
	found []candidate
}

// ref says which tokens of which leftover a hash stands for.
type ref struct {
	left     int32
	from, to int16
}

const (
	minNear    = 5  // letters and digits below which a slip could be anything
	maxPrefix  = 3  // tokens before the key that a supplier's prefix may have
	maxRefs    = 64 // leftovers behind one hash, beyond which it says nothing
	maxPerName = 12 // candidates kept while searching
)

// weigh tries the weak fits on the leftovers. It goes once over the keys, asking for each whether a leftover
// wants it, so memory grows with the leftovers and time with keys and leftovers, never with their product.
func (ix *Index) weigh(left []*leftover, ladder Ladder) {
	if len(left) == 0 {
		return
	}
	zeros, parts, nears := map[uint64][]ref{}, map[uint64][]ref{}, map[uint64][]ref{}
	put := func(m map[uint64][]ref, h uint64, r ref) {
		if refs := m[h]; len(refs) < maxRefs && !slices.Contains(refs, r) {
			m[h] = append(refs, r)
		}
	}
	for l, o := range left {
		tokens := o.name.Tokens
		if len(tokens) > 64 || names.IsCamera(tokens) {
			continue
		}
		end := len(o.core)
		for from := range min(maxPrefix+1, end) {
			for _, to := range []int{end, len(tokens)} {
				r := ref{int32(l), int16(from), int16(to)}
				run := tokens[from:to]
				put(zeros, hashRun(hashStart, zeroless(run)), r)
				if telling(names.Canonical(run)) {
					put(parts, hashRun(hashStart, run), r)
				}
				if s := alike.Replace(names.Canonical(run)); len(s) >= minNear {
					deletions(s, func(h uint64) { put(nears, h, r) })
				}
			}
		}
	}
	for _, owner := range ix.owners {
		for _, key := range owner.Keys {
			if key.Field == Title || key.Text == "" {
				continue
			}
			tokens := names.Tokens(key.Text, 0)
			canonical := names.Canonical(tokens)
			if len(tokens) == 0 || len(canonical) == 1 || len(tokens) > 32 {
				continue
			}
			whole := names.Span{Start: 0, End: len(key.Text)}
			if key.Field != Barcode && ladder.allows(key.Field, Near) {
				for _, r := range zeros[hashRun(hashStart, zeroless(tokens))] {
					if names.Canonical(left[r.left].name.Tokens[r.from:r.to]) == canonical {
						continue // that is no near miss but the key itself
					}
					left[r.left].add(owner.ID, key.Field, Near, r, whole, .9, Likely, "but for leading zeros")
				}
			}
			for i := range tokens {
				for j := i + 1; j <= len(tokens) && ladder.allows(key.Field, Part); j++ {
					if j-i == len(tokens) {
						continue
					}
					for _, r := range parts[hashRun(hashStart, tokens[i:j])] {
						left[r.left].add(owner.ID, key.Field, Part, r, names.Span{Start: tokens[i].Span.Start, End: tokens[j-1].Span.End}, .7, Likely, "")
					}
				}
			}
			if s := alike.Replace(canonical); len(s) >= minNear && ladder.allows(key.Field, Near) {
				deletions(s, func(h uint64) {
					for _, r := range nears[h] {
						left[r.left].near(owner.ID, key.Field, r, whole, canonical)
					}
				})
			}
		}
	}
	if ladder.allows(Title, Words) {
		ix.words(left)
	}
}

// zeroless is the tokens with the leading zeros of numbers gone, as a spreadsheet leaves them.
func zeroless(tokens []names.Token) []names.Token {
	out := slices.Clone(tokens)
	for i, t := range out {
		if t.Digits {
			if out[i].Folded = strings.TrimLeft(t.Folded, "0"); out[i].Folded == "" {
				out[i].Folded = "0"
			}
		}
	}
	return out
}

func (o *leftover) add(owner int64, field Field, fit Fit, r ref, key names.Span, score float64, grade Grade, how string) {
	tokens := o.name.Tokens[r.from:r.to]
	c := candidate{score: score, grade: grade, how: how, Reading: Reading{Owner: owner, Field: field, Fit: fit, KeySpan: key,
		NameSpan: names.Span{Start: tokens[0].Span.Start, End: tokens[len(tokens)-1].Span.End}}}
	tail := names.ReadTail(o.name.Path, o.name.Tokens[r.to:])
	c.Number, c.Role = tail.Number, tail.Role
	if r.from > 0 {
		c.score -= .02 * float64(r.from)
	}
	for i, other := range o.found {
		if other.Owner == owner {
			if other.score < c.score {
				o.found[i] = c
			}
			return
		}
	}
	if len(o.found) < maxPerName {
		o.found = append(o.found, c)
		return
	}
	worst := 0
	for i := range o.found {
		if o.found[i].score < o.found[worst].score {
			worst = i
		}
	}
	if o.found[worst].score < c.score {
		o.found[worst] = c
	}
}

// near weighs a slip. A swapped, dropped or added letter, or one the eye confuses, is likely a slip; another
// digit may as well be another product.
func (o *leftover) near(owner int64, field Field, r ref, key names.Span, canonical string) {
	name := names.Canonical(o.name.Tokens[r.from:r.to])
	if name == canonical {
		return // separators between digits differ: T-1002 for T-100-2 is no slip but another key
	}
	if alike.Replace(name) == alike.Replace(canonical) {
		o.add(owner, field, Near, r, key, .88, Likely, "a letter and a digit that look alike")
		return
	}
	switch d := distance(name, canonical); {
	case d == 1 && digits(name) == digits(canonical):
		o.add(owner, field, Near, r, key, .86, Likely, "one slip apart")
	case d == 1 && sameDigits(name, canonical):
		o.add(owner, field, Near, r, key, .7, Unclaimed, "two digits swapped")
	case d == 1:
		o.add(owner, field, Near, r, key, .6, Unclaimed, "one digit apart")
	case d == 2 && len(canonical) >= minNear+3:
		o.add(owner, field, Near, r, key, .5, Unclaimed, "two slips apart")
	}
}

func digits(s string) string {
	return strings.Map(func(r rune) rune {
		if '0' <= r && r <= '9' {
			return r
		}
		return -1
	}, s)
}

func sameDigits(a, b string) bool {
	x, y := []byte(digits(a)), []byte(digits(b))
	slices.Sort(x)
	slices.Sort(y)
	return string(x) == string(y)
}

// words weighs titles by their words, the rare ones more (inverse document frequency: K. Spärck Jones, "A
// statistical interpretation of term specificity", 1972). A variant has its product's words and its own.
func (ix *Index) words(left []*leftover) {
	vocabulary := map[string][]int32{}
	for l, o := range left {
		for _, t := range o.name.Tokens {
			if refs := vocabulary[t.Folded]; len(refs) == 0 || refs[len(refs)-1] != int32(l) {
				vocabulary[t.Folded] = append(refs, int32(l))
			}
		}
	}
	frequency := map[string]int{}
	documents := make([][]string, len(ix.owners))
	for i, o := range ix.owners {
		documents[i] = ix.document(o)
		for _, w := range documents[i] {
			frequency[w]++
		}
	}
	idf := func(w string) float64 { return math.Log(1 + float64(len(ix.owners))/float64(1+frequency[w])) }
	met := make(map[int32]float64)
	for i, o := range ix.owners {
		clear(met)
		total := 0.0
		for _, w := range documents[i] {
			total += idf(w)
			if refs := vocabulary[w]; len(refs) <= 4*maxRefs || frequency[w] < 1000 {
				for _, l := range refs {
					met[l] += idf(w)
				}
			}
		}
		if len(documents[i]) < 2 {
			continue
		}
		for l, sum := range met {
			if coverage := sum / total; coverage >= .6 {
				grade := Unclaimed
				if coverage > .999 {
					grade = Likely
				}
				r := ref{l, 0, int16(min(len(left[l].core), math.MaxInt16))}
				// More words met is better where all are met: the variant before its product.
				left[l].add(o.ID, Title, Words, r, names.Span{}, .8*coverage+.002*float64(min(len(documents[i]), 40)), grade, "")
			}
		}
	}
}

func (ix *Index) document(o Owner) []string {
	var all []string
	take := func(text string) {
		for _, t := range names.Tokens(text, 0) {
			if !slices.Contains(all, t.Folded) && len(all) < 64 {
				all = append(all, t.Folded)
			}
		}
	}
	title := func(o Owner) {
		for _, k := range o.Keys {
			if k.Field == Title {
				take(k.Text)
			}
		}
	}
	if p, ok := ix.byID[o.Parent]; ok && o.Parent != 0 {
		title(ix.owners[p])
	}
	title(o)
	for _, text := range o.Also {
		take(text)
	}
	return all
}

// settle says what a leftover is worth: likely where one owner stands clear of the others, else unclaimed
// with the nearest three.
func (o *leftover) settle() Claim {
	slices.SortStableFunc(o.found, func(a, b candidate) int { return cmp.Compare(b.score, a.score) })
	claim := Claim{Grade: Unclaimed, Why: "Nothing in the catalogue is called like this."}
	if len(o.found) == 0 {
		return claim
	}
	best := o.found[0]
	if best.grade == Likely && (len(o.found) == 1 || o.found[1].score < best.score-.001) && !o.rivalled(best) {
		claim.Grade, claim.Reading, claim.Why = Likely, &best.Reading, best.explain()
		return claim
	}
	for _, c := range o.found[:min(3, len(o.found))] {
		c.Score = c.score
		claim.Candidates = append(claim.Candidates, c.Reading)
	}
	claim.Why = "Nobody has this key. Nearest: " + best.explain()
	return claim
}

// rivalled reports whether another owner is nearly as good by the same fit, so that neither can be believed.
func (o *leftover) rivalled(best candidate) bool {
	return slices.ContainsFunc(o.found[1:], func(c candidate) bool {
		return c.Fit == best.Fit && c.grade == Likely && c.score > best.score-.06 && best.Fit != Words
	})
}

func (c candidate) explain() string {
	switch c.Fit {
	case Within:
		return explain(c.Reading, Likely)
	case Part:
		return "The name is a part of one key, and of no other."
	case Words:
		return "The words of its title stand in the name."
	}
	return "The name is the " + fieldName(c.Field) + ", " + c.how + "."
}
