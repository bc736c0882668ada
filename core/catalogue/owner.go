package catalogue

import (
	"encoding/json"
	"maps"

	"ambrosa/core/change"
)

// Subject is the name under which changes of owners are kept.
const Subject = "owner"

// Language is the one in which titles and alt texts are written where no other is named (BCP 47).
const Language = "en"

// Kinds of owners.
const (
	Product  = "product"
	Variant  = "variant"
	Category = "category"
)

// Owner is a product, variant or category as it stands or is wanted. Parent is the product of a variant or
// the category above a category; Category is the category of a product. 0 stands for none.
type Owner struct {
	ID         int64                      `json:"-"`
	Kind       string                     `json:"kind"`
	Parent     int64                      `json:"parent,omitempty"`
	Category   int64                      `json:"category,omitempty"`
	SKU        string                     `json:"sku,omitempty"`
	Barcode    string                     `json:"barcode,omitempty"`
	Code       string                     `json:"code,omitempty"` // the house's own, such as a category's number
	Title      string                     `json:"title,omitempty"`
	Titles     map[string]string          `json:"titles,omitempty"`     // in other languages, by language
	Options    map[string]string          `json:"options,omitempty"`    // what tells a variant apart
	Attributes map[string]json.RawMessage `json:"attributes,omitempty"` // by the code of their definition
	Ordinal    int                        `json:"ordinal,omitempty"`    // place among its siblings, as in the table
	Retired    bool                       `json:"retired,omitempty"`    // it is not paired with and not listed; its pictures stay
}

// Equal reports whether two owners say the same.
func (o Owner) Equal(p Owner) bool {
	return o.ID == p.ID && o.Kind == p.Kind && o.Parent == p.Parent && o.Category == p.Category && o.SKU == p.SKU &&
		o.Barcode == p.Barcode && o.Code == p.Code && o.Title == p.Title && o.Ordinal == p.Ordinal && o.Retired == p.Retired && maps.Equal(o.Titles, p.Titles) &&
		maps.Equal(o.Options, p.Options) && maps.EqualFunc(o.Attributes, p.Attributes, sameValue)
}

// sameValue reports whether two values of JSON are the same; a text may be written in several ways.
func sameValue(a, b json.RawMessage) bool {
	var s, t string
	if json.Unmarshal(a, &s) == nil && json.Unmarshal(b, &t) == nil {
		return s == t
	}
	return string(a) == string(b)
}

// SetAttributes sets attributes to texts; an empty one is taken away.
func (o *Owner) SetAttributes(texts map[string]string) {
	if len(texts) > 0 {
		o.Attributes = maps.Clone(o.Attributes)
	}
	for name, text := range texts {
		if text == "" {
			delete(o.Attributes, name)
			continue
		}
		if o.Attributes == nil {
			o.Attributes = map[string]json.RawMessage{}
		}
		value, err := json.Marshal(text)
		if err != nil {
			panic(err) // a text always encodes
		}
		o.Attributes[name] = value
	}
}

// Attribute is an attribute as a text: a text without its quotes, anything else as JSON has it.
func (o Owner) Attribute(name string) string {
	var text string
	if raw := o.Attributes[name]; json.Unmarshal(raw, &text) != nil {
		return string(raw)
	}
	return text
}

// JSON is how an owner stands in a change, with all its fields.
func (o Owner) JSON() json.RawMessage {
	b, err := json.Marshal(o)
	if err != nil {
		panic(err) // plain values always encode
	}
	return b
}

// ReadOwner is the inverse of JSON.
func ReadOwner(id int64, fields json.RawMessage) (Owner, error) {
	o := Owner{ID: id}
	err := json.Unmarshal(fields, &o)
	return o, err
}

// Edit is one owner before and after, in full; nil where it is not there.
type Edit struct {
	ID            int64
	Before, After *Owner
}

// Changes are edits as lines of a plan: each with the fields that change.
func Changes(edits []Edit) ([]change.Change, error) {
	changes := make([]change.Change, len(edits))
	for i, e := range edits {
		var before, after json.RawMessage
		if e.Before != nil {
			before = e.Before.JSON()
		}
		if e.After != nil {
			after = e.After.JSON()
		}
		was, will, err := change.Between(before, after)
		if err != nil {
			return nil, err
		}
		changes[i] = change.Change{Seq: int32(i + 1), Subject: Subject, ID: e.ID, Before: was, After: will}
	}
	return changes, nil
}
