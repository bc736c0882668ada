package bench

import (
	"context"
	"encoding/hex"
	"encoding/json"

	"ambrosa/core/catalogue"
	"ambrosa/internal/store/query"
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
func (b *Bench) Labels(ctx context.Context, ids []int64) (map[int64]Label, error) {
	rows, err := b.Store.OwnerLabels(ctx, ids)
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
	return catalogue.Label(title, parentTitle, values)
}

// Sha is an arrival's picture in hex; empty where it has none.
func Sha(a query.ArrivalsRow) string { return hex.EncodeToString(a.Sha256) }
