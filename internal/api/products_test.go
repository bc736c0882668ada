package api

import (
	"fmt"
	"testing"

	"ambrosa/internal/people"
)

// The catalogue is read to its end in pages, each product once and in its order; filters and a search give the same products as
// the whole.
func TestProductsInPages(t *testing.T) {
	h := newHouse(t)
	viewer := h.as("vera", people.Viewer)
	h.exec("INSERT INTO owner (id, kind, title, ordinal) VALUES (1, 'category', 'Kites', 1)")
	h.exec("INSERT INTO owner (id, kind, parent, title, ordinal) VALUES (2, 'category', 1, 'Deltas', 2)")
	h.exec(`INSERT INTO owner (id, kind, category, sku, identity, title, ordinal) SELECT n, 'product', CASE n % 3 WHEN 0 THEN 1 WHEN 1 THEN 2 END,
		'PK-' || n, 'pk-' || n, 'Drift ' || n, (n * 7) % 50 FROM generate_series(10, 260) n`)
	h.exec("INSERT INTO owner (id, kind, parent, sku, identity, ordinal) SELECT 1000 + n, 'variant', n, 'PK-' || n || '-RED', 'pk-' || n || '-red', 3 FROM generate_series(10, 260) n")
	h.exec("INSERT INTO asset (sha256, bytes, format, width, height) VALUES ('\\x0a', 1, 'JPEG', 1, 1)")
	h.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT 1000 + n, 1, 1 FROM generate_series(10, 260, 2) n")
	walk := func(filter string, most int) (all []productBody) {
		t.Helper()
		for after := ""; ; {
			var page productsBody
			viewer.must("GET", fmt.Sprintf("/api/products?most=%d%s%s", most, filter, after), "", &page)
			all = append(all, page.Products...)
			if page.Next == "" {
				return all
			}
			after = "&after=" + page.Next
		}
	}
	whole := walk("", 40)
	seen := map[int64]bool{}
	last := -1
	for _, p := range whole {
		at := int(p.ID*7%50)*1000 + int(p.ID)
		if seen[p.ID] || at <= last || p.Variants != 1 || (p.VariantPictures == 1) != (p.ID%2 == 0) || (p.Picture == "0a") != (p.ID%2 == 0) {
			t.Fatalf("%+v, after place %d", p, last)
		}
		seen[p.ID], last = true, at
	}
	var n catalogueBody
	viewer.must("GET", "/api/catalogue", "", &n)
	if len(whole) != 251 || n != (catalogueBody{Products: 251, Variants: 251, Categories: 2, Without: 125}) {
		t.Errorf("%d products in pages, the catalogue says %+v", len(whole), n)
	}
	count := func(keep func(productBody) bool) (n int) {
		for _, p := range whole {
			if keep(p) {
				n++
			}
		}
		return n
	}
	for filter, keep := range map[string]func(productBody) bool{
		"&in=1":                func(p productBody) bool { return p.Category != 0 },
		"&in=2":                func(p productBody) bool { return p.Category == 2 },
		"&without=true":        func(p productBody) bool { return p.VariantPictures == 0 },
		"&in=2&without=true":   func(p productBody) bool { return p.Category == 2 && p.VariantPictures == 0 },
		"&q=pk-77-red":         func(p productBody) bool { return p.ID == 77 },
		"&q=nothing-like-this": func(productBody) bool { return false },
	} {
		if got := len(walk(filter, 20)); got != count(keep) {
			t.Errorf("%s: %d products, want %d", filter, got, count(keep))
		}
	}
	for address, want := range map[string]int{"/api/products?after=x": 422, "/api/products?in=77": 404} {
		if status, text, _ := viewer.ask("GET", address, ""); status != want {
			t.Errorf("%s: %d %s, want %d", address, status, text, want)
		}
	}
}
