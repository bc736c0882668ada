// Package placement holds the house rules: what pictures an owner would have, from those that stand and those that are wished.
package placement

import (
	"encoding/json"
	"maps"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/wording"
)

// Picture is one placement of an owner; its place in a list is its position. Position 1 is the main image.
type Picture struct {
	Asset int64 `json:"asset"`
	// Texts are those that the picture gets on this owner; none where it is not new there. One by a pattern never takes the place of one
	// by hand.
	Texts wording.Texts `json:"texts,omitempty"`
	// Instead is the picture whose place it takes, with its texts; 0 for none.
	Instead int64 `json:"instead,omitempty"`
	// Placeholder is whether it only stands where a picture is missing: it counts as none. No change holds it.
	Placeholder bool `json:"-"`
}

// Wish is a picture wanted on an owner. Number is the number its name carried, nil where it had none: a wish
// for order, not a position.
type Wish struct {
	Picture
	Number *int
}

// Rule says what to do where the owner already has pictures.
type Rule string

const (
	OnlyWhereEmpty Rule = "only_where_empty" // leave an owner alone that has pictures other than placeholders
	AddAfter       Rule = "add_after"        // keep what stands, add behind it
	SamePlace      Rule = "same_place"       // put a picture in the place its number names, keep the others
	WholeSet       Rule = "whole_set"        // the delivery's pictures are all the owner has
)

// Rules are all house rules, in the order they are offered.
var Rules = []Rule{OnlyWhereEmpty, AddAfter, SamePlace, WholeSet}

// Subject is the name under which changes of an owner's pictures are kept.
const Subject = "pictures"

// Fields are what can change of an owner's pictures: which they are, and their order.
type Fields struct {
	Pictures []Picture `json:"pictures"`
}

// JSON is how the pictures stand in a change.
func JSON(pictures []Picture) json.RawMessage {
	if pictures == nil {
		pictures = []Picture{}
	}
	b, err := json.Marshal(Fields{pictures})
	if err != nil {
		panic(err) // plain values always encode
	}
	return b
}

// Read is the inverse of JSON. Plans of earlier versions hold an alt text in the catalogue's language instead of texts.
func Read(fields json.RawMessage) ([]Picture, error) {
	var f struct {
		Pictures []struct {
			Picture
			Alt string `json:"alt"`
		} `json:"pictures"`
	}
	if err := json.Unmarshal(fields, &f); err != nil {
		return nil, err
	}
	pictures := make([]Picture, len(f.Pictures))
	for i, p := range f.Pictures {
		pictures[i] = p.Picture
		if p.Alt != "" {
			pictures[i].Texts.Set(wording.Alt, catalogue.Language, wording.Text{Text: p.Alt})
		}
	}
	return pictures, nil
}

// Same reports whether two lists hold the same pictures in the same order, whatever their texts.
func Same(a, b []Picture) bool {
	return slices.EqualFunc(a, b, func(x, y Picture) bool { return x.Asset == y.Asset })
}

// Plan returns the changes that lead from what stands to what is wanted, in the order of owners. wishes are in
// the order wanted for each owner. Owners that would stay as they are give no change. The same asset never
// stands twice on one owner. Cost: linear in the pictures standing on and wished for the owners.
func Plan(owners []int64, standing map[int64][]Picture, wishes map[int64][]Wish, rule Rule) []change.Change {
	var changes []change.Change
	for _, owner := range owners {
		before := standing[owner]
		if after := Apply(before, wishes[owner], rule); !Same(before, after) {
			changes = append(changes, Change(owner, before, after))
		}
	}
	for i := range changes {
		changes[i].Seq = int32(i + 1)
	}
	return changes
}

// Change is what leads from some pictures of an owner to others.
func Change(owner int64, before, after []Picture) change.Change {
	return change.Change{Subject: Subject, ID: owner, Before: JSON(before), After: JSON(after)}
}

