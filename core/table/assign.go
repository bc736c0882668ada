package table

import (
	"cmp"
	"slices"
	"strings"

	"ambrosa/core/gtin"
)

// looked is how many rows are looked at to find the header, and behind it what the columns hold.
const looked = 200

// Header finds a table's header among its first rows: the first of those that name most fields, be it under a title and blank lines;
// where none names any, the first with as many cells as most have. It returns its place among the rows; -1 where all are empty.
func Header(rows []Row) int {
	best, at := 0, -1
	widths := map[int]int{}
	for _, r := range rows {
		widths[filled(r)]++
	}
	usual := 1
	for width, times := range widths {
		if width > 0 && (times > widths[usual] || times == widths[usual] && width > usual) {
			usual = width
		}
	}
	for i, r := range rows[:min(len(rows), looked)] {
		known := 0
		for _, c := range r.Cells {
			if c.Kind == Text && namesAny(c.Text) {
				known++
			}
		}
		// One cell alone, as in a title "Price list", is a header only where a table has one column.
		if score := known; known > best && (filled(r) > 1 || usual == 1) {
			best, at = score, i
		}
	}
	if at >= 0 {
		return at
	}
	for i, r := range rows {
		if n := filled(r); n > 0 && n >= usual {
			return i
		}
	}
	return slices.IndexFunc(rows, func(r Row) bool { return !r.Empty() })
}

func filled(r Row) (n int) {
	for _, c := range r.Cells {
		if strings.TrimSpace(c.Text) != "" {
			n++
		}
	}
	return n
}

func namesAny(header string) bool {
	if len(header) > 80 || strings.TrimSpace(header) == "" {
		return false
	}
	if _, ok := ReadField(header); ok {
		return true
	}
	for _, f := range Fields {
		if meaning(header, f) >= namesAside {
			return true
		}
	}
	return false
}

// Assignment says which column is which field: by the column's place. A column that is not named stands for itself: nothing is read
// of it.
type Assignment map[int]Field

// Of is the column of a field; -1 where none is.
func (a Assignment) Of(f Field) int {
	at := -1
	for column, field := range a {
		if field == f && (at < 0 || column < at) {
			at = column
		}
	}
	return at
}

// Assign proposes which column is which field: by the header's name, in several languages and wherever in the header it stands, and by
// what the first cells below look like. A header "option:colour" or "attribute:weight" names one of those.
func Assign(header Row, below []Row) Assignment {
	a := Assignment{}
	type bid struct {
		column, score int
		field         Field
	}
	var bids []bid
	taken := map[Field]bool{}
	for column, c := range header.Cells {
		if f, ok := ReadField(c.Text); ok && f.Own() != "" {
			if !taken[f] {
				a[column], taken[f] = f, true
			}
			continue
		}
		held := samples(below, column)
		for _, f := range Fields {
			if score := meaning(c.Text, f); score > 0 && fits(f, c.Text, held) {
				bids = append(bids, bid{column, score, f})
			}
		}
	}
	slices.SortStableFunc(bids, func(x, y bid) int { return cmp.Or(y.score-x.score, x.column-y.column) })
	for _, b := range bids {
		if _, has := a[b.column]; !has && !taken[b.field] {
			a[b.column], taken[b.field] = b.field, true
		}
	}
	a.byLook(header, below, taken)
	return a
}

// byLook assigns what the cells say of themselves: numbers with right check digits are barcodes; a column for the product whose cells
// are no SKUs of the table holds titles; a picture's column with several files in a cell is a list.
func (a Assignment) byLook(header Row, below []Row, taken map[Field]bool) {
	for column := range header.Cells {
		if _, has := a[column]; !has && !taken[Barcode] && areBarcodes(samples(below, column)) {
			a[column], taken[Barcode] = Barcode, true
		}
	}
	if column := a.Of(Parent); column >= 0 && !taken[Title] && slices.Contains(eitherWords, plain(header.Cells[column].Text)) {
		if !a.areParents(below, column) {
			a[column], taken[Title] = Title, true
		}
	}
	if column := a.Of(Picture); column >= 0 && !taken[Pictures] {
		held := samples(below, column)
		if several := count(held, func(s string) bool { return len(Split(s)) > 1 }); several*3 > len(held) {
			a[column] = Pictures
		}
	}
}

// areParents reports whether most cells of a column are SKUs of the table, or what the row's own SKU begins with.
func (a Assignment) areParents(below []Row, column int) bool {
	keys, held, parents := map[string]bool{}, 0, 0
	sku := a.Of(SKU)
	for _, k := range samples(below, sku) {
		keys[k] = true
	}
	for _, r := range below[:min(len(below), looked)] {
		if s := textAt(r, column); s != "" {
			if held++; keys[s] || sku >= 0 && strings.HasPrefix(textAt(r, sku), s) {
				parents++
			}
		}
	}
	return parents*2 >= held
}

// samples are the texts of a column's first cells that hold something.
func samples(below []Row, column int) (held []string) {
	if column < 0 {
		return nil
	}
	for _, r := range below[:min(len(below), looked)] {
		if column < len(r.Cells) {
			if s := strings.TrimSpace(r.Cells[column].Text); s != "" {
				held = append(held, s)
			}
		}
	}
	return held
}

func count(all []string, is func(string) bool) (n int) {
	for _, s := range all {
		if is(s) {
			n++
		}
	}
	return n
}

// fits reports whether what a column holds can be a field of which other columns have the name too.
func fits(f Field, header string, held []string) bool {
	switch f {
	case KindOf:
		return header == string(KindOf) || len(held) > 0 && count(held, func(s string) bool { return readKind(s) != "" }) == len(held)
	case MainFlag:
		return header == string(MainFlag) || count(held, isFlag) == len(held)
	case Main:
		return header == string(Main) && len(held) == 0 || len(held) == 0 || count(held, isFlag) < len(held)
	case Picture, Pictures:
		return plain(header) != "address" && plain(header) != "adresse" && plain(header) != "url" && plain(header) != "link" ||
			count(held, IsAddress) > len(held)/2
	}
	return true
}

func areBarcodes(held []string) bool {
	right := count(held, func(s string) bool { _, err := gtin.Parse(s); return err == nil })
	return len(held) >= 2 && right*5 >= len(held)*4
}

// kinds are what tables call the kinds of owners.
var kinds = map[string]string{"product": "product", "produkt": "product", "produit": "product", "prodotto": "product", "producto": "product",
	"variant": "variant", "variante": "variant", "category": "category", "kategorie": "category", "categorie": "category", "categoria": "category"}

func readKind(s string) string { return kinds[plain(s)] }

var yes = []string{"yes", "y", "1", "x", "true", "ja", "j", "wahr", "oui", "o", "vrai", "si", "s", "vero", "verdadero", "waar", "main"}
var no = []string{"no", "n", "0", "false", "nein", "falsch", "non", "faux", "falso", "nee", "onwaar"}

func isFlag(s string) bool { return IsYes(s) || slices.Contains(no, plain(s)) }

// IsYes reports whether a text says yes, in one of the languages that tables are read in.
func IsYes(s string) bool { return slices.Contains(yes, plain(s)) }
