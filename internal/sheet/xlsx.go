package sheet

import (
	"bytes"
	"errors"
	"io"
	"math"
	"os"
	"strconv"
	"strings"

	"ambrosa/core/table"
)

// xlsx is a workbook of Office Open XML. Source: ECMA-376, part 1, sections 18.2 (workbook), 18.3 (sheets), 18.4 (shared texts).
type xlsx struct {
	*book
	paths   []string // of the sheets
	texts   texts
	formats *formats
}

func openXLSX(b *book) (File, error) {
	x := &xlsx{book: b}
	rels := map[string]string{}
	main := ""
	if err := b.walk("_rels/.rels", func(s *scanner) error {
		kind, _ := s.attribute("Type")
		if target, ok := s.attribute("Target"); ok && strings.HasSuffix(kind, "/officeDocument") {
			main = beside("", target)
		}
		return nil
	}); err != nil {
		return nil, err
	}
	if b.parts[strings.ToLower(main)] == nil {
		return nil, ErrNoTable // a text document, a presentation
	}
	var sharedTexts, styles string
	err := b.walk(relsOf(main), func(s *scanner) error {
		id, _ := s.attribute("Id")
		kind, _ := s.attribute("Type")
		target, _ := s.attribute("Target")
		target = beside(main, target)
		switch {
		case strings.HasSuffix(kind, "/sharedStrings"):
			sharedTexts = target
		case strings.HasSuffix(kind, "/styles"):
			styles = target
		case strings.HasSuffix(kind, "/vbaProject"):
			b.notes = append(b.notes, Note{Code: "macros"})
		}
		rels[id] = target
		return nil
	})
	if err != nil {
		return nil, err
	}
	date1904 := false
	if err := b.walk(main, func(s *scanner) error {
		switch string(s.name) {
		case "workbookPr":
			date1904 = whether(s.attribute("date1904"))
		case "sheet":
			name, _ := s.attribute("name")
			id, _ := s.attribute("id")
			seen, _ := s.attribute("state")
			if !strings.Contains(strings.ToLower(rels[id]), "worksheet") && b.parts[strings.ToLower(rels[id])] == nil {
				return nil
			}
			hidden := seen == "hidden" || seen == "veryHidden"
			if hidden {
				b.notes = append(b.notes, Note{Code: "sheet_hidden", Sheet: name})
			}
			b.sheets, x.paths = append(b.sheets, Sheet{name, hidden}), append(x.paths, rels[id])
		}
		return nil
	}); err != nil {
		return nil, err
	}
	if len(b.sheets) == 0 {
		return nil, ErrNoTable
	}
	if x.formats, err = b.readFormats(styles, date1904); err != nil {
		return nil, err
	}
	if sharedTexts != "" {
		x.texts, err = b.readTexts(sharedTexts)
	}
	return x, err
}

func relsOf(part string) string {
	at := strings.LastIndexByte(part, '/') + 1
	return part[:at] + "_rels/" + part[at:] + ".rels"
}

// texts are what cells share: one text after the other, and where each ends.
type texts struct {
	all  []byte
	ends []uint32
}

func (t *texts) at(i int) (string, bool) {
	if i < 0 || i >= len(t.ends) {
		return "", false
	}
	from := uint32(0)
	if i > 0 {
		from = t.ends[i-1]
	}
	return string(t.all[from:t.ends[i]]), true
}

func (b *book) readTexts(name string) (t texts, err error) {
	r, err := b.part(name)
	if errors.Is(err, os.ErrNotExist) {
		return t, nil
	}
	if err != nil {
		return t, err
	}
	defer r.Close()
	s := newScanner(r)
	for {
		e, err := s.next()
		switch {
		case err == io.EOF:
			return t, nil
		case err != nil:
			return t, damaged(err)
		case e != opens || !isName(s, "si"):
			continue
		}
		if t.all, err = richText(s, t.all); err != nil {
			return t, damaged(err)
		}
		if len(t.all) > largestTexts {
			return t, ErrTooLarge
		}
		t.ends = append(t.ends, uint32(len(t.all)))
	}
}

