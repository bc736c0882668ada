package pairing

import (
	"slices"
)

// Cell is one way to pair: a key in a fit.
type Cell struct {
	Field Field `json:"key"`
	Fit   Fit   `json:"fit"`
}

// Ladder is the cells by which a delivery is paired; empty for every cell.
type Ladder []Cell

func (l Ladder) allows(field Field, fit Fit) bool {
	if len(l) == 0 || slices.Contains(l, Cell{field, fit}) {
		return true
	}
	// What is the whole name stands within it too.
	return fit == Whole && slices.Contains(l, Cell{field, Within})
}

// Fits are all fits, the strongest first; the order of the trial board.
var Fits = []Fit{Whole, Within, Part, Folder, Words, Near}

// Count is what one cell alone would make of a delivery.
type Count struct {
	Cell
	Sure      int `json:"sure"`
	Likely    int `json:"likely"`
	Contested int `json:"contested"`
	Unclaimed int `json:"unclaimed"`
}

// Board is the trial board: each cell tried alone, and the ladder that explains most with fewest contests.
type Board struct {
	Cells  []Count `json:"cells"`
	Ladder Ladder  `json:"ladder"`
}

// Trial tries every key of the index in every fit: whole, within and folder on the whole delivery, the weak fits
// on what no key explains for sure whole or within, as they are there for the rest. The cost is that of pairing once
// for each cell.
func Trial(ix *Index, files []File) Board {
	var board Board
	claimed := map[Cell][]Grade{}
	fields := ix.fields()
	rest, restOf := ix.unexplained(files, fields)
	for _, field := range fields {
		for _, fit := range Fits {
			if !sensible(field, fit) {
				continue
			}
			count := Count{Cell: Cell{field, fit}}
			grades := make([]Grade, len(files))
			if fit == Part || fit == Words || fit == Near {
				for i, c := range Pair(ix, rest, Ladder{count.Cell}) {
					grades[restOf[i]] = c.Grade
				}
			} else {
				for i, c := range Pair(ix, files, Ladder{count.Cell}) {
					grades[i] = c.Grade
				}
			}
			for _, g := range grades {
				switch g {
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
			claimed[count.Cell] = grades
			board.Cells = append(board.Cells, count)
		}
	}
	board.Ladder = propose(board.Cells, claimed, len(files))
	return board
}

// sensible leaves out the cells that mean nothing: words are a title's, and a title's part or a slip in it are
// words; a part of a barcode is no barcode.
func sensible(field Field, fit Fit) bool {
	switch fit {
	case Words:
		return field == Title
	case Part:
		return field != Title && field != Barcode
	case Near:
		return field != Title
	}
	return true
}

// unexplained are the files that no key claims for sure whole or within, with their places.
func (ix *Index) unexplained(files []File, fields []Field) (rest []File, at []int) {
	var strong Ladder
	for _, f := range fields {
		strong = append(strong, Cell{f, Whole}, Cell{f, Within})
	}
	for i, c := range Pair(ix, files, strong) {
		if c.Grade == Unclaimed || c.Grade == Likely {
			rest, at = append(rest, files[i]), append(at, i)
		}
	}
	return rest, at
}

// propose takes, again and again, the cell that claims most of what is not claimed for sure yet, less what it contests.
func propose(cells []Count, claimed map[Cell][]Grade, files int) Ladder {
	var ladder Ladder
	done := make([]int, files) // 2 where sure, 1 where likely
	for {
		var best Cell
		most := 0
		for _, c := range cells {
			if slices.Contains(ladder, c.Cell) {
				continue
			}
			gain := 0
			for i, g := range claimed[c.Cell] {
				switch {
				case done[i] == 2:
				case g == Sure:
					gain += 2
				case g == Likely:
					gain++
				case g == Contested && done[i] == 0:
					gain--
				}
			}
			if gain > most {
				best, most = c.Cell, gain
			}
		}
		if most == 0 {
			return ladder
		}
		ladder = append(ladder, best)
		for i, g := range claimed[best] {
			switch g {
			case Sure:
				done[i] = 2
			case Likely:
				done[i] = max(done[i], 1)
			}
		}
	}
}

// fields are those that any owner has, in the order of first sight.
func (ix *Index) fields() []Field {
	var fields []Field
	for _, o := range ix.owners {
		for _, k := range o.Keys {
			if k.Text != "" && !slices.Contains(fields, k.Field) {
				fields = append(fields, k.Field)
			}
		}
	}
	return fields
}
