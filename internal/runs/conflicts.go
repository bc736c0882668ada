package runs

import (
	"context"
	"encoding/json"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// Conflicts says which lines of a plan would be left alone if it were applied now, and why, by line. Lines that the ledger
// has already are not asked about. Nothing is locked, so it is a look, not a promise.
func (r *Runner) Conflicts(ctx context.Context, rows []query.PlanChangesRow) (map[int32]string, error) {
	why := map[int32]string{}
	var pictures, owners, grounds []int64
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
				grounds = append(grounds, will.Parent, will.Category)
				identities = append(identities, record(c.OwnerID, *will).Identity)
			}
		}
	}
	standing, err := r.Standing(ctx, pictures)
	if err != nil {
		return nil, err
	}
	records, err := r.Store.OwnerRecords(ctx, slices.Concat(pictures, owners, grounds))
	if err != nil {
		return nil, err
	}
	there := map[int64]catalogue.Owner{}
	for _, o := range records {
		if there[o.ID], err = store.CatalogueOwner(o); err != nil {
			return nil, err
		}
	}
	named, err := r.Store.OwnersNamed(ctx, identities)
	if err != nil {
		return nil, err
	}
	holder := map[string]int64{}
	for _, n := range named {
		holder[*n.Identity] = n.ID
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
		switch taken := will != nil && holder[record(c.OwnerID, *will).Identity] > 0 && holder[record(c.OwnerID, *will).Identity] != c.OwnerID; {
		case was == nil && stands:
			why[c.Seq] = thereSince
		case was != nil && !stands:
			why[c.Seq] = goneSince
		case was != nil && !now.Equal(withID(*was, c.OwnerID)):
			why[c.Seq] = changedSince
		case taken:
			why[c.Seq] = takenSince
		}
	}
	return why, nil
}

func withID(o catalogue.Owner, id int64) catalogue.Owner {
	o.ID = id
	return o
}
