package photo

import (
	"context"
	"slices"

	"ambrosa/core/gtin"
	"ambrosa/internal/hand"
	"ambrosa/internal/store/query"
)

// Pack is an owner whose pictures show another barcode than the catalogue has.
type Pack struct {
	query.PackCodesRow
	Shows string // the barcode in its pictures, as it is printed
	Alone bool   // its pictures show no other: it can be proposed
}

// Packs are a page of them, by owner; next is where the next page begins, 0 behind the last.
func (p *Photos) Packs(ctx context.Context, after int64, most int32) (all []Pack, next int64, err error) {
	rows, err := p.Store.PackCodes(ctx, query.PackCodesParams{After: after, Owners: []int64{}, Most: most + 1})
	if err != nil {
		return nil, 0, err
	}
	if len(rows) > int(most) { // all codes of one owner stand on one page
		last := rows[most].ID
		rows = slices.DeleteFunc(rows, func(r query.PackCodesRow) bool { return r.ID == last })
		next = last - 1
	}
	return packs(rows), next, nil
}

func packs(rows []query.PackCodesRow) (all []Pack) {
	shows := map[int64]int{}
	for _, r := range rows {
		if gtin.OfItem(r.Gtin) {
			shows[r.ID]++
			all = append(all, Pack{PackCodesRow: r, Shows: gtin.Printed(r.Gtin)})
		}
	}
	for i := range all {
		all[i].Alone = shows[all[i].ID] == 1
	}
	return all
}

// mostCodes is how many codes are read of the owners whose barcode is to be corrected.
const mostCodes = 10_000

// Correct makes the plan that gives owners the barcode that their packs show: of those that are named, the ones of which that is clear. Errors: those of
// hand.Plan.
func (p *Photos) Correct(ctx context.Context, h *hand.Hand, person int64, owners []int64) (plan int64, wrong []hand.Wrong, err error) {
	rows, err := p.Store.PackCodes(ctx, query.PackCodesParams{Owners: owners, Most: mostCodes})
	if err != nil {
		return 0, nil, err
	}
	var edits []hand.Edit
	for _, of := range packs(rows) {
		if of.Alone {
			edits = append(edits, hand.Edit{Owner: of.ID, Fields: &hand.Fields{Barcode: &of.Shows}})
		}
	}
	return h.Plan(ctx, person, edits)
}
