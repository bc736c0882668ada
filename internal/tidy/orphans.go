package tidy

import (
	"context"
	"time"

	core "ambrosa/core/tidy"
	"ambrosa/internal/store/query"
)

// Orphan is a picture that no owner shows.
type Orphan struct {
	core.Orphan
	ID     int64
	Sha    string
	Bytes  int64
	CameAt time.Time
}

// Orphans returns pictures that no owner shows, behind one, with all that speaks for them. Cost: by how many are asked for.
func (t *Tidy) Orphans(ctx context.Context, after int64, most int) ([]Orphan, error) {
	l, err := t.Limits(ctx)
	if err != nil {
		return nil, err
	}
	return t.orphans(ctx, l, after, most)
}

func (t *Tidy) orphans(ctx context.Context, l core.Limits, after int64, most int) ([]Orphan, error) {
	limit := int32(most)
	rows, err := t.Store.Orphans(ctx, query.OrphansParams{After: after, Most: &limit, YoungDays: int32(l.YoungDays), UndoDays: int32(l.UndoDays)})
	all := make([]Orphan, len(rows))
	for i, r := range rows {
		all[i] = Orphan{ID: r.ID, Sha: r.Sha, Bytes: r.Bytes, CameAt: r.CreatedAt, Orphan: core.Orphan{OpenDelivery: r.OpenDelivery, InTable: r.InTable, WaitingPlan: r.WaitingPlan,
			UndoInReach: r.UndoInReach, Young: r.Young, Kept: r.Kept, SetAside: r.SetAside, Run: r.Run, Removed: r.Removed}}
	}
	return all, err
}

// orphansPage is how many are read at once where all are: some 60 MB, and few passes over all pictures.
const orphansPage = 200_000

// EachOrphan calls use for all of them, in the order of their numbers.
func (t *Tidy) EachOrphan(ctx context.Context, l core.Limits, use func(Orphan) error) error {
	for after := int64(0); ; {
		some, err := t.orphans(ctx, l, after, orphansPage)
		if err != nil {
			return err
		}
		for _, o := range some {
			if err := use(o); err != nil {
				return err
			}
		}
		if len(some) < orphansPage {
			return nil
		}
		after = some[len(some)-1].ID
	}
}

// Proposed are the numbers of the orphans for which nothing speaks.
func (t *Tidy) Proposed(ctx context.Context, l core.Limits) (ids []int64, err error) {
	err = t.EachOrphan(ctx, l, func(o Orphan) error {
		if len(o.SpeaksFor()) == 0 {
			ids = append(ids, o.ID)
		}
		return nil
	})
	return ids, err
}
