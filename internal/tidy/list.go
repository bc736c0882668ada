package tidy

import (
	"context"
	"strings"

	core "ambrosa/core/tidy"
	"ambrosa/internal/store/query"

	"golang.org/x/time/rate"
)

// Listings are the lists of what is to tidy.
var Listings = []string{"orphans", "twice", "unfit", "missing", "scrub"}

// Found is one find of a list.
type Found struct {
	Check     string
	Asset     int64 // 0 where it is of an owner alone
	SHA256    string
	Owner     string // its SKU, or its number where it has none
	Figure    *float64
	Why       string
	SpeaksFor []string
}

// List calls use for each find of a list, as everything stands now. It writes nothing. Cost: reading what is known of all pictures or owners; of
// scrub all stored bytes.
func (t *Tidy) List(ctx context.Context, listing string, use func(Found) error) error {
	l, err := t.Limits(ctx)
	if err != nil {
		return err
	}
	switch listing {
	case "orphans":
		return t.EachOrphan(ctx, l, func(o Orphan) error {
			f := Found{Check: "orphan", Asset: o.ID, SHA256: o.Sha, Why: string(o.Why())}
			for _, v := range o.SpeaksFor() {
				f.SpeaksFor = append(f.SpeaksFor, string(v))
			}
			return use(f)
		})
	case "twice":
		return t.listTwice(ctx, use)
	case "unfit":
		return t.eachJudged(ctx, l, func(rows []query.PlacedFactsRow, found [][]core.Finding) error {
			return t.listUnfit(ctx, rows, found, use)
		})
	case "missing":
		return t.eachGap(ctx, l, func(rows []query.OwnersShownRow, gaps [][]core.Gap) error { return t.listMissing(ctx, rows, gaps, use) })
	case "scrub":
		return t.listScrub(ctx, use)
	}
	return ErrFinding
}

// shas are the hashes of assets, in hex.
func (t *Tidy) shas(ctx context.Context, ids []int64) (map[int64]string, error) {
	rows, err := t.Store.AssetsByID(ctx, ids)
	of := make(map[int64]string, len(rows))
	for _, r := range rows {
		of[r.ID] = r.Sha
	}
	return of, err
}

func (t *Tidy) listTwice(ctx context.Context, use func(Found) error) error {
	return t.eachTwice(ctx, func(members []core.Copy, best int, why core.Reason) error {
		ids := make([]int64, len(members))
		for i, m := range members {
			ids[i] = m.ID
		}
		sha, err := t.shas(ctx, ids)
		if err != nil {
			return err
		}
		for i, m := range members {
			if i == best {
				continue
			}
			share := float64(m.Width*m.Height) / float64(max(1, members[best].Width*members[best].Height))
			if err := use(Found{Check: "twice", Asset: m.ID, SHA256: sha[m.ID], Figure: &share, Why: string(why) + " " + sha[members[best].ID]}); err != nil {
				return err
			}
		}
		return nil
	})
}

func (t *Tidy) listUnfit(ctx context.Context, rows []query.PlacedFactsRow, found [][]core.Finding, use func(Found) error) error {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.AssetID
	}
	sha, err := t.shas(ctx, ids)
	if err != nil {
		return err
	}
	shown, err := t.Store.AssetsInUse(ctx, ids)
	if err != nil {
		return err
	}
	isShown := make(map[int64]bool, len(shown))
	for _, id := range shown {
		isShown[id] = true
	}
	for i, r := range rows {
		if !isShown[r.AssetID] {
			continue
		}
		for _, f := range found[i] {
			if err := use(Found{Check: "unfit", Asset: r.AssetID, SHA256: sha[r.AssetID], Figure: &f.Figure, Why: string(f.Fault)}); err != nil {
				return err
			}
		}
	}
	return nil
}

func (t *Tidy) listMissing(ctx context.Context, rows []query.OwnersShownRow, gaps [][]core.Gap, use func(Found) error) error {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	labels, err := t.Store.OwnerLabels(ctx, ids)
	if err != nil {
		return err
	}
	name := make(map[int64]string, len(labels))
	for _, o := range labels {
		if name[o.ID] = o.Sku; o.Sku == "" {
			name[o.ID] = strings.TrimSpace(o.Title)
		}
	}
	for i, r := range rows {
		for _, g := range gaps[i] {
			figure := float64(r.Pictures)
			if err := use(Found{Check: "missing", Owner: name[r.ID], Figure: &figure, Why: string(g)}); err != nil {
				return err
			}
		}
	}
	return nil
}

// listScrub reads all stored bytes, as fast as they come, and names what lies there that no picture knows.
func (t *Tidy) listScrub(ctx context.Context, use func(Found) error) error {
	for after := int64(0); ; {
		rows, err := t.Store.AssetsBehind(ctx, query.AssetsBehindParams{After: after, Most: scrubPage})
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			break
		}
		after = rows[len(rows)-1].ID
		for _, r := range rows {
			wrong, err := t.readThrough(ctx, r.Sha, rate.NewLimiter(rate.Inf, scrubBytes))
			if err != nil {
				return err
			}
			if wrong == "" {
				continue
			}
			if err := use(Found{Check: "scrub", Asset: r.ID, SHA256: r.Sha, Why: wrong}); err != nil {
				return err
			}
		}
	}
	_, err := t.eachStray(ctx, func(some []blob) error {
		for _, b := range some {
			bytes := float64(b.bytes)
			if err := use(Found{Check: "scrub", Figure: &bytes, Why: "stray " + b.key}); err != nil {
				return err
			}
		}
		return nil
	})
	return err
}
