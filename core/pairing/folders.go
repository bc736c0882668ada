package pairing

import (
	"slices"
	"strconv"
	"sync"

	"ambrosa/core/names"
)

// readFolders appends the keys that folders are, the nearest to the file first; and those that stand in several parts of the
// path, as a SKU with a slash in it does, or one of which a folder is the product and the next the colour.
func (ix *Index) readFolders(w *hand, n names.Name, own []names.Token, lexicon names.Lexicon) {
	// What the file's own name says is read where a folder is a key.
	said := sync.OnceValue(func() *ownName { return readOwn(n, own, lexicon) })
	level := int8(0)
	folders := slices.Collect(n.FolderSpans)
	text := func(i int) string { // of a folder, counted from the file on
		if i < 0 || i >= len(folders) {
			return ""
		}
		return n.Path[folders[i].Start:folders[i].End]
	}
	var below uint64 // of the words of the folders nearer than the one that is read
	belowWord := uint32(0)
	for i, at := range folders {
		if level++; level == deepest || len(w.mets) > maxMets {
			break
		}
		w.folder = names.AppendTokens(w.folder[:0], n.Path[at.Start:at.End], at.Start)
		tokens := w.folder
		if len(tokens) == 0 || len(tokens) > maxNameTokens {
			continue
		}
		first := len(w.mets)
		ix.find(w, n.Path, tokens, level, lexicon)
		for k := first; k < len(w.mets); k++ {
			ix.surround(w, &w.mets[k], n.Path, tokens, lexicon)
		}
		ix.makeSense(w, first, n.Path, tokens, lexicon)
		kept := w.mets[:first]
		for _, m := range w.mets[first:] {
			whole := m.fit == byWhole
			name := said()
			m.fit, m.number, m.notation, m.rest, m.among = byFolder, int16(name.tail.Number), name.tail.Notation, name.rest, alone
			m.numberOnly = name.numberOnly
			m.below, m.belowWord = below, belowWord
			if isYear(text(i)) && isMonth(text(i-1)) || isMonth(text(i)) && isYear(text(i+1)) || len(text(i)) <= 2 && isMonth(text(i+1)) &&
				isYear(text(i+2)) {
				m.sense, m.all = names.Date, false // folders by year, month and day
			}
			if !whole {
				m.head = 1
			}
			if name.tail.Role != "" {
				m.role = roleNumber(name.tail.Role)
			}
			if (ix.keys[m.key].telling || whole) && m.agreement == strict && !ix.keys[m.key].house {
				kept = append(kept, m)
			}
		}
		w.mets = kept
		if i+1 == len(folders) {
			break
		}
		if says := lexicon.ReadTail(n.Path, tokens).Rest; len(says) > 0 && !lexicon.IsCamera(n.Path, tokens) && !isCardFolder(tokens) {
			belowWord = 0
			if below == 0 && len(says) == 1 {
				belowWord = hashWord(tokens[says[0]].Folded)
			}
			below = below*base + restHash(tokens, says)
		}
	}
	ix.across(w, n, own, said, lexicon)
}

// ownName is what a file's own name says below the key that a folder is.
type ownName struct {
	tail       names.Tail
	rest       uint64 // what is not explained; 0 for nothing, and for what a camera calls a picture
	numberOnly bool   // it is a number and nothing else
}

func readOwn(n names.Name, own []names.Token, lexicon names.Lexicon) *ownName {
	name := &ownName{tail: lexicon.ReadTail(n.Path, own)}
	if lexicon.IsCamera(n.Path, own) {
		return name
	}
	name.rest = restHash(own, name.tail.Rest)
	name.numberOnly = len(own) > 0 && name.tail.Number != names.NoNumber && len(name.tail.Rest) == 0 && name.tail.Notation != names.Lettered
	return name
}

// isCardFolder reports whether a folder is called as on a camera's card: 100CANON, DCIM (DCF version 2.0, section 3.2.2, from memory).
func isCardFolder(tokens []names.Token) bool {
	return len(tokens) == 1 && tokens[0].Folded == "dcim" || len(tokens) == 2 && tokens[0].Digits && len(tokens[0].Folded) == 3 &&
		len(tokens[1].Folded) == 5
}

func isMonth(folder string) bool {
	month, err := strconv.Atoi(folder)
	return err == nil && len(folder) <= 2 && month >= 1 && month <= 12
}

func isYear(folder string) bool {
	year, err := strconv.Atoi(folder)
	return err == nil && len(folder) == 4 && year >= 1990 && year < 2040
}

// across appends the keys that stand in several parts of a path: the nearest folders and the name.
func (ix *Index) across(w *hand, n names.Name, own []names.Token, said func() *ownName, lexicon names.Lexicon) {
	if ix.longest < 2 {
		return
	}
	var spans [maxAcross]names.Span
	count := 0
	for at := range n.FolderSpans {
		if spans[count] = at; count == maxAcross-1 {
			count++
			break
		}
		count++
	}
	var borders [maxAcross]int16
	all := w.path[:0]
	for i := count - 1; i >= 0; i-- {
		all = names.AppendTokens(all, n.Path[spans[i].Start:spans[i].End], spans[i].Start)
		borders[i] = int16(len(all)) // level i ends here
	}
	all = append(all, own...)
	w.path = all
	if count == 0 || len(all) > maxNameTokens || borders[0] == 0 {
		return
	}
	first := len(w.mets)
	w.borders = w.borders[:0]
	for i := count - 1; i >= 0; i-- {
		w.borders = append(w.borders, int(borders[i]))
	}
	ix.find(w, n.Path, all, 0, lexicon)
	w.borders = w.borders[:0]
	kept := w.mets[:first]
	for _, m := range w.mets[first:] {
		crosses := false
		level := int8(count)
		for i := count - 1; i >= 0; i-- {
			crosses = crosses || m.from < borders[i] && m.to > borders[i]
			if m.to > borders[i] {
				level = int8(i)
			}
		}
		if !crosses || !ix.keys[m.key].telling || m.agreement != strict || ix.keys[m.key].house {
			continue
		}
		ix.surround(w, &m, n.Path, all, lexicon)
		m.fit, m.head, m.level, m.across = byFolder, 0, level, true
		if level > 0 { // all of the name stands behind it
			name := said()
			m.number, m.notation, m.role, m.rest = int16(name.tail.Number), name.tail.Notation, roleNumber(name.tail.Role), name.rest
			m.numberOnly = name.numberOnly
		}
		kept = append(kept, m)
	}
	w.mets = kept
}
