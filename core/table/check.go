package table

import (
	"cmp"
	"slices"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/core/gtin"
	"ambrosa/core/message"
)

// Mode says what a table may do.
type Mode string

const (
	Create Mode = "create"
	Update Mode = "update"
	Both   Mode = "both"
)

// Known is an owner of the catalogue as a table's check needs it.
type Known struct {
	ID      int64
	Kind    string
	SKU     string
	Parent  string // SKU of a variant's product
	Barcode string
	Label   string // what tells it from others of its title
}

// Catalogue finds owners by a field. A SKU, code, title or attribute is found by its catalogue.Identity, a barcode by its 14 digits.
type Catalogue interface {
	Find(by Field, key string) []Known
}

const (
	// longestText is how long a text may be, in bytes: a title is never longer, a file taken for a table often is.
	longestText = 4096
	// longestCode is how long a code may be whose lost zeros are looked for: as long as a GTIN.
	longestCode = 14
)

// Checker finds what is wrong with a table, row by row. Memory grows with the rows' keys and with what is found.
type Checker struct {
	header    Row
	fields    Assignment
	key       Field
	mode      Mode
	catalogue Catalogue // nil where it is not known
	files     *Files    // nil where no pictures are given
	problems  []Problem
	keys      map[string]int         // by identity: the first row that has it
	owners    map[string]*ownersRows // by identity: what rows say of an owner's pictures
	parents   []parentOf             // to be looked for once all rows are read
	shown     map[string]string      // by path: the key of who shows a file
	most      int
	counts    map[string]int  // of problems, by kind, those not kept among them
	types     map[int]Type    // of options and attributes, by column
	waiting   map[string]bool // addresses, and places of cells, whose pictures are not here yet
}

type ownersRows struct {
	row, mains int
}

type parentOf struct {
	row    int
	parent string
	at     cellAt
}

// cellAt is a cell on its way through the checks.
type cellAt struct {
	row, column int
	field       Field
	Cell
}

// Place is the address of a picture in the cell.
func (at cellAt) Place() string { return Place(at.row, at.column) }

// Options say how a table is checked.
type Options struct {
	Fields    Assignment
	Key       Field // sku where it is empty
	Mode      Mode  // both where it is empty
	Catalogue Catalogue
	Files     *Files
	Most      int          // problems of a kind that stops no row are kept up to so many, and the others counted; 0 for all
	Types     map[int]Type // of options and attributes, by column; those without one are texts
}

// NewChecker checks a table with that header.
func NewChecker(header Row, o Options) *Checker {
	return &Checker{header: Row{header.Number, slices.Clone(header.Cells), false}, fields: o.Fields, key: cmp.Or(o.Key, SKU), mode: cmp.Or(o.Mode, Both),
		catalogue: o.Catalogue, files: o.Files, types: o.Types, most: o.Most, counts: map[string]int{}, keys: map[string]int{}, owners: map[string]*ownersRows{}, shown: map[string]string{},
		waiting: map[string]bool{}}
}

// Row checks the next row. A row without a value is none.
func (c *Checker) Row(r Row) { c.row(r) }

// row checks a row and returns its cells by field, cleaned, and whether nothing stops it so far.
func (c *Checker) row(r Row) (cells map[Field]cellAt, goes bool) {
	before := len(c.problems)
	if r.Broken {
		c.add(cellAt{row: r.Number, column: -1, Cell: r.Cells[0]}, QuoteBroken, nil)
		return nil, false
	}
	if r.Empty() {
		return nil, false
	}
	cells = map[Field]cellAt{}
	extra := false
	for column, cell := range r.Cells {
		field, assigned := c.fields[column]
		at := cellAt{r.Number, column, field, cell}
		if !assigned {
			if !extra && strings.TrimSpace(cell.Text) != "" && c.headerOf(column) == "" {
				extra = true
				c.add(at, CellsExtra, nil)
			}
			continue
		}
		if c.readable(&at) {
			cells[field] = at
			if field.Own() != "" {
				c.readTyped(at)
			}
		}
	}
	key, owner := c.readKey(r, cells)
	c.readParent(cells, owner)
	c.readBarcode(cells, owner)
	c.readNumbers(cells)
	c.readPictures(r, cells, key)
	return cells, !slices.ContainsFunc(c.problems[before:], func(p Problem) bool { return p.Stops })
}

