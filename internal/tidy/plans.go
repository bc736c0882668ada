package tidy

import (
	"context"
	"slices"

	"ambrosa/core/change"
	"ambrosa/core/placement"
	core "ambrosa/core/tidy"
	"ambrosa/internal/ledger"
	"ambrosa/internal/subject/asset"
	"ambrosa/internal/subject/pictures"
)

// readAtOnce is how many assets or owners are read together for a plan.
const readAtOnce = 20_000

// Describe keeps the plan that makes of each of some assets what it shall be, and returns its number. ledger.ErrNothingToDo. Cost: by them.
func (t *Tidy) Describe(ctx context.Context, person int64, title string, ids []int64, becomes func(core.Asset) core.Asset) (int64, error) {
	changes, err := t.described(ctx, ids, becomes)
	if err != nil {
		return 0, err
	}
	return t.keep(ctx, person, title, changes, nil)
}

// described are the changes that make of assets what they shall be.
func (t *Tidy) described(ctx context.Context, ids []int64, becomes func(core.Asset) core.Asset) (changes []change.Change, err error) {
	for some := range slices.Chunk(ids, readAtOnce) {
		standing, err := asset.Standing(ctx, t.Store.Queries, some)
		if err != nil {
			return nil, err
		}
		more, err := core.Changes(some, standing, becomes)
		if err != nil {
			return nil, err
		}
		changes = append(changes, more...)
	}
	return changes, nil
}

// source is what a plan of Tidy was made from.
type source struct {
	Finding string `json:"finding,omitempty"`
}

func (t *Tidy) keep(ctx context.Context, person int64, title string, changes []change.Change, of *source) (int64, error) {
	d := ledger.Draft{Kind: Plan, Title: title, Person: person, Source: of}
	var binned []int64
	for _, c := range changes {
		if a, err := core.ReadAsset(c.After); err == nil && c.Subject == core.Subject && (a.Binned || change.None(c.After)) {
			binned = append(binned, c.ID)
		}
	}
	if len(binned) > 0 {
		bytes, err := t.Store.BytesOf(ctx, binned)
		if err != nil {
			return 0, err
		}
		d.Counts = map[string]int{"binned": len(binned), "bytes": int(bytes)}
	}
	return t.Ledger.Keep(ctx, d, changes)
}

func binned(a core.Asset) core.Asset   { a.Binned = true; return a }
func restored(a core.Asset) core.Asset { a.Binned = false; return a }

// Bin keeps the plan that puts pictures into the bin, and returns its number.
func (t *Tidy) Bin(ctx context.Context, person int64, title string, ids []int64) (int64, error) {
	return t.Describe(ctx, person, title, ids, binned)
}

// Restore keeps the plan that takes pictures out of the bin, and returns its number.
func (t *Tidy) Restore(ctx context.Context, person int64, title string, ids []int64) (int64, error) {
	return t.Describe(ctx, person, title, ids, restored)
}

// BinOrphans keeps the plan that puts the orphans into the bin for which nothing speaks, those older than so many days, and returns its number.
// ledger.ErrNothingToDo.
func (t *Tidy) BinOrphans(ctx context.Context, person int64, title string, days int) (int64, error) {
	l, err := t.Limits(ctx)
	if err != nil {
		return 0, err
	}
	l.YoungDays = max(l.YoungDays, days)
	ids, err := t.Proposed(ctx, l)
	if err != nil {
		return 0, err
	}
	changes, err := t.described(ctx, ids, binned)
	if err != nil {
		return 0, err
	}
	return t.keep(ctx, person, title, changes, &source{"orphans"})
}

// Replace keeps the plan that puts a picture wherever any of some others stands, and, where bin, those into the bin; it returns its number. Where
// an owner has it already, the others only go. ledger.ErrNothingToDo. Cost: by the owners.
func (t *Tidy) Replace(ctx context.Context, person int64, title string, by map[int64]int64, bin bool) (int64, error) {
	var going []int64
	for id, best := range by {
		if id != best {
			going = append(going, id)
		}
	}
	slices.Sort(going)
	changes, err := t.replaced(ctx, going, by)
	if err != nil {
		return 0, err
	}
	if bin {
		more, err := t.described(ctx, going, binned)
		if err != nil {
			return 0, err
		}
		changes = append(changes, more...)
	}
	return t.keep(ctx, person, title, changes, nil)
}

// replaced are the changes that put pictures in the places of those that go.
func (t *Tidy) replaced(ctx context.Context, going []int64, by map[int64]int64) (changes []change.Change, err error) {
	owners, err := t.Store.OwnersShowing(ctx, going)
	if err != nil {
		return nil, err
	}
	for some := range slices.Chunk(owners, readAtOnce) {
		standing, err := pictures.Placed(ctx, t.Store.Queries, some)
		if err != nil {
			return nil, err
		}
		for _, id := range some {
			was := standing[id]
			will := placement.Replaced(was, by)
			if !placement.Same(was, will) {
				changes = append(changes, change.Change{Subject: placement.Subject, ID: id, Before: placement.JSON(was), After: placement.JSON(will)})
			}
		}
	}
	return changes, nil
}

// KeepBest keeps the plan that puts the best of pictures that are one in the places of the others, and those into the bin; for some groups, by
// their best, or all where none is named. It returns the plan's number. ledger.ErrNothingToDo.
func (t *Tidy) KeepBest(ctx context.Context, person int64, title string, bests []int64) (int64, error) {
	rows, err := t.Store.Copies(ctx, bests)
	if err != nil {
		return 0, err
	}
	by := make(map[int64]int64, len(rows))
	for _, r := range rows {
		by[r.AssetID] = r.BestID
	}
	return t.Replace(ctx, person, title, by, true)
}

// Place keeps the plan that puts pictures on owners, behind those that they have, and returns its number. ledger.ErrNothingToDo.
func (t *Tidy) Place(ctx context.Context, person int64, title string, owners, assets []int64, rule placement.Rule) (int64, error) {
	var wish []placement.Wish
	for _, id := range assets {
		wish = append(wish, placement.Wish{Picture: placement.Picture{Asset: id}})
	}
	wishes := map[int64][]placement.Wish{}
	for _, o := range owners {
		wishes[o] = wish
	}
	standing, err := pictures.Placed(ctx, t.Store.Queries, owners)
	if err != nil {
		return 0, err
	}
	return t.keep(ctx, person, title, placement.Plan(owners, standing, wishes, rule), nil)
}
