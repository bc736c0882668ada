package runs

import (
	"context"
	"encoding/json"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/store/query"
)

// Conflicts says which lines of a plan would be left alone if it were applied now, and why, by line. Lines that the ledger
// has already are not asked about. Nothing is locked, so it is a look, not a promise.
func (r *Runner) Conflicts(ctx context.Context, rows []query.PlanChangesRow) (map[int32]string, error) {
	why := map[int32]string{}
	var pictures, owners []int64
	var identities []string
	before, after := map[int32]*catalogue.Owner{}, map[int32]*catalogue.Owner{}
	for _, c := range rows {
		switch {
		case c.Made:
		case c.Subject == "pictures":
			pictures = append(pictures, c.OwnerID)
		default:
			var was, will *catalogue.Owner
			if err := decode(query.ChunkChangesRow{Seq: c.Seq, Before: c.Before, After: c.After}, &was, &will); err != nil {
				return nil, err
			}
			before[c.Seq], after[c.Seq] = was, will
			owners = append(owners, c.OwnerID)
			if will != nil {
				identities = append(identities, record(c.OwnerID, *will).Identity)
			}
		}
	}
	standing, err := r.Standing(ctx, pictures)
	if err != nil {
		return nil, err
	}
	there, err := standingOwners(ctx, r.Store.Queries, slices.Concat(pictures, owners))
	if err != nil {
		return nil, err
	}
	holder, err := ownersNamed(ctx, r.Store.Queries, identities)
	if err != nil {
		return nil, err
	}
	for _, c := range rows {
		if c.Made {
			continue
		}
		now, stands := there[c.OwnerID]
		if c.Subject == "pictures" {
			var was []change.Picture
			if err := json.Unmarshal(c.Before, &was); err != nil {
				return nil, err
			}
			if !stands {
				why[c.Seq] = goneSince
			} else if !slices.Equal(standing[c.OwnerID], was) {
				why[c.Seq] = changedSince
			}
			continue
		}
		was, will := before[c.Seq], after[c.Seq]
		var has int64 // the SKU that shall be
		if will != nil {
			has = holder[record(c.OwnerID, *will).Identity]
		}
		switch {
		case was == nil && stands:
			why[c.Seq] = thereSince
		case was != nil && !stands:
			why[c.Seq] = goneSince
		case was != nil && !now.Equal(withID(*was, c.OwnerID)):
			why[c.Seq] = changedSince
		case has != 0 && has != c.OwnerID:
			why[c.Seq] = takenSince
		}
	}
	return why, nil
}

func withID(o catalogue.Owner, id int64) catalogue.Owner {
	o.ID = id
	return o
}