// richText appends the text of the element that was opened, its runs one after the other; what tells how it is spoken is left out.
func richText(s *scanner, to []byte) ([]byte, error) {
	depth := s.depth - 1
	inside := false
	for s.depth > depth {
		e, err := s.next()
		if err != nil {
			return to, err
		}
		switch {
		case e == opens && isName(s, "rPh"):
			if err := s.skipElement(); err != nil {
				return to, err
			}
		case isName(s, "t") && e != text:
			inside = e == opens
		case e == text && inside:
			to = appendXString(to, s.text)
		}
	}
	return to, nil
}

// appendXString appends a text with what _xHHHH_ stands for. Source: ECMA-376, part 1, 22.9.2.19, ST_Xstring.
func appendXString(to, b []byte) []byte {
	for {
		at := bytes.Index(b, []byte("_x"))
		if at < 0 || len(b) < at+7 {
			return append(to, b...)
		}
		n, err := strconv.ParseUint(string(b[at+2:at+6]), 16, 16)
		if b[at+6] != '_' || err != nil {
			to, b = append(to, b[:at+2]...), b[at+2:]
			continue
		}
		to = append(append(to, b[:at]...), string(rune(n))...)
		b = b[at+7:]
	}
}

func (x *xlsx) Rows(sheet int) (Rows, error) {
	pictures, err := x.readLying(x.paths[sheet])
	if err != nil {
		return nil, err
	}
	r, err := x.part(x.paths[sheet])
	if err != nil {
		return nil, err
	}
	return &xlsxRows{book: x, part: r, scanner: newScanner(r), lying: pictures}, nil
}

type xlsxRows struct {
	book *xlsx
	part io.Closer
	*scanner
	row   int
	cells []table.Cell
	value []byte
	lying lying
	oddities
}

func (r *xlsxRows) Close() error { return r.part.Close() }

// Next returns the next row that the sheet holds; rows without cells may be left out.
func (r *xlsxRows) Next() (table.Row, error) {
	for {
		e, err := r.next()
		switch {
		case err == io.EOF:
			return table.Row{}, io.EOF
		case err != nil:
			return table.Row{}, damaged(err)
		case e == closes && isName(r.scanner, "sheetData"):
			r.countMerged()
			return table.Row{}, io.EOF
		case e != opens || !isName(r.scanner, "row"):
			continue
		}
		r.row++
		if whether(r.attribute("hidden")) {
			r.hidden++
		}
		if n, ok := r.raw("r"); ok {
			if at, err := strconv.Atoi(string(n)); err == nil && at >= r.row {
				r.row = at
			}
		}
		if r.row > MaxRows {
			return table.Row{}, ErrTooLarge
		}
		if err := r.readRow(); err != nil {
			return table.Row{}, damaged(err)
		}
		return table.Row{Number: r.row, Cells: r.lying.put(r.row, r.cells)}, nil
	}
}

// countMerged counts the merged cells, which stand behind the rows. What can't be read there is no trouble of the rows.
func (r *xlsxRows) countMerged() {
	for {
		e, err := r.next()
		if err != nil {
			return
		}
		if e == opens && isName(r.scanner, "mergeCell") {
			r.merged++
		}
	}
}

// readRow reads the cells of the row that was opened. Cells behind the last one that has a value are left out.
func (r *xlsxRows) readRow() error {
	r.cells = r.cells[:0]
	depth, next := r.depth-1, 0
	for r.depth > depth {
		e, err := r.next()
		if err != nil {
			return err
		}
		if e != opens || !isName(r.scanner, "c") {
			continue
		}
		at := next
		if place, ok := r.raw("r"); ok {
			if c := columnOf(place); c >= next {
				at = c
			}
		}
		if at >= MaxColumns {
			return ErrTooLarge
		}
		next = at + 1
		cell, filled, err := r.readCell()
		if err != nil {
			return err
		}
		if !filled {
			continue
		}
		for len(r.cells) < at {
			r.cells = append(r.cells, table.Cell{})
		}
		r.cells = append(r.cells, cell)
	}
	return nil
}

