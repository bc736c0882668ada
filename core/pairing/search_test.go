package pairing

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/names"
)

// What the index finds in a name is what a plain search over every key and every run of tokens finds.
func TestFindAgainstPlainSearch(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	word := func() string {
		return []string{"a", "ab", "b", "1", "12", "2", "-", "_", " ", ".", "AB", "é"}[r.IntN(12)]
	}
	text := func(n int) string {
		var b strings.Builder
		for range r.IntN(n) + 1 {
			b.WriteString(word())
		}
		return b.String()
	}
	var skus []string
	same := map[string]int{}
	for len(skus) < 300 {
		sku := text(5)
		if key := names.Canonical(names.Tokens(sku, 0)); same[key] < maxSame { // of more, not all are told
			same[key]++
			skus = append(skus, sku)
		}
	}
	ix := NewIndex(owners(skus...))
	unfit := map[int64]bool{}
	for _, u := range ix.Unfit {
		unfit[u.Owner] = true
	}
	var w hand
	for range 2000 {
		path := text(9)
		tokens := names.Tokens(path, 0)
		var want, got []string
		for k, sku := range skus {
			key := names.Canonical(names.Tokens(sku, 0))
			for i := range tokens {
				for j := i + 1; j <= len(tokens) && !unfit[int64(k+1)]; j++ {
					if names.Canonical(tokens[i:j]) == key {
						want = append(want, fmt.Sprint(k, i, j))
					}
				}
			}
		}
		w.mets = w.mets[:0]
		ix.find(&w, path, tokens, 0, names.Trade)
		for _, m := range w.mets {
			if m.agreement == strict {
				got = append(got, fmt.Sprint(ix.keys[m.key].owner, m.from, m.to))
			}
		}
		slices.Sort(want)
		slices.Sort(got)
		if !slices.Equal(got, want) {
			t.Fatalf("in %q stand %v, want %v", path, got, want)
		}
	}
}

// The keys found near a name are exactly those that comparing it with every key finds: by one slip all, by two where one
// slip does not lead to enough.
func TestNearAgainstPlainSearch(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 9))
	const letters = "ABCDEFGHJKMNPQRSTUVWXYZ"
	styles := map[string]func() string{
		"lettered": func() string {
			return fmt.Sprintf("%c%c-%0*d-%c%c", letters[r.IntN(8)], letters[r.IntN(8)], r.IntN(3)+2, r.IntN(100), letters[r.IntN(8)], letters[r.IntN(8)])
		},
		"digits": func() string { return fmt.Sprintf("%0*d", r.IntN(3)+6, r.IntN(1_000_000)) },
		"long": func() string {
			return fmt.Sprintf("ABBA-%d%d%d-CC-%c%c", r.IntN(9), r.IntN(9), r.IntN(9), letters[r.IntN(8)], letters[r.IntN(8)])
		},
	}
	fold := func(s string) string {
		return string(foldAlike([]byte(strings.ToLower(strings.ReplaceAll(s, "-", "")))))
	}
	for style, sku := range styles {
		seen := map[string]bool{}
		var skus []string
		for range 3000 {
			if s := sku(); !seen[s] {
				seen[s] = true
				skus = append(skus, s)
			}
		}
		w := &writer{Rand: r}
		s := NewStudy(NewIndex(owners(skus...)), nil)
		one, two := 0, 0
		for range 120 {
			name := w.slip(skus[r.IntN(len(skus))])
			if r.IntN(3) > 0 {
				name = w.slip(name)
			}
			if seen[strings.ToUpper(name)] || len(fold(name)) <= minNear {
				continue
			}
			s.files = paths(name + ".jpg")
			s.weak = weakStudy{}
			s.worker, s.from, s.to, s.mets = make([]uint8, 1), make([]uint32, 1), make([]uint32, 1), [][]met{nil}
			s.weigh([]int32{0})
			var got, want []string
			lone := len(s.weak.files[0]) > 0 && s.weak.files[0][0].unit.text == fold(name)
			if !lone {
				continue // it reads as a key and a number, so that less than the name is looked for
			}
			likely := false
			for _, m := range s.weak.files[0][0].unit.found {
				if m.how != partOf {
					got = append(got, s.index.text(m.key))
					likely = likely || m.likely
				}
			}
			var within [3][]string
			for _, sku := range skus {
				if d := distance(fold(name), fold(sku), 2); d == 0 && names.Canonical(names.Tokens(name, 0)) == names.Canonical(names.Tokens(sku, 0)) {
					continue // the key itself
				} else if d <= 2 {
					within[d] = append(within[d], sku)
				}
			}
			one += len(within[0]) + len(within[1])
			want = slices.Concat(within[0], within[1])
			if !likely && len(within[1]) < maxSaid {
				want = append(want, within[2]...)
				two += len(within[2])
			}
			if len(want) > maxFound {
				continue // only the best are kept
			}
			slices.Sort(got)
			slices.Sort(want)
			if missing := slices.DeleteFunc(want, func(s string) bool { return slices.Contains(got, s) }); len(missing) > 0 {
				t.Errorf("%s: near %s stand %v too", style, name, missing)
			}
		}
		if one < 50 || two < 50 {
			t.Errorf("%s: only %d keys stood one slip away and %d two", style, one, two)
		}
	}
}

