package tidy

import (
	"context"

	"ambrosa/core/checks"
	core "ambrosa/core/tidy"
	"ambrosa/internal/store/query"
)

// factsOf puts together what was kept of a picture.
func factsOf(r query.PlacedFactsRow) checks.Facts {
	return checks.Facts{Width: int(r.Width), Height: int(r.Height), TrueWidth: int(r.TrueWidth), TrueHeight: int(r.TrueHeight),
		Padding: checks.Sides{Left: int(r.PadLeft), Top: int(r.PadTop), Right: int(r.PadRight), Bottom: int(r.PadBottom)}, Sideways: int(r.Sideways), Profile: r.Profile,
		Model: r.Model, Transparent: r.Transparent,
		Ground: checks.Ground{Colour: [3]uint8{uint8(r.Ground >> 16), uint8(r.Ground >> 8), uint8(r.Ground)}, Share: float64(r.GroundShare)}}
}

// factsPage is how many rows are read at once.
const factsPage = 10_000

// facts calls use for all pictures of which something was seen.
func (t *Tidy) facts(ctx context.Context, use func([]query.PlacedFactsRow) error) error {
	for after := int64(0); ; {
		rows, err := t.Store.PlacedFacts(ctx, query.PlacedFactsParams{After: after, Most: factsPage})
		if err != nil || len(rows) == 0 {
			return err
		}
		if err := use(rows); err != nil {
			return err
		}
		after = rows[len(rows)-1].AssetID
	}
}

// judge says of all pictures what is wrong with them by the limits, and writes it where that is something else than before.
func (t *Tidy) judge(ctx context.Context, l core.Limits) error {
	return t.eachJudged(ctx, l, func(rows []query.PlacedFactsRow, found [][]core.Finding) error {
		var set query.SetUnfitParams
		for i, r := range rows {
			if mask := core.FaultMask(found[i]); mask != int(r.Unfit) {
				set.Ids, set.Masks = append(set.Ids, r.AssetID), append(set.Masks, int32(mask))
			}
		}
		if len(set.Ids) == 0 {
			return nil
		}
		return t.Store.SetUnfit(ctx, set)
	})
}

// eachJudged calls use for all pictures, some at a time, with what is wrong with each: first it learns what is usual in each category.
func (t *Tidy) eachJudged(ctx context.Context, l core.Limits, use func([]query.PlacedFactsRow, [][]core.Finding) error) error {
	customs, err := t.customs(ctx, l)
	if err != nil {
		return err
	}
	return t.facts(ctx, func(rows []query.PlacedFactsRow) error {
		found := make([][]core.Finding, len(rows))
		for i, r := range rows {
			var custom core.Custom
			for _, category := range r.Categories {
				c := customs[category]
				custom = core.Custom{Square: custom.Square || c.Square, White: custom.White || c.White}
			}
			found[i] = l.Unfit(factsOf(r), custom)
		}
		return use(rows, found)
	})
}

// customs are what is usual in each category.
func (t *Tidy) customs(ctx context.Context, l core.Limits) (map[int64]core.Custom, error) {
	type tally struct{ pictures, square, white int }
	of := map[int64]*tally{}
	err := t.facts(ctx, func(rows []query.PlacedFactsRow) error {
		for _, r := range rows {
			f := factsOf(r)
			for _, category := range r.Categories {
				c := of[category]
				if c == nil {
					c = &tally{}
					of[category] = c
				}
				c.pictures++
				if checks.IsSquare(f.Width, f.Height) {
					c.square++
				}
				if f.Ground.IsWhite() {
					c.white++
				}
			}
		}
		return nil
	})
	customs := make(map[int64]core.Custom, len(of))
	for category, c := range of {
		customs[category] = l.CustomOf(c.pictures, c.square, c.white)
	}
	return customs, err
}
