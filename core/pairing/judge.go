package pairing

import (
	"cmp"
	"fmt"
	"slices"

	"ambrosa/core/names"
)

// verdict is what the keys met in a name amount to.
type verdict struct {
	grade  Grade // Sure, Likely, Contested; empty where nothing was met
	best   *met
	rivals []*met // of contested
	doubt  string // why it is no more than likely, or contested
	open   bool   // something beside the key is not explained, so that a nearer key may be meant
}

// judge weighs the keys met in one name, of the cells that are allowed.
func (s *Study) judge(mets []met, allowed *allowance) verdict {
	var name, folder [8]*met
	inName, inFolder := name[:0], folder[:0]
	for i := range mets {
		m := &mets[i]
		if !allowed.met(s.index.keys[m.key].field, m.fit) {
			continue
		}
		if m.fit == Folder {
			inFolder = append(inFolder, m)
		} else {
			inName = append(inName, m)
		}
	}
	var fusedRivals []*met
	inName, fusedRivals = s.agreeing(inName)
	kept, shadows := s.longest(inName)
	kept = s.strongest(kept, allowed.off(LeadingKey))
	if len(kept) == 0 {
		return s.judgeFolder(inFolder)
	}
	best := kept[0]
	if rivals := s.rivals(kept, best); len(rivals) > 0 {
		return verdict{grade: Contested, best: best, rivals: rivals, doubt: "Two keys stand in this name."}
	}
	for _, r := range fusedRivals {
		if s.owner(r) != s.owner(best) && r.from == best.from && r.to == best.to {
			return verdict{grade: Contested, best: best, rivals: []*met{r}, doubt: "Written without separators, it could be either of two keys."}
		}
	}
	v := verdict{grade: Sure, best: best}
	key := &s.index.keys[best.key]
	doubt := func(why string) {
		v.grade = Likely
		if v.doubt == "" {
			v.doubt = why
		}
	}
	for _, m := range shadows {
		if s.owner(m) == s.owner(best) || s.related(m, best) && m.notation == names.Lettered {
			continue
		}
		if s.numbered[s.owner(m)] > 0 && (m.notation != names.Lettered || s.lettered[s.owner(m)] > 0) {
			return verdict{grade: Contested, best: best, rivals: []*met{m},
				doubt: fmt.Sprintf("It reads as one key, or as number %d of a shorter key that has other numbers here.", m.number)}
		}
		if m.notation != names.Lettered && m.number <= 30 {
			doubt(fmt.Sprintf("It could also be number %d of a shorter key.", m.number))
		}
	}
	if best.agreement != strict {
		doubt("The separators between its digits differ.")
	}
	title := s.index.fields[key.field] == Title
	switch {
	case best.fit == Within && title && key.tokens == 1:
		v.grade, v.open, v.doubt = Unclaimed, true, "One word of a title says too little."
	case best.fit == Within && title:
		doubt("Titles are words that other names may use too.")
	case best.fit == Within && !key.telling:
		doubt("So short a key could stand there by chance.")
	case best.fit == Whole && key.numeric && key.length < 3:
		doubt("So short a number could stand there by chance.")
	}
	if best.rest != 0 && !(s.habits.rests[best.rest] && !allowed.off(SharedSuffix)) {
		v.open = true
		doubt("What follows it is not explained.")
	}
	if best.head != 0 && !(s.habits.heads[best.head] && !allowed.off(SharedPrefix)) {
		v.open = true
		doubt("What stands before it is not explained.")
	}
	// What stands beside a product's key may name one of its variants, however often it is said.
	v.open = v.open || (best.rest != 0 || best.head != 0) && s.index.parents[s.owner(best)]
	if best.rest != 0 && best.goesOn != 0 && s.index.fields[key.field] != Barcode {
		if _, goesOn := s.index.extensions()[best.goesOn]; goesOn {
			v.grade, v.open, v.doubt = Unclaimed, true, "The catalogue has keys that go on like this name, but not this one."
		}
	}
	for _, f := range inFolder {
		if fk := &s.index.keys[f.key]; f.head == 0 && fk.telling && s.index.fields[fk.field] != Title && v.grade == Sure &&
			s.owner(f) != s.owner(best) && !s.related(f, best) && !s.habits.containers[s.owner(f)] {
			return verdict{grade: Contested, best: best, rivals: []*met{f}, doubt: "The name says one owner and its folder another."}
		}
	}
	return v
}

func (s *Study) owner(m *met) int32 { return s.index.keys[m.key].owner }

// related reports whether two keys are of one family: a product and its variant, or variants of one product.
func (s *Study) related(a, b *met) bool {
	x, y := s.owner(a), s.owner(b)
	p, q := s.index.parent[x], s.index.parent[y]
	return p == y || q == x || p >= 0 && p == q
}

