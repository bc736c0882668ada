package catalogue

import (
	"maps"
	"slices"

	"ambrosa/core/gtin"
	"ambrosa/core/message"
)

// Touched is what of the catalogue rows can touch: the identities of the SKUs that they name, and their barcodes as 14 digits.
func Touched(rows []Row) (identities, barcodes []string) {
	for _, r := range rows {
		if r.Kind == Category {
			continue
		}
		identities = append(identities, Identity(r.SKU))
		if r.Product != "" {
			identities = append(identities, Identity(r.Product))
		}
		if digits, err := gtin.Parse(r.Barcode); err == nil {
			barcodes = append(barcodes, digits)
		}
	}
	return identities, barcodes
}

// Plan returns the edits that bring the rows into the catalogue: categories first, then products, then
// variants, so that what a row stands on is there before it. standing holds at least all categories, what the rows touch, and
// the products of those variants; last is the highest ordinal of all. Owners of the catalogue that the table doesn't
// name stay as they are. allocate gives a new owner's ID. Rows that can't be are problems. Cost: linear in
// standing and rows.
func Plan(standing []Owner, rows []Row, last int, allocate func() int64) ([]Edit, []Problem) {
	p := planner{bySKU: map[string]Owner{}, byPlace: map[place]Owner{}, byBarcode: map[string]Owner{}, byCode: map[string]int64{}, titles: map[int64]string{}, rows: map[string]*planned{},
		wanted: map[string]*planned{}, seats: map[int64]int{}, variants: map[string][]*planned{}, allocate: allocate, ordinal: last}
	p.index(standing)
	all := make([]planned, 0, len(rows))
	for _, row := range rows {
		if row.Kind == Category {
			p.seat(row)
			continue
		}
		all = append(all, planned{Row: row, identity: Identity(row.SKU)})
		p.rows[all[len(all)-1].identity] = &all[len(all)-1]
	}
	for i := range all {
		p.place(&all[i])
	}
	for i := range all {
		p.family(&all[i])
	}
	for i := range all {
		p.barcode(&all[i])
	}
	var products, variants []Edit
	for i := range all {
		if r := &all[i]; !r.refused && r.kind == Product {
			products = p.change(products, r)
		}
	}
	for i := range all {
		if r := &all[i]; !r.refused && r.kind == Variant {
			variants = p.change(variants, r)
		}
	}
	slices.SortStableFunc(p.problems, func(a, b Problem) int { return a.Line - b.Line })
	return slices.Concat(p.categories, products, variants), p.problems
}

// planned is a row on its way into the plan.
type planned struct {
	Row
	identity string
	kind     string
	before   *Owner // as it stands; nil where it is new
	product  string // identity of a variant's product
	id       int64
	refused  bool
}

// place is where a category stands: under another, by its folded title.
type place struct {
	parent int64
	title  string
}

type planner struct {
	bySKU      map[string]Owner
	byPlace    map[place]Owner
	byBarcode  map[string]Owner      // who has one now
	byCode     map[string]int64      // categories by the identity of their code, as they are given it
	titles     map[int64]string      // of those categories
	rows       map[string]*planned   // by identity
	wanted     map[string]*planned   // who shall have a barcode
	variants   map[string][]*planned // rows of variants by their product's identity
	byID       map[int64]Owner
	allocate   func() int64
	categories []Edit
	seats      map[int64]int // where in them a category is made or changed
	problems   []Problem
	ordinal    int
}

func (p *planner) index(standing []Owner) {
	p.byID = make(map[int64]Owner, len(standing))
	for _, o := range standing {
		p.byID[o.ID] = o
		p.ordinal = max(p.ordinal, o.Ordinal)
		if o.SKU != "" {
			p.bySKU[Identity(o.SKU)] = o
		}
		if digits, err := gtin.Parse(o.Barcode); err == nil {
			p.byBarcode[digits] = o
		}
		if o.Kind == Category {
			p.byPlace[place{o.Parent, Identity(o.Title)}] = o
			p.titles[o.ID] = o.Title
			if o.Code != "" {
				p.byCode[Identity(o.Code)] = o.ID
			}
		}
	}
}

