// Package table knows what a table means: where its header is, which column is which field, what is wrong with its cells, and what
// they probably should say. It reads no files: rows come in, one after the other.
package table

import "strconv"

// Kind is what a cell holds.
type Kind uint8

const (
	Text Kind = iota
	Number
	Boolean
	Date
	Error    // a formula's error, such as #REF!
	Unsolved // a formula without a result
)

// Cell is a cell as it is shown and, where that says less, as it is stored.
type Cell struct {
	Text    string // as shown
	Stored  string // the stored value; empty where it is what is shown
	Formula string // without the equals sign; empty where there is none
	Kind    Kind
	Picture string // the picture that lies in the cell, by its part of the file; empty where there is none
}

// Row is a row of a table. Cells behind the last one that holds something are left out.
type Row struct {
	Number int // as an office program counts, from 1
	Cells  []Cell
	Broken bool // its quotes don't match: Cells hold the line as it is, as one cell
}

// Texts are the cells as shown.
func (r Row) Texts() []string {
	texts := make([]string, len(r.Cells))
	for i, c := range r.Cells {
		texts[i] = c.Text
	}
	return texts
}

// At is the cell of a column; an empty one where the row has none there.
func (r Row) At(column int) Cell {
	if column < 0 || column >= len(r.Cells) {
		return Cell{}
	}
	return r.Cells[column]
}

// Empty reports whether no cell holds anything.
func (r Row) Empty() bool {
	for _, c := range r.Cells {
		if c.Text != "" || c.Formula != "" || c.Picture != "" {
			return false
		}
	}
	return true
}

// Place is the address of a picture that lies in a cell, with the cell as a formula names it: cell:B5. Row as an office program counts,
// column from 0.
func Place(row, column int) string { return "cell:" + Letters(column) + strconv.Itoa(row) }

// Letters is the name of a column by its place from 0: A, B, … Z, AA.
func Letters(column int) string {
	name := ""
	for column++; column > 0; column = (column - 1) / 26 {
		name = string(rune('A'+(column-1)%26)) + name
	}
	return name
}

// Column is the inverse of Letters: a column's place by its letters; -1 where they are none.
func Column(letters string) int {
	at := 0
	for _, r := range letters {
		switch {
		case r >= 'a' && r <= 'z':
			r -= 'a' - 'A'
		case r < 'A' || r > 'Z':
			return -1
		}
		if at = at*26 + int(r-'A') + 1; at > 1<<20 {
			return -1
		}
	}
	return at - 1
}
