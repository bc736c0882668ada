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
	for some := range slices.Chunk(nearSets(shelf.Looks()), 2000) {
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
			for _, g := range core.Groups(group, allPairs(group)) {
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

// most of pictures that look nearly the same, beyond which they are no copies but pictures of nothing, as plain areas are.
const mostAlike = 200

// nearSets are the pictures that hang together by likenesses near each other; of those of which too many look the same none.
func nearSets(ids []int64, looks []uint64) [][]int64 {
	order := make([]int, len(ids))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		switch {
		case looks[a] < looks[b]:
			return -1
		case looks[a] > looks[b]:
			return 1
		}
		return a - b
	})
	var distinct []uint64
	var members [][]int64
	for _, at := range order {
		if n := len(distinct); n == 0 || distinct[n-1] != looks[at] {
			distinct, members = append(distinct, looks[at]), append(members, nil)
		}
		members[len(members)-1] = append(members[len(members)-1], ids[at])
	}
	parent := make([]int32, len(distinct))
	for i := range parent {
		parent[i] = int32(i)
	}
	root := func(i int32) int32 {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for _, p := range likeness.Near(distinct, core.Alike) {
		parent[root(p.A)] = root(p.B)
	}
	sets := map[int32][]int64{}
	for i, m := range members {
		r := root(int32(i))
		sets[r] = append(sets[r], m...)
	}
	var all [][]int64
	for _, s := range sets {
		if len(s) > 1 && len(s) <= mostAlike {
			slices.Sort(s)
			all = append(all, s)
		}
	}
	slices.SortFunc(all, func(a, b []int64) int { return int(a[0] - b[0]) })
	return all
}

// allPairs are the pairs of a few.
func allPairs(group []core.Copy) (pairs []likeness.Pair) {
	for i := range group {
		for j := i + 1; j < len(group); j++ {
			pairs = append(pairs, likeness.Pair{A: int32(i), B: int32(j)})
		}
	}
	return pairs
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
