package wording

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"sync"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/names"
	"ambrosa/core/wording"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// shelf are the categories as they stood at one version of the catalogue, for all who make texts. Its lock is not held while the database
// is asked: who waits for it may hold the last connection.
type shelf struct {
	mu      sync.Mutex
	version int64
	byID    map[int64]core.Owner
}

// at are the categories of a version; nil where they were not kept.
func (s *shelf) at(version int64) map[int64]core.Owner {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.version != version {
		return nil
	}
	return s.byID
}

func (s *shelf) keep(version int64, byID map[int64]core.Owner) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.version, s.byID = version, byID
}

// categories are the categories now, read through q: who asks within a transaction needs no second connection. Cost: one question where
// nothing changed.
func (w *Wording) categories(ctx context.Context, q *query.Queries) (map[int64]core.Owner, error) {
	version, err := q.OwnersVersion(ctx)
	if err != nil {
		return nil, err
	}
	if all := w.shelf.at(version); all != nil {
		return all, nil
	}
	rows, err := q.AllCategories(ctx)
	if err != nil {
		return nil, err
	}
	all, err := store.CatalogueOwners(rows)
	if err == nil {
		w.shelf.keep(version, all)
	}
	return all, err
}

// owner is what texts are made of, of one owner.
type owner struct {
	core.Owner
	product core.Owner // that a variant is of; itself otherwise
	path    []int64    // its category and those above it, nearest first; of a category itself and those above
	record  wording.Record
	words   map[string]bool // of its keys, titles and options, folded; nil until they are asked for
}

// owners reads owners, as they will be after changes of owners among those of a plan.
func (w *Wording) owners(ctx context.Context, q *query.Queries, ids []int64, changes []change.Change) (map[int64]*owner, error) {
	categories, err := w.categories(ctx, q)
	if err != nil {
		return nil, err
	}
	rows, err := q.WordedOwners(ctx, ids)
	if err != nil {
		return nil, err
	}
	all := make(map[int64]*owner, len(rows))
	for i := range rows {
		r := &rows[i]
		o := &owner{}
		if o.Owner, err = store.CatalogueOwner(r.Owner); err != nil {
			return nil, err
		}
		o.product = o.Owner
		if o.Kind == core.Variant {
			o.product = core.Owner{ID: o.Parent, Kind: core.Product, SKU: r.ParentSku, Barcode: r.ParentBarcode, Code: r.ParentCode, Title: r.ParentTitle, Category: r.Shelf}
			if err := readBoth(r.ParentTitles, &o.product.Titles, r.ParentAttributes, &o.product.Attributes); err != nil {
				return nil, err
			}
		}
		all[o.ID] = o
	}
	if err := overlay(all, ids, changes); err != nil {
		return nil, err
	}
	for _, o := range all {
		o.place(categories)
		o.describe(categories)
	}
	return all, nil
}

func readBoth(titles json.RawMessage, into *map[string]string, attributes json.RawMessage, and *map[string]json.RawMessage) error {
	if string(titles) != "{}" {
		if err := json.Unmarshal(titles, into); err != nil {
			return err
		}
	}
	if string(attributes) != "{}" {
		return json.Unmarshal(attributes, and)
	}
	return nil
}

// overlay makes owners what they will be after a plan's changes of owners.
func overlay(all map[int64]*owner, ids []int64, changes []change.Change) error {
	asked := make(map[int64]bool, len(ids))
	for _, id := range ids {
		asked[id] = true
	}
	edited := map[int64]core.Owner{}
	for _, c := range changes {
		if c.Subject != core.Subject || change.None(c.After) {
			continue
		}
		fields := c.After
		if o := all[c.ID]; o != nil {
			var err error
			if fields, err = change.Merge(o.JSON(), c.After); err != nil {
				return err
			}
		}
		o, err := core.ReadOwner(c.ID, fields)
		if err != nil {
			return err
		}
		edited[c.ID] = o
		if asked[c.ID] {
			if all[c.ID] == nil {
				all[c.ID] = &owner{product: o}
			}
			if all[c.ID].Owner = o; o.Kind != core.Variant {
				all[c.ID].product = o
			}
		}
	}
	for _, o := range all {
		if p, is := edited[o.Parent]; is && o.Kind == core.Variant && p.Kind == core.Product {
			o.product = p
		}
	}
	return nil
}

