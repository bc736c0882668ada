// Package catalogue knows the owners of pictures, and computes what rows of a table would change of them.
//
// A row is a product, a variant of the product that it names, or a category at the place that its path says. What a row does not say
// stays.
package catalogue

import (
	"errors"
	"fmt"
	"strings"
	"unicode"

	"ambrosa/core/gtin"
	"ambrosa/core/message"
	"ambrosa/core/names"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// ErrColumns is returned for a table with more than MaxColumns columns.
var ErrColumns = fmt.Errorf("a table has at most %d columns", MaxColumns)

// ErrNoSKU is returned for a table of which no column is the SKU.
var ErrNoSKU = errors.New("no column is the SKU; one header must be called sku or item number, or the like")

// Row is what one row of a table says of an owner.
type Row struct {
	Line       int
	Given      Given
	Kind       string // product, variant or category; empty where the row doesn't say
	SKU        string
	Product    string // SKU of the product this is a variant of; empty for a product
	Title      string
	Barcode    string // as written
	Code       string
	Category   []string          // the path of a product's category; of a category the path to itself
	Options    map[string]string // of those that the row speaks of; an empty one takes the option away
	Attributes map[string]string // likewise
}

// Given says of what a row speaks, be it to take it away.
type Given uint8

const (
	GivenProduct Given = 1 << iota
	GivenBarcode
	GivenCategory
	GivenCode
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
	lines := map[int]bool{}
	for _, p := range problems {
		if !p.Kept {
			lines[p.Line] = true
		}
	}
	return len(lines)
}

const (
	// MaxColumns is how many columns a table may have: each is an option that pairing looks at.
	MaxColumns = 200
	// MaxLevels is how deep a category may stand.
	MaxLevels = 20
)

// Sound returns the rows that can be, and what is wrong with the others: each for itself, and those that want what another row of the
// table has.
func Sound(rows []Row) (sound []Row, problems []Problem) {
	skus, barcodes := map[string]int{}, map[string]int{}
	for _, r := range rows {
		column, why := r.wrong(skus, barcodes)
		if column != "" {
			problems = append(problems, Problem{Line: r.Line, Column: column, Message: why})
			continue
		}
		if r.Kind != Category {
			skus[Identity(r.SKU)] = r.Line
		}
		if digits, err := gtin.Parse(r.Barcode); err == nil {
			barcodes[digits] = r.Line
		}
		sound = append(sound, r)
	}
	return sound, problems
}

func (r Row) wrong(skus, barcodes map[string]int) (column string, why message.Message) {
	if len(r.Category) > MaxLevels {
		return "category", message.New("category_deep", "levels", len(r.Category), "most", MaxLevels)
	}
	if r.Kind == Category {
		if len(r.Category) == 0 {
			return "title", message.New("title_missing")
		}
		return "", why
	}
	if r.SKU == "" {
		return "sku", message.New("sku_missing")
	}
	if len(names.Tokens(r.SKU, 0)) == 0 {
		return "sku", message.New("sku_empty", "sku", r.SKU)
	}
	if before := skus[Identity(r.SKU)]; before > 0 {
		return "sku", message.New("sku_twice", "sku", r.SKU, "line", before)
	}
	switch digits, err := gtin.Parse(r.Barcode); {
	case errors.Is(err, gtin.ErrZeros):
		return "barcode", message.New("barcode_zeros")
	case err == nil && barcodes[digits] > 0:
		return "barcode", message.New("barcode_twice", "barcode", r.Barcode, "line", barcodes[digits])
	}
	return "", why
}

// SplitPath reads a category's path: Kites > Deltas. A > within a title is written \>, a \ as \\.
func SplitPath(path string) (titles []string) {
	var title strings.Builder
	end := func() {
		if t := strings.TrimSpace(title.String()); t != "" {
			titles = append(titles, t)
		}
		title.Reset()
	}
	escaped := false
	for _, r := range path {
		switch {
		case escaped:
			if r != '>' && r != '\\' {
				title.WriteByte('\\')
			}
			title.WriteRune(r)
			escaped = false
		case r == '\\':
			escaped = true
		case r == '>':
			end()
		default:
			title.WriteRune(r)
		}
	}
	if escaped {
		title.WriteByte('\\')
	}
	end()
	return titles
}

// JoinPath is the inverse of SplitPath.
func JoinPath(titles []string) string {
	written := make([]string, len(titles))
	for i, t := range titles {
		written[i] = strings.NewReplacer(`\`, `\\`, ">", `\>`).Replace(t)
	}
	return strings.Join(written, " > ")
}

// CleanText makes control characters blanks, and takes out what can't be seen but for the joiners that some scripts need.
func CleanText(s string) string { return norm.NFC.String(cleanText(s)) }

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