// place finds what a row speaks of, and of which kind it is. A table without a column for the product says nothing of it:
// what stands stays of its kind.
func (p *planner) place(r *planned) {
	r.kind, r.product = Product, ""
	if r.Product != "" && r.Row.Kind != Product {
		r.kind, r.product = Variant, Identity(r.Product)
	}
	if before, ok := p.bySKU[r.identity]; ok {
		r.before = &before
		if r.Given&GivenProduct == 0 {
			r.kind = before.Kind
			if before.Kind == Variant {
				r.product = Identity(p.byID[before.Parent].SKU)
			}
		}
		if before.Kind != r.kind {
			p.refuse(r, "sku", message.New("other_kind", "sku", r.SKU, "stands", before.Kind, "here", r.kind))
			return
		}
	}
	if r.kind == Variant {
		p.variants[r.product] = append(p.variants[r.product], r)
	}
	if r.before == nil && r.Row.Kind == Variant && r.product == "" {
		p.refuse(r, "parent", message.New("variant_alone"))
		return
	}
	if r.kind == Product && r.Title == "" && r.before == nil {
		p.refuse(r, "title", message.New("title_missing"))
	}
}

// family finds a variant's product.
func (p *planner) family(r *planned) {
	if r.refused || r.kind != Variant {
		return
	}
	row, inFile := p.rows[r.product]
	stands, inCatalogue := p.bySKU[r.product]
	switch {
	case inCatalogue && stands.Kind != Product, !inCatalogue && inFile && row.kind == Variant:
		p.refuse(r, "product", message.New("product_is_variant", "sku", r.Product))
	case !inCatalogue && (!inFile || row.refused):
		p.refuse(r, "product", message.New("product_unknown", "sku", r.Product))
	case len(r.Category) > 0 && !p.inCategory(r.Category, row, stands):
		p.problems = append(p.problems, Problem{Line: r.Line, Column: "category", Message: message.New("category_of_product"), Kept: true})
	}
}

// inCategory reports whether a path is that of the product a variant belongs to, by its row or as it stands.
func (p *planner) inCategory(path []string, row *planned, stands Owner) bool {
	var of []string
	if row != nil && row.Given&GivenCategory != 0 {
		of = row.Category
	} else {
		for up, ok := p.byID[stands.Category]; ok && len(of) < MaxLevels; up, ok = p.byID[up.Parent] {
			of = append(of, up.Title)
		}
		slices.Reverse(of)
	}
	return slices.EqualFunc(path, of, func(a, b string) bool { return Identity(a) == Identity(b) })
}

// barcode refuses a row that wants a barcode which another owner keeps. One whose own row gives it away does not keep it.
func (p *planner) barcode(r *planned) {
	digits, err := gtin.Parse(r.Barcode)
	if r.refused || err != nil {
		return
	}
	p.wanted[digits] = r
	if holder, held := p.byBarcode[digits]; held && p.keeps(holder, digits) && Identity(holder.SKU) != r.identity {
		p.refuseBarcode(r, holder.SKU)
	}
}

func (p *planner) refuseBarcode(r *planned, holder string) {
	p.refuse(r, "barcode", message.New("barcode_taken", "barcode", r.Barcode, "sku", holder))
}

// keeps reports whether an owner still has its barcode once the table is in.
func (p *planner) keeps(o Owner, digits string) bool {
	row := p.rows[Identity(o.SKU)]
	if row == nil || row.refused || row.Given&GivenBarcode == 0 {
		return true
	}
	own, err := gtin.Parse(row.Barcode)
	return err == nil && own == digits
}

// refuse leaves a row out, and with it those that count on it: the variants of a new product, and whoever wants the barcode
// that it would have given away.
func (p *planner) refuse(r *planned, column string, why message.Message) {
	if r.refused {
		return
	}
	r.refused = true
	p.problems = append(p.problems, Problem{Line: r.Line, Column: column, Message: why})
	if r.before == nil && r.kind == Product {
		for _, v := range p.variants[r.identity] {
			p.refuse(v, "product", message.New("product_left_out", "sku", r.SKU, "line", r.Line))
		}
	}
	if r.before == nil {
		return
	}
	if digits, err := gtin.Parse(r.before.Barcode); err == nil {
		if other := p.wanted[digits]; other != nil && other != r {
			p.refuseBarcode(other, r.before.SKU)
		}
	}
}

