package pair

import (
	"context"

	"ambrosa/core/message"
)

// Ordered is one owner's lines in the order wanted.
type Ordered struct {
	Owner    int64
	Arrivals []int64
}

// Order returns the lines of some owners the order in which they are named, as one step. Lines that nobody decided keep the
// engine's word. Errors: ErrForeign where a line does not go to its owner, ErrDoubled; then nothing is changed.
func (b *Pairer) Order(ctx context.Context, delivery, person int64, orders []Ordered) error {
	p, err := b.Pair(ctx, delivery)
	if err != nil {
		return err
	}
	type place struct{ owner, arrival int64 }
	ranks := map[place]int{}
	for _, o := range orders {
		for i, a := range o.Arrivals {
			at := place{o.Owner, a}
			if ranks[at] > 0 {
				return ErrDoubled
			}
			ranks[at] = i + 1
		}
	}
	found := 0
	var decisions []Decision
	for i := range p.Lines {
		l := &p.Lines[i]
		if !l.Ready() {
			continue
		}
		d := Decision{Arrival: l.Arrival.ID}
		named := 0
		for _, s := range l.Shares {
			if rank := ranks[place{s.Owner, l.Arrival.ID}]; rank > 0 {
				s.Rank = rank
				d.Rank = rank
				named++
			}
			d.Owners = append(d.Owners, s)
		}
		if named == 0 {
			continue
		}
		found += named
		if l.ByHand() {
			d.Rank = 0
		} else {
			d.Owners = nil
		}
		decisions = append(decisions, d)
	}
	if found < len(ranks) {
		return ErrForeign
	}
	return b.decide(ctx, delivery, person, message.New("step_order"), decisions)
}
