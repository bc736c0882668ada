package pairing

import (
	"fmt"
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
	skus := make([]string, 300)
	for i := range skus {
		skus[i] = text(5)
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

// The keys found near a name are those that comparing it with every key finds: at one edit all of them, at two, where
// none is nearer, nearly all of those that slips of the finger make.
func TestNearAgainstPlainSearch(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 9))
	const letters = "ABCDEFGHJKMNPQRSTUVWXYZ"
	seen := map[string]bool{}
	var skus []string
	for len(skus) < 4000 {
		s := fmt.Sprintf("%c%c-%04d-%c", letters[r.IntN(22)], letters[r.IntN(22)], r.IntN(10_000), letters[r.IntN(22)])
		if !seen[s] {
			seen[s] = true
			skus = append(skus, s)
		}
	}
	w := &writer{Rand: r}
	s := NewStudy(NewIndex(owners(skus...)), nil)
	var found, all score
	for range 200 {
		target := skus[r.IntN(len(skus))]
		name := w.slip(target)
		if r.IntN(2) == 0 {
			name = w.slip(name)
		}
		if seen[strings.ToUpper(name)] {
			continue
		}
		s.files = paths(name + ".jpg")
		s.weak = weakStudy{}
		s.worker, s.from, s.to, s.mets = make([]uint8, 1), make([]uint32, 1), make([]uint32, 1), [][]met{nil}
		s.weigh([]int32{0})
		near := map[string]bool{}
		for _, run := range s.weak.files[0] {
			for _, m := range run.unit.found {
				if m.how != partOf {
					near[s.index.key(&s.index.keys[m.key]).Text] = true
				}
			}
		}
		fold := func(s string) string { return alike.Replace(strings.ToLower(strings.ReplaceAll(s, "-", ""))) }
		ones := 0
		for _, sku := range skus {
			if distance(fold(name), fold(sku), 1) <= 1 {
				if ones++; ones <= maxFound {
					found.count(near[sku])
				}
			}
		}
		if distance(fold(name), fold(target), 2) <= 2 && ones == 0 {
			all.count(near[target])
		}
	}
	if found.all < 150 || found.right < found.all {
		t.Errorf("at one edit %d of %d keys were found", found.right, found.all)
	}
	if all.all < 15 || float64(all.right) < .97*float64(all.all) {
		t.Errorf("of keys two edits away %d of %d were found", all.right, all.all)
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
