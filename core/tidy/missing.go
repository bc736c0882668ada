package tidy

// Gap is what an owner misses.
type Gap string

const (
	NoMain       Gap = "no_main"       // no picture at all, or a placeholder only
	TooFew       Gap = "too_few"       // fewer than the house wants
	ProductsOnly Gap = "products_only" // a variant without its own: customers see its product's
	NoText       Gap = "no_text"       // pictures without an alt text
	SameText     Gap = "same_text"     // several pictures with one alt text
	OtherColour  Gap = "other_colour"  // a main picture of another colour than the variant's
)

// Gaps are all of them, in the order in which they are shown.
var Gaps = []Gap{NoMain, TooFew, ProductsOnly, NoText, SameText, OtherColour}

// Owner is what an owner shows.
type Owner struct {
	Kind      string // product, variant, category
	Pictures  int    // of its own, placeholders apart
	Variants  int    // pictures on its variants, of a product
	OfProduct int    // pictures on its product, of a variant
	Wordless  int    // of its own pictures without an alt text
	Texts     int    // different alt texts of its own pictures
	Colour    bool   // its main picture shows another colour
}

// Missing says what an owner misses.
func (l Limits) Missing(o Owner) (gaps []Gap) {
	add := func(is bool, g Gap) {
		if is {
			gaps = append(gaps, g)
		}
	}
	variant := o.Kind == "variant"
	none := o.Pictures == 0 && (!variant || o.OfProduct == 0) && (o.Kind != "product" || o.Variants == 0)
	add(none, NoMain)
	add(!none && o.Kind == "product" && o.Pictures+o.Variants < l.LeastPictures, TooFew)
	add(variant && o.Pictures == 0 && o.OfProduct > 0, ProductsOnly)
	add(o.Wordless > 0, NoText)
	add(o.Pictures-o.Wordless > 1 && o.Texts == 1, SameText)
	add(o.Colour, OtherColour)
	return gaps
}

// GapMask is gaps as bits, in the order of Gaps, as they are kept.
func GapMask(gaps []Gap) (mask int) {
	for _, g := range gaps {
		mask |= BitOf(Gaps, g)
	}
	return mask
}
