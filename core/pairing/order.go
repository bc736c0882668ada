package pairing

import (
	"cmp"
	"slices"
	"strings"

	"ambrosa/core/cores"
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
	at     int32 // among those that are ordered
}

// roleOrder is how pictures of one owner follow each other where numbers don't say. Common practice, no
// source.
var roleOrder = map[string]int{"main": 0, "front": 1, "": 2, "back": 3, "side": 4, "top": 5, "bottom": 6, "inside": 7, "detail": 8,
	"lifestyle": 9, "packed": 10}

// roleRank is a role's place in that order; one that the table does not know comes last.
func roleRank(role string) int {
	if rank, ok := roleOrder[role]; ok {
		return rank
	}
	return len(roleOrder)
}

// Places orders by owner and, within one, by a person's rank; then the unnumbered first, then by number, then
// by role, then by natural name order whatever the case. It returns each one's place 1…n within its owner, in the order given.
func Places(placed []Placed) []int {
	return places(len(placed), func(i int) int64 { return placed[i].Owner }, func(i int) Placed { return placed[i] })
}

// Positions are the places that files take by their claims; 0 where nobody claims one.
func Positions(files []File, claims []Claim) []int {
	owner := func(i int) int64 {
		if claims[i].Reading == nil {
			return 0
		}
		return claims[i].Reading.Owner
	}
	return places(len(files), owner, func(i int) Placed {
		r := claims[i].Reading
		return Placed{File: i, Owner: r.Owner, Number: r.Number, Role: r.Role, Path: files[i].Path}
	})
}

// places orders so many files, each core its share of the owners; owner 0 is nobody.
func places(count int, owner func(i int) int64, of func(i int) Placed) []int {
	type at struct {
		owner int64
		file  int32
	}
	places := make([]int, count)
	shares := uint32(cores.Count())
	cores.Share(int(shares), func(_, from, to int) {
		order := make([]at, 0, count/int(shares)+count/16)
		for i := range count {
			o := owner(i)
			if of := int(uint32(o) % shares); o != 0 && from <= of && of < to {
				order = append(order, at{o, int32(i)})
			}
		}
		slices.SortFunc(order, func(a, b at) int { return cmp.Compare(a.owner, b.owner) })
		var placed []Placed
		for from, to := 0, 0; from < len(order); from = to {
			for to = from + 1; to < len(order) && order[to].owner == order[from].owner; to++ {
			}
			if to == from+1 {
				places[order[from].file] = 1
				continue
			}
			placed = placed[:0]
			for _, a := range order[from:to] {
				p := of(int(a.file))
				p.at = a.file
				placed = append(placed, p)
			}
			slices.SortFunc(placed, func(a, b Placed) int { return a.compare(&b) })
			for n := range placed {
				places[placed[n].at] = n + 1
			}
		}
	})
	return places
}

func (p *Placed) compare(o *Placed) int {
	if c := cmp.Or(cmp.Compare(p.Rank, o.Rank), cmp.Compare(p.class(), o.class()), cmp.Compare(p.number(), o.number())); c != 0 {
		return c
	}
	if c := cmp.Compare(roleRank(p.Role), roleRank(o.Role)); c != 0 {
		return c
	}
	// Names that differ in capitals only are the same to people; their bytes decide last, so that the order is total.
	return cmp.Or(names.Natural(strings.ToLower(p.Path), strings.ToLower(o.Path)), names.Natural(p.Path, o.Path), cmp.Compare(p.File, o.File))
}

// class is 0 for the picture that is simply the owner's, 1 for the numbered, 2 for those that only a role
// tells apart: a packed one without a number is not meant to be the main image.
func (p *Placed) class() int {
	switch {
	case p.Number != nil:
		return 1
	case p.Role == "" || p.Role == "main" || p.Role == "front":
		return 0
	}
	return 2
}

func (p *Placed) number() int {
	if p.Number == nil {
		return 0
	}
	return *p.Number
}
