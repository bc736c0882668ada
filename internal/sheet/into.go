package sheet

import (
	"errors"
	"fmt"
	"io"

	"github.com/xuri/excelize/v2"
)

var (
	// ErrTaken is returned where what is written would cover a cell that holds something.
	ErrTaken = errors.New("a cell there holds something")
	// ErrPlace is returned for a place that is no cell.
	ErrPlace = errors.New("this is no cell, such as B5")
)

// Into writes rows with pictures into a workbook (XLSX), from a cell on. The workbook stands in memory.
type Into struct {
	book        *excelize.File
	sheet       string
	text        int // the style of cells that hold a text
	column, row int // where the next row begins, from 1
	first       int
	taken       map[string]bool
}

// NewInto begins a workbook.
func NewInto(sheet string) (*Into, error) {
	book := excelize.NewFile()
	if err := book.SetSheetName("Sheet1", sheet); err != nil {
		return nil, err
	}
	return begin(book, sheet, 1, 1)
}

// OpenInto opens a workbook, to write at a cell of a sheet, or below its rows where no cell is named; without a sheet's name in the first
// one. Nothing that stands in it is touched. Errors: ErrSheet, ErrPlace, ErrDamaged.
func OpenInto(from io.Reader, sheet, cell string) (*Into, error) {
	book, err := excelize.OpenReader(from, excelize.Options{UnzipSizeLimit: largestInto, UnzipXMLSizeLimit: largestInto})
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	if sheet == "" {
		sheet = book.GetSheetName(0)
	}
	if at, err := book.GetSheetIndex(sheet); err != nil || at < 0 {
		return nil, errors.Join(fmt.Errorf("%w: %q", ErrSheet, sheet), book.Close())
	}
	rows, err := book.GetRows(sheet)
	if err != nil {
		return nil, errors.Join(fmt.Errorf("%w: %w", ErrDamaged, err), book.Close())
	}
	column, row := 1, len(rows)+1
	if cell != "" {
		if column, row, err = excelize.CellNameToCoordinates(cell); err != nil {
			return nil, errors.Join(ErrPlace, book.Close())
		}
	}
	into, err := begin(book, sheet, column, row)
	if err != nil {
		return nil, errors.Join(err, book.Close())
	}
	for r, cells := range rows {
		for c, text := range cells {
			if name, err := excelize.CoordinatesToCellName(c+1, r+1); err == nil && text != "" {
				into.taken[name] = true
			}
		}
	}
	return into, nil
}

// textFormat is the number format of texts. Source: ECMA-376, part 1, 18.8.30.
const textFormat = 49

// largestInto is how much a workbook may unpack to that is written into.
const largestInto = 256 << 20

func begin(book *excelize.File, sheet string, column, row int) (*Into, error) {
	text, err := book.NewStyle(&excelize.Style{NumFmt: textFormat})
	return &Into{book: book, sheet: sheet, text: text, column: column, row: row, first: column, taken: map[string]bool{}}, err
}

// Shown is a cell of a row: a text, a number, or a picture with what it shows.
type Shown struct {
	Text    string
	Number  bool
	Picture []byte // JPEG
	Side    int    // of the picture, in pixels: the longer one at most
}

// Row writes the next row. Errors: ErrTaken with the cell.
func (w *Into) Row(cells []Shown) error {
	high := 0
	for i, c := range cells {
		name, err := excelize.CoordinatesToCellName(w.column+i, w.row)
		if err != nil {
			return fmt.Errorf("%w: %w", ErrPlace, err)
		}
		if w.taken[name] {
			return fmt.Errorf("%w: %s", ErrTaken, name)
		}
		if err := w.cell(name, c); err != nil {
			return err
		}
		if c.Picture != nil {
			high = max(high, c.Side)
		}
	}
	if high > 0 {
		// A point is 4/3 of a pixel at 96 dots an inch.
		if err := w.book.SetRowHeight(w.sheet, w.row, float64(high+6)*3/4); err != nil {
			return err
		}
	}
	w.row++
	return nil
}

func (w *Into) cell(name string, c Shown) error {
	switch {
	case c.Picture != nil:
		return w.book.AddPictureFromBytes(w.sheet, name, &excelize.Picture{Extension: ".jpg", File: c.Picture,
			Format: &excelize.GraphicOptions{AltText: c.Text, OffsetX: 3, OffsetY: 3, Positioning: "oneCell"}})
	case c.Text == "":
		return nil
	case c.Number:
		return w.book.SetCellDefault(w.sheet, name, c.Text)
	}
	if err := w.book.SetCellStyle(w.sheet, name, name, w.text); err != nil {
		return err
	}
	return w.book.SetCellStr(w.sheet, name, c.Text)
}

// Wide makes a column of the rows so many pixels wide, by its place among them from 0; one that is wider stays.
func (w *Into) Wide(column, pixels int) error {
	name, err := excelize.ColumnNumberToName(w.first + column)
	if err != nil {
		return err
	}
	const letter = 7 // pixels of a digit in the usual font (ECMA-376, part 1, 18.3.1.13)
	width := float64(pixels+6) / letter
	if now, err := w.book.GetColWidth(w.sheet, name); err == nil && now >= width {
		return nil
	}
	return w.book.SetColWidth(w.sheet, name, name, width)
}

// Write ends the workbook.
func (w *Into) Write(to io.Writer) error {
	_, err := w.book.WriteTo(to)
	return errors.Join(err, w.book.Close())
}

// Close forgets the workbook.
func (w *Into) Close() error { return w.book.Close() }
