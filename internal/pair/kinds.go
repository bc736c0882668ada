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
	Checked                  // a person has read it through, with the owners it has now
)

// Kinds are all kinds with their names, in the order of the constants.
var Kinds = []string{"hand", "aside", "colour", "alike", "present", "shared", "number", "seen", "type", "checked"}

// Names are the kinds that a set holds.
func (k Kind) Names() (names []string) {
	for i, name := range Kinds {
		if k&(1<<i) != 0 {
			names = append(names, name)
		}
	}
	return names
}

// Group is lines that probably differ from a key in the same way.
type Group struct {
	Differs message.Message
	Count   int
}

// fewestAlike is how many lines make a group: two may differ in the same way by chance.
const fewestAlike = 3

// Counts are how many lines a delivery has of each grade and kind, by name, those ready for a plan, and the groups of what nobody
// claims and of what is likely, the largest first.
type Counts struct {
	Of     map[string]int
	Ready  int
	ToRead int     // ready lines that nobody has read through
	Groups []Group // unclaimed, by what differs
	Likely []Group // likely, by what lowers the grade
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
	groups, likely := map[string]*Group{}, map[string]*Group{}
	for i := range p.Lines {
		l := &p.Lines[i]
		l.Kinds = l.ownKinds()
		if l.Ready() {
			p.Counts.Ready++
			if l.Kinds&Checked == 0 {
				p.Counts.ToRead++
			}
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
		switch {
		case l.ByHand():
		case l.Claim.Grade == pairing.Unclaimed:
			l.group(groups)
		case l.Claim.Grade == pairing.Likely:
			count(likely, l.Claim.Lowered())
		}
	}
	p.Counts.Groups, p.Counts.Likely = largest(groups), largest(likely)
}

func count(groups map[string]*Group, m message.Message) {
	key := groupKey(m)
	if groups[key] == nil {
		groups[key] = &Group{Differs: m}
	}
	groups[key].Count++
}

// largest are the groups of more lines than may be alike by chance, the largest first.
func largest(groups map[string]*Group) (all []Group) {
	for _, g := range groups {
		if g.Count >= fewestAlike {
			all = append(all, *g)
		}
	}
	slices.SortFunc(all, func(a, b Group) int {
		return cmp.Or(cmp.Compare(b.Count, a.Count), cmp.Compare(groupKey(a.Differs), groupKey(b.Differs)))
	})
	return all
}

// ownKinds are those that a line is of whatever the others are.
func (l *Line) ownKinds() (k Kind) {
	for _, is := range []struct {
		so   bool
		kind Kind
	}{{l.checked, Checked}, {l.ByHand(), Hand}, {l.Aside, Aside}, {l.Colour != "", Colour},
		{l.Alike != "", Alike}, {l.Arrival.SeenBefore, Seen},
		{l.Arrival.Problem == string(source.TypeDiffers), Type}} {
		if is.so {
			k |= is.kind
		}
	}
	return k
}

// group counts a line for each way in which it differs from one of its candidates.
func (l *Line) group(groups map[string]*Group) {
	var counted []string
	for _, c := range l.Claim.Candidates {
		key := groupKey(c.Differs)
		if c.Differs.Code == "" || slices.Contains(counted, key) {
			continue
		}
		counted = append(counted, key)
		count(groups, c.Differs)
	}
}

func groupKey(m message.Message) string { return m.Code + fmt.Sprint(m.Data) }
