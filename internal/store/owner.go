package store

import (
	"encoding/json"
	"fmt"

	"ambrosa/core/catalogue"
	"ambrosa/internal/store/query"
)

// CatalogueOwners reads rows of the owner table as the core's values, by number.
func CatalogueOwners(rows []query.Owner) (map[int64]catalogue.Owner, error) {
	owners := make(map[int64]catalogue.Owner, len(rows))
	for _, row := range rows {
		o, err := CatalogueOwner(row)
		if err != nil {
			return nil, err
		}
		owners[row.ID] = o
	}
	return owners, nil
}

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