// The owners whose titles stand in a name are those that weighing every title by the published measure finds, the best of
// them first (inverse document frequency: K. Spärck Jones, 1972).
func TestWordsAgainstPlainSearch(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	vocabulary := []string{"drift", "hearth", "lark", "delta", "box", "sled", "great", "pocket", "autumn", "of", "the", "amber", "plum", "teal", "strong", "light"}
	text := func(n int) []string {
		words := make([]string, n)
		for i := range words {
			words[i] = vocabulary[min(r.IntN(len(vocabulary)), r.IntN(len(vocabulary)))]
		}
		return words
	}
	titles := make([][]string, 150)
	all := make([]Owner, len(titles))
	with := map[string]int{} // owners by word
	for i := range titles {
		titles[i] = slices.Compact(slices.Sorted(slices.Values(text(r.IntN(4) + 2))))
		all[i] = Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{Title, strings.Join(titles[i], " ")}}}
		for _, w := range titles[i] {
			with[w]++
		}
	}
	ix := NewIndex(all)
	rarity := func(w string) float64 { return math.Log(1 + float64(len(all))/float64(1+with[w])) }
	compared := 0
	for range 400 {
		name := text(r.IntN(4) + 2)
		type weighed struct {
			owner int64
			score float64
		}
		var want []weighed
		for i, title := range titles {
			met, weight, count := 0.0, 0.0, 0
			for _, w := range title {
				weight += rarity(w)
				if slices.Contains(name, w) {
					met += rarity(w)
					count++
				}
			}
			if count >= 2 && met/weight >= wordsNeeded {
				want = append(want, weighed{int64(i + 1), .6*met/weight + .012*float64(len(title))})
			}
		}
		slices.SortStableFunc(want, func(a, b weighed) int { return cmp.Compare(b.score, a.score) })
		study := NewStudy(ix, paths(strings.Join(name, " ")+".jpg"))
		if len(study.known(0)) > 0 {
			continue // a whole title stands in it, so that its words are not weighed
		}
		claim := study.Claims(Choice{Ladder: Ladder{{Title, Words}}})[0]
		got := claim.Candidates
		if claim.Reading != nil {
			got = []Reading{*claim.Reading}
		}
		if len(got) < min(len(want), 1) || len(got) > len(want) {
			t.Errorf("%v: %d owners are told, %d have its words", name, len(got), len(want))
		}
		for i, c := range got[:min(len(got), len(want))] {
			compared++
			at := slices.IndexFunc(want, func(w weighed) bool { return w.owner == c.Owner })
			if at < 0 || math.Abs(want[i].score-c.Score) > 1e-9 || math.Abs(want[at].score-c.Score) > 1e-9 {
				t.Errorf("%v: candidate %d is %q worth %.4f, want %.4f", name, i+1, c.Key, c.Score, want[i].score)
			}
		}
	}
	if compared < 200 {
		t.Errorf("only %d candidates were compared", compared)
	}
}

