package pair

import (
	"context"

	"ambrosa/core/message"
)

// Order gives an owner's lines the order in which they are named. Lines that nobody decided keep the engine's word. Errors:
// ErrForeign where a line does not go to the owner, ErrDoubled.
func (b *Pairer) Order(ctx context.Context, delivery, person, owner int64, arrivals []int64) error {
	p, err := b.Pair(ctx, delivery)
	if err != nil {
		return err
	}
	place := make(map[int64]int, len(arrivals))
	for i, a := range arrivals {
		place[a] = i + 1
	}
	var decisions []Decision
	for i := range p.Lines {
		l := &p.Lines[i]
		rank, named := place[l.Arrival.ID]
		if !named || !l.Ready() {
			continue
		}
		d := Decision{Arrival: l.Arrival.ID}
		has := false
		for _, s := range l.Shares {
			if s.Owner == owner {
				s.Rank, has = rank, true
			}
			d.Owners = append(d.Owners, s)
		}
		if !has {
			return ErrForeign
		}
		if !l.ByHand() {
			d.Owners, d.Rank = nil, rank
		}
		decisions = append(decisions, d)
	}
	switch {
	case len(place) < len(arrivals):
		return ErrDoubled
	case len(decisions) < len(place):
		return ErrForeign
	}
	return b.decide(ctx, delivery, person, message.New("step_order"), decisions)
}
