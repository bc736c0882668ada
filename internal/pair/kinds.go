package pair

import (
	"cmp"
	"fmt"
	"slices"

	"ambrosa/core/message"
	"ambrosa/core/pairing"
	"ambrosa/internal/gather/source"
)

// Kind is what a line is worth looking at for, besides its grade; a line may be of several.
type Kind uint16

const (
	Hand    Kind = 1 << iota // a person gave it to somebody
	Aside                    // a person set it aside
	Colour                   // the picture has another colour than the variant
	Alike                    // it looks like a picture that the owner has
	Present                  // the owner has this picture already
	Shared                   // several owners would get this picture
	Number                   // another line has the same number for the same owner
	Seen                     // the picture arrived before
	Type                     // its type is not what its name says
)

// Kinds are all kinds with their names, in the order of the constants.
var Kinds = []string{"hand", "aside", "colour", "alike", "present", "shared", "number", "seen", "type"}

// Names are the kinds that a set holds.
func (k Kind) Names() (names []string) {
	for i, name := range Kinds {
		if k&(1<<i) != 0 {
			names = append(names, name)
		}
	}
	return names
}

// Group is unclaimed lines that probably differ from a key in the same way.
type Group struct {
	Differs message.Message
	Count   int
}

// fewestAlike is how many lines make a group: two may differ in the same way by chance.
const fewestAlike = 3

// Counts are how many lines a delivery has of each grade and kind, by name, those ready for a plan, and the groups of what nobody
// claims, the largest first.
type Counts struct {
	Of     map[string]int
	Ready  int
	Groups []Group
}

// sort says of every line of which kinds it is, and counts. present holds what every owner has, by owner and hash.
func (p *Pairing) sort(present func(owner int64, sha string) bool) {
	type number struct {
		owner  int64
		number int
	}
	owners := map[string]int64{} // by picture: the one that gets it, or -1 where several do
	numbers := map[number]int{}
	shas := make([]string, len(p.Lines))
	for i := range p.Lines {
		l := &p.Lines[i]
		if !l.Ready() {
			continue
		}
		shas[i] = Sha(l.Arrival)
		for _, s := range l.Shares {
			if had, ok := owners[shas[i]]; ok && had != s.Owner {
				owners[shas[i]] = -1
			} else {
				owners[shas[i]] = s.Owner
			}
		}
		if l.Number != nil {
			numbers[number{l.Owner(), *l.Number}]++
		}
	}
	p.Counts = Counts{Of: map[string]int{}}
	groups := map[string]*Group{}
	for i := range p.Lines {
		l := &p.Lines[i]
		l.Kinds = l.ownKinds()
		if l.Ready() {
			p.Counts.Ready++
			for _, s := range l.Shares {
				if present(s.Owner, shas[i]) {
					l.Kinds |= Present
				}
			}
			if owners[shas[i]] < 0 {
				l.Kinds |= Shared
			}
			if l.Number != nil && numbers[number{l.Owner(), *l.Number}] > 1 {
				l.Kinds |= Number
			}
		}
		for _, name := range l.Kinds.Names() {
			p.Counts.Of[name]++
		}
		if l.Aside {
			continue
		}
		p.Counts.Of[string(l.Grade())]++
		if l.Claim.Grade == pairing.Unclaimed {
			l.group(groups)
		}
	}
	for _, g := range groups {
		if g.Count >= fewestAlike {
			p.Counts.Groups = append(p.Counts.Groups, *g)
		}
	}
	slices.SortFunc(p.Counts.Groups, func(a, b Group) int {
		return cmp.Or(cmp.Compare(b.Count, a.Count), cmp.Compare(groupKey(a.Differs), groupKey(b.Differs)))
	})
}

// ownKinds are those that a line is of whatever the others are.
func (l *Line) ownKinds() (k Kind) {
	for _, is := range []struct {
		so   bool
		kind Kind
	}{{l.ByHand(), Hand}, {l.Aside, Aside}, {l.Colour != "", Colour}, {l.Alike != "", Alike}, {l.Arrival.SeenBefore, Seen},
		{l.Arrival.Problem == string(source.TypeDiffers), Type}} {
		if is.so {
			k |= is.kind
		}
	}
	return k
}

// group counts a line for each way in which it differs from one of its candidates.
func (l *Line) group(groups map[string]*Group) {
	if l.ByHand() {
		return
	}
	var counted []string
	for _, c := range l.Claim.Candidates {
		key := groupKey(c.Differs)
		if c.Differs.Code == "" || slices.Contains(counted, key) {
			continue
		}
		counted = append(counted, key)
		if groups[key] == nil {
			groups[key] = &Group{Differs: c.Differs}
		}
		groups[key].Count++
	}
}

func groupKey(m message.Message) string { return m.Code + fmt.Sprint(m.Data) }
