// Package catalogue reads a products table into owners and computes what importing it would change.
//
// The table's first row names its columns, in any order: sku (required), product, title, barcode, category;
// every other column is an option such as colour or size. A row whose product is empty or its own SKU is a
// product; otherwise it is a variant of the product with that SKU. category is a path, "Kites > Deltas".
package catalogue

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"ambrosa/core/gtin"
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
)

// Row is one good line of the table.
type Row struct {
	Line     int
	SKU      string
	Product  string // SKU of the product this is a variant of; empty for a product
	Title    string
	Barcode  string // as written; its check digit is right
	Category []string
	Options  map[string]string
}

// Problem is one line that is left out, and why.
type Problem struct {
	Line   int    `json:"line"`
	Column string `json:"column,omitempty"`
	Why    string `json:"why"`
}

// maxCell bounds one cell, in bytes: a title is never longer, a file taken for a table often is.
const maxCell = 4096

// Read reads a table separated by commas, semicolons or tabs. Good rows come back beside a problem for each
// bad line; an error means that nothing could be read. A row is held in memory, so memory grows with rows.
func Read(text string) ([]Row, []Problem, error) {
	text = strings.TrimPrefix(text, "\ufeff")
	if strings.TrimSpace(text) == "" {
		return nil, nil, ErrNoTable
	}
	if strings.ContainsRune(text, 0) || !utf8.ValidString(text) {
		return nil, nil, ErrNotText
	}
	reader := csv.NewReader(strings.NewReader(text))
	reader.Comma = separator(text)
	reader.FieldsPerRecord = -1
	reader.LazyQuotes = true
	header, err := reader.Read()
	if err != nil {
		return nil, nil, fmt.Errorf("%w (%v)", ErrNoTable, err)
	}
	columns := make([]string, len(header))
	for i, h := range header {
		columns[i] = strings.ToLower(strings.TrimSpace(h))
	}
	if !slices.Contains(columns, "sku") {
		return nil, nil, ErrNoSKU
	}
	var rows []Row
	var problems []Problem
	first := map[string]int{}
	barcodes := map[string]int{}
	for {
		record, err := reader.Read()
		if err == io.EOF {
			break
		}
		line, _ := reader.FieldPos(0)
		if err != nil {
			problems = append(problems, Problem{Line: line, Why: "The row can't be read: " + err.Error() + "."})
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
			problems = append(problems, Problem{line, "sku", fmt.Sprintf("SKU %s stands on line %d already; that line counts.", row.SKU, before)})
			continue
		}
		if row.Barcode != "" {
			digits, _ := gtin.Parse(row.Barcode)
			if before := barcodes[digits]; before > 0 {
				problems = append(problems, Problem{line, "barcode", fmt.Sprintf("Barcode %s stands on line %d already; a barcode names one thing.", row.Barcode, before)})
				continue
			}
			barcodes[digits] = line
		}
		first[Identity(row.SKU)] = line
		rows = append(rows, *row)
	}
	return rows, problems, nil
}

func read(columns, record []string, line int) (*Row, *Problem) {
	if len(record) > len(columns) {
		return nil, &Problem{line, "", fmt.Sprintf("The row has %d cells, the header names %d columns.", len(record), len(columns))}
	}
	row := Row{Line: line, Options: map[string]string{}}
	filled := false
	for i, cell := range record {
		if len(cell) > maxCell {
			return nil, &Problem{line, columns[i], fmt.Sprintf("The cell is longer than %d bytes.", maxCell)}
		}
		cell = norm.NFC.String(strings.TrimSpace(cell))
		filled = filled || cell != ""
		switch columns[i] {
		case "sku":
			row.SKU = cell
		case "product":
			row.Product = cell
		case "title":
			row.Title = cell
		case "barcode":
			row.Barcode = cell
		case "category":
			for part := range strings.SplitSeq(cell, ">") {
				if part = strings.TrimSpace(part); part != "" {
					row.Category = append(row.Category, part)
				}
			}
		default:
			if cell != "" && columns[i] != "" {
				row.Options[columns[i]] = cell
			}
		}
	}
	if !filled {
		return nil, nil
	}
	if row.SKU == "" {
		return nil, &Problem{line, "sku", "The row has no SKU."}
	}
	if len(names.Tokens(row.SKU, 0)) == 0 {
		return nil, &Problem{line, "sku", fmt.Sprintf("SKU %q has neither letter nor digit.", row.SKU)}
	}
	if Identity(row.Product) == Identity(row.SKU) {
		row.Product = ""
	}
	if row.Title == "" && row.Product == "" {
		return nil, &Problem{line, "title", "A product needs a title."}
	}
	if row.Barcode != "" {
		if _, err := gtin.Parse(row.Barcode); err != nil {
			return nil, &Problem{line, "barcode", strings.ToUpper(err.Error()[:1]) + err.Error()[1:] + "."}
		}
	}
	return &row, nil
}

// Identity is the form in which SKUs are the same: NFKC and case folded, blanks at the ends gone.
// Separators count: PK-1 and PK1 are two SKUs.
func Identity(sku string) string {
	return cases.Fold().String(norm.NFKC.String(strings.TrimSpace(sku)))
}

// separator is the one of comma, semicolon and tab that the first line has most of.
func separator(text string) rune {
	line, _, _ := strings.Cut(text, "\n")
	best := ','
	for _, c := range []rune{';', '\t'} {
		if strings.Count(line, string(c)) > strings.Count(line, string(best)) {
			best = c
		}
	}
	return best
}
