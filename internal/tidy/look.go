package tidy

import (
	"context"

	"ambrosa/core/checks"
	"ambrosa/internal/assets"
	"ambrosa/internal/behind"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// lookedBeside is how many are looked at, each time the clock asks, while pictures come in.
const lookedBeside = 4

// Look looks at pictures that the checks of this version did not see yet. One that can't be read keeps why. Cost: some 0.1 s of one core for four
// million pixels.
func (t *Tidy) Look(ctx context.Context) error {
	return behind.Work[looked]{Jobs: t.Jobs, Kind: LookWork, Beside: lookedBeside, One: t.look,
		Left: func(ctx context.Context) (int64, error) { return t.Store.CountUnchecked(ctx, checks.Version) },
		Next: func(ctx context.Context, done int64, most int32) ([]behind.Picture, error) {
			rows, err := t.Store.UncheckedAssets(ctx, query.UncheckedAssetsParams{Version: checks.Version, After: done, Most: most})
			all := make([]behind.Picture, len(rows))
			for i, r := range rows {
				all[i] = behind.Picture{ID: r.ID, Sha: r.Sha}
			}
			return all, err
		},
		Keep: func(ctx context.Context, q *query.Queries, tx pgx.Tx, seen []looked, _ bool) error {
			if err := keep(ctx, q, seen); err != nil {
				return err
			}
			return store.Notify(ctx, tx, store.Topic("assets", 0))
		}}.Do(ctx)
}

// looked is what was seen of one picture.
type looked struct {
	id      int64
	facts   checks.Facts
	trouble string
}

func (t *Tidy) look(ctx context.Context, p behind.Picture) (l looked, err error) {
	l.id = p.ID
	l.trouble, err = behind.Open(ctx, t.Vault, p.Sha, func(src assets.Source) (err error) {
		l.facts, err = assets.Look(ctx, src, t.MaxPixels)
		return err
	})
	return l, err
}

// none stands for no profile: NULL has no place in a list of texts.
const none = "-"

// keep keeps what was seen of pictures.
func keep(ctx context.Context, q *query.Queries, seen []looked) error {
	p := query.PutFactsParams{Version: checks.Version}
	var likeness query.SetLikenessParams
	for _, l := range seen {
		f := l.facts
		profile := none
		if f.Profile != nil {
			profile = *f.Profile
		}
		p.Ids, p.TrueWidths, p.TrueHeights = append(p.Ids, l.id), append(p.TrueWidths, int32(f.TrueWidth)), append(p.TrueHeights, int32(f.TrueHeight))
		p.PadLefts, p.PadTops = append(p.PadLefts, int32(f.Padding.Left)), append(p.PadTops, int32(f.Padding.Top))
		p.PadRights, p.PadBottoms = append(p.PadRights, int32(f.Padding.Right)), append(p.PadBottoms, int32(f.Padding.Bottom))
		p.Paddings, p.Turns = append(p.Paddings, int32(f.PaddedShare()*1000)), append(p.Turns, int32(f.Sideways))
		p.Profiles, p.Models, p.Alphas = append(p.Profiles, profile), append(p.Models, f.Model), append(p.Alphas, f.Transparent)
		p.Grounds = append(p.Grounds, int32(f.Ground.Colour[0])<<16|int32(f.Ground.Colour[1])<<8|int32(f.Ground.Colour[2]))
		p.GroundShares, p.Smalls, p.Troubles = append(p.GroundShares, float32(f.Ground.Share)), append(p.Smalls, f.Small), append(p.Troubles, l.trouble)
		if l.trouble == "" {
			likeness.Ids, likeness.Likenesses = append(likeness.Ids, l.id), append(likeness.Likenesses, int64(f.Likeness))
		}
	}
	if err := q.PutFacts(ctx, p); err != nil {
		return err
	}
	return q.SetLikeness(ctx, likeness)
}
