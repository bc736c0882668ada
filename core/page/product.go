package page

import (
	"encoding/json"
	"slices"
	"strings"

	"ambrosa/core/gtin"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Product is what a page's data say of the product that it is about. Fields are empty where they do not say.
type Product struct {
	Title, SKU, Barcode string
	Images              []Candidate
}

// Product reads the data of a page: JSON-LD and microdata of schema.org's Product, then OpenGraph where those have no picture. Sources:
// schema.org/Product, JSON-LD 1.1, WHATWG HTML (section 5, microdata), the Open Graph protocol (ogp.me).
func (p *Page) Product() Product {
	if p.product == nil {
		p.product = new(p.readProduct())
	}
	return *p.product
}

func (p *Page) readProduct() (product Product) {
	var graph, micro, og Product
	for i := 0; i < len(p.Elements); i++ {
		n := p.Elements[i]
		switch {
		case n.DataAtom == atom.Script && n.FirstChild != nil && strings.Contains(strings.ToLower(attribute(n, "type")), "ld+json"):
			graph.merge(p.linked(n.FirstChild.Data))
		case isProductItem(n) && micro.Title == "" && len(micro.Images) == 0:
			micro = p.micro(n)
		case n.DataAtom == atom.Meta:
			p.openGraph(n, &og)
		}
	}
	product.merge(graph)
	product.merge(micro)
	if len(product.Images) == 0 {
		product.Images = og.Images
	}
	if product.Title == "" {
		product.Title = og.Title
	}
	return product
}

// merge takes over what is not known yet, and pictures that are not there.
func (d *Product) merge(o Product) {
	for _, f := range []struct{ into, from *string }{{&d.Title, &o.Title}, {&d.SKU, &o.SKU}, {&d.Barcode, &o.Barcode}} {
		if *f.into == "" {
			*f.into = *f.from
		}
	}
	for _, image := range o.Images {
		if !slices.ContainsFunc(d.Images, func(c Candidate) bool { return c.Address == image.Address }) && len(d.Images) < mostStated {
			d.Images = append(d.Images, image)
		}
	}
}

// mostStated is how many pictures a page's data may state.
const mostStated = 200

// linked reads the first product that stands by itself in a JSON-LD text.
func (p *Page) linked(text string) (found Product) {
	var top any
	if len(text) > 4<<20 || json.Unmarshal([]byte(strings.TrimSpace(text)), &top) != nil {
		return found
	}
	p.inLinked(top, 0, &found)
	return found
}

// inLinked looks for the product in a JSON-LD value: at its top, in a graph, or as what the page is about; not in lists of related ones.
func (p *Page) inLinked(v any, deep int, found *Product) bool {
	if deep > 6 {
		return false
	}
	switch v := v.(type) {
	case []any:
		for _, one := range v {
			if p.inLinked(one, deep+1, found) {
				return true
			}
		}
	case map[string]any:
		if isType(v["@type"], "Product", "ProductGroup", "IndividualProduct", "ProductModel") {
			*found = p.ofLinked(v)
			return true
		}
		for _, key := range []string{"@graph", "mainEntity", "mainEntityOfPage", "about"} {
			if v[key] != nil && p.inLinked(v[key], deep+1, found) {
				return true
			}
		}
	}
	return false
}

func isType(v any, names ...string) bool {
	switch v := v.(type) {
	case string:
		v = v[strings.LastIndexAny(v, "/#:")+1:]
		return slices.Contains(names, v)
	case []any:
		return slices.ContainsFunc(v, func(one any) bool { return isType(one, names...) })
	}
	return false
}

// gtinNames are the properties of schema.org's Product that hold a GTIN.
var gtinNames = []string{"gtin", "gtin13", "gtin12", "gtin14", "gtin8"}

func (p *Page) ofLinked(v map[string]any) Product {
	d := Product{Title: cleanText(scalar(v["name"])), SKU: cleanText(scalar(v["sku"]))}
	for _, name := range gtinNames {
		if text := cleanText(scalar(v[name])); text != "" && d.Barcode == "" {
			d.Barcode = text
		}
	}
	p.images(v["image"], 0, &d)
	if d.Barcode == "" || len(d.Images) == 0 || d.SKU == "" { // a group says some of it of its variants
		if variants, ok := v["hasVariant"].([]any); ok && len(variants) == 1 {
			if one, ok := variants[0].(map[string]any); ok {
				d.merge(p.ofLinked(one))
			}
		}
	}
	return d
}

// images reads an image: an address, an ImageObject, or several of them.
func (p *Page) images(v any, deep int, d *Product) {
	if deep > 3 || len(d.Images) >= mostStated {
		return
	}
	switch v := v.(type) {
	case string:
		if address, ok := p.Resolve(html.UnescapeString(v)); ok {
			d.Images = append(d.Images, Candidate{Address: address, From: JSONLD})
		}
	case []any:
		for _, one := range v {
			p.images(one, deep+1, d)
		}
	case map[string]any:
		for _, key := range []string{"contentUrl", "url", "@id"} {
			if text := scalar(v[key]); text != "" {
				if address, ok := p.Resolve(html.UnescapeString(text)); ok {
					d.Images = append(d.Images, Candidate{Address: address, From: JSONLD, Width: pixels(scalar(v["width"])), Height: pixels(scalar(v["height"]))})
					return
				}
			}
		}
	}
}

// scalar is a JSON value as text; of a list the first, of an object its @value.
func scalar(v any) string {
	switch v := v.(type) {
	case string:
		return v
	case float64:
		b, err := json.Marshal(v)
		if err != nil {
			return ""
		}
		return string(b)
	case []any:
		if len(v) > 0 {
			return scalar(v[0])
		}
	case map[string]any:
		return scalar(v["@value"])
	}
	return ""
}

func cleanText(text string) string {
	text = strings.Join(strings.Fields(html.UnescapeString(text)), " ")
	if len(text) > maxText {
		text = strings.ToValidUTF8(text[:maxText], "")
	}
	return text
}

func isProductItem(n *html.Node) bool {
	if !has(n, "itemscope") {
		return false
	}
	for _, t := range strings.Fields(attribute(n, "itemtype")) {
		if strings.HasSuffix(t, "schema.org/Product") || strings.HasSuffix(t, "schema.org/ProductGroup") {
			return itemAround(n) == nil // one that stands by itself
		}
	}
	return false
}

func itemAround(n *html.Node) *html.Node {
	for up := n.Parent; up != nil; up = up.Parent {
		if has(up, "itemscope") && isProductType(up) {
			return up
		}
	}
	return nil
}

func isProductType(n *html.Node) bool {
	return strings.Contains(attribute(n, "itemtype"), "schema.org/Product")
}

// micro reads the microdata of one item: its own properties, those of items within left out but for pictures.
func (p *Page) micro(item *html.Node) (d Product) {
	var within *html.Node // an item below
	isImage := false
	for n := range all(item) {
		if n.Type != html.ElementNode || n == item {
			continue
		}
		if within != nil && !below(n, within) {
			within = nil
		}
		prop := attribute(n, "itemprop")
		if within != nil {
			if isImage && (prop == "contentUrl" || prop == "url") {
				p.microImage(n, &d)
			}
			continue
		}
		for _, name := range strings.Fields(prop) {
			switch text := cleanText(microValue(n)); {
			case name == "name" && d.Title == "":
				d.Title = text
			case name == "sku" && d.SKU == "":
				d.SKU = text
			case slices.Contains(gtinNames, name) && d.Barcode == "":
				d.Barcode = text
			case name == "image" && !has(n, "itemscope"):
				p.microImage(n, &d)
			}
		}
		if has(n, "itemscope") {
			within, isImage = n, slices.Contains(strings.Fields(prop), "image")
		}
	}
	return d
}

func (p *Page) microImage(n *html.Node, d *Product) {
	if address, ok := p.Resolve(microValue(n)); ok && len(d.Images) < mostStated && !isPlaceholder(address) {
		d.Images = append(d.Images, Candidate{Address: address, From: Microdata, Width: pixels(attribute(n, "width")), Height: pixels(attribute(n, "height"))})
	}
}

// microValue is the value of a property. Source: WHATWG HTML, section 5.2.4.
func microValue(n *html.Node) string {
	switch n.DataAtom {
	case atom.Meta:
		return attribute(n, "content")
	case atom.Img, atom.Audio, atom.Embed, atom.Iframe, atom.Source, atom.Track, atom.Video:
		return attribute(n, "src")
	case atom.A, atom.Area, atom.Link:
		return attribute(n, "href")
	case atom.Object:
		return attribute(n, "data")
	case atom.Data, atom.Meter:
		return attribute(n, "value")
	case atom.Time:
		if v := attribute(n, "datetime"); v != "" {
			return v
		}
	}
	return Text(n)
}

func (p *Page) openGraph(n *html.Node, d *Product) {
	content := attribute(n, "content")
	last := len(d.Images) - 1
	switch attribute(n, "property") {
	case "og:title":
		if d.Title == "" {
			d.Title = cleanText(content)
		}
	case "og:image", "og:image:url", "og:image:secure_url":
		if address, ok := p.Resolve(content); ok && len(d.Images) < mostStated && !slices.ContainsFunc(d.Images, func(c Candidate) bool { return c.Address == address }) {
			d.Images = append(d.Images, Candidate{Address: address, From: OpenGraph})
		}
	case "og:image:width":
		if last >= 0 {
			d.Images[last].Width = pixels(content)
		}
	case "og:image:height":
		if last >= 0 {
			d.Images[last].Height = pixels(content)
		}
	}
}

// codeOf is a text as a barcode: a GTIN with a right check digit, empty for what is none.
func codeOf(text string) string {
	if _, err := gtin.Parse(text); err != nil {
		return ""
	}
	return text
}
