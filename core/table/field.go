package table

import (
	"slices"
	"strings"
)

// Field is what a column says of an owner or of its pictures.
type Field string

const (
	SKU      Field = "sku"
	Parent   Field = "parent" // the SKU of the product that a variant is of; of a category, the path above it
	KindOf   Field = "kind"   // product, variant, category
	Title    Field = "title"
	Barcode  Field = "barcode"
	Code     Field = "code"
	Category Field = "category" // a path: Kites > Deltas
	Price    Field = "price"
	Main     Field = "main"      // the file or address of the main picture
	Pictures Field = "pictures"  // files or addresses, several in a cell
	Picture  Field = "picture"   // one file or address: one row a picture
	Position Field = "position"  // of that picture
	MainFlag Field = "main_flag" // whether that picture is the main one
	Alt      Field = "alt"       // its alt text
)

// Fields are all fields that have a name of their own, in the order in which tables show them.
var Fields = []Field{SKU, Parent, KindOf, Title, Barcode, Code, Category, Price, Main, Pictures, Picture, Position, MainFlag, Alt}

const (
	optionPrefix    = "option:"
	attributePrefix = "attribute:"
)

// ReadField reads a field as it is named outside; ok is false where there is none of that name.
func ReadField(name string) (f Field, ok bool) {
	f = Field(strings.TrimSpace(name))
	if rest := f.Own(); rest != "" {
		return f, true
	}
	return f, slices.Contains(Fields, f)
}

// Option and Attribute are the fields of what tells variants apart, and of what else is said of an owner.
func Option(name string) Field    { return Field(optionPrefix + name) }
func Attribute(name string) Field { return Field(attributePrefix + name) }

// IsOption and IsAttribute tell them.
func (f Field) IsOption() bool    { return strings.HasPrefix(string(f), optionPrefix) }
func (f Field) IsAttribute() bool { return strings.HasPrefix(string(f), attributePrefix) }

// Own is the name of an option or attribute; empty for the other fields.
func (f Field) Own() string {
	switch {
	case f.IsOption():
		return strings.TrimSpace(string(f[len(optionPrefix):]))
	case f.IsAttribute():
		return strings.TrimSpace(string(f[len(attributePrefix):]))
	}
	return ""
}

// IsKey reports whether owners are found by a field.
func (f Field) IsKey() bool {
	return f == SKU || f == Barcode || f == Code || f == Title || f.IsAttribute()
}

// SaysPictures reports whether a column names pictures.
func (a Assignment) SaysPictures() bool {
	for _, f := range a {
		if f.saysPictures() {
			return true
		}
	}
	return false
}

// saysPictures reports whether a field's cells name pictures.
func (f Field) saysPictures() bool { return f == Main || f == Pictures || f == Picture }
