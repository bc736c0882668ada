package pairing

import (
	"cmp"
	"fmt"
	"runtime"
	"slices"
	"strings"
	"sync"

	"ambrosa/core/names"
)

// Pair reads every file against the index, on all cores, by the cells of the ladder; an empty ladder is every
// cell. Claims come in the order of the files. The cost is linear in the names' and, where names are left over,
// the keys' bytes.
func Pair(ix *Index, files []File, ladder Ladder) []Claim {
	read := make([]reading, len(files))
	var wg sync.WaitGroup
	workers := runtime.GOMAXPROCS(0)
	for w := range workers {
		wg.Go(func() {
			for i := w * len(files) / workers; i < (w+1)*len(files)/workers; i++ {
				read[i] = ix.read(files[i], ladder)
			}
		})
	}
	wg.Wait()
	// Which owners are numbered in this delivery decides whether the last number of a longer key could also
	// be the number of a shorter one, so it is known only after every name is read.
	numbered := map[int64]int{}
	rests := map[string]map[int64]bool{}
	for _, r := range read {
		if len(r.best) == 1 && r.best[0].rest != "" {
			rest := r.best[0].rest
			if rests[rest] == nil {
				rests[rest] = map[int64]bool{}
			}
			if len(rests[rest]) < habit {
				rests[rest][r.best[0].Owner] = true
			}
		}
		if len(r.best) == 1 && r.best[0].Number != nil {
			numbered[r.best[0].Owner]++
		}
	}
	claims := make([]Claim, len(files))
	var left []*leftover
	var of []int
	for i, r := range read {
		if r.ignored == "" && (len(r.best) == 0 || r.doubtful(rests)) {
			n := names.Read(files[i].Path)
			o := &leftover{name: n, core: names.Core(n.Path, n.Tokens)}
			for _, b := range r.best {
				// What stands beside the key may say that a variant is meant, or another owner altogether.
				o.found = append(o.found, candidate{Reading: b, score: .8, grade: Likely})
			}
			left, of = append(left, o), append(of, i)
			continue
		}
		claims[i] = ix.judge(files[i], r, numbered)
	}
	ix.weigh(left, ladder)
	for l, o := range left {
		claims[of[l]] = o.settle()
	}
	return claims
}

// reading is what one name allows: best are the readings by the longest keys, shadowed those by a key that
// is the beginning of a longer one with only a number between them.
type reading struct {
	ignored  string
	best     []Reading
	shadowed []Reading
}

// habit is at how many owners' names the same words behind a key are a supplier's habit and say nothing.
const habit = 5

// doubtful reports whether a name holds a key but says more that nobody has explained: a title among other
// words, or a key followed by something that is not the delivery's habit. PK-140-ABM holds the product PK-140,
// and means its variant PK-140-AMB.
func (r reading) doubtful(rests map[string]map[int64]bool) bool {
	if len(r.best) == 1 && r.best[0].Fit == Within && r.best[0].rest != "" && r.best[0].Field != Barcode {
		return len(rests[r.best[0].rest]) < habit
	}
	return !slices.ContainsFunc(r.best, func(b Reading) bool { return b.Field != Title || b.Fit != Within })
}

func (ix *Index) read(f File, ladder Ladder) reading {
	if f.Ignored != "" {
		return reading{ignored: f.Ignored}
	}
	n := names.Read(f.Path)
	if n.Litter != "" {
		return reading{ignored: n.Litter}
	}
	hits := ix.find(n.Tokens)
	var r reading
	for _, h := range hits {
		longer := slices.IndexFunc(hits, func(o hit) bool {
			return o.from <= h.from && h.to <= o.to && o.to-o.from > h.to-h.from
		})
		if longer < 0 {
			r.best = append(r.best, ix.reading(n, h))
			continue
		}
		over := hits[longer]
		inner := ix.reading(n, h)
		if over.from == h.from && inner.Number != nil && inner.Fit == Whole && over.to == len(n.Tokens) {
			r.shadowed = append(r.shadowed, inner)
		}
	}
	refused := func(r Reading) bool { return !ladder.allows(r.Field, r.Fit) }
	if r.best = slices.DeleteFunc(r.best, refused); len(r.best) == 0 {
		r.best = slices.DeleteFunc(ix.folders(n), refused)
	}
	r.best = ix.closest(r.best)
	slices.SortStableFunc(r.best, func(a, b Reading) int {
		return cmp.Or(cmp.Compare(b.NameSpan.End-b.NameSpan.Start, a.NameSpan.End-a.NameSpan.Start), cmp.Compare(a.NameSpan.Start, b.NameSpan.Start))
	})
	return r
}

func (ix *Index) reading(n names.Name, h hit) Reading {
	owner := ix.owners[h.owner]
	key := owner.Keys[h.key]
	tail := names.ReadTail(n.Path, n.Tokens[h.to:])
	r := Reading{
		Owner: owner.ID, Field: key.Field, Fit: Within, Number: tail.Number, Role: tail.Role,
		NameSpan: names.Span{Start: n.Tokens[h.from].Span.Start, End: n.Tokens[h.to-1].Span.End},
		KeySpan:  names.Span{Start: 0, End: len(key.Text)},
	}
	r.rest = names.Canonical(tail.Rest)
	if h.from == 0 && r.rest == "" {
		r.Fit = Whole
	}
	r.Folded = folded(n.Path[r.NameSpan.Start:r.NameSpan.End], key.Text)
	return r
}

