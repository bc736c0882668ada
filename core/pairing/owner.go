package pairing

import (
	"ambrosa/core/names"

	"ambrosa/core/message"
)

// Kind says what an owner is.
type Kind string

const (
	Product  Kind = "product"
	Variant  Kind = "variant"
	Category Kind = "category"
)

// Field is the owner's field that a name can be read for.
type Field string

const (
	SKU     Field = "sku"
	Barcode Field = "barcode"
	Code    Field = "code"
	Title   Field = "title"
)

// Owner is what a picture can belong to. Parent is the product of a variant, 0 where there is none.
type Owner struct {
	ID     int64
	Kind   Kind
	Parent int64
	Keys   []Key
	Also   []string // what else is said of it, such as its colour: read for words, never a key
}

// TellsApart reports whether the values of an attribute tell owners apart as a code does, so that a name can be read for
// it: nearly all differ, and nearly all say enough. Values that are empty count as none.
func TellsApart(values []string) bool {
	distinct := map[string]bool{}
	all, enough := 0, 0
	for _, v := range values {
		tokens := names.Tokens(v, 0)
		if len(tokens) == 0 {
			continue
		}
		all++
		if says, _, _ := telling(tokens); says {
			enough++
		}
		distinct[names.Canonical(tokens)] = true
	}
	return all >= 3 && 20*len(distinct) >= 19*all && 20*enough >= 19*all
}

// Key is one field's text, as the catalogue has it.
type Key struct {
	Field Field
	Text  string
}

// File is one file of a delivery. Ignored says why it is no candidate for any owner; none where it is one.
type File struct {
	Path    string
	Said    []Statement // what is said of it beside its name
	Ignored message.Message
}
