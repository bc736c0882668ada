package pairing

import (
	"slices"

	"ambrosa/core/message"
)

// mostInPhoto is how many owners the codes of one photo may name: more are a poster or a price list, which says nothing of what is shown.
const mostInPhoto = 3

// pictured is an owner that a code in a photo names.
type pictured struct {
	Reading
	at int32 // its place in the index
}

// inPhoto weighs the codes in a file's photo beside what is known of it already. They are the best evidence there is: one that names an owner is
// sure where nothing else says another; where the name does, both compete. A pack in the background does no harm where the name says which of
// two codes is meant.
func (s *Study) inPhoto(working *hand, file int, c *Claim) {
	if !slices.ContainsFunc(s.files[file].Said, func(said Statement) bool { return said.Photo }) {
		return
	}
	found := s.picturedIn(working, file)
	if len(found) == 0 || len(found) > mostInPhoto {
		return
	}
	confirm := func(r Reading, by pictured) {
		r.Photo = by.Photo
		*c = Claim{Grade: Sure, Reading: &r}
	}
	compete := func(doubt message.Message, more ...Reading) {
		*c = Claim{Grade: Contested, Doubt: doubt}
		for _, f := range found {
			c.Candidates = append(c.Candidates, f.Reading)
		}
		c.Candidates = append(c.Candidates, more...)
	}
	meant := c.Candidates // that the name leaves open
	if c.Reading != nil {
		meant = []Reading{*c.Reading}
	} else if c.Grade != Contested {
		meant = nil
	}
	for _, same := range []func(f pictured, owner int64) bool{func(f pictured, owner int64) bool { return f.Owner == owner }, s.hasVariant} {
		for _, r := range meant {
			if at := slices.IndexFunc(found, func(f pictured) bool { return same(f, r.Owner) }); at >= 0 {
				confirm(r, found[at])
				return
			}
		}
	}
	switch one := found[0]; {
	case len(found) == 1 && (c.Reading == nil || s.isVariantOf(one, c.Reading.Owner)): // the variant says more than its product
		if c.Reading != nil {
			one.Number, one.Role = c.Reading.Number, c.Reading.Role
		}
		confirm(one.Reading, one)
	case c.Reading != nil:
		compete(message.New("doubt_photo_differs", "code", one.Photo), *c.Reading)
	default:
		compete(message.New("doubt_photo_several"))
	}
}

// hasVariant reports whether an owner is a variant of the one that a photo shows.
func (s *Study) hasVariant(f pictured, owner int64) bool {
	return slices.ContainsFunc(s.index.titles().children[f.at], func(v int32) bool { return s.index.owners[v].ID == owner })
}

// isVariantOf reports whether a photo shows a variant of an owner.
func (s *Study) isVariantOf(f pictured, owner int64) bool {
	p := s.index.parent[f.at]
	return p >= 0 && s.index.owners[p].ID == owner
}

// picturedIn are the owners that the codes in a file's photo name, the first code of each.
func (s *Study) picturedIn(working *hand, file int) (found []pictured) {
	for _, said := range s.files[file].Said {
		if !said.Photo {
			continue
		}
		some, at := s.index.named(working, s.lexicon, said)
		for i, r := range some {
			if !slices.ContainsFunc(found, func(o pictured) bool { return o.Owner == r.Owner }) {
				r.Said, r.Photo = "", said.By
				found = append(found, pictured{r, at[i]})
			}
		}
	}
	return found
}