// Every cell of the trial board counts what pairing by it alone gives, and the names that are ignored in none.
func TestTrialAgainstPairing(t *testing.T) {
	w := &writer{Rand: rand.New(rand.NewPCG(3, 3)), style: "lettered", seen: map[string]bool{}}
	w.write(60)
	files := make([]File, len(w.names))
	ignored := 0
	for i, n := range w.names {
		if files[i].Path = n.path; n.must == Ignored {
			ignored++
		}
	}
	ix := NewIndex(w.owners)
	board := NewStudy(ix, files).Trial(nil)
	for _, cell := range board.Cells {
		count := Count{Cell: cell.Cell}
		for _, c := range Pair(ix, files, Ladder{cell.Cell}) {
			switch c.Grade {
			case Sure:
				count.Sure++
			case Likely:
				count.Likely++
			case Contested:
				count.Contested++
			case Unclaimed:
				count.Unclaimed++
			}
		}
		if count != cell {
			t.Errorf("the board says %+v, pairing gives %+v", cell, count)
		}
		if sum := cell.Sure + cell.Likely + cell.Contested + cell.Unclaimed; sum != len(files)-ignored {
			t.Errorf("%v counts %d of %d names", cell.Cell, sum, len(files)-ignored)
		}
	}
	// The proposed ladder claims nearly all that every cell together claims, and contests no more.
	tally := func(l Ladder) (claimed, contested int) {
		for _, c := range Pair(ix, files, l) {
			switch c.Grade {
			case Sure, Likely:
				claimed++
			case Contested:
				contested++
			}
		}
		return claimed, contested
	}
	claimed, contested := tally(board.Ladder)
	every, contestedByEvery := tally(nil)
	if claimed < every*98/100 || contested > contestedByEvery+every/100 {
		t.Errorf("the ladder %v claims %d and contests %d; every cell %d and %d", board.Ladder, claimed, contested, every, contestedByEvery)
	}
}

// A study weighed by one ladder after the other says what a fresh one says: nothing of an earlier choice stays.
func TestChoicesDoNotLinger(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 11))
	w := &writer{Rand: r, style: "lettered", seen: map[string]bool{}}
	w.write(40)
	all := w.owners
	for i := range all {
		all[i].Keys = append(all[i].Keys, Key{Title, fmt.Sprintf("%s %s %d", w.pick("Drift", "Lark", "Moss"), w.pick("Delta", "Box", "Sled"), 100+i%40)})
	}
	var list []string
	for _, n := range w.names {
		list = append(list, n.path)
	}
	for range 60 {
		list = append(list, fmt.Sprintf("%s %s %d_%d.jpg", w.pick("Drift", "Lark", "Moss"), w.pick("delta", "bx", "SLED"), 100+r.IntN(60), r.IntN(4)))
	}
	ix, files := NewIndex(all), paths(list...)
	kinds := []HabitKind{SharedPrefix, SharedSuffix, NumberStart, FolderLevel, LeadingKey}
	study := NewStudy(ix, files)
	for range 12 {
		var choice Choice
		for _, field := range []Field{SKU, Title} {
			for _, fit := range Fits {
				if r.IntN(3) == 0 {
					choice.Ladder = append(choice.Ladder, Cell{field, fit})
				}
			}
		}
		for _, kind := range kinds {
			if r.IntN(4) == 0 {
				choice.Off = append(choice.Off, kind)
			}
		}
		got, want := study.Claims(choice), NewStudy(ix, files).Claims(choice)
		for i := range got {
			if a, b := fmt.Sprintf("%+v", shown(got[i])), fmt.Sprintf("%+v", shown(want[i])); a != b {
				t.Errorf("%s by %v:\n%s, afresh\n%s", list[i], choice, a, b)
			}
		}
	}
}

// shown is a claim without its pointers.
func shown(c Claim) []any {
	of := func(r Reading) []any {
		number := -1
		if r.Number != nil {
			number = *r.Number
		}
		r.Number = nil
		return []any{r, number}
	}
	out := []any{c.Grade, why(c)}
	if c.Reading != nil {
		out = append(out, of(*c.Reading)...)
	}
	for _, r := range c.Candidates {
		out = append(out, of(r)...)
	}
	return out
}
