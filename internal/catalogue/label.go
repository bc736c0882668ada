package catalogue

import (
	"context"
	"encoding/json"

	core "ambrosa/core/catalogue"
	"ambrosa/internal/store"
)

// Label is how an owner is shown.
type Label struct {
	ID      int64
	Kind    string
	SKU     string
	Barcode string
	Label   string
}

// Labels names owners; those that are gone are missing.
func Labels(ctx context.Context, s *store.Store, ids []int64) (map[int64]Label, error) {
	rows, err := s.OwnerLabels(ctx, ids)
	labels := make(map[int64]Label, len(rows))
	for _, o := range rows {
		labels[o.ID] = Label{o.ID, o.Kind, o.Sku, o.Barcode, Name(o.Title, o.ParentTitle, o.Options)}
	}
	return labels, err
}

// Name is an owner's label from what the database keeps of it.
func Name(title, parentTitle string, options json.RawMessage) string {
	var values map[string]string
	_ = json.Unmarshal(options, &values) // the column holds only what this program wrote
	return core.Label(title, parentTitle, values)
}