// place notes in which categories an owner stands.
func (o *owner) place(categories map[int64]core.Owner) {
	at := o.product.Category
	if o.Kind == core.Category {
		at = o.ID
		if _, known := categories[at]; !known {
			o.path, at = append(o.path, at), o.Parent
		}
	}
	for ; at != 0 && len(o.path) <= core.MaxLevels; at = categories[at].Parent {
		o.path = append(o.path, at)
	}
}

// describe writes down what patterns can say of an owner.
func (o *owner) describe(categories map[int64]core.Owner) {
	r := wording.Record{}
	o.record = r
	titled := func(field string, of core.Owner) {
		r[field+".title"] = of.Title
		for lang, title := range of.Titles {
			r[field+".title."+strings.ToLower(lang)] = title
		}
		for name := range of.Attributes {
			r[field+"."+wording.Name(name)] = of.Attribute(name)
		}
		r[field+".sku"], r[field+".barcode"], r[field+".code"] = of.SKU, of.Barcode, of.Code
	}
	shelf := o.Owner
	if o.Kind != core.Category {
		titled("product", o.product)
		shelf = categories[o.product.Category]
	}
	if o.Kind == core.Variant {
		titled("variant", o.Owner)
		for name, value := range o.Options {
			r["variant."+wording.Name(name)] = value
		}
	}
	titled("category", shelf)
	var path []string
	for _, id := range slices.Backward(o.path) {
		title := categories[id].Title
		if id == o.ID {
			title = o.Title
		}
		path = append(path, title)
	}
	r["category.path"] = strings.Join(path, " > ")
	parent := ""
	if o.Kind == core.Variant {
		parent = o.product.Title
	}
	r["label"] = core.Label(o.Title, parent, o.Options)
	for _, titles := range []map[string]string{o.Titles, o.product.Titles} {
		for lang := range titles {
			if own, of := o.Titles[lang], o.product.Titles[lang]; own != "" || of != "" && o.Kind == core.Variant {
				r["label."+strings.ToLower(lang)] = core.Label(own, of, o.Options)
			}
		}
	}
}

// keys are what says which owner it is, and nothing of what is to be seen.
func (o *owner) keys() []string {
	return []string{o.SKU, o.Barcode, o.Code, o.product.SKU, o.product.Barcode, o.product.Code}
}

// colourWord is an owner's own colour, where an option says one.
func (o *owner) colourWord() string {
	for name, value := range o.Options {
		if catalogue.IsColour(name, value) {
			return value
		}
	}
	return ""
}

// picture is what texts are made of, of one picture.
type picture struct {
	sha, path, supplier string
	shows               []byte // its palette, packed
}

// pictures reads pictures.
func (w *Wording) pictures(ctx context.Context, q *query.Queries, assets []int64) (map[int64]picture, error) {
	rows, err := q.WordedAssets(ctx, assets)
	all := make(map[int64]picture, len(rows))
	for _, r := range rows {
		all[r.ID] = picture{sha: r.Sha, path: r.Path, supplier: r.Supplier, shows: r.Palette}
	}
	return all, err
}

// roleOf is what a picture shows by its name; empty where that says nothing. The owner's own words say what it is and not what is shown:
// of a box kite the word box is none of a packed one.
func (o *owner) roleOf(path string) string {
	if path == "" {
		return ""
	}
	if o.words == nil {
		o.words = map[string]bool{}
		for _, text := range append(o.keys(), o.Title, o.product.Title, o.record["category.path"]) {
			for _, t := range names.Tokens(text, 0) {
				o.words[t.Folded] = true
			}
		}
		for _, value := range o.Options {
			for _, t := range names.Tokens(value, 0) {
				o.words[t.Folded] = true
			}
		}
	}
	tokens := slices.DeleteFunc(names.Read(path).Tokens, func(t names.Token) bool { return o.words[t.Folded] })
	return names.Trade.ReadTail(path, tokens).Role
}
