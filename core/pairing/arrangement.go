package pairing

import "slices"

// arrangement is a text made of another's letters: their places, and struck where any letter may stand. From one place
// on, if that is not unpaired, letters are taken two by two whichever comes first.
type arrangement struct {
	places []int8
	paired int
}

const (
	struck   = -1
	unpaired = -1
)

func asItStands(n int) arrangement {
	a := arrangement{make([]int8, n), unpaired}
	for i := range a.places {
		a.places[i] = int8(i)
	}
	return a
}

func (a arrangement) strike(i int) arrangement {
	a.places = slices.Clone(a.places)
	a.places[i] = struck
	return a
}

func (a arrangement) swap(i int) arrangement {
	a.places = slices.Clone(a.places)
	a.places[i], a.places[i+1] = a.places[i+1], a.places[i]
	return a
}

func (a arrangement) drop(i int) arrangement {
	a.places = slices.Delete(slices.Clone(a.places), i, i+1)
	return a
}

func (a arrangement) pair(from int) arrangement {
	a.paired = from
	return a
}

// powers are those of rolled's polynomial.
var powers = func() (p [maxTwice + 3]uint64) {
	p[0] = 1
	for i := range p[1:] {
		p[i+1] = p[i] * base
	}
	return p
}()

// changes is what the hash of an arrangement is more than that of the n letters as they stand: a factor for each. Two that
// are paired have one factor.
func (a arrangement) changes(n int) (factors [maxTwice + 2]uint64) {
	last := len(a.places) - 1
	for i, place := range a.places {
		if place == struck {
			continue
		}
		power := powers[last-i]
		if a.paired != unpaired && i >= a.paired && (i-a.paired)%2 == 1 {
			power = powers[last-i+1]
		}
		factors[place] += power
	}
	for i := range n {
		factors[i] -= powers[n-1-i]
	}
	return factors
}

func every(n int, of func(i int) arrangement) []arrangement {
	as := make([]arrangement, n)
	for i := range as {
		as[i] = of(i)
	}
	return as
}

// values stand for letters: of two of them, the sum says which they are.
var values = func() (of [256]uint64) {
	for c := range of {
		of[c] = mix(uint64(c) + 1)
	}
	return of
}()

// spread brings a hash's lower bits up (D. E. Knuth, The Art of Computer Programming 3, section 6.4).
const spread = 0x9e3779b97f4a7c15
