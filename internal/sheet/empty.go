package sheet

import (
	"io"

	"github.com/xuri/excelize/v2"
)

// Explained is a column of a table that is to be filled in.
type Explained struct {
	Name, Goes, Required, Example string
}

// WriteEmpty writes a workbook with a header, and a second page that explains each column: what goes in, whether it is required, an
// example. names are those of the pages, and the header of the second.
func WriteEmpty(to io.Writer, columns []Explained, names [2]string, header [4]string) error {
	book := excelize.NewFile()
	defer book.Close()
	if err := book.SetSheetName(scratchSheet, names[0]); err != nil {
		return err
	}
	if _, err := book.NewSheet(names[1]); err != nil {
		return err
	}
	first := make([]string, len(columns))
	second := header[:]
	if err := book.SetSheetRow(names[1], "A1", &second); err != nil {
		return err
	}
	text, err := book.NewStyle(&excelize.Style{NumFmt: 49}) // @: what is typed stays text, so that codes keep their zeros
	if err != nil {
		return err
	}
	for i, c := range columns {
		first[i] = c.Name
		place, err := excelize.CoordinatesToCellName(1, i+2)
		if err != nil {
			return err
		}
		if err := book.SetSheetRow(names[1], place, &[]string{c.Name, c.Goes, c.Required, c.Example}); err != nil {
			return err
		}
		letters, err := excelize.ColumnNumberToName(i + 1)
		if err != nil {
			return err
		}
		if err := book.SetColStyle(names[0], letters, text); err != nil {
			return err
		}
	}
	if err := book.SetSheetRow(names[0], "A1", &first); err != nil {
		return err
	}
	return book.Write(to)
}
