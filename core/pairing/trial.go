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

// Trial tries every key of the index in every fit on the whole delivery. The cost is that of pairing once for
// each cell.
func Trial(ix *Index, files []File) Board {
	var board Board
	claimed := map[Cell][]Grade{}
	for _, field := range ix.fields() {
		for _, fit := range Fits {
			if (fit == Words) != (field == Title) && (fit == Words || fit == Part || fit == Near) || field == Barcode && fit == Part {
				continue // words are a title's; a title's part or a slip in it are words
			}
			cell := Cell{field, fit}
			count := Count{Cell: cell}
			grades := make([]Grade, len(files))
			for i, c := range Pair(ix, files, Ladder{cell}) {
				grades[i] = c.Grade
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
			claimed[cell] = grades
			board.Cells = append(board.Cells, count)
		}
	}
	board.Ladder = propose(board.Cells, claimed, len(files))
	return board
}

// propose takes, again and again, the cell that claims most of what is not claimed yet, less what it contests.
func propose(cells []Count, claimed map[Cell][]Grade, files int) Ladder {
	var ladder Ladder
	done := make([]bool, files)
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
				case done[i]:
				case g == Sure || g == Likely:
					gain++
				case g == Contested:
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
			done[i] = done[i] || g == Sure || g == Likely
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
