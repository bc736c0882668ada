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

// Pair reads every file against the index, on all cores. Claims come in the order of the files. The cost
// is linear in the names' bytes.
func Pair(ix *Index, files []File) []Claim {
	read := make([]reading, len(files))
	var wg sync.WaitGroup
	workers := runtime.GOMAXPROCS(0)
	for w := range workers {
		wg.Go(func() {
			for i := w * len(files) / workers; i < (w+1)*len(files)/workers; i++ {
				read[i] = ix.read(files[i])
			}
		})
	}
	wg.Wait()
	// Which owners are numbered in this delivery decides whether the last number of a longer key could also
	// be the number of a shorter one, so it is known only after every name is read.
	numbered := map[int64]int{}
	for _, r := range read {
		if len(r.best) == 1 && r.best[0].Number != nil {
			numbered[r.best[0].Owner]++
		}
	}
	claims := make([]Claim, len(files))
	for i, r := range read {
		claims[i] = ix.judge(files[i], r, numbered)
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

func (ix *Index) read(f File) reading {
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
	if h.from == 0 && len(tail.Rest) == 0 {
		r.Fit = Whole
	}
	r.Folded = folded(n.Path[r.NameSpan.Start:r.NameSpan.End], key.Text)
	return r
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
	if len(r.best) == 0 {
		return Claim{Grade: Unclaimed, Why: "No SKU of the catalogue stands in this name."}
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
	if first.Fit == Within && !telling(span) {
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

func explain(r Reading, g Grade) string {
	var b strings.Builder
	if r.Fit == Whole {
		b.WriteString("The name is the SKU")
	} else {
		b.WriteString("The SKU stands within the name")
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
	if g == Likely {
		b.WriteString(" So short a key could stand there by chance.")
	}
	return b.String()
}

func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] + "." }
