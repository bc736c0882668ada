package demo

import (
	"bytes"
	"encoding/csv"
	"image"
	_ "image/jpeg" // drawings are JPEGs
	"maps"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/colour"
	"ambrosa/core/gtin"
	"ambrosa/core/pairing"
	"ambrosa/internal/assets"
)

// The catalogue is what its description says: 160 products, three variants each, 24 categories, and codes that stand up
// to a check.
func TestTable(t *testing.T) {
	rows, err := csv.NewReader(strings.NewReader(Table())).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	shape := regexp.MustCompile(`^PK-[A-Z]{3}-\d{3}(-[A-Z]{3})?$`)
	skus, barcodes, categories := map[string]bool{}, map[string]bool{}, map[string]bool{}
	variants := map[string][]string{} // colours by product
	products := 0
	for _, row := range rows[1:] {
		sku, product, title, barcode, category, hue := row[0], row[1], row[2], row[3], row[4], row[5]
		if !shape.MatchString(sku) || skus[sku] {
			t.Errorf("the SKU %q is of another shape, or stands twice", sku)
		}
		skus[sku] = true
		if product == "" {
			products++
			top, sub, _ := strings.Cut(category, " > ")
			categories[top], categories[sub] = true, true
			if title == "" || barcode != "" {
				t.Errorf("%s: title %q, barcode %q", sku, title, barcode)
			}
			continue
		}
		form, err := gtin.Parse(barcode)
		if err != nil || !strings.HasPrefix(form, "0952") || barcodes[form] {
			t.Errorf("%s: barcode %s is not of the demonstration prefix 952, or stands twice: %v", sku, barcode, err)
		}
		barcodes[form] = true
		if !skus[product] || slices.Contains(variants[product], hue) {
			t.Errorf("%s: its product %s stands behind it, or has %s twice", sku, product, hue)
		}
		variants[product] = append(variants[product], hue)
	}
	for product, hues := range variants {
		if len(hues) != 3 {
			t.Errorf("%s comes in %v", product, hues)
		}
	}
	if products != 160 || len(barcodes) != 480 || len(categories) != 24 {
		t.Errorf("%d products, %d variants, %d categories", products, len(barcodes), len(categories))
	}
}

// Every supplier has the habits that are told of it, and the engine sees them: what is tidy is sure, what is chaos comes
// in every grade.
func TestDeliveries(t *testing.T) {
	var owners []pairing.Owner
	number := map[string]int64{}
	for _, a := range articles() {
		if number[a.product] == 0 {
			number[a.product] = int64(len(owners) + 1)
			owners = append(owners, pairing.Owner{ID: number[a.product], Kind: pairing.Product, Keys: []pairing.Key{{Field: pairing.SKU, Text: a.product}, {Field: pairing.Title, Text: a.title}}})
		}
		owners = append(owners, pairing.Owner{ID: int64(len(owners) + 1), Kind: pairing.Variant, Parent: number[a.product], Also: []string{a.hue.word},
			Keys: []pairing.Key{{Field: pairing.SKU, Text: a.sku}, {Field: pairing.Barcode, Text: a.barcode}}})
	}
	index := pairing.NewIndex(owners)
	for _, c := range []struct {
		supplier string
		files    []file
		fit      pairing.Fit
		field    pairing.Field
		grades   map[pairing.Grade]int // -1 for some
		habits   []pairing.HabitKind
	}{
		{"Corrie", corrie(), pairing.Whole, pairing.SKU, map[pairing.Grade]int{pairing.Sure: 240}, []pairing.HabitKind{pairing.NumberStart, pairing.LeadingKey}},
		{"Tarn", tarn(), pairing.Within, pairing.SKU, map[pairing.Grade]int{pairing.Sure: 270, pairing.Ignored: 11}, []pairing.HabitKind{pairing.SharedPrefix, pairing.NumberStart, pairing.LeadingKey}},
		{"Fellside", fellside(), pairing.Whole, pairing.Barcode, map[pairing.Grade]int{pairing.Sure: 120}, []pairing.HabitKind{pairing.NumberStart, pairing.LeadingKey}},
		{"Windhover", windhover(), "", "", map[pairing.Grade]int{pairing.Sure: -1, pairing.Likely: -1, pairing.Contested: -1, pairing.Unclaimed: -1, pairing.Ignored: -1},
			[]pairing.HabitKind{pairing.SharedSuffix, pairing.NumberStart, pairing.FolderLevel, pairing.LeadingKey}},
	} {
		files := make([]pairing.File, len(c.files))
		for i, f := range c.files {
			files[i].Path = f.path
		}
		study := pairing.NewStudy(index, files)
		got := map[pairing.Grade]int{}
		for i, claim := range study.Claims(pairing.Choice{}) {
			got[claim.Grade]++
			if r := claim.Reading; r != nil && c.fit != "" && (r.Fit != c.fit || r.Field != c.field) {
				t.Errorf("%s: %s is read %s by its %s", c.supplier, files[i].Path, r.Fit, r.Field)
			}
		}
		for grade, want := range c.grades {
			if want < 0 && got[grade] > 0 {
				got[grade] = want
			}
		}
		if !maps.Equal(got, c.grades) {
			t.Errorf("%s: %v, want %v", c.supplier, got, c.grades)
		}
		var habits []pairing.HabitKind
		for _, h := range study.Habits() {
			habits = append(habits, h.Kind)
		}
		if !slices.Equal(habits, c.habits) {
			t.Errorf("%s has the habits %v, want %v", c.supplier, habits, c.habits)
		}
	}
}

