// Package change computes plans: (what stands, what is wanted, house rule) → the exact list of changes,
// each with before and after, and the inverse that takes them back. Everything is a value; nothing is done.
package change

import "slices"

// Picture is one placement of an owner; its place in a list is its position. Position 1 is the main image.
type Picture struct {
	Asset int64  `json:"asset"`
	Alt   string `json:"alt,omitempty"`
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
	OnlyWhereEmpty Rule = "only_where_empty" // leave an owner alone that has pictures
	AddAfter       Rule = "add_after"        // keep what stands, add behind it
	SamePlace      Rule = "same_place"       // put a picture in the place its number names, keep the others
	WholeSet       Rule = "whole_set"        // the delivery's pictures are all the owner has
)

// Rules are all house rules, in the order they are offered.
var Rules = []Rule{OnlyWhereEmpty, AddAfter, SamePlace, WholeSet}

// Change is one owner's pictures before and after.
type Change struct {
	Owner  int64
	Before []Picture
	After  []Picture
}

// Plan gives the changes that lead from what stands to what is wanted, in the order of owners. wishes are in
// the order wanted for each owner. Owners that would stay as they are give no change. The same asset never
// stands twice on one owner. Cost: linear in the pictures standing on and wished for the owners.
func Plan(owners []int64, standing map[int64][]Picture, wishes map[int64][]Wish, rule Rule) []Change {
	var changes []Change
	for _, owner := range owners {
		before := standing[owner]
		after := Apply(before, wishes[owner], rule)
		if !slices.Equal(before, after) {
			changes = append(changes, Change{owner, before, after})
		}
	}
	return changes
}

// Apply gives one owner's pictures after the wishes, under the rule.
func Apply(before []Picture, wishes []Wish, rule Rule) []Picture {
	wishes = distinct(wishes)
	if len(wishes) == 0 {
		return before
	}
	switch rule {
	case OnlyWhereEmpty:
		if len(before) > 0 {
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

// samePlace puts each wish at the position its number names, an unnumbered one at 1. Where two want one
// place the later takes the next free; a place behind the end is the end, as positions have no holes.
func samePlace(before []Picture, wishes []Wish) []Picture {
	after := slices.Clone(before)
	taken := map[int]bool{}
	for _, w := range wishes {
		place := wanted(w)
		for taken[place] {
			place++
		}
		if place > len(after) {
			after = append(after, kept(before, w))
			place = len(after)
		} else {
			after[place-1] = kept(before, w)
		}
		taken[place] = true
	}
	// A picture that moved to the place it was wanted at leaves the one it had.
	place := 0
	return slices.DeleteFunc(after, func(p Picture) bool {
		place++
		return !taken[place] && slices.ContainsFunc(wishes, func(w Wish) bool { return w.Asset == p.Asset })
	})
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

// kept is the picture as it stands where it stands already, so that its wording survives; else as wished.
func kept(before []Picture, w Wish) Picture {
	if i := at(before, w.Asset); i > 0 {
		return before[i-1]
	}
	return w.Picture
}

// Inverse takes changes back, last first, so that what was made on top of another is taken off first.
func Inverse(changes []Change) []Change {
	out := make([]Change, len(changes))
	for i, c := range changes {
		out[len(changes)-1-i] = Change{c.Owner, c.After, c.Before}
	}
	return out
}
