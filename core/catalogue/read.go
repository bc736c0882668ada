// Package catalogue reads a products table into owners and computes what importing it would change.
//
// The table's first row names its columns, in any order: sku (required), product, title, barcode, category;
// every other column is an option such as colour or size. A row whose product is empty or its own SKU is a
// product; otherwise it is a variant of the product with that SKU. category is a path, "Kites > Deltas".
//
// A column that is not there, or a row that ends before it, says nothing: what stands stays. An empty cell takes away.
package catalogue

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"ambrosa/core/gtin"
	"ambrosa/core/message"
	"ambrosa/core/names"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

var (
	// ErrNoTable is returned where there is no header row to read.
	ErrNoTable = errors.New("the file is empty; its first row must name the columns")
	// ErrNoSKU is returned where no column is called sku.
	ErrNoSKU = errors.New("no column is called sku; the first row must name the columns")
	// ErrNotText is returned for a file whose bytes are no text.
	ErrNotText = errors.New("this is no text; save the sheet as CSV in UTF-8")
	// ErrColumns is returned for a table with more than MaxColumns columns.
	ErrColumns = fmt.Errorf("a table has at most %d columns", MaxColumns)
)

// Row is one good line of the table.
type Row struct {
	Line     int
	Given    Given
	SKU      string
	Product  string // SKU of the product this is a variant of; empty for a product
	Title    string
	Barcode  string // as written; its check digit is right
	Category []string
	Options  map[string]string // of every option column that the row reaches; an empty one takes the option away
}

// Given says which columns a row has a cell for, be it empty.
type Given uint8

const (
	GivenProduct Given = 1 << iota
	GivenBarcode
	GivenCategory
)

// Problem is one line, and what is wrong with it. It is left out unless Kept.
type Problem struct {
	Line   int    `json:"line"`
	Column string `json:"column,omitempty"`
	message.Message
	Kept bool `json:"kept,omitempty"` // the line goes in all the same
}

// LeftOut counts the lines that do not go in.
func LeftOut(problems []Problem) int {
	n := 0
	for _, p := range problems {
		if !p.Kept {
			n++
		}
	}
	return n
}

const (
	// MaxColumns is how many columns a table may have: each is an option that pairing looks at.
	MaxColumns = 200
	// MaxLevels is how deep a category may stand.
	MaxLevels = 20
	// maxCell bounds one cell, in bytes: a title is never longer, a file taken for a table often is.
	maxCell = 4096
)

// Read reads a table separated by commas, semicolons or tabs, its lines ended by LF, CR LF or CR. Good rows come back
// beside a problem for each bad line; an error means that nothing could be read. A row is held in memory, so memory grows
// with rows.
func Read(text string) ([]Row, []Problem, error) {
	records, columns, err := begin(text)
	if err != nil {
		return nil, nil, err
	}
	var rows []Row
	var problems []Problem
	first := map[string]int{}
	barcodes := map[string]int{}
	for {
		record, line, err := records.next()
		if err == io.EOF {
			break
		}
		if err != nil {
			problems = append(problems, Problem{Line: line, Message: message.New("row_quotes")})
			continue
		}
		row, problem := read(columns, record, line)
		if problem != nil {
			problems = append(problems, *problem)
			continue
		}
		if row == nil {
			continue
		}
		if before := first[Identity(row.SKU)]; before > 0 {
			problems = append(problems, Problem{Line: line, Column: "sku", Message: message.New("sku_twice", "sku", row.SKU, "line", before)})
			continue
		}
		if row.Barcode != "" {
			digits, _ := gtin.Parse(row.Barcode)
			if before := barcodes[digits]; before > 0 {
				problems = append(problems, Problem{Line: line, Column: "barcode", Message: message.New("barcode_twice", "barcode", row.Barcode, "line", before)})
				continue
			}
			barcodes[digits] = line
		}
		first[Identity(row.SKU)] = line
		rows = append(rows, *row)
	}
	return rows, problems, nil
}

// Check looks at a table's beginning and returns the error with which Read would end. A character that is cut off at the end is
// no fault.
func Check(beginning string) error {
	for i := 0; i < utf8.UTFMax-1 && !utf8.ValidString(beginning) && beginning != ""; i++ {
		beginning = beginning[:len(beginning)-1]
	}
	_, _, err := begin(beginning)
	return err
}

