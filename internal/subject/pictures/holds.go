package pictures

import (
	"context"
	"time"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/core/rights"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
)

var _ ledger.Holder = Subject{}

// Holds are the changes that would put a picture on an owner which it has not, and which may not be used: it is not cleared, or was until a
// day that is over.
func (Subject) Holds(ctx context.Context, q *query.Queries, changes []change.Change) (held []ledger.Hold, err error) {
	added := make([][]int64, len(changes))
	var all []int64
	for i, c := range changes {
		has := map[int64]bool{}
		for _, p := range read(c.Before) {
			has[p.Asset] = true
		}
		for _, p := range read(c.After) {
			if !has[p.Asset] {
				added[i] = append(added[i], p.Asset)
			}
		}
		all = append(all, added[i]...)
	}
	if len(all) == 0 {
		return nil, nil
	}
	of, err := Rights(ctx, q, all)
	if err != nil {
		return nil, err
	}
	today := time.Now().Format(time.DateOnly)
	for i, c := range changes {
		count, why := 0, message.Message{}
		for _, a := range added[i] {
			if m, holds := of[a].Holds(today); holds {
				if count++; count == 1 {
					why = m
				}
			}
		}
		if count > 0 {
			held = append(held, ledger.Hold{Seq: c.Seq, Message: why})
		}
	}
	return held, nil
}

// Rights are those of pictures: what an admin set, else the strictest of what is said by all that they came by. Those of which nothing is
// said are missing. Cost: one question.
func Rights(ctx context.Context, q *query.Queries, assets []int64) (map[int64]rights.Rights, error) {
	rows, err := q.RightsSaid(ctx, assets)
	if err != nil {
		return nil, err
	}
	said := map[int64][]rights.Rights{}
	for _, r := range rows {
		said[r.AssetID] = append(said[r.AssetID], rights.Rights{May: rights.May(r.May), Until: r.Until, Holder: r.Holder, Proof: r.Proof})
	}
	today := time.Now().Format(time.DateOnly)
	of := make(map[int64]rights.Rights, len(said))
	for asset, some := range said {
		of[asset] = rights.Strictest(some, today)
	}
	return of, nil
}
