package tidy

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"ambrosa/core/catalogue"
	core "ambrosa/core/tidy"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// OwnersBySKU finds owners by their SKUs, and returns those that nobody has besides.
func (t *Tidy) OwnersBySKU(ctx context.Context, skus []string) (ids []int64, unknown []string, err error) {
	unknown = []string{}
	identities := make([]string, 0, len(skus))
	of := map[string]string{}
	for _, sku := range skus {
		if sku = strings.TrimSpace(sku); sku != "" {
			identity := catalogue.Identity(sku)
			identities = append(identities, identity)
			of[identity] = sku
		}
	}
	rows, err := t.Store.OwnersNamed(ctx, identities)
	for _, r := range rows {
		ids = append(ids, r.ID)
		delete(of, *r.Identity)
	}
	for _, sku := range of {
		unknown = append(unknown, sku)
	}
	slices.Sort(ids)
	slices.Sort(unknown)
	return ids, unknown, err
}

// KeysOf are the keys by which pictures are offered to an owner; of a variant those of its product's title, too. pgx.ErrNoRows.
func (t *Tidy) KeysOf(ctx context.Context, id int64) ([]core.OfferKey, error) {
	rows, err := t.Store.OwnerLabels(ctx, []int64{id})
	if err == nil && len(rows) == 0 {
		err = pgx.ErrNoRows
	}
	if err != nil {
		return nil, err
	}
	o := rows[0]
	options := map[string]string{}
	if err := json.Unmarshal(o.Options, &options); err != nil {
		return nil, err
	}
	var values []string
	for _, v := range options {
		values = append(values, v)
	}
	slices.Sort(values)
	title := o.Title
	if title == "" {
		title = o.ParentTitle
	}
	return core.OfferKeys(o.Sku, o.Barcode, title, values), nil
}

// mostLooks is how many pictures of an owner's family are compared with others.
const mostLooks = 12

// LooksOf are the keys by which pictures are offered to an owner that look like those of its family, and the numbers of the family's own.
func (t *Tidy) LooksOf(ctx context.Context, id int64) (keys []core.OfferKey, own []int64, err error) {
	rows, err := t.Store.FamilyLooks(ctx, query.FamilyLooksParams{Owner: id, Most: mostLooks})
	likenesses := make([]uint64, len(rows))
	for i, r := range rows {
		likenesses[i], own = uint64(r.Likeness), append(own, r.ID)
	}
	return core.LookKeys(likenesses), own, err
}
