package store

import (
	"encoding/json"
	"fmt"

	"ambrosa/core/catalogue"
	"ambrosa/internal/store/query"
)

// CatalogueOwner reads a row of the owner table as the core's value.
func CatalogueOwner(o query.Owner) (catalogue.Owner, error) {
	out := catalogue.Owner{ID: o.ID, Kind: o.Kind, SKU: o.Sku, Barcode: o.Barcode, Code: o.Code, Title: o.Title, Ordinal: int(o.Ordinal), Retired: o.Retired}
	if o.Parent != nil {
		out.Parent = *o.Parent
	}
	if o.Category != nil {
		out.Category = *o.Category
	}
	for _, part := range []struct {
		name string
		json json.RawMessage
		into any
	}{{"options", o.Options, &out.Options}, {"titles", o.Titles, &out.Titles}, {"attributes", o.Attributes, &out.Attributes}} {
		if string(part.json) == "{}" {
			continue
		}
		if err := json.Unmarshal(part.json, part.into); err != nil {
			return out, fmt.Errorf("%s of %s: %w", part.name, o.Sku, err)
		}
	}
	return out, nil
}
