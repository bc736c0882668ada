package pairing

import (
	"cmp"
	"slices"

	"ambrosa/core/message"
	"ambrosa/core/names"
)

// verdict is what the keys met in a name amount to.
type verdict struct {
	grade  Grade // Sure, Likely, Contested; empty where nothing was met
	best   *met
	rivals []*met          // of contested
	doubt  message.Message // why it is no more than likely, or contested
	open   bool            // something beside the key is not explained, so that a nearer key may be meant
}

// judge weighs the keys met in one name, of the cells that are allowed.
func (s *Study) judge(mets []met, allowed *allowance) verdict {
	var name, folder [8]*met
	inName, inFolder := name[:0], folder[:0]
	for i := range mets {
		m := &mets[i]
		key := &s.index.keys[m.key]
		switch {
		case !allowed.met(key.field, m.fit) || key.house && m.fit != byWhole || s.insideAcross(m, mets, allowed):
		case m.fit == byFolder && m.level > 0:
			inFolder = append(inFolder, m)
		default:
			inName = append(inName, m)
		}
	}
	inName, chance := s.senseless(inName)
	var fusedRivals []*met
	inName, fusedRivals = s.agreeing(inName)
	kept, shadows := s.longest(inName)
	kept = s.strongest(kept, allowed.off(LeadingKey))
	if len(kept) == 0 {
		v := s.judgeFolder(inFolder)
		if v.grade == "" || v.grade == Unclaimed {
			if byChance := s.byChance(chance); v.grade == "" || byChance.grade == Likely {
				return byChance
			}
		}
		return v
	}
	best := kept[0]
	if v, ok := s.named(kept, fusedRivals, best); ok {
		return v
	}
	if best.across && best.level == 0 {
		// K-100/2.jpg is rather a number of K-100 than K-100-2.
		for _, f := range inFolder {
			if f.numberOnly && f.head == 0 && s.index.keys[f.key].telling && s.owner(f) != s.owner(best) {
				return verdict{grade: Contested, best: f, rivals: []*met{best},
					doubt: message.New("doubt_number_or_both")}
			}
		}
	}
	v := verdict{grade: Sure, best: best}
	if contest, ok := s.shadowed(&v, shadows); ok {
		return contest
	}
	s.doubtful(&v, allowed)
	s.goneSibling(&v)
	return s.besideFolder(v, inFolder)
}

// doubt lowers a verdict to likely, and says why; the first reason is told.
func (v *verdict) lower(code string, data ...any) {
	if v.grade == Sure {
		v.grade = Likely
	}
	if v.doubt.Code == "" {
		v.doubt = message.New(code, data...)
	}
}

// deny leaves a verdict open: the key is but a candidate.
func (v *verdict) deny(code string) { v.grade, v.open, v.doubt = Unclaimed, true, message.New(code) }

// mayBe says what a key is besides: a date, a counter.
func mayBe(m *met) message.Message { return message.New(m.sense.Code()) }

// insideAcross reports whether a key stands inside one that several parts of the path make up.
func (s *Study) insideAcross(m *met, mets []met, allowed *allowance) bool {
	for i := range mets {
		o := &mets[i]
		if m.numberOnly && o.level == 0 {
			continue // the number may be the folder's after all
		}
		if o.across && o != m && o.start <= m.start && m.end <= o.end && o.end-o.start > m.end-m.start &&
			allowed.met(s.index.keys[o.key].field, byFolder) {
			return true
		}
	}
	return false
}

// senseless parts keys from those that stand there by chance, as a date or a counter does.
func (s *Study) senseless(mets []*met) (kept, chance []*met) {
	kept = mets[:0]
	for _, m := range mets {
		if m.sense == names.NoSense {
			kept = append(kept, m)
		} else {
			chance = append(chance, m)
		}
	}
	return kept, chance
}

// byChance weighs keys that are something else too: where that is the whole name, the key is likely all the same.
func (s *Study) byChance(mets []*met) verdict {
	if len(mets) == 0 {
		return verdict{}
	}
	if all := slices.DeleteFunc(slices.Clone(mets), func(m *met) bool { return !m.all || m.fit != byWhole }); len(all) > 0 {
		mets = all
	}
	mets, _ = s.longest(mets)
	mets = s.strongest(mets, false)
	best := mets[0]
	if rivals := s.rivals(mets, best); len(rivals) > 0 {
		return verdict{grade: Unclaimed, best: best, open: true, doubt: mayBe(best)}
	}
	v := verdict{grade: Likely, best: best, doubt: mayBe(best)}
	if !best.all || best.mixed || best.fit != byWhole || best.agreement != strict {
		v.grade, v.open = Unclaimed, true
	}
	return v
}

