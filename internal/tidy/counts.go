package tidy

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"ambrosa/core/checks"
	core "ambrosa/core/tidy"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Counts are how much there is to tidy. Unfit and Gaps are in the order of their names.
type Counts struct {
	Orphans    int64
	Bytes      int64 // of the orphans
	Bin        query.BinCountsRow
	Broken     query.BrokenCountsRow
	Proposed   int64 // of the orphans
	Twice      int64
	Shared     int64 // pictures on several products
	Unchecked  int64
	Unfit      []int64
	Gaps       []int64
	FoundAt    *time.Time
	ScrubbedAt *time.Time
	Scrubbed   int64
}

// restFor is how long counts are given again, as a multiple of what counting took: however many look, it takes a fifth of a processor at most, and
// a small catalogue has them at once.
const restFor = 5

// counted are counts, of when, and what they took.
type counted struct {
	Counts
	at   time.Time
	took time.Duration
}

// Counts are how much there is to tidy; of a moment ago where counting takes long.
func (t *Tidy) Counts(ctx context.Context) (Counts, error) {
	made, err, _ := t.counting.Do("", func() (any, error) {
		if last := t.counted.Load(); last != nil && time.Since(last.at) < restFor*last.took {
			return last.Counts, nil
		}
		begun := time.Now()
		c, err := t.count(context.WithoutCancel(ctx))
		if err == nil {
			t.counted.Store(&counted{Counts: c, at: time.Now(), took: time.Since(begun)})
		}
		return c, err
	})
	if err != nil {
		return Counts{}, err
	}
	return made.(Counts), nil
}

// count counts. Cost: some looks at all placements, pictures and orphans.
func (t *Tidy) count(ctx context.Context) (c Counts, err error) {
	limits, err := t.Limits(ctx)
	if err != nil {
		return c, err
	}
	c.Unfit, c.Gaps = make([]int64, len(core.Faults)), make([]int64, len(core.Gaps))
	q := t.Store.Queries
	for _, count := range []func() error{
		func() (err error) { c.Bin, err = q.BinCounts(ctx); return err },
		func() (err error) { c.Broken, err = q.BrokenCounts(ctx); return err },
		func() (err error) { c.Twice, err = q.CountTwice(ctx); return err },
		func() (err error) { c.Shared, err = q.CountShared(ctx); return err },
		func() error {
			return t.EachOrphan(ctx, limits, func(o Orphan) error {
				c.Orphans++
				c.Bytes += o.Bytes
				if len(o.SpeaksFor()) == 0 {
					c.Proposed++
				}
				return nil
			})
		},
		func() (err error) { c.Unchecked, err = q.CountUnchecked(ctx, checks.Version); return err },
		func() error {
			rows, err := q.UnfitCounts(ctx)
			for _, r := range rows {
				if int(r.Bit) < len(c.Unfit) {
					c.Unfit[r.Bit] = r.Count
				}
			}
			return err
		},
		func() error {
			rows, err := q.GapCounts(ctx)
			for _, r := range rows {
				if int(r.Bit) < len(c.Gaps) {
					c.Gaps[r.Bit] = r.Count
				}
			}
			return err
		},
		func() error {
			state, err := q.TidyState(ctx)
			if err == nil {
				c.FoundAt = &state.At
			}
			return orNone(err)
		},
		func() error {
			scrub, err := q.ScrubState(ctx)
			if err == nil {
				c.ScrubbedAt, c.Scrubbed = scrub.EndedAt, scrub.Looked
			}
			return orNone(err)
		},
	} {
		if err := count(); err != nil {
			return c, err
		}
	}
	return c, nil
}

func orNone(err error) error {
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	return err
}

// Storage are how many pictures and bytes there are, by source, category, format and month. Cost: a look at all arrivals and placements.
func (t *Tidy) Storage(ctx context.Context) ([]query.StorageFiguresRow, error) {
	return t.Store.StorageFigures(ctx)
}

const derivedName = "derived_bytes"

// DerivedBytes are the bytes of all small pictures as they were counted by the last look through all that is stored.
func (t *Tidy) DerivedBytes(ctx context.Context) (n int64, err error) {
	value, err := t.Store.HouseSetting(ctx, derivedName)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, nil
	}
	if err == nil {
		err = json.Unmarshal(value, &n)
	}
	return n, err
}

// FindingsOf are what is wrong with a picture by the limits; what is usual in its categories is known from when it was judged.
func FindingsOf(l core.Limits, r query.UnfitPageRow) []core.Finding {
	f := factsOf(query.PlacedFactsRow{Width: r.Width, Height: r.Height, TrueWidth: r.TrueWidth, TrueHeight: r.TrueHeight, PadLeft: r.PadLeft, PadTop: r.PadTop, PadRight: r.PadRight,
		PadBottom: r.PadBottom, Sideways: r.Sideways, Profile: r.Profile, Model: r.Model, Transparent: r.Transparent, Ground: r.Ground, GroundShare: r.GroundShare})
	judged := int(r.Unfit)
	return l.Unfit(f, core.Custom{Square: judged&core.BitOf(core.Faults, core.NotSquare) != 0, White: judged&core.BitOf(core.Faults, core.NotWhite) != 0})
}

// FaultsOf are what is wrong with one picture by the limits as they are; none where it was not looked at yet.
func (t *Tidy) FaultsOf(ctx context.Context, id int64) ([]core.Fault, error) {
	faults := []core.Fault{}
	l, err := t.Limits(ctx)
	if err != nil {
		return faults, err
	}
	rows, err := t.Store.FactsOfPictures(ctx, []int64{id})
	for _, r := range rows {
		for _, f := range FindingsOf(l, query.UnfitPageRow(r)) {
			faults = append(faults, f.Fault)
		}
	}
	return faults, err
}

// WhyBest says of groups of pictures that are one why the best of each is it.
func (t *Tidy) WhyBest(ctx context.Context, rows []query.TwicePageRow) (map[int64]core.Reason, error) {
	ids := make([]int64, len(rows))
	groups := map[int64][]int64{}
	for i, r := range rows {
		ids[i] = r.AssetID
		groups[r.BestID] = append(groups[r.BestID], r.AssetID)
	}
	copies, err := t.copies(ctx, ids)
	why := map[int64]core.Reason{}
	for best, members := range groups {
		var group []core.Copy
		for _, id := range members {
			if c, there := copies[id]; there {
				group = append(group, c)
			}
		}
		_, why[best] = core.Best(group)
	}
	return why, err
}
