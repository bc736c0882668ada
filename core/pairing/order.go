package pairing

import (
	"cmp"
	"slices"

	"ambrosa/core/names"
)

// Placed is one file that goes to an owner. Rank is the order a person gave it, 0 where none did.
type Placed struct {
	File   int
	Owner  int64
	Rank   int
	Number *int
	Role   string
	Path   string
}

// roleOrder is how pictures of one owner follow each other where numbers don't say. Common practice, no
// source.
var roleOrder = map[string]int{"main": 0, "front": 1, "": 2, "back": 3, "side": 4, "top": 5, "bottom": 6, "detail": 7, "lifestyle": 8, "packed": 9}

// Places orders by owner and, within one, by a person's rank; then the unnumbered first, then by number, then
// by role, then by natural name order. It gives each one's place 1…n within its owner, in the order given.
func Places(placed []Placed) []int {
	type at struct {
		owner int64
		place int32
	}
	order := make([]at, len(placed))
	for i := range order {
		order[i] = at{placed[i].Owner, int32(i)}
	}
	slices.SortFunc(order, func(a, b at) int { return cmp.Compare(a.owner, b.owner) })
	places := make([]int, len(placed))
	for from := 0; from < len(order); {
		to := from + 1
		for to < len(order) && order[to].owner == order[from].owner {
			to++
		}
		of := order[from:to]
		if len(of) == 1 {
			places[of[0].place] = 1
			from = to
			continue
		}
		slices.SortFunc(of, func(x, y at) int {
			a, b := &placed[x.place], &placed[y.place]
			return cmp.Or(
				cmp.Compare(a.Rank, b.Rank),
				cmp.Compare(a.class(), b.class()),
				cmp.Compare(a.number(), b.number()),
				cmp.Compare(roleOrder[a.Role], roleOrder[b.Role]),
				names.Natural(a.Path, b.Path),
				cmp.Compare(a.File, b.File),
			)
		})
		for n, i := range of {
			places[i.place] = n + 1
		}
		from = to
	}
	return places
}

// class is 0 for the picture that is simply the owner's, 1 for the numbered, 2 for those that only a role
// tells apart: a packed one without a number is not meant to be the main image.
func (p Placed) class() int {
	switch {
	case p.Number != nil:
		return 1
	case p.Role == "" || p.Role == "main" || p.Role == "front":
		return 0
	}
	return 2
}

func (p Placed) number() int {
	if p.Number == nil {
		return 0
	}
	return *p.Number
}
