package table

import (
	"slices"
	"strings"

	"ambrosa/core/catalogue"
)

// Rest assigns the columns that no field is named for: to an option where the name or the cells say that it tells variants apart, else
// to an attribute. Of two columns of one name the first counts; a column without a name stays for itself.
func (a Assignment) Rest(header Row, below []Row) {
	taken := map[Field]bool{}
	for _, f := range a {
		taken[f] = true
	}
	for column, c := range header.Cells {
		if _, has := a[column]; has {
			continue
		}
		name := strings.ToLower(catalogue.CleanText(c.Text))
		if name == "" || taken[Option(name)] || taken[Attribute(name)] {
			continue
		}
		f := Attribute(name)
		if isOptionWord(name) || a.varies(below, column) {
			f = Option(name)
		}
		a[column], taken[f] = f, true
	}
}

// isOptionWord reports whether a header has a word for what tells variants apart.
func isOptionWord(name string) bool {
	return slices.ContainsFunc(strings.Fields(plain(name)), func(w string) bool { return slices.Contains(optionWords, w) })
}

// varies reports whether a column's cells tell the variants of a product apart: some product has variants that differ in it, and no
// variant is without it.
func (a Assignment) varies(below []Row, column int) bool {
	parent := a.Of(Parent)
	if parent < 0 {
		return false
	}
	first, differ := map[string]string{}, false
	for _, r := range below {
		of := textAt(r, parent)
		if of == "" {
			continue
		}
		text := textAt(r, column)
		if text == "" {
			return false
		}
		if before, seen := first[of]; !seen {
			first[of] = text
		} else if before != text {
			differ = true
		}
	}
	return differ
}

func textAt(r Row, column int) string { return strings.TrimSpace(r.At(column).Text) }

// Reader turns the rows of a table into what they say of owners.
type Reader struct {
	checker *Checker
	fields  Assignment
	clear   bool
	rows    []catalogue.Row
	placed  []Placed
}

// Placed is what a row says of an owner's pictures: names of files, in their order.
type Placed struct {
	Line     int
	SKU      string
	Category []string // the path to a category, where the row is of one
	Names    []string // of files; addresses; places of cells in which pictures lie
	Position *int     // of the first of them
	Main     bool
	Alt      string
}

// NewReader reads the rows below that header. With clear, an empty cell takes away what stands; without it, it says nothing.
func NewReader(header Row, o Options, clear bool) *Reader {
	return &Reader{checker: NewChecker(header, o), fields: o.Fields, clear: clear}
}

// Row reads the next row.
func (r *Reader) Row(row Row) {
	cells, goes := r.checker.row(row)
	if !goes {
		return
	}
	r.rows = append(r.rows, r.owner(row, cells))
	r.place(row, cells)
}

// place notes what a row says of pictures: the main one first, then the list, then the one that the row is of.
func (r *Reader) place(row Row, cells map[Field]cellAt) {
	p := Placed{Line: row.Number, SKU: catalogue.CleanKey(cells[SKU].Text), Alt: catalogue.CleanText(cells[Alt].Text), Main: IsYes(cells[MainFlag].Text)}
	for _, f := range []Field{Main, Pictures, Picture} {
		at, ok := cells[f]
		if !ok {
			continue
		}
		p.Main = p.Main || f == Main
		p.Names = append(p.Names, r.checker.split(at)...)
	}
	for column, cell := range row.Cells {
		if cell.Picture != "" {
			p.Names = append(p.Names, Place(row.Number, column))
		}
	}
	if readKind(cells[KindOf].Text) == catalogue.Category {
		p.SKU, p.Category = "", r.rows[len(r.rows)-1].Category
	}
	if n, ok := ReadNumber(cells[Position].Text); ok {
		at := int(n)
		p.Position = &at
	}
	if len(p.Names) > 0 {
		r.placed = append(r.placed, p)
	}
}

// Placed is what the rows that can be read say of pictures.
func (r *Reader) Placed() []Placed { return r.placed }

// End returns what the rows say, those that can be read, and what is wrong with the others.
func (r *Reader) End() ([]catalogue.Row, []catalogue.Problem) {
	var problems []catalogue.Problem
	for _, p := range r.checker.End() {
		problems = append(problems, catalogue.Problem{Line: p.Row, Column: p.Header, Message: p.Why, Kept: !p.Stops})
	}
	return r.rows, problems
}

// owner is what a row says.
func (r *Reader) owner(row Row, cells map[Field]cellAt) catalogue.Row {
	text := func(f Field) string { return catalogue.CleanText(cells[f].Text) }
	key := func(f Field) string { return catalogue.CleanKey(cells[f].Text) }
	o := catalogue.Row{Line: row.Number, Kind: readKind(text(KindOf)), SKU: key(SKU), Title: text(Title), Barcode: key(Barcode), Code: key(Code)}
	speaks := func(f Field) bool {
		_, filled := cells[f]
		return filled || r.clear && r.fields.Of(f) >= 0
	}
	for f, given := range map[Field]catalogue.Given{Barcode: catalogue.GivenBarcode, Code: catalogue.GivenCode, Category: catalogue.GivenCategory} {
		if speaks(f) {
			o.Given |= given
		}
	}
	if o.Kind == catalogue.Category {
		if o.Category = catalogue.SplitPath(text(Parent)); o.Title != "" {
			o.Category = append(o.Category, o.Title)
		}
		return o
	}
	o.Category = catalogue.SplitPath(text(Category))
	if _, filled := cells[Parent]; filled {
		o.Given |= catalogue.GivenProduct
		if o.Product = key(Parent); catalogue.Identity(o.Product) == catalogue.Identity(o.SKU) {
			o.Product = ""
		}
	}
	for _, f := range r.fields {
		into := &o.Attributes
		switch {
		case f == Price:
		case f.IsOption():
			into = &o.Options
		case !f.IsAttribute():
			continue
		}
		if !speaks(f) {
			continue
		}
		if *into == nil {
			*into = map[string]string{}
		}
		name := f.Own()
		if f == Price {
			name = string(Price)
		}
		(*into)[name] = text(f)
	}
	return o
}
