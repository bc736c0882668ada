package sheet

import (
	"bytes"
	"io"
	"strconv"
	"strings"

	"ambrosa/core/table"
)

// ods is an OpenDocument spreadsheet. Source: ISO/IEC 26300-1:2015 (OpenDocument 1.2), sections 9.1 (tables), 6.1 (blanks in
// paragraphs), 19.385 (value types).
type ods struct{ *book }

func openODS(b *book) (File, error) {
	if err := b.walk("META-INF/manifest.xml", func(s *scanner) error {
		if isName(s, "encryption-data") {
			return ErrPassword
		}
		return nil
	}); err != nil && b.parts["meta-inf/manifest.xml"] != nil {
		return nil, err
	}
	o := &ods{b}
	r, err := b.part("content.xml")
	if err != nil {
		return nil, err
	}
	defer r.Close()
	s := newScanner(r)
	hiddenStyles := map[string]bool{}
	style, isSheet := "", false
	for {
		e, err := s.next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, damaged(err)
		}
		if e != opens {
			continue
		}
		switch string(s.name) {
		case "spreadsheet":
			isSheet = true
		case "style":
			style, _ = s.attribute("name")
		case "table-properties":
			if display, ok := s.attribute("display"); ok && display == "false" {
				hiddenStyles[style] = true
			}
		case "table":
			name, _ := s.attribute("name")
			of, _ := s.attribute("style-name")
			if hiddenStyles[of] {
				b.notes = append(b.notes, Note{Code: "sheet_hidden", Sheet: name})
			}
			b.sheets = append(b.sheets, Sheet{name, hiddenStyles[of]})
			if err := s.skipElement(); err != nil {
				return nil, damaged(err)
			}
		}
	}
	if !isSheet || len(b.sheets) == 0 {
		return nil, ErrNoTable // a text document
	}
	return o, nil
}

func (o *ods) Rows(sheet int) (Rows, error) {
	part, err := o.part("content.xml")
	if err != nil {
		return nil, err
	}
	r := &odsRows{part: part, scanner: newScanner(part)}
	for at := -1; at < sheet; {
		e, err := r.next()
		if err != nil {
			part.Close()
			return nil, damaged(err)
		}
		if e != opens || !isName(r.scanner, "table") {
			continue
		}
		if at++; at < sheet {
			if err := r.skipElement(); err != nil {
				part.Close()
				return nil, damaged(err)
			}
		}
	}
	r.depth0 = r.scanner.depth - 1
	return r, nil
}

type odsRows struct {
	part io.Closer
	*scanner
	depth0 int // of what the sheet stands in
	row    int
	again  int // how often the row comes again
	cells  []table.Cell
	text   []byte
	oddities
}

func (r *odsRows) Close() error { return r.part.Close() }

// Next returns the next row that holds something; rows without a value are left out.
func (r *odsRows) Next() (table.Row, error) {
	for {
		if r.again > 0 {
			r.again--
			r.row++
			if r.row > MaxRows {
				return table.Row{}, ErrTooLarge
			}
			return table.Row{Number: r.row, Cells: r.cells}, nil
		}
		if r.scanner.depth <= r.depth0 {
			return table.Row{}, io.EOF
		}
		e, err := r.next()
		if err != nil {
			return table.Row{}, damaged(err)
		}
		if e != opens {
			continue
		}
		switch string(r.name) {
		case "table-row":
			times := r.repeated("number-rows-repeated")
			seen, _ := r.attribute("visibility")
			collapsed := seen == "collapse" || seen == "filter"
			if err := r.readRow(); err != nil {
				return table.Row{}, damaged(err)
			}
			if collapsed && len(r.cells) > 0 {
				r.hidden += times
			}
			if len(r.cells) == 0 {
				r.row = min(r.row+times, MaxRows)
				continue
			}
			r.again = times
		case "shapes", "forms":
			if err := r.skipElement(); err != nil {
				return table.Row{}, damaged(err)
			}
		}
	}
}

// repeated is how often a row or cell stands, 1 where nothing is said.
func (r *odsRows) repeated(attribute string) int {
	raw, ok := r.raw(attribute)
	n, err := strconv.Atoi(string(raw))
	if !ok || err != nil || n < 1 {
		return 1
	}
	return min(n, MaxRows)
}

// readRow reads the cells of the row that was opened, without those behind the last one that holds something.
func (r *odsRows) readRow() error {
	r.cells = r.cells[:0]
	empty := 0 // cells that hold nothing, and of which nobody knows yet whether something comes behind them
	for depth := r.scanner.depth - 1; r.scanner.depth > depth; {
		e, err := r.next()
		if err != nil {
			return err
		}
		if e != opens || !isName(r.scanner, "table-cell") && !isName(r.scanner, "covered-table-cell") {
			continue
		}
		times := r.repeated("number-columns-repeated")
		if r.repeated("number-columns-spanned") > 1 || r.repeated("number-rows-spanned") > 1 {
			r.merged++
		}
		cell, filled, err := r.readCell()
		if err != nil {
			return err
		}
		if !filled {
			empty = min(empty+times, MaxColumns)
			continue
		}
		if len(r.cells)+empty+times > MaxColumns {
			return ErrTooLarge
		}
		for ; empty > 0; empty-- {
			r.cells = append(r.cells, table.Cell{})
		}
		for range times {
			r.cells = append(r.cells, cell)
		}
	}
	return nil
}

