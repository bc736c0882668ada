package tablefiles

import (
	"fmt"
	"strings"

	"ambrosa/core/table"
	"ambrosa/internal/sheet"
)

// Troubles are what is worth knowing of a file and of a header, and belongs to no row: macros, hidden sheets, columns of one name.
func Troubles(path string, header table.Row) (all []string) {
	if f, err := sheet.Open(path); err == nil {
		for _, n := range f.Notes() {
			switch n.Code {
			case "macros":
				all = append(all, "the workbook has macros; they are not run")
			case "sheet_hidden":
				all = append(all, fmt.Sprintf("the sheet %q is hidden; it is read only where it is named", n.Sheet))
			}
		}
		f.Close()
	}
	first := map[string]string{}
	for i, c := range header.Cells {
		name := strings.TrimSpace(c.Text)
		if name == "" {
			continue
		}
		folded := strings.ToLower(name)
		if before, twice := first[folded]; twice {
			all = append(all, fmt.Sprintf("column %s %q has the name of column %s; one of them is read", table.Letters(i), name, before))
			continue
		}
		first[folded] = table.Letters(i)
	}
	return all
}