// folders reads the folders for a key, the nearest to the file first: one that is a key as a whole.
func (ix *Index) folders(n names.Name) []Reading {
	end := n.Stem.Start - 1
	for end > 0 {
		start := strings.LastIndexAny(n.Path[:end], `/\`) + 1
		tokens := names.Tokens(n.Path[start:end], start)
		var found []Reading
		for _, h := range ix.find(tokens) {
			if h.from != 0 || h.to != len(tokens) {
				continue
			}
			owner := ix.owners[h.owner]
			key := owner.Keys[h.key]
			tail := names.ReadTail(n.Path, n.Tokens)
			r := Reading{Owner: owner.ID, Field: key.Field, Fit: Folder, Number: tail.Number, Role: tail.Role,
				NameSpan: names.Span{Start: tokens[0].Span.Start, End: tokens[len(tokens)-1].Span.End},
				KeySpan:  names.Span{Start: 0, End: len(key.Text)}, alone: len(tail.Rest) == 0}
			r.Folded = folded(n.Path[r.NameSpan.Start:r.NameSpan.End], key.Text)
			found = append(found, r)
		}
		if len(found) > 0 {
			return found
		}
		end = start - 1
	}
	return nil
}

// closest drops a product where one of its variants is named too: the name says which of them.
func (ix *Index) closest(readings []Reading) []Reading {
	if len(readings) < 2 {
		return readings
	}
	parents := map[int64]bool{}
	for _, r := range readings {
		if parent := ix.owners[ix.byID[r.Owner]].Parent; parent != 0 {
			parents[parent] = true
		}
	}
	return slices.DeleteFunc(readings, func(r Reading) bool { return parents[r.Owner] })
}

// folded says what differs between two texts whose canonical forms are the same.
func folded(name, key string) []string {
	if name == key {
		return nil
	}
	letters := func(s string) string {
		return strings.Map(func(r rune) rune {
			if r < 0x80 && !('0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z') {
				return -1
			}
			return r
		}, s)
	}
	var what []string
	a, b := letters(name), letters(key)
	if len(a) != len(name) || len(b) != len(key) {
		if separators(name) != separators(key) {
			what = append(what, "separators")
		}
	}
	if a != b {
		if strings.EqualFold(a, b) {
			what = append(what, "case")
		} else {
			what = append(what, "spelling")
		}
	}
	return what
}

func separators(s string) string {
	return strings.Map(func(r rune) rune {
		if '0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || r >= 0x80 {
			return 'x'
		}
		return r
	}, s)
}

func (ix *Index) judge(f File, r reading, numbered map[int64]int) Claim {
	if r.ignored != "" {
		return Claim{Grade: Ignored, Why: sentence(r.ignored)}
	}
	first := r.best[0]
	rivals := slices.DeleteFunc(slices.Clone(r.best), func(o Reading) bool { return o.Owner == first.Owner })
	if len(rivals) > 0 {
		why := "Two keys stand in this name."
		if rivals[0].NameSpan == first.NameSpan {
			why = fmt.Sprintf("%d owners have this key.", 1+len(rivals))
		}
		return Claim{Grade: Contested, Candidates: append([]Reading{first}, rivals...), Why: why}
	}
	for _, s := range r.shadowed {
		if s.Owner != first.Owner && numbered[s.Owner] > 0 {
			return Claim{Grade: Contested, Candidates: []Reading{first, s},
				Why: fmt.Sprintf("It reads as one key, or as number %d of a shorter key that has other numbers here.", *s.Number)}
		}
	}
	claim := Claim{Grade: Sure, Reading: &first}
	span := f.Path[first.NameSpan.Start:first.NameSpan.End]
	switch {
	case first.Fit == Within && (first.Field == Title || !telling(span)), first.Fit == Folder && !first.alone:
		claim.Grade = Likely
	}
	claim.Why = explain(first, claim.Grade)
	return claim
}

// telling reports whether a key says enough to be believed in the middle of other words: four letters or
// digits, a digit among them.
func telling(key string) bool {
	count, digit := 0, false
	for _, t := range names.Tokens(key, 0) {
		count += len(t.Folded)
		digit = digit || t.Digits
	}
	return count >= 4 && digit
}

// fieldName is what people call a key.
func fieldName(f Field) string {
	if f == SKU {
		return "SKU"
	}
	return string(f)
}

func explain(r Reading, g Grade) string {
	var b strings.Builder
	switch r.Fit {
	case Whole:
		fmt.Fprintf(&b, "The name is the %s", fieldName(r.Field))
	case Folder:
		fmt.Fprintf(&b, "The folder is the %s", fieldName(r.Field))
	default:
		fmt.Fprintf(&b, "The %s stands within the name", fieldName(r.Field))
	}
	if len(r.Folded) > 0 {
		fmt.Fprintf(&b, ", %s apart", strings.Join(r.Folded, " and "))
	}
	b.WriteString(".")
	if r.Number != nil {
		fmt.Fprintf(&b, " Number %d.", *r.Number)
	}
	if r.Role != "" {
		fmt.Fprintf(&b, " Shows the %s.", r.Role)
	}
	switch {
	case g != Likely:
	case r.Fit == Folder:
		b.WriteString(" The file's own name says something else.")
	case r.Field == Title:
		b.WriteString(" Titles are words that other names may use too.")
	case r.rest != "":
		b.WriteString(" What follows it is not explained.")
	default:
		b.WriteString(" So short a key could stand there by chance.")
	}
	return b.String()
}

func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] + "." }