// named says what a name is worth that names more than one owner, or more than one key.
func (s *Study) named(kept, fusedRivals []*met, best *met) (verdict, bool) {
	v := verdict{grade: Contested, best: best}
	if v.rivals = s.rivals(kept, best); len(v.rivals) > 0 {
		v.doubt = message.New("doubt_two_keys")
		if best.among == inRange {
			v.doubt = message.New("doubt_range")
		} else if best.among == withOther {
			v.doubt = message.New("doubt_two_products")
		}
		return v, true
	}
	for _, r := range fusedRivals {
		if s.owner(r) != s.owner(best) && r.from == best.from && r.to == best.to {
			v.rivals, v.doubt = []*met{r}, message.New("doubt_joined")
			return v, true
		}
	}
	switch best.among {
	case withGone:
		v.deny("doubt_one_gone")
		return v, true
	case inRange:
		v.deny("doubt_range")
		return v, true
	}
	return v, false
}

// shadowed weighs shorter keys of which the name would be a number.
func (s *Study) shadowed(v *verdict, shadows []*met) (contest verdict, ok bool) {
	best := v.best
	for _, m := range shadows {
		// A variant's own letter or number of two digits is no numbering of its product.
		if s.owner(m) == s.owner(best) || s.related(m, best) && (m.notation == names.Lettered || m.number >= 10) {
			continue
		}
		asBarcode := s.index.isBarcode(&s.index.keys[best.key]) && s.index.keys[m.key].telling
		if asBarcode || s.numbered[s.owner(m)] > 0 && (m.notation != names.Lettered || s.lettered[s.owner(m)] > 0) {
			return verdict{grade: Contested, best: best, rivals: []*met{m},
				doubt: message.New("doubt_key_or_number", "number", int(m.number))}, true
		}
		if m.notation != names.Lettered && m.number <= 30 {
			v.lower("doubt_number", "number", int(m.number))
		}
	}
	return verdict{}, false
}

// doubtful lowers what could stand there by chance, and what leaves something in the name unexplained.
func (s *Study) doubtful(v *verdict, allowed *allowance) {
	best := v.best
	key := &s.index.keys[best.key]
	if best.agreement != strict {
		v.lower("doubt_digit_separators")
	}
	if key.letters && key.tokens == 1 && s.lexicon.Says(string(s.index.canonical(key))) {
		v.lower("doubt_trade_word")
	}
	if best.dated && key.numeric && key.length == 6 {
		v.lower("doubt_six_digits")
	}
	if best.shifted {
		v.lower("doubt_separators_moved")
	}
	switch best.spelling {
	case names.Bare, names.Dropped:
		v.lower("doubt_accents")
	}
	rest := best.rest != 0 && !(s.habits.rests[best.rest] && !allowed.off(SharedSuffix))
	head := best.head != 0 && !(s.habits.heads[best.head] && !allowed.off(SharedPrefix))
	title := s.index.fields[key.field] == Title
	switch {
	case best.fit == byWithin && title && key.tokens == 1:
		v.deny("doubt_one_title_word")
	case best.fit == byWithin && title:
		v.lower("doubt_title_words")
	case best.fit == byWithin && (rest || head) && key.letters && key.length < 8:
		v.deny("doubt_plain_word")
	case best.fit == byWithin && (rest || head) && key.numeric && (key.length < 4 || best.glued):
		v.deny("doubt_short_number")
	case best.fit == byWithin && !key.telling:
		v.lower("doubt_short_key")
	case best.fit == byWhole && key.numeric && key.length < 3:
		v.lower("doubt_short_number")
	case best.across && key.numeric:
		v.lower("doubt_folder_numbers")
	}
	if rest {
		v.open = true
		v.lower("doubt_after")
	}
	if head {
		v.open = true
		v.lower("doubt_before")
	}
	// What stands beside a product's key may name one of its variants, however often it is said.
	v.open = v.open || (best.rest != 0 || best.head != 0) && s.index.parents[s.owner(best)]
}

// goneSibling lowers a key behind which the name goes on as other keys do: a key may be meant that the catalogue lacks.
func (s *Study) goneSibling(v *verdict) {
	best := v.best
	key := &s.index.keys[best.key]
	if best.goesOn == 0 || s.index.isBarcode(key) || s.index.fields[key.field] == Title {
		return
	}
	kin := s.index.kin()
	_, own := kin.goesOn[best.goesOn]
	if best.nextWord == 0 {
		if best.letter != 0 && kin.ends[best.letter] >= fewest {
			v.deny("doubt_gone_letter")
			return
		}
		switch {
		case own && best.alike && best.number >= 10 && best.notation == names.Plain:
			v.deny("doubt_gone_number")
		case own && best.alike:
			v.lower("doubt_other_number")
		}
		return
	}
	switch {
	case own:
		v.deny("doubt_gone_longer")
	case (best.restWords == 1 || best.alike) && kin.ends[best.nextWord] >= fewest:
		v.deny("doubt_gone_word")
	case best.alike && kin.shapes[best.shapeOf(s.index.pieces(key, nil))] >= kin.enough:
		v.deny("doubt_gone_alike")
	case best.alike && kin.loose[best.looseOf(s.index.pieces(key, nil))] >= kin.enough:
		v.lower("doubt_other_word")
	case best.alike && best.nextMixed:
		v.deny("doubt_gone_longer")
	}
}

