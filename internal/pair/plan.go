package pair

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	core "ambrosa/core/catalogue"
	"ambrosa/core/placement"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
)

// Plan makes the plan of a delivery under a house rule and gives its number. Nothing is changed. ErrNotReady where the
// delivery is not taken in to its end: a plan of a part would look like one of the whole.
func (b *Pairer) Plan(ctx context.Context, delivery, person int64, title string, rule placement.Rule) (int64, error) {
	if !slices.Contains(placement.Rules, rule) {
		return 0, fmt.Errorf("%w: %q", ErrRule, rule)
	}
	state, err := b.Store.DeliveryState(ctx, delivery)
	if err != nil {
		return 0, err
	}
	if state != "ready" {
		return 0, ErrNotReady
	}
	p, err := b.Pair(ctx, delivery)
	if err != nil {
		return 0, err
	}
	owners, wishes, err := b.wishes(ctx, p)
	if err != nil {
		return 0, err
	}
	standing, err := pictures.Placed(ctx, b.Store.Queries, owners)
	if err != nil {
		return 0, err
	}
	gone := 0
	for _, o := range owners {
		gone += len(placement.Gone(standing[o], placement.Apply(standing[o], wishes[o], rule)))
	}
	return b.Ledger.Keep(ctx, ledger.Draft{Kind: "pairing", Title: title, Person: person, Counts: map[string]int{"gone": gone},
		Source: Source{Delivery: delivery, Rule: rule, Basis: basis(p.stamp)}}, placement.Plan(owners, standing, wishes, rule))
}

// Source is what a plan of a delivery was made from.
type Source struct {
	Delivery int64          `json:"delivery"`
	Rule     placement.Rule `json:"rule"`
	Basis    string         `json:"basis"` // where that has changed the plan is out of date
}

// basis names what a plan of a delivery rests on: decisions and ladder, the catalogue's owners, and the lines.
func basis(s query.BenchStateRow) string {
	return fmt.Sprintf("%d.%d.%d", s.BenchVersion, s.Owners, s.Arrivals)
}

// Stale reports whether decisions, the ladder, the catalogue or the lines changed since a plan of a delivery was made.
func (b *Pairer) Stale(ctx context.Context, of Source) (bool, error) {
	state, err := b.Store.BenchState(ctx, of.Delivery)
	return err == nil && of.Basis != "" && basis(state) != of.Basis, err
}

// wishes gives the pictures that each owner would get, in the order they would take, by owners in the order of their
// numbers.
func (b *Pairer) wishes(ctx context.Context, p *Pairing) (owners []int64, wishes map[int64][]placement.Wish, err error) {
	type ready struct {
		line  *Line
		share Share
	}
	var all []ready
	for i := range p.Lines {
		if l := &p.Lines[i]; l.Ready() {
			for _, s := range l.Shares {
				all = append(all, ready{l, s})
			}
		}
	}
	slices.SortStableFunc(all, func(x, y ready) int {
		return cmp.Or(cmp.Compare(x.share.Owner, y.share.Owner), cmp.Compare(x.share.Place, y.share.Place))
	})
	for _, r := range all {
		if len(owners) == 0 || owners[len(owners)-1] != r.share.Owner {
			owners = append(owners, r.share.Owner)
		}
	}
	labels, err := catalogue.Labels(ctx, b.Store, owners)
	if err != nil {
		return nil, nil, err
	}
	wishes = make(map[int64][]placement.Wish, len(owners))
	for _, r := range all {
		wishes[r.share.Owner] = append(wishes[r.share.Owner], placement.Wish{
			Picture: placement.Picture{Asset: *r.line.Arrival.AssetID, Alt: core.Alt(labels[r.share.Owner].Label, r.line.Role)}, Number: p.wish(r.line)})
	}
	return owners, wishes, nil
}

// wish is the place a line's number wishes for: where the delivery counts from 0, number 0 is the first.
func (p *Pairing) wish(l *Line) *int {
	if l.Number == nil || !p.fromZero {
		return l.Number
	}
	n := *l.Number + 1
	return &n
}

// OwnerView is one owner of a delivery: the pictures it has and those it would have under a house rule, by asset.
type OwnerView struct {
	Owner     int64
	Now, Then []int64
}

// ByOwner gives what every owner of the delivery would have under a rule, in the order of their numbers. Nothing is kept.
// The version is that of the pairing.
func (b *Pairer) ByOwner(ctx context.Context, delivery int64, rule placement.Rule) (views []OwnerView, version string, err error) {
	if !slices.Contains(placement.Rules, rule) {
		return nil, "", fmt.Errorf("%w: %q", ErrRule, rule)
	}
	p, err := b.Pair(ctx, delivery)
	if err != nil {
		return nil, "", err
	}
	owners, wishes, err := b.wishes(ctx, p)
	if err != nil {
		return nil, "", err
	}
	standing, err := pictures.Placed(ctx, b.Store.Queries, owners)
	if err != nil {
		return nil, "", err
	}
	views = make([]OwnerView, len(owners))
	for i, o := range owners {
		views[i] = OwnerView{o, assets(standing[o]), assets(placement.Apply(standing[o], wishes[o], rule))}
	}
	return views, p.Version, nil
}

func assets(pictures []placement.Picture) []int64 {
	ids := make([]int64, len(pictures))
	for i, p := range pictures {
		ids[i] = p.Asset
	}
	return ids
}