// Apply returns one owner's pictures after the wishes, under the rule.
func Apply(before []Picture, wishes []Wish, rule Rule) []Picture {
	wishes = distinct(wishes)
	if len(wishes) == 0 {
		return before
	}
	switch rule {
	case OnlyWhereEmpty:
		if slices.ContainsFunc(before, func(p Picture) bool { return !p.Placeholder }) {
			return before
		}
		return pictures(before, wishes)
	case AddAfter:
		after := slices.Clone(before)
		for _, w := range wishes {
			if !has(before, w.Asset) {
				after = append(after, w.Picture)
			}
		}
		return after
	case SamePlace:
		return samePlace(before, wishes)
	case WholeSet:
		return pictures(before, wishes)
	}
	return before
}

// samePlace puts each wish at the position its number names, an unnumbered one at 1. One that stands already moves there
// and the others keep their order; a new one takes the place of what stands at its number, unless that moves itself. Where
// two want one place the later takes the next free, and what stands there goes on. A place behind the end is the end, as
// positions have no holes. Cost: linear, but for sorting the wishes.
func samePlace(before []Picture, wishes []Wish) []Picture {
	moves := map[int64]bool{}
	for _, w := range wishes {
		moves[w.Asset] = true
	}
	standing := map[int64]Picture{}
	for _, p := range before {
		standing[p.Asset] = p
	}
	at := map[int]Picture{} // wished, by position
	replaced := map[int]bool{}
	next := map[int]int{} // where to look for the next free place behind one that is taken
	for _, w := range wishes {
		number := wanted(w)
		picture, stands := standing[w.Asset]
		if !stands {
			picture = w.Picture
			replaced[number] = true
		}
		place := number
		for _, taken := at[place]; taken; _, taken = at[place] {
			place = max(place+1, next[place])
		}
		next[number] = place + 1
		at[place] = picture
	}
	var rest []Picture
	for i, p := range before {
		if !moves[p.Asset] && !replaced[i+1] {
			rest = append(rest, p)
		}
	}
	after := make([]Picture, 0, len(at)+len(rest))
	for _, place := range slices.Sorted(maps.Keys(at)) {
		for len(after)+1 < place && len(rest) > 0 {
			after, rest = append(after, rest[0]), rest[1:]
		}
		after = append(after, at[place])
	}
	return append(after, rest...)
}

// Replace puts other assets in the places of some. One that would then stand twice stands where it stood first.
func Replace(before []Picture, by map[int64]int64) []Picture {
	if len(by) == 0 {
		return before
	}
	var after []Picture
	for _, p := range before {
		if other, replaced := by[p.Asset]; replaced {
			p = Picture{Asset: other, Instead: p.Asset}
		}
		if !has(after, p.Asset) {
			after = append(after, p)
		}
	}
	return after
}

// Gone are the pictures of an owner that a change takes away: those that stand before and not after.
func Gone(before, after []Picture) []Picture {
	stays := map[int64]bool{}
	for _, p := range after {
		stays[p.Asset] = true
	}
	var gone []Picture
	for _, p := range before {
		if !stays[p.Asset] {
			gone = append(gone, p)
		}
	}
	return gone
}

func wanted(w Wish) int {
	if w.Number == nil || *w.Number < 1 {
		return 1
	}
	return *w.Number
}

// at is the position of an asset, 0 where it does not stand.
func at(pictures []Picture, asset int64) int {
	return 1 + slices.IndexFunc(pictures, func(p Picture) bool { return p.Asset == asset })
}

func has(pictures []Picture, asset int64) bool { return at(pictures, asset) > 0 }

func distinct(wishes []Wish) []Wish {
	seen := map[int64]bool{}
	return slices.DeleteFunc(slices.Clone(wishes), func(w Wish) bool {
		if seen[w.Asset] {
			return true
		}
		seen[w.Asset] = true
		return false
	})
}

func pictures(before []Picture, wishes []Wish) []Picture {
	out := make([]Picture, len(wishes))
	for i, w := range wishes {
		out[i] = kept(before, w)
	}
	return out
}

// kept is the picture as it stands where it stands already: it gets no new texts. Else it is as wished.
func kept(before []Picture, w Wish) Picture {
	if i := at(before, w.Asset); i > 0 {
		return before[i-1]
	}
	return w.Picture
}
