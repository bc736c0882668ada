package tidy

import (
	"context"
	"errors"

	"ambrosa/core/change"
	core "ambrosa/core/tidy"

	"github.com/jackc/pgx/v5"
)

// ErrDeliveryOpen is returned for removing a delivery that nobody closed.
var ErrDeliveryOpen = errors.New("the delivery is not closed; close it first")

// RemoveDelivery keeps the plan that removes a closed delivery, and puts those of its pictures into the bin that nothing else has; it returns the
// plan's number. ErrDeliveryOpen, pgx.ErrNoRows. Cost: reading all orphans.
func (t *Tidy) RemoveDelivery(ctx context.Context, person int64, title string, id int64) (int64, error) {
	rows, err := t.Store.DeliveriesStanding(ctx, []int64{id})
	switch {
	case err != nil:
		return 0, err
	case len(rows) == 0 || rows[0].Removed:
		return 0, pgx.ErrNoRows
	case !rows[0].Closed:
		return 0, ErrDeliveryOpen
	}
	mine, err := t.Store.DeliveryOnly(ctx, id)
	if err != nil {
		return 0, err
	}
	only := make(map[int64]bool, len(mine))
	for _, asset := range mine {
		only[asset] = true
	}
	l, err := t.Limits(ctx)
	if err != nil {
		return 0, err
	}
	var going []int64
	err = t.EachOrphan(ctx, l, func(o Orphan) error {
		if only[o.ID] && o.GoesWith() {
			going = append(going, o.ID)
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	changes, err := t.described(ctx, going, binned)
	if err != nil {
		return 0, err
	}
	return t.keep(ctx, person, title, append([]change.Change{core.Removal(id)}, changes...), nil)
}
