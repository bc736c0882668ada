package page

import (
	"slices"

	"ambrosa/core/checks"
	"ambrosa/core/colour"
	"ambrosa/core/likeness"
	"ambrosa/core/message"
)

// Seen is what was found at an address of a picture. Likeness and Palette are known where the whole picture came.
type Seen struct {
	Width, Height int    // pixels; 0 where nobody knows
	Bytes         int64  // of the whole; -1 where the server does not say
	Head          string // what its first bytes are, for comparing
	Failed        Reason // Unreached or NotPicture; empty for a picture
	Says          message.Message
	Likeness      *uint64
	Palette       []colour.Swatch
	Facts         *checks.Facts // of the whole picture; nil where nobody looked
}

// Chosen is a picture of an item with what becomes of it.
type Chosen struct {
	Picture
	Taken   Candidate // the address that is taken
	Size    Seen      // what is there
	Kept    bool
	Order   int // 1…n among those kept; 0 else
	Why     Reason
	Says    message.Message   // why it is left out, for people
	Remarks []message.Message // what to look at in one that is kept
}

// Tries are the addresses of a picture that are worth looking at, those that promise most first. Of what the markup leaves out, none.
func (p Picture) Tries() []Candidate {
	if p.Why != "" {
		return nil
	}
	return p.best()
}

// mostTries is at how many addresses one picture is looked for.
const mostTries = 6

func (p Picture) best() []Candidate {
	some := slices.Clone(p.Candidates)
	slices.SortStableFunc(some, func(a, b Candidate) int { return standing(a) - standing(b) })
	return some[:min(len(some), mostTries)]
}

// standing is how much an address promises by where it was found, the least first.
func standing(c Candidate) int {
	return slices.Index([]From{ByGuide, ByRule, JSONLD, Microdata, Link, Data, Script, Srcset, OpenGraph, Style, Noscript, Img}, c.From)
}

// pixels is how many there are; a picture that was not looked at has what the page promises.
func (s Seen) pixels() int { return s.Width * s.Height }

// Choose decides which pictures of an item are kept, and from where. seen is what was found at their addresses; what is not in it was not
// looked at. guided says that a guide points at the pictures. The result is in the order of the pictures. Cost: by their number, its square
// for likeness.
func Choose(pictures []Picture, seen map[string]Seen, not Not, guided bool) []Chosen {
	all := make([]Chosen, len(pictures))
	for i, p := range pictures {
		all[i] = take(p, seen)
		all[i].judge(not, guided)
	}
	twins(all)
	var left []int
	for i := range all {
		if all[i].Why == "" {
			left = append(left, i)
		}
	}
	for _, place := range not.Places {
		at := place - 1
		if place < 0 {
			at = len(left) + place
		}
		if at >= 0 && at < len(left) {
			all[left[at]].leave(Place, "place", at+1)
		}
	}
	order := 0
	for i := range all {
		if c := &all[i]; c.Why == "" {
			order++
			c.Kept, c.Order = true, order
			c.remark()
		}
	}
	return all
}

// take takes the address with most pixels; where two have as many, the one that promises more.
func take(p Picture, seen map[string]Seen) Chosen {
	c := Chosen{Picture: p, Why: p.Why, Says: sayWhy(p.Why)}
	looked := false
	for _, candidate := range p.best() {
		s, known := seen[candidate.Address]
		if !known {
			continue
		}
		if better := s.Failed == "" && (c.Size.Failed != "" || s.pixels() > c.Size.pixels()); !looked || better {
			c.Taken, c.Size, looked = candidate, s, true
		}
	}
	if !looked && len(p.Candidates) > 0 {
		c.Taken = p.best()[0]
		c.Size = Seen{Width: c.Taken.Width, Height: c.Taken.Height, Bytes: -1}
	}
	return c
}

func (c *Chosen) leave(why Reason, data ...any) {
	c.Why, c.Says = why, sayWhy(why, data...)
}

func sayWhy(why Reason, data ...any) message.Message {
	if why == "" {
		return message.Message{}
	}
	return message.New("left_"+string(why), data...)
}

// usualShape is how many times longer one side of a picture may be than the other, where no guide points at the pictures. What is longer is a
// banner: common practice, no source.
const usualShape = 4

func (c *Chosen) judge(not Not, guided bool) {
	if c.Why != "" {
		return
	}
	if c.Size.Failed != "" {
		if c.Why = c.Size.Failed; c.Size.Says.Code != "" {
			c.Says = c.Size.Says
		} else {
			c.Says = sayWhy(c.Why)
		}
		return
	}
	short, long := min(c.Size.Width, c.Size.Height), max(c.Size.Width, c.Size.Height)
	widest := not.Widest
	if widest == 0 && !guided {
		widest = usualShape
	}
	switch {
	case short == 0: // nobody knows its size: it is looked at once it has come
	case short <= 2:
		c.leave(Placeholder)
	case short < not.Least:
		c.leave(Small, "width", c.Size.Width, "height", c.Size.Height, "least", not.Least)
	case widest > 0 && float64(long) > widest*float64(short):
		c.leave(Shape, "width", c.Size.Width, "height", c.Size.Height)
	}
}

// twins leaves out what is there twice: the same bytes, or the same look in another size. The larger stays, at the place of the first.
func twins(all []Chosen) {
	var kept []int
	bytes := map[string]int{}
	for i := range all {
		c := &all[i]
		if c.Why != "" {
			continue
		}
		twin := -1
		if key := c.Size.Head; key != "" && c.Size.Bytes > 0 {
			if first, ok := bytes[key]; ok && all[first].Size.Bytes == c.Size.Bytes {
				twin = first
			} else if !ok {
				bytes[key] = i
			}
		}
		for _, k := range kept {
			if twin < 0 && all[k].Size.LooksLike(c.Size) {
				twin = k
			}
		}
		if twin < 0 {
			kept = append(kept, i)
			continue
		}
		if c.Size.pixels() > all[twin].Size.pixels() {
			all[twin].Taken, c.Taken = c.Taken, all[twin].Taken
			all[twin].Size, c.Size = c.Size, all[twin].Size
		}
		c.leave(Twin, "address", all[twin].Taken.Address)
	}
}

// LooksLike reports whether two pictures look the same, in whatever size. Pictures of whose look nobody knows do not.
func (a Seen) LooksLike(b Seen) bool {
	if a.Likeness == nil || b.Likeness == nil || likeness.Distance(*a.Likeness, *b.Likeness) > likeness.Same {
		return false
	}
	// One shape: their sides are as long to each other, but for a hundredth.
	if x, y := a.Width*b.Height, b.Width*a.Height; x*100 < y*99 || y*100 < x*99 {
		return false
	}
	return colour.Alike(a.Palette, b.Palette)
}

// widestRim is the share of a side from which on a border is pointed out: less is what pictures of products have around them. Common practice,
// no source.
const widestRim = 1. / 7

// remark says what to look at in a picture that is kept. The whole checks are those of all pictures.
func (c *Chosen) remark() {
	of := c.Size.Facts
	if of == nil {
		return
	}
	if of.PaddedShare() >= widestRim {
		c.Remarks = append(c.Remarks, message.New("picture_border", "pixels", of.Padding.Widest()))
	}
	if of.IsEnlarged() {
		c.Remarks = append(c.Remarks, message.New("picture_soft"))
	}
}