// besideFolder weighs a name's key against the folder it lies in.
func (s *Study) besideFolder(v verdict, inFolder []*met) verdict {
	best := v.best
	key := &s.index.keys[best.key]
	for _, f := range inFolder {
		fk := &s.index.keys[f.key]
		under := f.numberOnly && key.numeric && best.fit == byWhole // a mere number below a folder
		dated := f.sense != names.NoSense && !(under && f.sense == names.Year)
		if f.head != 0 || dated || !fk.telling && !under || s.index.fields[fk.field] == Title || s.owner(f) == s.owner(best) || s.related(f, best) {
			continue
		}
		// A number below a folder that is a key is the number of that owner's picture; one of three digits may be either.
		if under {
			if key.length < 3 {
				return s.judgeFolder(inFolder)
			}
			return verdict{grade: Contested, best: f, rivals: []*met{best},
				doubt: message.New("doubt_number_or_key")}
		}
		if v.grade == Sure && !s.habits.containers[s.owner(f)] {
			return verdict{grade: Contested, best: best, rivals: []*met{f}, doubt: message.New("doubt_folder_differs")}
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
			return o.start <= m.start && m.end <= o.end && o.end-o.start > m.end-m.start
		})
		if over < 0 {
			kept = append(kept, m)
			continue
		}
		if o := mets[over]; o.start == m.start && (m.rest == 0 || m.rest == o.rest) && m.number != names.NoNumber {
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
	code := slices.ContainsFunc(mets, func(m *met) bool { return !isTitle(m) && (ix.keys[m.key].telling || m.fit == byWhole) })
	telling := slices.ContainsFunc(mets, func(m *met) bool { return ix.keys[m.key].telling })
	coded := slices.ContainsFunc(mets, func(m *met) bool { return !isTitle(m) && !ix.keys[m.key].letters })
	var strong []*met
	for _, m := range mets {
		switch {
		case isTitle(m) && code && (m.to-m.from < 2 || ix.keys[m.key].length < 8) && !everyTitle:
		case !isTitle(m) && telling && !ix.keys[m.key].telling:
		case !isTitle(m) && coded && ix.keys[m.key].letters && ix.keys[m.key].length < 8:
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
	if len(kept) == 0 {
		kept = strong
	}
	slices.SortStableFunc(kept, func(a, b *met) int {
		if c := cmp.Or(cmp.Compare(b.end-b.start, a.end-a.start), cmp.Compare(a.start, b.start)); c != 0 {
			return c
		}
		return s.index.before(a.key, b.key)
	})
	return kept
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

// yearFirst reports whether eight digits would be a date with its year first, as most write it: the other way round it is rather
// a key.
func (ix *Index) yearFirst(k *indexed) bool {
	text := ix.canonical(k)
	return len(text) != 8 || (text[0] == '1' || text[0] == '2') && text[4] <= '1' && text[6] <= '3'
}

// judgeFolder weighs the keys that folders are: the nearest folder that is one counts.
func (s *Study) judgeFolder(mets []*met) verdict {
	if len(mets) == 0 {
		return verdict{}
	}
	// A year or a counter is a folder like any other where another is a key.
	if plain := slices.DeleteFunc(slices.Clone(mets), func(m *met) bool { return m.sense != names.NoSense }); len(plain) > 0 {
		mets = plain
	}
	// Nor is a mere word where a folder above says enough.
	if says := slices.DeleteFunc(slices.Clone(mets), func(m *met) bool { return !s.index.keys[m.key].telling || m.head != 0 }); len(says) > 0 {
		mets = slices.DeleteFunc(mets, func(m *met) bool { return !s.index.keys[m.key].telling })
	}
	level := slices.MinFunc(mets, func(a, b *met) int { return cmp.Compare(a.level, b.level) }).level
	mets = slices.DeleteFunc(mets, func(m *met) bool { return m.level != level })
	kept, _ := s.longest(mets)
	kept = s.strongest(kept, false)
	best := kept[0]
	if rivals := s.rivals(kept, best); len(rivals) > 0 {
		return verdict{grade: Contested, best: best, rivals: rivals, doubt: message.New("doubt_folder_two_owners")}
	}
	v := verdict{grade: Sure, best: best}
	key := &s.index.keys[best.key]
	switch {
	case best.sense != names.NoSense && best.all && best.head == 0 && (best.numberOnly || best.sense == names.Date && !s.index.yearFirst(key)):
		v.grade, v.doubt = Likely, mayBe(best)
	case best.sense != names.NoSense:
		v.grade, v.open, v.doubt = Unclaimed, true, mayBe(best)
	case s.index.fields[key.field] == Title && key.tokens == 1:
		v.deny("doubt_folder_one_word")
	case best.rest != 0:
		v.grade, v.doubt, v.open = Likely, message.New("doubt_name_differs"), true
	case best.head != 0:
		v.grade, v.doubt, v.open = Likely, message.New("doubt_folder_says_more"), true
		s.goneSibling(&v)
	case best.below != 0 && s.index.kin().ends[best.belowWord] >= fewest:
		v.deny("doubt_gone_folder")
	case best.below != 0 && !s.habits.belows[best.below]:
		v.grade, v.doubt, v.open = Likely, message.New("doubt_below_differs"), true
	case !key.telling:
		v.grade, v.doubt = Likely, message.New("doubt_short_folder")
	}
	return v
}