// agreeing keeps what agrees with its key in all that parts digits, and what was written without any separator where
// nothing does; the latter are given beside, as they may be meant all the same.
func (s *Study) agreeing(mets []*met) (kept, fusedOnes []*met) {
	strictly := slices.ContainsFunc(mets, func(m *met) bool { return m.agreement == strict })
	kept = mets[:0]
	for _, m := range mets {
		switch {
		case m.agreement == strict:
			kept = append(kept, m)
		case m.agreement == fused && m.compact && s.index.keys[m.key].telling:
			if fusedOnes = append(fusedOnes, m); !strictly {
				kept = append(kept, m)
			}
		}
	}
	return kept, fusedOnes
}

// longest drops what stands inside a longer key, and gives apart what would be a shorter key with a number.
func (s *Study) longest(mets []*met) (kept, shadows []*met) {
	if len(mets) < 2 {
		return mets, nil
	}
	for _, m := range mets {
		over := slices.IndexFunc(mets, func(o *met) bool {
			return o.from <= m.from && m.to <= o.to && o.to-o.from > m.to-m.from
		})
		if over < 0 {
			kept = append(kept, m)
			continue
		}
		if o := mets[over]; o.from == m.from && (m.rest == 0 || m.rest == o.rest) && m.number != names.NoNumber {
			shadows = append(shadows, m)
		}
	}
	return kept, shadows
}

// strongest drops titles where a code is met, keys that say little where another says more, products where one of
// their variants is named, and sorts the longest first. A title of few letters
// beside a code is but a word, unless everyTitle.
func (s *Study) strongest(mets []*met, everyTitle bool) []*met {
	if len(mets) < 2 {
		return mets
	}
	ix := s.index
	isTitle := func(m *met) bool { return ix.fields[ix.keys[m.key].field] == Title }
	code := slices.ContainsFunc(mets, func(m *met) bool { return !isTitle(m) && (ix.keys[m.key].telling || m.fit == Whole) })
	telling := slices.ContainsFunc(mets, func(m *met) bool { return ix.keys[m.key].telling })
	var strong []*met
	for _, m := range mets {
		switch {
		case isTitle(m) && code && (m.to-m.from < 2 || ix.keys[m.key].length < 8) && !everyTitle:
		case !isTitle(m) && telling && !ix.keys[m.key].telling:
		default:
			strong = append(strong, m)
		}
	}
	// The variant that is named says more than its product, unless both have the very same key.
	kept := make([]*met, 0, len(strong))
	for _, m := range strong {
		if !slices.ContainsFunc(strong, func(o *met) bool {
			same := o.from == m.from && o.to == m.to
			if isTitle(m) && isTitle(o) && same {
				return ix.parent[s.owner(m)] == s.owner(o)
			}
			return ix.parent[s.owner(o)] == s.owner(m) && !(same && ix.keys[m.key].field == ix.keys[o.key].field)
		}) {
			kept = append(kept, m)
		}
	}
	mets = kept
	slices.SortStableFunc(mets, func(a, b *met) int {
		return cmp.Or(cmp.Compare(b.end-b.start, a.end-a.start), cmp.Compare(a.start, b.start))
	})
	return mets
}

// rivals are the first reading of each other owner.
func (s *Study) rivals(mets []*met, best *met) []*met {
	var rivals []*met
	for _, m := range mets {
		if s.owner(m) != s.owner(best) && !slices.ContainsFunc(rivals, func(r *met) bool { return s.owner(r) == s.owner(m) }) {
			rivals = append(rivals, m)
		}
	}
	return rivals
}

// judgeFolder weighs the keys that folders are: the nearest folder that is one counts.
func (s *Study) judgeFolder(mets []*met) verdict {
	if len(mets) == 0 {
		return verdict{}
	}
	level := slices.MinFunc(mets, func(a, b *met) int { return cmp.Compare(a.level, b.level) }).level
	mets = slices.DeleteFunc(mets, func(m *met) bool { return m.level != level })
	kept, _ := s.longest(mets)
	kept = s.strongest(kept, false)
	best := kept[0]
	if rivals := s.rivals(kept, best); len(rivals) > 0 {
		return verdict{grade: Contested, best: best, rivals: rivals, doubt: "The folder is the key of two owners."}
	}
	v := verdict{grade: Sure, best: best}
	key := &s.index.keys[best.key]
	switch {
	case s.index.fields[key.field] == Title && key.tokens == 1:
		v.grade, v.doubt, v.open = Unclaimed, "A folder called like one word of the catalogue says too little.", true
	case best.rest != 0:
		v.grade, v.doubt, v.open = Likely, "The file's own name says something else.", true
	case best.head != 0:
		v.grade, v.doubt, v.open = Likely, "The folder says more than the key.", true
	case !key.telling:
		v.grade, v.doubt = Likely, "So short a key could be a folder's name by chance."
	}
	return v
}
