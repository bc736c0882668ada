package pair

import (
	"context"
	"path"
	"slices"
	"strings"

	"ambrosa/core/colour"
	"ambrosa/core/message"
	"ambrosa/core/pairing"
	"ambrosa/core/slate"
	"ambrosa/internal/store/query"
)

// photos are what a delivery's pictures say of themselves, by asset.
type photos struct {
	codes map[int64][]query.CodesOfDeliveryRow
	taken map[int64]query.PhotosOfDeliveryRow
}

// mostCode is how many bytes of a code without a GTIN may be a key: longer ones are texts.
const mostCode = 64

// readPhotos reads it: two questions.
func (b *Pairer) readPhotos(ctx context.Context, delivery int64) (p photos, err error) {
	p = photos{map[int64][]query.CodesOfDeliveryRow{}, map[int64]query.PhotosOfDeliveryRow{}}
	codes, err := b.Store.CodesOfDelivery(ctx, delivery)
	if err != nil {
		return p, err
	}
	for _, c := range codes {
		p.codes[c.AssetID] = append(p.codes[c.AssetID], c)
	}
	taken, err := b.Store.PhotosOfDelivery(ctx, delivery)
	for _, t := range taken {
		p.taken[t.AssetID] = t
	}
	return p, err
}

// statements are what the codes of a picture say of it. A code without a GTIN may be any key of the house; an address names nobody.
func (p photos) statements(asset *int64) (all []pairing.Statement) {
	if asset == nil {
		return nil
	}
	for _, c := range p.codes[*asset] {
		switch {
		case c.Gtin != "":
			all = append(all, pairing.Statement{Field: pairing.Barcode, Text: c.Gtin, By: codeOf(c), Photo: true})
		case len(c.Text) <= mostCode && !strings.Contains(c.Text, "://"):
			for _, f := range []pairing.Field{pairing.SKU, pairing.Code, pairing.Barcode} {
				all = append(all, pairing.Statement{Field: f, Text: c.Text, By: codeOf(c), Photo: true})
			}
		}
	}
	return all
}

// codeOf is a code as people read it: the digits below the bars, else the GTIN that it names.
func codeOf(c query.CodesOfDeliveryRow) string {
	if c.Gtin != "" && strings.Trim(c.Text, "0123456789") != "" {
		return c.Gtin
	}
	return c.Text
}

// Series is a group of a delivery's pictures that belong together: places among its lines. Slate is -1 where none opened it.
type Series struct {
	Why      slate.Why
	Slate    int
	Owner    int64
	Pictures []int
}

// series parts the pictures whose names say nothing into groups, and gives those of a group with a slate its owner: likely, until somebody looks.
// A slate that is a card goes to nobody unless somebody says so.
func (d *desk) series(claims []pairing.Claim) (all []Series) {
	if len(d.photos.codes) == 0 && len(d.photos.taken) == 0 {
		return nil
	}
	pictures := make([]slate.Picture, len(claims))
	for i := range claims {
		pictures[i] = d.picture(i, &claims[i])
	}
	for _, g := range slate.Groups(pictures) {
		all = append(all, Series{Why: g.Why, Slate: g.Slate, Owner: g.Owner, Pictures: g.Pictures})
		if g.Slate < 0 {
			continue
		}
		name := path.Base(strings.ReplaceAll(d.arrivals[g.Slate].Path, `\`, "/"))
		if g.Why == slate.Unread {
			claims[g.Slate].Doubt = message.New("slate_unread")
		}
		by := claims[g.Slate].Reading
		if g.Owner == 0 || by == nil {
			continue
		}
		for _, i := range g.Pictures {
			if claims[i].Grade == pairing.Unclaimed {
				claims[i] = pairing.Claim{Grade: pairing.Likely, Doubt: message.New("doubt_slate"), Reading: &pairing.Reading{Owner: g.Owner, Field: by.Field, Key: by.Key,
					Fit: pairing.Whole, Score: .8, Slate: name, Photo: by.Photo}}
			}
		}
		if g.Card {
			claims[g.Slate] = pairing.Claim{Grade: pairing.Ignored, Candidates: []pairing.Reading{*by}, Doubt: message.New("slate_card", "count", len(g.Pictures))}
		}
	}
	return all
}

// picture is what is known of a line's picture for its series.
func (d *desk) picture(i int, c *pairing.Claim) slate.Picture {
	a := &d.arrivals[i]
	p := slate.Picture{Path: a.Path, Known: true}
	if a.AssetID == nil || c.Grade == pairing.Ignored {
		return p
	}
	byPhoto := c.Reading != nil && c.Reading.Photo != "" && c.Reading.NameSpan.Empty() && c.Reading.Said == ""
	if p.Known = c.Grade != pairing.Unclaimed && !byPhoto; p.Known {
		return p
	}
	if a.Likeness != nil {
		likeness := uint64(*a.Likeness)
		p.Likeness = &likeness
	}
	p.Palette = colour.Unpack(a.Palette)
	if t, is := d.photos.taken[*a.AssetID]; is {
		p.Camera = t.Camera
		if t.TakenAt.Valid {
			p.Taken = t.TakenAt.Time
		}
	}
	if codes := d.photos.codes[*a.AssetID]; len(codes) > 0 {
		p.Code = codes[0].Text
		if byPhoto {
			p.Owner, p.Code = c.Reading.Owner, c.Reading.Photo
		}
	}
	return p
}

// moved lays over series what people decided: pictures at the border that somebody gave to the owner of the next series or the one before are of
// that.
func moved(all []Series, lines []Line) []Series {
	all = slices.Clone(all)
	given := func(i int, to Series) bool { return to.Owner != 0 && lines[i].ByHand() && lines[i].Owner() == to.Owner }
	for n := range all {
		if n > 0 {
			before, own := &all[n-1], &all[n]
			for len(own.Pictures) > 0 && own.Owner != before.Owner && given(own.Pictures[0], *before) {
				before.Pictures = append(slices.Clip(before.Pictures), own.Pictures[0])
				own.Pictures = own.Pictures[1:]
			}
			for len(before.Pictures) > 0 && own.Owner != before.Owner && given(before.Pictures[len(before.Pictures)-1], *own) {
				last := len(before.Pictures) - 1
				own.Pictures = slices.Concat(before.Pictures[last:], own.Pictures)
				before.Pictures = before.Pictures[:last]
			}
		}
		// One whose pictures all came to one owner by hand is that owner's.
		if own := &all[n]; own.Owner == 0 && len(own.Pictures) > 0 {
			to := lines[own.Pictures[0]].Owner()
			if to != 0 && !slices.ContainsFunc(own.Pictures, func(i int) bool { return !lines[i].ByHand() || lines[i].Owner() != to }) {
				own.Owner = to
			}
		}
	}
	return all
}
