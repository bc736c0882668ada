package tidy

import (
	"context"
	"slices"

	"ambrosa/core/checks"
	"ambrosa/core/colour"
	"ambrosa/core/likeness"
	core "ambrosa/core/tidy"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// findTwice finds the pictures that are one in other bytes, and keeps them.
func (t *Tidy) findTwice(ctx context.Context, _ core.Limits) error {
	var p query.AddTwiceParams
	err := t.eachTwice(ctx, func(members []core.Copy, best int, _ core.Reason) error {
		for _, m := range members {
			p.Ids, p.Bests = append(p.Ids, m.ID), append(p.Bests, members[best].ID)
			p.Aparts = append(p.Aparts, int32(likeness.Distance(m.Likeness, members[best].Likeness)))
		}
		return nil
	})
	if err != nil {
		return err
	}
	return t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if err := q.DropTwice(ctx); err != nil {
			return err
		}
		return q.AddTwice(ctx, p)
	})
}

// eachTwice calls use for each group of pictures that are one, with the place of the best and why it is. Cost: by those of which others look
// nearly the same; a million likenesses take some seconds.
func (t *Tidy) eachTwice(ctx context.Context, use func(members []core.Copy, best int, why core.Reason) error) error {
	shelf, err := t.Gallery.Now(ctx)
	if err != nil {
		return err
	}
	for some := range slices.Chunk(core.Near(shelf.Looks()), 2000) {
		var wanted []int64
		for _, set := range some {
			wanted = append(wanted, set...)
		}
		copies, err := t.copies(ctx, wanted)
		if err != nil {
			return err
		}
		for _, set := range some {
			group := make([]core.Copy, 0, len(set))
			for _, id := range set {
				if c, there := copies[id]; there {
					group = append(group, c)
				}
			}
			for _, g := range core.Groups(group) {
				members := make([]core.Copy, len(g))
				for i, at := range g {
					members[i] = group[at]
				}
				best, why := core.Best(members)
				if err := use(members, best, why); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// copies are pictures as they are compared.
func (t *Tidy) copies(ctx context.Context, ids []int64) (map[int64]core.Copy, error) {
	rows, err := t.Store.CopiesByID(ctx, ids)
	all := make(map[int64]core.Copy, len(rows))
	for _, r := range rows {
		c := core.Copy{ID: r.ID, Width: int(r.Width), Height: int(r.Height), Bytes: r.Bytes, Format: r.Format, Likeness: uint64(*r.Likeness), Palette: colour.Unpack(r.Palette), Small: r.Small}
		if r.TrueWidth != nil {
			c.Facts = &checks.Facts{Width: c.Width, Height: c.Height, TrueWidth: int(*r.TrueWidth), TrueHeight: int(*r.TrueHeight),
				Padding: checks.Sides{Left: int(*r.PadLeft), Top: int(*r.PadTop), Right: int(*r.PadRight), Bottom: int(*r.PadBottom)}}
		}
		all[r.ID] = c
	}
	return all, err
}
