package pair

import (
	"encoding/hex"
	"slices"

	"ambrosa/core/message"
	"ambrosa/core/pairing"
	"ambrosa/internal/store/query"
)

// Line is one arrival with its claim, overlaid with what a person decided.
type Line struct {
	Arrival query.ArrivalsRow
	Claim   pairing.Claim
	Shares  []Share // who gets the picture; none where nobody does
	Number  *int
	Role    string
	Rank    int // order given by hand where what the engine found is kept
	Aside   bool
	Person  string // who decided by hand; empty where nobody did
	Colour  string // what the picture looks like, where that is not the variant's colour
	Kinds   Kind
	checked bool
	Alike   string // the picture of the owner that looks the same, by hash; empty where none does
}

// Ready reports whether the line goes into a plan.
func (l *Line) Ready() bool { return len(l.Shares) > 0 && !l.Aside && l.Arrival.AssetID != nil }

// Owner is the first that gets the picture; 0 where nobody does.
func (l *Line) Owner() int64 {
	if len(l.Shares) == 0 {
		return 0
	}
	return l.Shares[0].Owner
}

// ByHand reports whether a person gave the picture to somebody.
func (l *Line) ByHand() bool { return l.Person != "" && !l.Aside && l.Owner() != 0 }

// Grade is what the line is worth: what a person decided is sure.
func (l *Line) Grade() pairing.Grade {
	if l.ByHand() {
		return pairing.Sure
	}
	return l.Claim.Grade
}

// Reading is how the name was read for its owner; nil where a person gave the picture to another.
func (l *Line) Reading() *pairing.Reading {
	if r := l.Claim.Reading; r != nil && (!l.ByHand() || r.Owner == l.Owner()) {
		return r
	}
	return nil
}

// Pointed are the readings whose keys are pointed at in the name: of its owner, else those that contest it, else the nearest.
func (l *Line) Pointed() []pairing.Reading {
	if r := l.Reading(); r != nil {
		return []pairing.Reading{*r}
	}
	if said := l.Claim.Candidates; len(said) > 0 && l.Claim.Grade != pairing.Contested {
		return said[:1]
	}
	return l.Claim.Candidates
}

// claimed makes a line of what the engine says.
func claimed(a query.ArrivalsRow, c pairing.Claim) Line {
	l := Line{Arrival: a, Claim: c}
	if r := c.Reading; r != nil {
		l.Shares, l.Number, l.Role = []Share{{Owner: r.Owner}}, r.Number, r.Role
	}
	return l
}

// decide lays a person's decision over what the engine found: rows are all of one line. there tells which owners the catalogue
// has. Owners that are gone get nothing, and the decision stays for when they come back.
func (l *Line) decide(rows []query.DecisionsRow, there func(int64) bool) {
	first := rows[0]
	l.Person, l.Aside = first.Person, first.Aside
	if first.Aside {
		l.Shares = nil
		return
	}
	if first.OwnerID == nil {
		l.Rank = int(first.Rank)
		for i := range l.Shares {
			l.Shares[i].Rank = l.Rank
		}
		return
	}
	l.Shares = nil
	for _, d := range rows {
		if d.OwnerID != nil && there(*d.OwnerID) {
			l.Shares = append(l.Shares, Share{Owner: *d.OwnerID, Rank: int(d.Rank)})
		}
	}
	if len(l.Shares) == 0 {
		l.Claim = pairing.Claim{Grade: pairing.Unclaimed, Doubt: message.New("chosen_gone", "person", first.Person),
			Candidates: l.Claim.Candidates}
		l.Number, l.Role = nil, ""
		return
	}
	// The name may still say the number, read by the candidate the person chose.
	for _, c := range l.Claim.Candidates {
		if c.Owner == l.Owner() {
			l.Number, l.Role = c.Number, c.Role
		}
	}
}

// same reports whether two states of one line show the same.
func (l *Line) same(o *Line) bool {
	return l.Kinds == o.Kinds && l.Claim.Same(&o.Claim) && l.Aside == o.Aside && l.Rank == o.Rank && l.Person == o.Person &&
		l.Colour == o.Colour &&
		l.Alike == o.Alike && slices.Equal(l.Shares, o.Shares) && equal(l.Number, o.Number)
}

func equal(a, b *int) bool { return a == b || a != nil && b != nil && *a == *b }

// Sha is an arrival's picture in hex; empty where it has none.
func Sha(a query.ArrivalsRow) string { return hex.EncodeToString(a.Sha256) }
