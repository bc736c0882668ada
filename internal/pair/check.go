package pair

import (
	"context"
	"strconv"
	"strings"

	"ambrosa/internal/store/query"
)

// Check marks lines as read through and found right, with the owners they have now; or takes the mark off. A line that gets other
// owners is to be read again. Errors: ErrForeign for a line of another delivery.
func (b *Pairer) Check(ctx context.Context, delivery, person int64, arrivals []int64, right bool) error {
	p, err := b.Pair(ctx, delivery)
	if err != nil {
		return err
	}
	wanted := make(map[int64]bool, len(arrivals))
	for _, a := range arrivals {
		wanted[a] = true
	}
	add := query.AddCheckedParams{PersonID: person}
	for i := range p.Lines {
		if l := &p.Lines[i]; wanted[l.Arrival.ID] {
			add.Arrivals, add.Owners = append(add.Arrivals, l.Arrival.ID), append(add.Owners, l.ownersNow())
		}
	}
	if len(add.Arrivals) < len(wanted) {
		return ErrForeign
	}
	return b.change(ctx, delivery, func(q *query.Queries) error {
		if right {
			return q.AddChecked(ctx, add)
		}
		return q.RemoveChecked(ctx, query.RemoveCheckedParams{DeliveryID: delivery, Arrivals: add.Arrivals})
	})
}

// ownersNow are the owners that get the picture, in one text.
func (l *Line) ownersNow() string {
	ids := make([]string, len(l.Shares))
	for i, s := range l.Shares {
		ids[i] = strconv.FormatInt(s.Owner, 10)
	}
	return strings.Join(ids, ",")
}
