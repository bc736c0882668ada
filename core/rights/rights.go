// Package rights says whether a picture may be used.
package rights

import (
	"cmp"
	"slices"

	"ambrosa/core/message"
)

// May is whether a picture may be used.
type May string

const (
	Unsaid     May = ""            // nobody said anything
	Cleared    May = "cleared"     // placed and published
	Internal   May = "internal"    // placed, never published
	NotCleared May = "not_cleared" // neither
)

// Rights are what is said of a picture: whether it may be used, until when, whose it is, and what proves it.
type Rights struct {
	May    May
	Until  string // the last day, as 2026-12-31; empty for no end
	Holder string
	Proof  string
}

// strictness orders what may be; what has ended may not be used.
func (r Rights) strictness(today string) int {
	switch {
	case r.May == NotCleared || r.ended(today):
		return 3
	case r.May == Internal:
		return 2
	case r.May == Cleared:
		return 1
	}
	return 0
}

func (r Rights) ended(today string) bool { return r.Until != "" && r.Until < today && r.May != Unsaid }

// Strictest is what holds for a picture that came by several ways: the strictest that is said, of several the one that ends first. today is
// a day as 2026-12-31.
func Strictest(said []Rights, today string) Rights {
	if len(said) == 0 {
		return Rights{}
	}
	return slices.MinFunc(said, func(a, b Rights) int {
		return cmp.Or(cmp.Compare(b.strictness(today), a.strictness(today)), cmp.Compare(end(a), end(b)), cmp.Compare(a.Holder, b.Holder))
	})
}

// end orders by the last day; no end comes behind all.
func end(r Rights) string { return cmp.Or(r.Until, "9999") }

// Holds says why a picture may not be placed; false where it may.
func (r Rights) Holds(today string) (message.Message, bool) {
	switch {
	case r.ended(today):
		return message.New("rights_ended", "until", r.Until, "holder", r.Holder), true
	case r.May == NotCleared:
		return message.New("rights_not_cleared", "holder", r.Holder), true
	}
	return message.Message{}, false
}
