// Package demo is the made-up world of Pellmoor Kites: its catalogue, its pictures, drawn here, and the
// deliveries of four suppliers with their habits. Everything in it is the same at every start.
package demo

import (
	"fmt"
	"image/color"
	"strings"

	"ambrosa/core/gtin"
)

// family is one kind of thing that Pellmoor sells.
type family struct {
	code, noun string
	top        string // category above
	subs       []string
	sizes      []int
	shape      shape
}

var families = []family{
	{"DLT", "Delta", "Kites", []string{"Pocket deltas", "Classic deltas", "Great deltas"}, []int{90, 140, 210}, delta},
	{"DMD", "Diamond", "Kites", []string{"Pocket diamonds", "Classic diamonds", "Great diamonds"}, []int{60, 90, 120}, diamond},
	{"BOX", "Box", "Kites", []string{"Pocket boxes", "Classic boxes", "Great boxes"}, []int{50, 75, 110}, box},
	{"SLD", "Sled", "Kites", []string{"Pocket sleds", "Classic sleds", "Great sleds"}, []int{40, 80, 130}, sled},
	{"PFL", "Parafoil", "Kites", []string{"Pocket parafoils", "Classic parafoils", "Great parafoils"}, []int{100, 160, 240}, parafoil},
	{"LIN", "Line", "Lines", []string{"Light lines", "Strong lines"}, []int{30, 60, 100}, spool},
	{"REL", "Reel", "Reels", []string{"Hand reels", "Winding reels"}, []int{150, 300, 450}, reel},
	{"TAL", "Tail", "Tails", []string{"Ribbon tails"}, []int{10, 20, 30}, tail},
}

var adjectives = []string{"Drift", "Hearth", "Lark", "Fell", "Gorse", "Heron", "Moss", "Nettle", "Otter", "Pebble",
	"Quill", "Rowan", "Sable", "Thrift", "Umber", "Vetch", "Willow", "Yarrow", "Plover", "Bracken"}

// hue is a colour that a variant comes in.
type hue struct {
	code, word string
	rgb        color.RGBA
}

var hues = []hue{
	{"AMB", "amber", color.RGBA{0xd9, 0x8a, 0x1f, 255}}, {"PLM", "plum", color.RGBA{0x7a, 0x2e, 0x5d, 255}},
	{"TEA", "teal", color.RGBA{0x1f, 0x78, 0x80, 255}}, {"CRM", "crimson", color.RGBA{0xb8, 0x1d, 0x35, 255}},
	{"IVY", "ivy", color.RGBA{0x3f, 0x7a, 0x33, 255}}, {"SKY", "sky", color.RGBA{0x5a, 0xa6, 0xd6, 255}},
	{"SUN", "sun", color.RGBA{0xf0, 0xc4, 0x2d, 255}}, {"SLT", "slate", color.RGBA{0x55, 0x60, 0x70, 255}},
	{"COR", "coral", color.RGBA{0xe8, 0x71, 0x5b, 255}}, {"LIL", "lilac", color.RGBA{0xa5, 0x8f, 0xc9, 255}},
	{"NGT", "night", color.RGBA{0x23, 0x2b, 0x55, 255}}, {"SND", "sand", color.RGBA{0xcd, 0xb4, 0x86, 255}},
}

// article is one variant.
type article struct {
	family  *family
	model   int // among the family's twenty
	size    int
	hue     hue
	product string // SKU of the product
	sku     string
	title   string // of the product
	barcode string
}

const models = 20

// articles are all 480 variants, three to each of 160 products.
func articles() []article {
	var all []article
	for f := range families {
		fam := &families[f]
		for m := range models {
			size := fam.sizes[m%len(fam.sizes)] + m/len(fam.sizes)
			product := fmt.Sprintf("PK-%s-%03d", fam.code, size)
			for v := range 3 {
				h := hues[(m*5+f*3+v*4)%len(hues)]
				digits := fmt.Sprintf("952%02d%04d%03d", 10+f, 1000+m, v*7+1)
				all = append(all, article{fam, m, size, h, product, product + "-" + h.code,
					fmt.Sprintf("%s %s %d", adjectives[(m*7+f)%len(adjectives)], fam.noun, size),
					digits + string(gtin.CheckDigit(digits))})
			}
		}
	}
	return all
}

// Table is the catalogue as a products table.
func Table() string {
	var b strings.Builder
	b.WriteString("sku,product,title,barcode,category,colour,size\n")
	last := ""
	for _, a := range articles() {
		if a.product != last {
			last = a.product
			fmt.Fprintf(&b, "%s,,%s,,%s > %s,,\n", a.product, a.title, a.family.top, a.family.subs[a.model%len(a.family.subs)])
		}
		fmt.Fprintf(&b, "%s,%s,,%s,,%s,%d\n", a.sku, a.product, a.barcode, a.hue.word, a.size)
	}
	return b.String()
}
