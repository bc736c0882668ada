package tidy

import (
	"context"
	"errors"

	"ambrosa/core/checks"
	"ambrosa/internal/assets"
	"ambrosa/internal/jobs"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

const (
	// lookedAtOnce is how many pictures are looked at before what was seen is kept.
	lookedAtOnce = 16
	// lookedBeside is how many are looked at, each time the clock asks, while pictures come in: those come first, and this goes on all the same.
	lookedBeside = 4
)

// Look looks at pictures that the checks of this version did not see yet, one after the other, so that other work goes on beside it; at a few only
// while pictures come in. One that can't be read keeps why. Cost: some 0.1 s of one core for four million pixels.
func (t *Tidy) Look(ctx context.Context) error {
	left, err := t.Store.CountUnchecked(ctx, checks.Version)
	if err != nil || left == 0 {
		return err
	}
	done, after := int64(0), int64(0)
	for {
		comesIn, err := t.Store.PicturesComeIn(ctx)
		if err != nil || comesIn && done > 0 {
			return err
		}
		most := int32(lookedAtOnce)
		if comesIn {
			most = lookedBeside
		}
		rows, err := t.Store.UncheckedAssets(ctx, query.UncheckedAssetsParams{Version: checks.Version, After: after, Most: most})
		if err != nil || len(rows) == 0 {
			return err
		}
		seen := make([]looked, 0, len(rows))
		for _, r := range rows {
			if len(seen) >= lookedBeside { // pictures that come in do not wait for the rest
				if comesIn, err := t.Store.PicturesComeIn(ctx); err != nil || comesIn {
					break
				}
			}
			l, err := t.look(ctx, r.ID, r.Sha)
			if err != nil {
				return err
			}
			seen, after = append(seen, l), r.ID
		}
		stopped := false
		err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
			if err := keep(ctx, q, seen); err != nil {
				return err
			}
			done += int64(len(seen))
			stopped, err = t.Jobs.Step(ctx, q, tx, LookWork, 0, done, left, 0)
			return errors.Join(err, store.Notify(ctx, tx, store.Topic("assets", 0)))
		})
		if err != nil {
			return err
		}
		if stopped {
			return jobs.ErrStopped
		}
	}
}

// looked is what was seen of one picture.
type looked struct {
	id      int64
	facts   checks.Facts
	trouble string
}

// look looks at one picture. An error is one of the storage or of ctx; what is wrong with the picture is kept.
func (t *Tidy) look(ctx context.Context, id int64, sha string) (looked, error) {
	l := looked{id: id}
	src, drop, err := t.Vault.Fetch(ctx, sha)
	if assets.IsMissing(err) {
		l.trouble = "missing"
		return l, nil
	}
	if err != nil {
		return l, err
	}
	defer drop()
	l.facts, err = assets.Look(ctx, src, t.MaxPixels)
	switch {
	case errors.Is(err, assets.ErrTooLarge):
		l.trouble = "too_large"
	case errors.Is(err, assets.ErrDamaged):
		l.trouble = "damaged"
	case err != nil:
		return l, err
	}
	return l, nil
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
