package store

import (
	"encoding/json"
	"fmt"

	"ambrosa/core/catalogue"
	"ambrosa/internal/store/query"
)

// CatalogueOwner reads a row of the owner table as the core's value.
func CatalogueOwner(o query.Owner) (catalogue.Owner, error) {
	out := catalogue.Owner{ID: o.ID, Kind: o.Kind, SKU: o.Sku, Barcode: o.Barcode, Title: o.Title, Ordinal: int(o.Ordinal)}
	if o.Parent != nil {
		out.Parent = *o.Parent
	}
	if o.Category != nil {
		out.Category = *o.Category
	}
	if err := json.Unmarshal(o.Options, &out.Options); err != nil {
		return out, fmt.Errorf("options of %s: %w", o.Sku, err)
	}
	return out, nil
}