// readCell reads the cell that was opened; filled is false where it holds nothing.
func (r *odsRows) readCell() (cell table.Cell, filled bool, err error) {
	kind, typed := r.attribute("value-type")
	stored, _ := r.attribute("value")
	if formula, ok := r.attribute("formula"); ok {
		_, formula, _ = strings.Cut(formula, "=")
		cell.Formula, filled = formula, true
	}
	switch kind {
	case "float", "percentage", "currency":
		cell.Kind = table.Number
	case "date":
		cell.Kind = table.Date
		stored, _ = r.attribute("date-value")
	case "time":
		cell.Kind = table.Date
		stored, _ = r.attribute("time-value")
	case "boolean":
		cell.Kind = table.Boolean
		stored, _ = r.attribute("boolean-value")
		stored = strings.ToUpper(stored)
	case "string":
		stored, _ = r.attribute("string-value")
	}
	filled = filled || typed
	r.text = r.text[:0]
	paragraphs := 0
	for depth := r.scanner.depth - 1; r.scanner.depth > depth; {
		e, err := r.next()
		if err != nil {
			return cell, false, err
		}
		if e != opens {
			continue
		}
		switch string(r.name) {
		case "p":
			if paragraphs++; paragraphs > 1 {
				r.text = append(r.text, '\n')
			}
			if err := r.paragraph(); err != nil {
				return cell, false, err
			}
		case "annotation", "table":
			if err := r.skipElement(); err != nil {
				return cell, false, err
			}
		case "frame":
			if err := r.frame(&cell); err != nil {
				return cell, false, err
			}
			filled = filled || cell.Picture != ""
		}
	}
	cell.Text = string(r.text)
	filled = filled || paragraphs > 0 && cell.Text != ""
	switch {
	case paragraphs == 0 && stored != "":
		cell.Text = stored
	case cell.Kind != table.Text && stored != cell.Text:
		if cell.Stored = stored; cell.Kind == table.Number {
			cell.Stored = plainNumber(stored)
		}
	}
	if cell.Formula != "" && !typed && cell.Text == "" {
		cell.Kind = table.Unsolved
	}
	if cell.Formula != "" && isError(cell.Text) {
		cell.Kind = table.Error
	}
	return cell, filled, nil
}

// frame reads the picture in a frame that lies in a cell, the first of them. Source: ISO/IEC 26300, draw:frame and draw:image.
func (r *odsRows) frame(cell *table.Cell) error {
	for depth := r.scanner.depth - 1; r.scanner.depth > depth; {
		e, err := r.next()
		if err != nil {
			return err
		}
		if e != opens || !isName(r.scanner, "image") || cell.Picture != "" {
			continue
		}
		if href, _ := r.attribute("href"); href != "" && !table.IsAddress(href) {
			cell.Picture = strings.TrimPrefix(href, "./")
		}
	}
	return nil
}

// isError reports whether a text is what a formula shows that failed. Source: OpenFormula 1.2, 5.12, and what office programs show
// (common practice, no source).
func isError(s string) bool {
	return strings.HasPrefix(s, "#") && len(s) > 2 && strings.ToUpper(s) == s && strings.ContainsAny(s[len(s)-1:], "!?AMLF/0") || strings.HasPrefix(s, "Err:")
}

// paragraph appends the text of the paragraph that was opened. Blanks in a row are one, as are line ends; more stand as elements.
func (r *odsRows) paragraph() error {
	begun, loose := len(r.text), false // loose: the last letter is a blank that goes where nothing comes behind it
	for depth := r.scanner.depth - 1; r.scanner.depth > depth; {
		e, err := r.next()
		switch {
		case err != nil:
			return err
		case e == text:
			for _, c := range r.scanner.text {
				if c == '\n' || c == '\t' || c == '\r' {
					c = ' '
				}
				if c == ' ' && (len(r.text) == begun || r.text[len(r.text)-1] == ' ') {
					continue
				}
				r.text, loose = append(r.text, c), c == ' '
			}
		case e != opens:
		case isName(r.scanner, "s"):
			n := 1
			if raw, ok := r.raw("c"); ok {
				n, _ = strconv.Atoi(string(raw))
			}
			r.text, loose = append(r.text, bytes.Repeat([]byte(" "), max(0, min(n, 1<<15)))...), false
		case isName(r.scanner, "tab"):
			r.text, loose = append(r.text, '\t'), false
		case isName(r.scanner, "line-break"):
			r.text, loose = append(r.text, '\n'), false
		case isName(r.scanner, "annotation"), isName(r.scanner, "note"):
			if err := r.skipElement(); err != nil {
				return err
			}
		}
	}
	if loose {
		r.text = r.text[:len(r.text)-1]
	}
	return nil
}
