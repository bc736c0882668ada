package catalogue

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"ambrosa/core/gtin"
)

// Owner is a product, variant or category as it stands or is wanted. Parent is the product of a variant or
// the category above a category; Category is the category of a product. 0 stands for none.
type Owner struct {
	ID       int64             `json:"-"`
	Kind     string            `json:"kind"`
	Parent   int64             `json:"parent,omitempty"`
	Category int64             `json:"category,omitempty"`
	SKU      string            `json:"sku,omitempty"`
	Barcode  string            `json:"barcode,omitempty"`
	Title    string            `json:"title"`
	Options  map[string]string `json:"options,omitempty"`
	Ordinal  int               `json:"ordinal,omitempty"` // place among its siblings, as in the table
}

// Equal reports whether two owners say the same.
func (o Owner) Equal(p Owner) bool {
	return o.ID == p.ID && o.Kind == p.Kind && o.Parent == p.Parent && o.Category == p.Category && o.SKU == p.SKU &&
		o.Barcode == p.Barcode && o.Title == p.Title && o.Ordinal == p.Ordinal && maps.Equal(o.Options, p.Options)
}

// Change is one owner before and after; nil where it is not there.
type Change struct {
	ID            int64
	Before, After *Owner
}

// Plan gives the changes that bring the rows into the catalogue: categories first, then products, then
// variants, so that what a row stands on is there before it. Owners of the catalogue that the table doesn't
// name stay as they are. allocate gives a new owner's ID. Rows that can't be are problems. Cost: linear in
// owners and rows.
func Plan(standing []Owner, rows []Row, allocate func() int64) ([]Change, []Problem) {
	p := planner{bySKU: map[string]Owner{}, byPath: map[string]Owner{}, byBarcode: map[string]Owner{}, allocate: allocate}
	p.index(standing)
	var products, variants []Row
	for _, row := range rows {
		if row.Product == "" {
			products = append(products, row)
		} else {
			variants = append(variants, row)
		}
	}
	for _, row := range products {
		p.category(row.Category)
	}
	for _, row := range products {
		p.owner(row, "product", 0)
	}
	for _, row := range variants {
		parent, ok := p.bySKU[Identity(row.Product)]
		switch {
		case !ok:
			p.problems = append(p.problems, Problem{row.Line, "product", fmt.Sprintf("Product %s is neither in the file nor in the catalogue; give it a row of its own.", row.Product)})
		case parent.Kind != "product":
			p.problems = append(p.problems, Problem{row.Line, "product", fmt.Sprintf("%s is a variant itself; a variant belongs to a product.", row.Product)})
		default:
			p.owner(row, "variant", parent.ID)
		}
	}
	slices.SortStableFunc(p.problems, func(a, b Problem) int { return a.Line - b.Line })
	return p.changes, p.problems
}

type planner struct {
	bySKU     map[string]Owner
	byPath    map[string]Owner // categories by their titles from the top
	byBarcode map[string]Owner
	allocate  func() int64
	changes   []Change
	problems  []Problem
	ordinal   int
}

func (p *planner) index(standing []Owner) {
	byID := map[int64]Owner{}
	for _, o := range standing {
		byID[o.ID] = o
		p.ordinal = max(p.ordinal, o.Ordinal)
		if o.SKU != "" {
			p.bySKU[Identity(o.SKU)] = o
		}
		if digits, err := gtin.Parse(o.Barcode); err == nil {
			p.byBarcode[digits] = o
		}
	}
	for _, o := range standing {
		if o.Kind != "category" {
			continue
		}
		path := []string{o.Title}
		for up, ok := byID[o.Parent]; ok && len(path) < 32; up, ok = byID[up.Parent] {
			path = append([]string{up.Title}, path...)
		}
		p.byPath[pathKey(path)] = o
	}
}

// category makes the categories of a path that are not there yet and gives the last one's ID.
func (p *planner) category(path []string) int64 {
	var parent int64
	for i := range path {
		key := pathKey(path[:i+1])
		o, ok := p.byPath[key]
		if !ok {
			o = Owner{ID: p.allocate(), Kind: "category", Parent: parent, Title: path[i], Ordinal: p.next()}
			p.byPath[key] = o
			p.changes = append(p.changes, Change{ID: o.ID, After: &o})
		}
		parent = o.ID
	}
	return parent
}

func (p *planner) owner(row Row, kind string, parent int64) {
	before, exists := p.bySKU[Identity(row.SKU)]
	if exists && before.Kind != kind {
		p.problems = append(p.problems, Problem{row.Line, "sku", fmt.Sprintf("%s is a %s in the catalogue, here it is a %s.", row.SKU, before.Kind, kind)})
		return
	}
	if digits, err := gtin.Parse(row.Barcode); err == nil {
		if other, ok := p.byBarcode[digits]; ok && Identity(other.SKU) != Identity(row.SKU) {
			p.problems = append(p.problems, Problem{row.Line, "barcode", fmt.Sprintf("Barcode %s belongs to %s in the catalogue.", row.Barcode, other.SKU)})
			return
		}
	}
	after := Owner{Kind: kind, Parent: parent, SKU: row.SKU, Barcode: row.Barcode, Title: row.Title, Options: row.Options}
	if kind == "product" {
		after.Category = p.category(row.Category)
	}
	if !exists {
		after.ID, after.Ordinal = p.allocate(), p.next()
		p.bySKU[Identity(row.SKU)] = after
		p.changes = append(p.changes, Change{ID: after.ID, After: &after})
		return
	}
	after.ID, after.Ordinal = before.ID, before.Ordinal
	if after.Title == "" {
		after.Title = before.Title
	}
	if !before.Equal(after) {
		p.changes = append(p.changes, Change{ID: after.ID, Before: &before, After: &after})
	}
}

func (p *planner) next() int {
	p.ordinal++
	return p.ordinal
}

func pathKey(path []string) string {
	folded := make([]string, len(path))
	for i, s := range path {
		folded[i] = Identity(s)
	}
	return strings.Join(folded, "\x1f")
}