// columnOf is the column of a cell's place: 27 of AB12; -1 where it is none.
func columnOf(place []byte) int {
	at := 0
	for _, c := range place {
		if c < 'A' || c > 'Z' {
			break
		}
		if at = at*26 + int(c-'A') + 1; at > MaxColumns {
			return MaxColumns
		}
	}
	return at - 1
}

// readCell reads the cell that was opened; filled is false where it holds no value, not even an empty one.
func (r *xlsxRows) readCell() (cell table.Cell, filled bool, err error) {
	kind, _ := r.raw("t")
	typed := string(kind)
	style := 0
	if s, ok := r.raw("s"); ok {
		style, _ = strconv.Atoi(string(s))
	}
	r.value = r.value[:0]
	inline, solved := false, false
	depth := r.depth - 1
	for r.depth > depth {
		e, err := r.next()
		if err != nil {
			return cell, false, err
		}
		switch {
		case e != opens:
		case isName(r.scanner, "v"):
			solved, filled = true, true
			if r.value, err = r.textOf(r.value); err != nil {
				return cell, false, err
			}
		case isName(r.scanner, "f"):
			b, err := r.textOf(nil)
			if err != nil {
				return cell, false, err
			}
			cell.Formula = string(b)
			filled = filled || len(b) > 0
		case isName(r.scanner, "is"):
			inline, filled = true, true
			if r.value, err = richText(r.scanner, r.value); err != nil {
				return cell, false, err
			}
		}
	}
	if cell.Formula != "" && !solved && !inline {
		cell.Kind = table.Unsolved
		return cell, true, nil
	}
	r.fill(&cell, typed, style, inline)
	return cell, filled, nil
}

// fill says what a cell's value means.
func (r *xlsxRows) fill(cell *table.Cell, typed string, style int, inline bool) {
	switch {
	case inline:
		cell.Text = string(r.value)
	case typed == "s":
		n, err := strconv.Atoi(string(bytes.TrimSpace(r.value)))
		if s, ok := r.book.texts.at(n); ok && err == nil {
			cell.Text = s
		}
	case typed == "str":
		cell.Text = string(appendXString(nil, r.value))
	case typed == "b":
		cell.Kind, cell.Text = table.Boolean, "FALSE"
		if string(r.value) == "1" {
			cell.Text = "TRUE"
		}
	case typed == "e":
		cell.Kind, cell.Text = table.Error, string(r.value)
	case typed == "d":
		cell.Kind, cell.Text = table.Date, string(r.value)
	case len(r.value) > 0:
		r.number(cell, style)
	}
}

// number shows a number by its format, and keeps the value where that says more.
func (r *xlsxRows) number(cell *table.Cell, style int) {
	stored := string(r.value)
	cell.Kind = table.Number
	f := r.book.formats.of(style)
	if f.date {
		cell.Kind = table.Date
	}
	cell.Text = r.book.formats.show(style, stored)
	if plain := plainNumber(stored); plain != cell.Text {
		cell.Stored = plain
	}
}

// plainNumber is a stored number without an exponent, with at most the 15 digits that a number holds for sure.
func plainNumber(stored string) string {
	if len(stored) <= 15 && !strings.ContainsAny(stored, "eE") {
		return stored
	}
	f, err := strconv.ParseFloat(stored, 64)
	if err != nil || math.IsInf(f, 0) || math.IsNaN(f) {
		return stored
	}
	if f == math.Trunc(f) && math.Abs(f) < 1e18 {
		return strconv.FormatFloat(f, 'f', 0, 64)
	}
	short, err := strconv.ParseFloat(strconv.FormatFloat(f, 'g', 15, 64), 64)
	if err != nil {
		return stored
	}
	if a := math.Abs(short); a >= 1e18 || a < 1e-9 {
		return strconv.FormatFloat(short, 'E', -1, 64)
	}
	return strconv.FormatFloat(short, 'f', -1, 64)
}

// textOf appends the text of the element that was opened.
func (s *scanner) textOf(to []byte) ([]byte, error) {
	for depth := s.depth - 1; s.depth > depth; {
		e, err := s.next()
		if err != nil {
			return to, err
		}
		if e == text {
			to = append(to, s.text...)
		}
	}
	return to, nil
}
