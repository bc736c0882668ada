package sheet

import (
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// format is how a cell's number is shown.
type format struct {
	general bool
	date    bool
	scratch int // its style in the workbook that shows it; 0 where it has none yet
	id      int // of a format that is built in
	code    string
}

// formats show numbers as their cells do. Source: ECMA-376, part 1, 18.8.30 and 18.8.31. What a format means is excelize's knowledge:
// a workbook of its own, with one cell, shows them. What was shown once is kept.
type formats struct {
	styles []format // by the number that a cell has
	book   *excelize.File
	shown  map[shownKey]string
}

type shownKey struct {
	style  int
	stored string
}

const (
	mostStyles = 1 << 16
	mostShown  = 1 << 15 // numbers whose showing is kept
)

// readFormats reads the formats of a workbook's styles.
func (b *book) readFormats(part string, date1904 bool) (*formats, error) {
	f := &formats{book: excelize.NewFile(), shown: map[shownKey]string{}}
	if err := f.book.SetWorkbookProps(&excelize.WorkbookPropsOptions{Date1904: &date1904}); err != nil {
		return nil, err
	}
	if part == "" || b.parts[strings.ToLower(part)] == nil {
		return f, nil
	}
	codes := map[int]string{}
	inCells := 0 // the depth of the list of cells' formats
	err := b.walk(part, func(s *scanner) error {
		switch string(s.name) {
		case "numFmt":
			id, _ := s.attribute("numFmtId")
			code, _ := s.attribute("formatCode")
			if n, err := strconv.Atoi(id); err == nil && len(codes) < mostStyles {
				codes[n] = code
			}
		case "cellXfs":
			inCells = s.depth
		case "xf":
			if inCells == 0 || s.depth != inCells+1 || len(f.styles) == mostStyles {
				return nil
			}
			id, _ := s.attribute("numFmtId")
			n, _ := strconv.Atoi(id)
			f.styles = append(f.styles, formatOf(n, codes[n]))
		case "cellStyles", "dxfs":
			inCells = 0
		}
		return nil
	})
	return f, err
}

func formatOf(id int, code string) format {
	return format{general: code == "" && id == 0 || strings.EqualFold(code, "General"), id: id, code: code, date: isDate(id, code)}
}

// isDate reports whether a format shows dates or times. Source: ECMA-376, part 1, 18.8.30, the ids that are built in; of others, a
// letter of a date outside of quotes and brackets.
func isDate(id int, code string) bool {
	if code == "" {
		return id >= 14 && id <= 22 || id >= 27 && id <= 36 || id >= 45 && id <= 47 || id >= 50 && id <= 58
	}
	quoted, bracketed := false, false
	for i := 0; i < len(code); i++ {
		switch c := code[i]; {
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '\\' || c == '_' || c == '*':
			i++
		case c == '[':
			bracketed = true
		case c == ']':
			bracketed = false
		case !bracketed && strings.IndexByte("yYmMdDhHsS", c) >= 0:
			return true
		}
	}
	return false
}

func (f *formats) of(style int) format {
	if style < 0 || style >= len(f.styles) {
		return format{general: true}
	}
	return f.styles[style]
}

// show shows a stored number in a style.
func (f *formats) show(style int, stored string) string {
	as := f.of(style)
	if as.general {
		return plainNumber(stored)
	}
	key := shownKey{style, stored}
	if s, ok := f.shown[key]; ok {
		return s
	}
	s := f.ask(style, stored)
	if len(f.shown) >= mostShown {
		clear(f.shown)
	}
	f.shown[key] = s
	return s
}

const scratchSheet, scratchCell = "Sheet1", "A1"

// ask has the other workbook show a number.
func (f *formats) ask(style int, stored string) string {
	as := &f.styles[style]
	number, err := strconv.ParseFloat(stored, 64)
	if err != nil {
		return stored
	}
	if as.scratch == 0 {
		made := &excelize.Style{NumFmt: as.id}
		if as.code != "" {
			made = &excelize.Style{CustomNumFmt: &as.code}
		}
		if as.scratch, err = f.book.NewStyle(made); err != nil {
			*as = format{general: true}
			return plainNumber(stored)
		}
	}
	if f.book.SetCellFloat(scratchSheet, scratchCell, number, -1, 64) != nil ||
		f.book.SetCellStyle(scratchSheet, scratchCell, scratchCell, as.scratch) != nil {
		return plainNumber(stored)
	}
	shown, err := f.book.GetCellValue(scratchSheet, scratchCell)
	if err != nil {
		return plainNumber(stored)
	}
	return shown
}