// readable checks a cell of a field for itself, takes off what can't be seen, and reports whether it can be used.
func (c *Checker) readable(at *cellAt) bool {
	if at.Kind == Error || at.Kind == Unsolved || isFormulaError(at.Text) {
		c.add(*at, FormulaError, nil)
		return false
	}
	if at.Formula != "" {
		if address := Address(at.Formula); address != "" && at.field.saysPictures() {
			at.Text = address
		}
	}
	if len(at.Text) > longestText {
		c.add(*at, TextLong, nil)
		return false
	}
	if clean := cleaned(at.field, at.Text); clean != at.Text {
		c.add(*at, BlankTrimmed, &clean)
		at.Text = clean
	}
	return at.Text != ""
}

// cleaned is a cell without blanks around it; a key also without what can't be seen, and without the quote with which office programs
// mark a text.
func cleaned(f Field, s string) string {
	if f != SKU && f != Barcode && f != Code && f != Parent {
		return strings.TrimSpace(s)
	}
	clean := catalogue.CleanKey(s)
	if rest, ok := strings.CutPrefix(clean, "'"); ok && rest != "" && strings.Trim(rest, "0123456789") == "" {
		return rest
	}
	return clean
}

// readKey finds whose row it is: the key's identity, and the owner where the catalogue has it.
func (c *Checker) readKey(r Row, cells map[Field]cellAt) (key string, owner *Known) {
	at, ok := cells[c.key]
	if !ok && readKind(cells[KindOf].Text) == catalogue.Category && c.key == SKU {
		return "", nil // a category is known by its path
	}
	if !ok {
		column := c.fields.Of(c.key)
		if column < 0 || column >= len(r.Cells) || r.Cells[column].Text == "" || cleaned(c.key, r.Cells[column].Text) == "" {
			c.add(cellAt{row: r.Number, column: column, field: c.key}, KeyMissing, nil)
		}
		return "", nil
	}
	text := at.Text
	if c.key != Barcode && isExponent(text) {
		c.add(at, BarcodeDamaged, storedCode(at))
		return "", nil
	}
	if c.key == Barcode {
		if form := barcodeForm(at); form != "" {
			text = form
		}
	}
	key = identity(c.key, text)
	if c.catalogue != nil {
		switch found := c.catalogue.Find(c.key, key); {
		case len(found) == 1:
			owner = &found[0]
		case len(found) > 1:
			labels := make([]string, len(found))
			for i, f := range found {
				labels[i] = f.Label
			}
			c.say(at, KeyAmbiguous, nil, "owners", strings.Join(labels, "; "))
		default:
			owner = c.unknown(at, text)
		}
	}
	before, twice := c.keys[key]
	if !twice {
		c.keys[key] = r.Number
	} else if c.fields.Of(Picture) < 0 {
		c.say(at, KeyTwice, nil, "row", before)
	}
	return key, owner
}

// unknown says that the catalogue has no such key, or that it has it with zeros before it, and whose that is.
func (c *Checker) unknown(at cellAt, text string) *Known {
	if c.key != Barcode {
		var owners []Known
		var with string
		for _, whole := range WithZeros(text) {
			if found := c.catalogue.Find(c.key, identity(c.key, whole)); len(found) > 0 {
				owners, with = append(owners, found...), whole
			}
		}
		if len(owners) == 1 {
			c.add(at, ZerosLost, &with)
			return &owners[0]
		}
	}
	if c.mode != Create {
		c.add(at, KeyUnknown, nil)
	}
	return nil
}

// WithZeros are the codes that a number may have been before a spreadsheet took the zeros off its beginning; none for what is no number.
func WithZeros(number string) (codes []string) {
	if strings.Trim(number, "0123456789") != "" {
		return nil
	}
	for zeros := 1; zeros+len(number) <= longestCode; zeros++ {
		codes = append(codes, strings.Repeat("0", zeros)+number)
	}
	return codes
}

// readParent looks whether a variant's product is there, or another one than before.
func (c *Checker) readParent(cells map[Field]cellAt, owner *Known) {
	at, ok := cells[Parent]
	if !ok || identity(SKU, at.Text) == identity(SKU, cells[SKU].Text) || readKind(cells[KindOf].Text) == catalogue.Category {
		return
	}
	if owner != nil && owner.Kind == catalogue.Variant && owner.Parent != "" && identity(SKU, owner.Parent) != identity(SKU, at.Text) {
		c.say(at, ParentChanged, nil, "before", owner.Parent)
	}
	if c.catalogue != nil && len(c.catalogue.Find(SKU, identity(SKU, at.Text))) == 0 {
		c.parents = append(c.parents, parentOf{at.row, identity(SKU, at.Text), at})
	}
}

// readNumbers checks what must be a number.
func (c *Checker) readNumbers(cells map[Field]cellAt) {
	for _, f := range []Field{Price, Position} {
		at, ok := cells[f]
		if !ok {
			continue
		}
		text := at.Text
		if at.Kind == Number && at.Stored != "" {
			text = at.Stored
		}
		switch n, ok := ReadNumber(text); {
		case !ok, f == Position && n != float64(int64(n)):
			c.add(at, NumberUnreadable, nil)
		case n < 0:
			c.add(at, NumberNegative, nil)
		}
	}
}

