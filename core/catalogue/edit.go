package catalogue

import (
	"errors"
	"slices"

	"ambrosa/core/gtin"
	"ambrosa/core/message"
	"ambrosa/core/names"
)

// Around is what stands around owners that a person edits, without those owners themselves as they stood but with those that are edited
// together as they shall be.
type Around struct {
	SKUs     map[string][]Owner // by identity
	Barcodes map[string][]Owner // by 14 digits
	Codes    map[string][]Owner // categories by the identity of their code
	Owners   map[int64]Owner    // products and categories by number
	Used     map[int64]int      // how many owners that are not retired stand on one
}

// NewAround knows no owner yet.
func NewAround() *Around {
	return &Around{SKUs: map[string][]Owner{}, Barcodes: map[string][]Owner{}, Codes: map[string][]Owner{}, Owners: map[int64]Owner{},
		Used: map[int64]int{}}
}

// Add makes an owner known.
func (a *Around) Add(o Owner) {
	a.Owners[o.ID] = o
	if o.SKU != "" {
		put(a.SKUs, Identity(o.SKU), o)
	}
	if digits, err := gtin.Parse(o.Barcode); err == nil {
		put(a.Barcodes, digits, o)
	}
	if o.Kind == Category && o.Code != "" {
		put(a.Codes, Identity(o.Code), o)
	}
	if !o.Retired && o.Parent != 0 {
		a.Used[o.Parent]++
	}
	if !o.Retired && o.Category != 0 {
		a.Used[o.Category]++
	}
}

func put(into map[string][]Owner, key string, o Owner) { into[key] = append(into[key], o) }

// another is who else than an owner has a key.
func another(in map[string][]Owner, key string, than Owner) (Owner, bool) {
	for _, o := range in[key] {
		if o.ID != than.ID {
			return o, true
		}
	}
	return Owner{}, false
}

// longestTitle is how long a title may be, in bytes.
const longestTitle = 4096

// Wrong says what of an owner can't be as it is wanted: the field and why. Empty where it can. Cost: by how deep its category stands.
func (a *Around) Wrong(o Owner) (field string, why message.Message) {
	switch {
	case len(o.Title) > longestTitle:
		return "title", message.New("title_long", "most", longestTitle)
	case o.Title == "" && o.Kind != Variant:
		return "title", message.New("title_missing")
	case o.Kind == Category:
		return a.wrongCategory(o)
	case o.SKU == "":
		return "sku", message.New("sku_missing")
	case len(names.Tokens(o.SKU, 0)) == 0:
		return "sku", message.New("sku_empty", "sku", o.SKU)
	}
	if _, there := another(a.SKUs, Identity(o.SKU), o); there {
		return "sku", message.New("sku_there", "sku", o.SKU)
	}
	digits, err := gtin.Parse(o.Barcode)
	if errors.Is(err, gtin.ErrZeros) {
		return "barcode", message.New("barcode_zeros")
	}
	if other, there := another(a.Barcodes, digits, o); err == nil && there {
		return "barcode", message.New("barcode_taken", "barcode", o.Barcode, "sku", other.SKU)
	}
	if o.Kind == Variant {
		if parent := a.Owners[o.Parent]; parent.Kind != Product || parent.Retired && !o.Retired {
			return "parent", message.New("product_gone")
		}
		return "", why
	}
	if o.Category != 0 {
		if shelf := a.Owners[o.Category]; shelf.Kind != Category || shelf.Retired {
			return "category", message.New("category_gone")
		}
	}
	return "", why
}

func (a *Around) wrongCategory(o Owner) (field string, why message.Message) {
	if other, there := another(a.Codes, Identity(o.Code), o); o.Code != "" && there {
		return "code", message.New("code_there", "code", o.Code, "title", other.Title)
	}
	if o.Retired {
		if n := a.Used[o.ID]; n > 0 {
			return "retired", message.New("category_in_use", "count", n)
		}
		return "", why
	}
	levels := 1
	for at := o.Parent; at != 0; levels++ {
		above, there := a.Owners[at]
		switch {
		case at == o.ID:
			return "parent", message.New("own_ground")
		case !there || above.Kind != Category || above.Retired:
			return "parent", message.New("category_gone")
		case levels >= MaxLevels:
			return "parent", message.New("category_deep", "levels", levels+1, "most", MaxLevels)
		}
		at = above.Parent
	}
	for _, other := range a.Owners {
		if other.Kind == Category && other.ID != o.ID && other.Parent == o.Parent && !other.Retired && Identity(other.Title) == Identity(o.Title) {
			return "title", message.New("category_there", "title", o.Title)
		}
	}
	return "", why
}

// InOrder gives siblings, in the order wanted, the places that they have among them, the smallest first; equal ones are made apart. Those
// that stay as they are give no edit.
func InOrder(siblings []Owner) (edits []Edit) {
	places := make([]int, len(siblings))
	for i, o := range siblings {
		places[i] = o.Ordinal
	}
	slices.Sort(places)
	for i := range siblings {
		if i > 0 && places[i] <= places[i-1] {
			places[i] = places[i-1] + 1
		}
		if before := siblings[i]; before.Ordinal != places[i] {
			after := before
			after.Ordinal = places[i]
			edits = append(edits, Edit{ID: before.ID, Before: &before, After: &after})
		}
	}
	return edits
}
