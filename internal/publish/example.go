package publish

import (
	"cmp"
	"errors"
	"io"
	"path"
	"strings"

	"ambrosa/core/channel"
	"ambrosa/core/table"
	"ambrosa/internal/sheet"
	"ambrosa/internal/tablefiles"
)

// exampleRows is how many rows of an example are looked at.
const exampleRows = 500

// ReadExample makes a list of an example of a shop's table, which is a file by the name: its columns by their headers, and how it is written.
// Errors: those of sheet.Open, tablefiles.ErrEmpty, channel.ErrChannel for more columns than a list may have.
func ReadExample(file, name string) (l channel.List, err error) {
	f, err := sheet.Open(file)
	if err != nil {
		return l, err
	}
	defer f.Close()
	rows, err := f.Rows(0)
	if err != nil {
		return l, err
	}
	defer rows.Close()
	var some []table.Row
	for len(some) < exampleRows {
		r, err := rows.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return l, err
		}
		r.Cells = append([]table.Cell(nil), r.Cells...) // they are used again for the next
		some = append(some, r)
	}
	at := table.Header(some)
	if at < 0 {
		return l, tablefiles.ErrEmpty
	}
	header := some[at]
	if len(header.Cells) > channel.MostColumns {
		header.Cells = header.Cells[:channel.MostColumns]
	}
	l.Columns, l.Yes, l.No = channel.Columns(header, some[at+1:])
	for _, c := range l.Columns {
		l.PerOwner = l.PerOwner || c.Field == "other_files" || c.Field == "other_addresses"
	}
	extension := strings.ToLower(path.Ext(name))
	switch extension {
	case ".xlsx", ".ods":
		l.Name = "pictures" + extension
	default:
		l.Name = "pictures.csv"
		d, err := sheet.WrittenAs(file)
		if err != nil {
			return l, err
		}
		l.Separator, l.Encoding, l.LineEnd = d.Separator, d.Encoding, d.LineEnd
	}
	if base := path.Base(strings.ReplaceAll(name, `\`, "/")); path.Ext(l.Name) == extension && len(base) <= 100 {
		l.Name = cmp.Or(base, l.Name)
	}
	return l, nil
}