// Pictures are the same at every start, none is that of another article, and the colour check sees the colour that the
// variant is named for, and no other.
func TestDrawings(t *testing.T) {
	const side = 96
	palettes := map[string][][]colour.Swatch{}
	drawn := map[string]string{}
	for _, a := range articles() {
		if len(palettes[a.hue.word]) == 3 || a.family.code == "LIN" { // a line's spool shows mostly wood
			continue
		}
		jpeg := drawing(a, front, side)
		if !bytes.Equal(jpeg, drawing(a, front, side)) {
			t.Errorf("%s is drawn otherwise the second time", a.sku)
		}
		if other := drawn[string(jpeg)]; other != "" {
			t.Errorf("%s and %s have one picture", a.sku, other)
		}
		drawn[string(jpeg)] = a.sku
		palettes[a.hue.word] = append(palettes[a.hue.word], palette(t, jpeg))
	}
	if len(drawn) != 3*len(hues) {
		t.Errorf("%d pictures were drawn", len(drawn))
	}
	middles := map[string][]colour.Lab{}
	for _, h := range hues {
		for range 3 {
			middles[h.word] = append(middles[h.word], colour.RGB{R: h.rgb.R, G: h.rgb.G, B: h.rgb.B}.Lab())
		}
	}
	words := colour.Learn(middles)
	for _, h := range hues {
		for _, p := range palettes[h.word] {
			if says := words.Mismatch(p, h.word, nil); says != "" {
				t.Errorf("a picture of %s: %s", h.word, says)
			}
		}
	}
	for _, c := range [][2]string{{"amber", "plum"}, {"crimson", "teal"}, {"sky", "coral"}, {"ivy", "lilac"}} {
		if says := words.Mismatch(palettes[c[0]][0], c[1], []string{c[0]}); !strings.Contains(says, c[0]) {
			t.Errorf("a picture of %s on %s: %q", c[0], c[1], says)
		}
	}
}

func palette(t *testing.T, jpeg []byte) []colour.Swatch {
	t.Helper()
	img, _, err := image.Decode(bytes.NewReader(jpeg))
	if err != nil {
		t.Fatal(err)
	}
	var pixels []colour.RGB
	for y := range img.Bounds().Dy() {
		for x := range img.Bounds().Dx() {
			r, g, b, _ := img.At(x, y).RGBA()
			pixels = append(pixels, colour.RGB{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(b >> 8)})
		}
	}
	return colour.Palette(pixels, img.Bounds().Dx())
}

// Each of the great sleds shows what it was made for.
func TestSleds(t *testing.T) {
	files, owners := sleds()
	told := map[string]string{}
	for _, f := range files {
		name := strings.TrimPrefix(f.path, "leftovers/")
		seen, err := assets.Look(t.Context(), assets.Source{Bytes: f.make()}, 1e8)
		if err != nil {
			t.Fatal(name, err)
		}
		var says []string
		for _, is := range []struct {
			so   bool
			word string
		}{{seen.Ground.IsWhite(), "white"}, {seen.Width == seen.Height, "square"}, {seen.Transparent, "transparent"}, {seen.Profile != nil, "profile"}, {seen.IsEnlarged() || seen.PaddedShare() > 0, "wrong"}} {
			if is.so {
				says = append(says, is.word)
			}
		}
		kind := strings.TrimPrefix(strings.TrimPrefix(name, "sleds/"), owners[name])
		told[kind] = strings.Join(says, " ")
	}
	want := map[string]string{".jpg": "white square", " on paper.jpg": "square", " wide.jpg": "white", " other colours.jpg": "white square profile", " cut out.png": "white square transparent"}
	if !maps.Equal(told, want) {
		t.Errorf("%v, want %v", told, want)
	}
}
