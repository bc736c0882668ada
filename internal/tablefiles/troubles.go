package tablefiles

import (
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/sheet"
)

// Troubles are what is worth knowing of a file, its rows and its header, and belongs to no row: macros, hidden sheets and rows, merged
// cells, columns of one name.
func Troubles(notes []sheet.Note, header table.Row) (all []message.Message) {
	for _, n := range notes {
		all = append(all, message.New("sheet_"+strings.TrimPrefix(n.Code, "sheet_"), "sheet", n.Sheet, "count", n.Count))
	}
	first := map[string]string{}
	for i, c := range header.Cells {
		name := strings.TrimSpace(c.Text)
		if name == "" {
			continue
		}
		folded := strings.ToLower(name)
		if before, twice := first[folded]; twice {
			all = append(all, message.New("sheet_column_twice", "column", table.Letters(i), "name", name, "first", before))
			continue
		}
		first[folded] = table.Letters(i)
	}
	return all
}

// Notes are what is worth knowing of a file and of the rows that were read of it so far.
func Notes(f sheet.File, rows sheet.Rows) []sheet.Note {
	return append(append([]sheet.Note{}, f.Notes()...), sheet.RowsNotes(rows)...)
}
