package tables

import (
	"context"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/core/gtin"
	"ambrosa/core/table"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// known is what of the catalogue a table's keys lead to.
type known map[table.Field]map[string][]table.Known

// Find finds owners by a field.
func (k known) Find(by table.Field, key string) []table.Known { return k[by][key] }

// wanted are the keys that are asked for, by field.
type wanted map[table.Field]map[string]bool

func (w wanted) add(by table.Field, text string) {
	if w[by] == nil {
		w[by] = map[string]bool{}
	}
	w[by][text] = true
}

// want adds what a row's key and parent may lead to; a number also with the zeros before it that a spreadsheet may have taken off.
func (w wanted) want(key table.Field, keyText, stored, parent string) {
	switch keyText = catalogue.CleanKey(keyText); {
	case keyText == "":
	case key == table.Barcode:
		for _, s := range []string{keyText, stored} {
			if form, err := gtin.Parse(s); err == nil {
				w.add(key, form)
			} else if form, ok := gtin.Fourteen(s); ok {
				w.add(key, form)
			}
		}
	case key == table.SKU:
		w.add(key, catalogue.Identity(keyText))
		for _, whole := range table.WithZeros(keyText) {
			w.add(key, catalogue.Identity(whole))
		}
	default:
		w.add(key, strings.ToLower(keyText))
	}
	if parent = catalogue.CleanKey(parent); parent != "" {
		w.add(table.SKU, catalogue.Identity(parent))
	}
}

// asked is how many keys are asked for at once.
const asked = 20_000

// know asks the catalogue for keys, set-wise.
func know(ctx context.Context, s *store.Store, w wanted) (known, error) {
	k := known{}
	for by, keys := range w {
		k[by] = make(map[string][]table.Known, len(keys))
		var some []string
		ask := func() error {
			rows, err := s.KnownOwners(ctx, query.KnownOwnersParams{Field: string(by), Keys: some})
			some = some[:0]
			for _, r := range rows {
				k.note(by, r)
			}
			return err
		}
		for key := range keys {
			if some = append(some, key); len(some) == asked {
				if err := ask(); err != nil {
					return nil, err
				}
			}
		}
		if len(some) > 0 {
			if err := ask(); err != nil {
				return nil, err
			}
		}
	}
	return k, nil
}

// note adds an owner under the key that it was asked for by.
func (k known) note(by table.Field, r query.KnownOwnersRow) {
	o := table.Known{ID: r.ID, Kind: r.Kind, SKU: r.Sku, Barcode: r.Barcode, Label: strings.TrimSpace(strings.Trim(r.ParentTitle+" > "+r.Title, "> ") + " " + r.Sku)}
	if r.Kind == catalogue.Variant {
		o.Parent = r.ParentSku
	}
	key := ""
	switch by {
	case table.SKU:
		key = catalogue.Identity(r.Sku)
	case table.Barcode:
		key, _ = gtin.Parse(r.Barcode)
	case table.Code:
		key = catalogue.Identity(r.Code)
	case table.Title:
		key = catalogue.Identity(r.Title)
	}
	k[by][key] = append(k[by][key], o)
}