// change appends what a row changes.
func (p *planner) change(changes []Edit, r *planned) []Edit {
	after := Owner{Kind: r.kind, SKU: r.SKU, Options: map[string]string{}}
	if r.before != nil {
		after = *r.before
		after.SKU, after.Options, after.Attributes = r.SKU, maps.Clone(r.before.Options), maps.Clone(r.before.Attributes)
		if after.Options == nil {
			after.Options = map[string]string{}
		}
	}
	if r.Title != "" {
		after.Title = r.Title
	}
	if r.Given&GivenBarcode != 0 {
		after.Barcode = r.Barcode
	}
	if r.Given&GivenCode != 0 {
		after.Code = r.Code
	}
	if r.kind == Product && r.Given&GivenCategory != 0 {
		after.Category = p.category(r.Category)
	}
	if r.kind == Variant {
		after.Parent = p.idOf(r.product)
	}
	for name, value := range r.Options {
		if value == "" {
			delete(after.Options, name)
		} else {
			after.Options[name] = value
		}
	}
	after.SetAttributes(r.Attributes)
	if r.before == nil {
		after.ID, after.Ordinal = p.allocate(), p.next()
		r.id = after.ID
		return append(changes, Edit{ID: after.ID, After: &after})
	}
	if r.before.Equal(after) {
		return changes
	}
	return append(changes, Edit{ID: after.ID, Before: r.before, After: &after})
}

// idOf is the number of a product: as it stands, or as its row got it.
func (p *planner) idOf(identity string) int64 {
	if o, ok := p.bySKU[identity]; ok {
		return o.ID
	}
	return p.rows[identity].id
}

// category makes the categories of a path that are not there yet and returns the last one's ID.
func (p *planner) category(path []string) int64 {
	var parent int64
	for _, title := range path {
		at := place{parent, Identity(title)}
		o, ok := p.byPlace[at]
		if !ok {
			o = Owner{ID: p.allocate(), Kind: Category, Parent: parent, Title: title, Ordinal: p.next()}
			p.byPlace[at] = o
			p.seats[o.ID] = len(p.categories)
			p.categories = append(p.categories, Edit{ID: o.ID, After: &o})
		}
		parent = o.ID
	}
	return parent
}

// seat makes the category of a row where it is not there, and gives it its code.
func (p *planner) seat(r Row) {
	id := p.category(r.Category)
	if r.Given&GivenCode == 0 {
		return
	}
	if holder, held := p.byCode[Identity(r.Code)]; held && r.Code != "" && holder != id {
		p.problems = append(p.problems, Problem{Line: r.Line, Column: "code", Message: message.New("code_there", "code", r.Code, "title", p.titles[holder]), Kept: true})
		return
	}
	p.byCode[Identity(r.Code)], p.titles[id] = id, r.Category[len(r.Category)-1]
	if at, ok := p.seats[id]; ok {
		p.categories[at].After.Code = r.Code
		return
	}
	before := p.byID[id]
	if after := before; before.Code != r.Code {
		after.Code = r.Code
		p.seats[id] = len(p.categories)
		p.categories = append(p.categories, Edit{ID: id, Before: &before, After: &after})
	}
}

func (p *planner) next() int {
	p.ordinal++
	return p.ordinal
}

// Renumber returns owners other numbers throughout a plan.
func Renumber(changes []Edit, to map[int64]int64) {
	other := func(id *int64) {
		if n, ok := to[*id]; ok {
			*id = n
		}
	}
	for i := range changes {
		c := &changes[i]
		other(&c.ID)
		if c.After != nil {
			other(&c.After.ID)
			other(&c.After.Parent)
			other(&c.After.Category)
		}
	}
}