// End returns all problems, by row and column; those that belong to no row stand last.
func (c *Checker) End() []Problem {
	stopped := map[int]bool{}
	for _, p := range c.problems {
		stopped[p.Row] = stopped[p.Row] || p.Stops
	}
	for _, p := range c.parents {
		switch row := c.keys[p.parent]; {
		case c.key != SKU || row == 0:
			c.add(p.at, ParentUnknown, nil)
		case stopped[row]:
			c.because(p.at, ParentUnknown, message.New("table_parent_stopped", "value", p.at.Text, "row", row))
		}
	}
	if c.fields.Of(MainFlag) >= 0 {
		for _, o := range c.owners {
			if o.mains == 0 {
				c.add(cellAt{row: o.row, column: c.fields.Of(MainFlag)}, MainMissing, nil)
			}
		}
	}
	if c.files != nil {
		for _, path := range c.files.Unnamed() {
			c.add(cellAt{column: -1, Cell: Cell{Text: path}}, PictureUnused, nil)
		}
	}
	slices.SortStableFunc(c.problems, func(a, b Problem) int {
		return cmp.Or(cmp.Compare(uint(a.Row-1), uint(b.Row-1)), cmp.Compare(a.Column, b.Column), cmp.Compare(a.Kind, b.Kind))
	})
	return c.problems
}

func (c *Checker) headerOf(column int) string {
	if column < 0 || column >= len(c.header.Cells) {
		return ""
	}
	return strings.TrimSpace(c.header.Cells[column].Text)
}

// add notes a problem; say does with more of why.
func (c *Checker) add(at cellAt, kind string, repair *string) { c.say(at, kind, repair) }

// problem is one of a kind at a cell, with a reason.
func (c *Checker) problem(at cellAt, kind string, why message.Message) Problem {
	return Problem{Row: at.row, Column: at.column, Header: c.headerOf(at.column), Value: shortened(at.Text), Kind: kind, Stops: stopping[kind], Why: why}
}

// tell notes a problem that stops no row.
func (c *Checker) tell(at cellAt, kind string, why message.Message) {
	p := c.problem(at, kind, why)
	p.Stops = false
	c.note(p)
}

// because notes a problem of a kind with a reason of its own.
func (c *Checker) because(at cellAt, kind string, why message.Message) {
	c.note(c.problem(at, kind, why))
}

// note keeps a problem, unless there are very many of its kind already and it stops no row.
func (c *Checker) note(p Problem) {
	if c.counts[p.Kind]++; p.Stops || c.most == 0 || c.counts[p.Kind] <= c.most {
		c.problems = append(c.problems, p)
	}
}

// Counts are how many problems there are of each kind, those that are not kept among them.
func (c *Checker) Counts() map[string]int { return c.counts }

func shortened(value string) string {
	if len(value) > longestValue {
		return strings.ToValidUTF8(value[:longestValue], "") + "…"
	}
	return value
}

func (c *Checker) say(at cellAt, kind string, repair *string, why ...any) {
	p := c.problem(at, kind, message.New("table_"+kind, append(why, "value", shortened(at.Text))...))
	p.Stops, p.Repair = p.Stops || kind == KeyUnknown && c.mode == Update, repair
	c.note(p)
}

// identity is the form in which a key is the same; a barcode's is found where it is read.
func identity(f Field, key string) string {
	if f == Barcode {
		return key
	}
	return catalogue.Identity(key)
}

// Identity is the form in which a Catalogue finds a key.
func Identity(f Field, key string) string {
	if f == Barcode {
		form, _ := gtin.Fourteen(strings.NewReplacer(" ", "", "-", "").Replace(key))
		return form
	}
	return catalogue.Identity(key)
}

// formulaErrors are what office programs show where a formula failed. Source: ECMA-376, part 1, 18.18.11 and OpenFormula 1.2, 5.12;
// Err:502 and #NAME? as office programs show them (common practice, no source).
var formulaErrors = []string{"#REF!", "#N/A", "#VALUE!", "#DIV/0!", "#NAME?", "#NULL!", "#NUM!", "#GETTING_DATA", "#SPILL!", "#CALC!", "#FIELD!",
	"#BLOCKED!", "#CONNECT!"}

func isFormulaError(s string) bool {
	s = strings.TrimSpace(s)
	return s != "" && (s[0] == '#' && slices.Contains(formulaErrors, strings.ToUpper(s)) || strings.HasPrefix(s, "Err:5"))
}
