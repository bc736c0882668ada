package pair

import (
	"context"
	"encoding/hex"
	"maps"
	"slices"

	"ambrosa/core/colour"
	"ambrosa/core/cores"
	"ambrosa/core/likeness"
	"ambrosa/core/pairing"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/store/query"
)

// look points out what a picture looks like: another colour than its variant's, or the same as one the owner has. It
// never changes a grade. present tells whether an owner of these lines has a picture, by its hash. Cost: the lines,
// and the pictures standing on their owners.
func (b *Pairer) look(ctx context.Context, d *desk, p *Pairing) (present func(owner int64, sha string) bool, err error) {
	s := d.snapshot
	if d.placed == nil || d.placedAt != p.stamp.Pictures || d.now == nil || d.now.Catalogue != p.Catalogue {
		placed, err := catalogue.PlacedColours(ctx, b.Store)
		if err != nil {
			return nil, err
		}
		d.placed, d.placedAt = placed, p.stamp.Pictures
	}
	words := learn(s, d.placed, p)
	seen := map[int64]bool{}
	var owners []int64
	for i := range p.Lines {
		for _, share := range p.Lines[i].Shares {
			if !seen[share.Owner] {
				seen[share.Owner] = true
				owners = append(owners, share.Owner)
			}
		}
	}
	rows, err := b.Store.OwnerLooks(ctx, owners)
	if err != nil {
		return nil, err
	}
	standing := map[int64][]query.OwnerLooksRow{}
	for _, r := range rows {
		standing[r.OwnerID] = append(standing[r.OwnerID], r)
	}
	cores.Share(len(p.Lines), func(_, from, to int) {
		for i := from; i < to; i++ {
			l := &p.Lines[i]
			if !l.Ready() || len(l.Arrival.Palette) == 0 || l.Arrival.Likeness == nil {
				continue
			}
			palette := colour.Unpack(l.Arrival.Palette)
			for _, share := range l.Shares {
				if word := s.Colours[share.Owner]; word != "" && l.Colour == "" {
					l.Colour = words.Mismatch(palette, word, s.Others[s.Parent[share.Owner]])
				}
				if l.Alike == "" {
					l.Alike = alike(l.Arrival, palette, standing[share.Owner])
				}
			}
		}
	})
	return func(owner int64, sha string) bool {
		return slices.ContainsFunc(standing[owner], func(r query.OwnerLooksRow) bool { return r.Sha == sha })
	}, nil
}

// alike finds among an owner's pictures one that looks the same and is not the same file: by its hash, and by its main
// colour, as variants of one product differ in nothing else.
func alike(a query.ArrivalsRow, palette []colour.Swatch, standing []query.OwnerLooksRow) string {
	sha := hex.EncodeToString(a.Sha256)
	if slices.ContainsFunc(standing, func(r query.OwnerLooksRow) bool { return r.Sha == sha }) {
		return "" // that it is there already is said elsewhere
	}
	for _, r := range standing {
		if r.Likeness == nil {
			continue
		}
		if likeness.Distance(uint64(*a.Likeness), uint64(*r.Likeness)) <= likeness.Same && colour.Alike(palette, colour.Unpack(r.Palette)) {
			return r.Sha
		}
	}
	return ""
}

// learn takes what colours the catalogue's words stand for from the pictures that variants have, and from those that the
// delivery brings for sure: one among many that looks otherwise stands out.
func learn(s *catalogue.Snapshot, placed map[string][]colour.Lab, p *Pairing) colour.Words {
	seen := maps.Clone(placed)
	for i := range p.Lines {
		l := &p.Lines[i]
		word := s.Colours[l.Owner()]
		if word == "" || !l.Ready() || l.Claim.Grade != pairing.Sure {
			continue
		}
		if palette := colour.Unpack(l.Arrival.Palette); len(palette) > 0 {
			seen[word] = append(slices.Clip(seen[word]), palette[0].Lab)
		}
	}
	return colour.Learn(seen)
}