// begin reads a table's header and returns the records behind it.
func begin(text string) (*records, []string, error) {
	text = strings.TrimPrefix(text, "\ufeff")
	if strings.TrimSpace(text) == "" {
		return nil, nil, ErrNoTable
	}
	if strings.ContainsRune(text, 0) || !utf8.ValidString(text) {
		return nil, nil, ErrNotText
	}
	records := newRecords(text)
	header, _, err := records.next()
	if err != nil {
		return nil, nil, fmt.Errorf("%w (%v)", ErrNoTable, err)
	}
	if len(header) > MaxColumns {
		return nil, nil, fmt.Errorf("%w; this one has %d", ErrColumns, len(header))
	}
	columns := make([]string, len(header))
	for i, h := range header {
		columns[i] = strings.ToLower(strings.TrimSpace(cleanText(h)))
	}
	if !slices.Contains(columns, "sku") {
		return nil, nil, ErrNoSKU
	}
	return records, columns, nil
}

func read(columns, record []string, line int) (*Row, *Problem) {
	if len(record) > len(columns) {
		return nil, &Problem{Line: line, Message: message.New("row_long", "cells", len(record), "columns", len(columns))}
	}
	row := Row{Line: line, Options: map[string]string{}}
	filled := false
	for i, cell := range record {
		if len(cell) > maxCell {
			return nil, &Problem{Line: line, Column: columns[i], Message: message.New("cell_long", "most", maxCell)}
		}
		cell = norm.NFC.String(cleanText(cell))
		filled = filled || cell != ""
		switch columns[i] {
		case "sku":
			row.SKU = CleanKey(cell)
		case "product":
			row.Product, row.Given = CleanKey(cell), row.Given|GivenProduct
		case "title":
			row.Title = cell
		case "barcode":
			row.Barcode, row.Given = CleanKey(cell), row.Given|GivenBarcode
		case "category":
			row.Given |= GivenCategory
			for part := range strings.SplitSeq(cell, ">") {
				if part = strings.TrimSpace(part); part != "" {
					row.Category = append(row.Category, part)
				}
			}
		case "":
		default:
			row.Options[columns[i]] = cell
		}
	}
	if !filled {
		return nil, nil
	}
	if row.SKU == "" {
		return nil, &Problem{Line: line, Column: "sku", Message: message.New("sku_missing")}
	}
	if len(names.Tokens(row.SKU, 0)) == 0 {
		return nil, &Problem{Line: line, Column: "sku", Message: message.New("sku_empty", "sku", row.SKU)}
	}
	if len(row.Category) > MaxLevels {
		return nil, &Problem{Line: line, Column: "category", Message: message.New("category_deep", "levels", len(row.Category), "most", MaxLevels)}
	}
	if Identity(row.Product) == Identity(row.SKU) {
		row.Product = ""
	}
	if row.Barcode != "" {
		if _, err := gtin.Parse(row.Barcode); err != nil {
			return nil, &Problem{Line: line, Column: "barcode", Message: barcodeWrong(row.Barcode, err)}
		}
	}
	return &row, nil
}

// barcodeWrong says what is wrong with a barcode that can't be read.
func barcodeWrong(barcode string, err error) message.Message {
	code := "barcode_form"
	switch {
	case errors.Is(err, gtin.ErrDamaged):
		code = "barcode_damaged"
	case errors.Is(err, gtin.ErrZeros):
		code = "barcode_zeros"
	case errors.Is(err, gtin.ErrCheck):
		return message.New("barcode_check", "barcode", barcode, "digit", gtin.Right(barcode))
	}
	return message.New(code, "barcode", barcode)
}

// Identity is the form in which SKUs, and titles of categories, are the same: NFKC and case folded, without what can't be
// seen, blanks at the ends gone. Separators count: PK-1 and PK1 are two SKUs.
func Identity(sku string) string {
	return cases.Fold().String(norm.NFKC.String(CleanKey(sku)))
}

// invisible are the characters that show nothing: controls, format characters and those that Unicode has ignored by
// default. Source: Unicode Standard Annex #44, Default_Ignorable_Code_Point.
func invisible(r rune) bool {
	return unicode.Is(unicode.Cc, r) || unicode.In(r, unicode.Cf, unicode.Other_Default_Ignorable_Code_Point, unicode.Variation_Selector)
}

// CleanKey takes out of a key what can't be seen: two keys that look the same are the same.
func CleanKey(s string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		if invisible(r) {
			return -1
		}
		return r
	}, s))
}

// cleanText makes control characters blanks, and takes out what can't be seen but for the joiners that some scripts need.
func cleanText(s string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		switch {
		case r == '\u200c', r == '\u200d':
			return r
		case unicode.Is(unicode.Cc, r):
			return ' '
		case invisible(r):
			return -1
		}
		return r
	}, s))
}
