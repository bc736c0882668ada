package sources

import (
	"context"

	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
)

// renewal is what a plan that renews pictures was made from.
type renewal struct {
	Delivery int64 `json:"delivery"`
}

// Renew makes the plan that puts pictures that came by a visit in the place of those that they replace at the source, wherever those stand.
// items are those of the visit's files, none for all. Nothing is changed. ledger.ErrNothingToDo where none stands anywhere.
func (s *Sources) Renew(ctx context.Context, person, delivery int64, items []string) (plan int64, err error) {
	of, err := s.Store.VisitOf(ctx, delivery)
	if err != nil {
		return 0, err
	}
	if items == nil {
		items = []string{}
	}
	rows, err := s.Store.Renewals(ctx, query.RenewalsParams{Delivery: delivery, Items: items})
	if err != nil {
		return 0, err
	}
	by := map[int64]map[int64]int64{}
	var owners []int64
	for _, r := range rows {
		if by[r.OwnerID] == nil {
			by[r.OwnerID] = map[int64]int64{}
			owners = append(owners, r.OwnerID)
		}
		by[r.OwnerID][r.Before] = r.After
	}
	standing, err := pictures.Placed(ctx, s.Store.Queries, owners)
	if err != nil {
		return 0, err
	}
	var changes []change.Change
	for _, o := range owners {
		if after := placement.Replace(standing[o], by[o]); !placement.Same(standing[o], after) {
			changes = append(changes, placement.Change(o, standing[o], after))
		}
	}
	return s.Ledger.Keep(ctx, ledger.Draft{Kind: "renewal", Title: of.Title, Person: person, Source: renewal{delivery}}, changes)
}
