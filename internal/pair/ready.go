package pair

import (
	"context"
	"fmt"
	"slices"

	"ambrosa/core/placement"
)

// Readiness is what a plan of a delivery would come to.
type Readiness struct {
	Version string
	Lines   int // ready lines whose picture would come to an owner, or to another place there
	Owners  int // owners whose pictures would change
}

// Ready counts what a house rule lets through of the lines that are ready. Nothing is kept but the answer, until something changes.
// Cost: the pictures of all owners of the delivery, once for each version and rule.
func (b *Pairer) Ready(ctx context.Context, delivery int64, rule placement.Rule) (r Readiness, err error) {
	if !slices.Contains(placement.Rules, rule) {
		return r, fmt.Errorf("%w: %q", ErrRule, rule)
	}
	d := b.desk(delivery)
	d.mu.Lock()
	defer d.mu.Unlock()
	p, err := b.update(ctx, d)
	if err != nil {
		return r, err
	}
	if r, ok := d.ready[rule]; ok && r.Version == p.Version {
		return r, nil
	}
	owners, of := p.parts()
	standing, wishes, err := b.placing(ctx, p, owners, of)
	if err != nil {
		return r, err
	}
	r.Version = p.Version
	counted := map[*Line]bool{}
	for _, o := range owners {
		now, then := assets(standing[o]), assets(placement.Apply(standing[o], wishes[o], rule))
		if slices.Equal(now, then) {
			continue
		}
		r.Owners++
		for _, part := range of[o] {
			asset := *part.line.Arrival.AssetID
			if at := slices.Index(then, asset); at >= 0 && slices.Index(now, asset) != at && !counted[part.line] {
				counted[part.line] = true
				r.Lines++
			}
		}
	}
	if d.ready == nil {
		d.ready = map[placement.Rule]Readiness{}
	}
	d.ready[rule] = r
	return r, nil
}
