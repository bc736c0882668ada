package pairing

import (
	"cmp"
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

// Board is the trial board: each cell tried alone, the ladder that explains most with fewest contests, and what the
// delivery does as a whole.
type Board struct {
	Cells  []Count `json:"cells"`
	Ladder Ladder  `json:"ladder"`
	Habits []Habit `json:"habits"`
}

// Trial tries every key in every fit on the whole delivery. The names are read once; each cell costs one more weighing.
func (s *Study) Trial(off []HabitKind) Board {
	board := Board{Habits: s.habits.stated}
	claimed := map[Cell][]Claim{}
	fields := slices.Clone(s.index.fields)
	slices.SortFunc(fields, func(a, b Field) int { return cmp.Or(cmp.Compare(fieldOrder(a), fieldOrder(b)), cmp.Compare(a, b)) })
	for _, field := range fields {
		for _, fit := range Fits {
			if !sensible(field, fit) {
				continue
			}
			count := Count{Cell: Cell{field, fit}}
			claims := s.byName(Choice{Ladder{count.Cell}, off})
			for i := range claims {
				switch claims[i].Grade {
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
			claimed[count.Cell] = claims
			board.Cells = append(board.Cells, count)
		}
	}
	board.Ladder = propose(board.Cells, claimed, len(s.files))
	return board
}

// fieldOrder puts the keys that owners always have before their attributes.
func fieldOrder(f Field) int {
	if at := slices.Index([]Field{SKU, Barcode, Code, Theirs, Title}, f); at >= 0 {
		return at
	}
	return 5
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

// propose takes, again and again, the cell that claims most of what is not claimed for sure yet, less what it contests.
func propose(cells []Count, claimed map[Cell][]Claim, files int) Ladder {
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
			for i := range claimed[c.Cell] {
				switch g := claimed[c.Cell][i].Grade; {
				case done[i] == 2:
				case g == Sure:
					gain += 2
				case g == Likely && done[i] == 0:
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
		for i := range claimed[best] {
			switch claimed[best][i].Grade {
			case Sure:
				done[i] = 2
			case Likely:
				done[i] = max(done[i], 1)
			}
		}
	}
}
