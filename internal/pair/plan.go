package pair

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"ambrosa/core/placement"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
)

// Plan makes the plan of a delivery under a house rule and returns its number. Nothing is changed. ErrNotReady where the
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
	owners, of := p.parts()
	standing, wishes, err := b.placing(ctx, p, owners, of)
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

// part is a line's part in one owner.
type part struct {
	line  *Line
	share Share
}

// parts are those of all lines that are ready, by owner and within it in the order that they would take; owners are in the order
// of their numbers.
func (p *Pairing) parts() (owners []int64, of map[int64][]part) {
	of = map[int64][]part{}
	for i := range p.Lines {
		if l := &p.Lines[i]; l.Ready() {
			for _, s := range l.Shares {
				of[s.Owner] = append(of[s.Owner], part{l, s})
			}
		}
	}
	for owner, some := range of {
		owners = append(owners, owner)
		slices.SortStableFunc(some, func(x, y part) int { return cmp.Compare(x.share.Place, y.share.Place) })
	}
	slices.Sort(owners)
	return owners, of
}

// placing returns what a house rule needs of owners: the pictures they have, and those they would get, in the order they would take.
func (b *Pairer) placing(ctx context.Context, p *Pairing, owners []int64, of map[int64][]part) (
	standing map[int64][]placement.Picture, wishes map[int64][]placement.Wish, err error) {
	if standing, err = pictures.Placed(ctx, b.Store.Queries, owners); err != nil {
		return nil, nil, err
	}
	wishes = make(map[int64][]placement.Wish, len(owners))
	for _, owner := range owners {
		for _, r := range of[owner] {
			wishes[owner] = append(wishes[owner], placement.Wish{
				Picture: placement.Picture{Asset: *r.line.Arrival.AssetID}, Number: p.wish(r.line)})
		}
	}
	return standing, wishes, nil
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

// OwnerPage is a piece of the owners of a delivery. The version is that of the pairing.
type OwnerPage struct {
	Version string
	Views   []OwnerView
	Total   int   // owners in all
	Next    int64 // the owner behind which the next piece begins; 0 where this is the last
}

// ByOwner returns what so many owners of the delivery would have under a rule, in the order of their numbers, behind one. Nothing
// is kept.
func (b *Pairer) ByOwner(ctx context.Context, delivery int64, rule placement.Rule, after int64, most int) (page OwnerPage, err error) {
	if !slices.Contains(placement.Rules, rule) {
		return page, fmt.Errorf("%w: %q", ErrRule, rule)
	}
	p, err := b.Pair(ctx, delivery)
	if err != nil {
		return page, err
	}
	owners, of := p.parts()
	page.Version, page.Total = p.Version, len(owners)
	from, met := slices.BinarySearch(owners, after)
	if met {
		from++
	}
	if owners = owners[from:]; len(owners) > most {
		owners = owners[:most]
		page.Next = owners[most-1]
	}
	standing, wishes, err := b.placing(ctx, p, owners, of)
	if err != nil {
		return page, err
	}
	page.Views = make([]OwnerView, len(owners))
	for i, o := range owners {
		page.Views[i] = OwnerView{Owner: o, Now: assets(standing[o]), Then: assets(placement.Apply(standing[o], wishes[o], rule))}
	}
	return page, nil
}

func assets(pictures []placement.Picture) []int64 {
	ids := make([]int64, len(pictures))
	for i, p := range pictures {
		ids[i] = p.Asset
	}
	return ids
}
