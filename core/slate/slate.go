// Package slate parts the pictures of a photo session into groups, each of one owner: who photographs products shoots the label first, the
// slate, and then the product. It is pure: the same pictures give the same groups, in whatever order they come.
//
// Pictures are put in the order in which they were taken: by camera and time, or by the counter in their names where no times say it. A slate
// opens a group, and so does a picture that looks like the slates and can't be read; a gap longer than usual ends one.
package slate

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"ambrosa/core/colour"
	"ambrosa/core/likeness"
	"ambrosa/core/names"
)

// Picture is what is known of one picture.
type Picture struct {
	Path     string
	Taken    time.Time // by the camera's clock; zero where nobody says
	Camera   string    // its serial number, or what else tells it from others; empty where nobody says
	Code     string    // that it shows, empty for none
	Owner    int64     // that the code names; 0 where nobody has it
	Known    bool      // its name says by itself whose it is: it takes part in no group
	Likeness *uint64   // see package likeness; nil where it was not computed
	Palette  []colour.Swatch
}

// Why says what opened a group.
type Why string

const (
	Read   Why = "slate"        // a slate, whose owner the group has
	Nobody Why = "slate_nobody" // a slate with a code that nobody in the catalogue has
	Unread Why = "slate_unread" // a picture that looks like the slates, whose code can't be read
	Gap    Why = "gap"          // more time, or more of the counter, than usual
	First  Why = "first"        // the first picture there is
)

// Group are pictures that belong together, as places among those given, in the order in which they were taken.
type Group struct {
	Why      Why
	Slate    int // the picture that opened it; -1 for none
	Card     bool
	Owner    int64
	Pictures []int // without a slate that is a card
}

const (
	alikeSlates = 14 // bits by which the likenesses of two slates differ at most: cards of one drawing
	unlike      = 20 // bits from which on two pictures look different
)

// Groups parts pictures. Those that stand alone without a slate are no group. Cost: n log n, and the slates of a camera compared with its pictures.
func Groups(pictures []Picture) (all []Group) {
	for _, s := range streams(pictures) {
		all = append(all, s.part()...)
	}
	return slices.DeleteFunc(all, func(g Group) bool { return len(g.Pictures) == 0 || len(g.Pictures) == 1 && g.Slate < 0 })
}

// stream are the pictures of one camera, in the order in which they were taken.
type stream struct {
	of    []Picture // all that were given
	order []int
	timed bool
	count []int // by place among all, the counter in the name; -1 for none
	wraps int   // what a counter starts again at; 0 for none

	slates []int // pictures with a code, the first of those that show the same one after the other
	cards  bool
	usual  float64 // the usual step; 0 where there is none
}

// streams are the pictures by camera; those that no time can order by what their names begin with.
func streams(pictures []Picture) (all []*stream) {
	of := map[string]*stream{}
	count := make([]int, len(pictures))
	timed := timeable(pictures)
	var keys []string
	for i, p := range pictures {
		if p.Known {
			continue
		}
		head := ""
		if head, count[i] = counter(p.Path); !timed[i] && count[i] < 0 {
			continue
		}
		key := "n" + head
		switch {
		case timed[i] && p.Camera != "":
			key = "t" + p.Camera
		case timed[i]:
			key = "t\x00" + head
		}
		if of[key] == nil {
			of[key] = &stream{of: pictures, count: count, timed: timed[i]}
			keys = append(keys, key)
		}
		of[key].order = append(of[key].order, i)
	}
	slices.Sort(keys)
	for _, k := range keys {
		s := of[k]
		s.sort()
		all = append(all, s)
	}
	return all
}

// timeable tells of each picture whether its time orders it: where most pictures of a camera have one and the same, as a clock that stands or
// a program that wrote them gives, they say nothing.
func timeable(pictures []Picture) []bool {
	of, same := map[string]int{}, map[string]map[time.Time]int{}
	for _, p := range pictures {
		if p.Taken.IsZero() || p.Known {
			continue
		}
		if same[p.Camera] == nil {
			same[p.Camera] = map[time.Time]int{}
		}
		of[p.Camera]++
		same[p.Camera][p.Taken]++
	}
	stands := map[string]bool{}
	for camera, times := range same {
		stands[camera] = len(times)*3 < of[camera] && of[camera] > 3
	}
	timed := make([]bool, len(pictures))
	for i, p := range pictures {
		timed[i] = !p.Taken.IsZero() && !stands[p.Camera]
	}
	return timed
}

// counter is what a camera counts in a name, and what stands before it, with the folder; -1, and the folder alone, where nothing is counted.
func counter(path string) (head string, n int) {
	name := names.Read(path)
	end := name.Stem.End
	for end > name.Stem.Start && (path[end-1] < '0' || path[end-1] > '9') {
		end--
	}
	start := end
	for start > name.Stem.Start && path[start-1] >= '0' && path[start-1] <= '9' {
		start--
	}
	if end-start < 3 || end-start > 9 {
		return path[:name.Stem.Start], -1
	}
	for _, digit := range path[start:end] {
		n = 10*n + int(digit-'0')
	}
	return strings.ToLower(path[:start]), n
}

// sort puts a stream in order. A counter that starts again goes on behind its end: it is turned where it has its widest gap.
func (s *stream) sort() {
	slices.SortFunc(s.order, func(a, b int) int {
		return cmp.Or(cmp.Compare(s.count[a], s.count[b]), names.Natural(s.of[a].Path, s.of[b].Path))
	})
	most := s.count[s.order[len(s.order)-1]]
	for ends := 1000; ends <= 1_000_000_000; ends *= 10 {
		if most < ends {
			s.wraps = ends
			break
		}
	}
	if n := len(s.order); s.wraps > 0 && n > 1 && most >= s.wraps-s.wraps/100 {
		widest, at := s.count[s.order[0]]+s.wraps-most, 0
		for i := 1; i < n; i++ {
			if gap := s.count[s.order[i]] - s.count[s.order[i-1]]; gap > widest {
				widest, at = gap, i
			}
		}
		s.order = slices.Concat(s.order[at:], s.order[:at])
	}
	if s.timed { // those of one moment stay in the order of the counter
		slices.SortStableFunc(s.order, func(a, b int) int { return s.of[a].Taken.Compare(s.of[b].Taken) })
	}
}

// step is how far two pictures are apart: seconds, or numbers of the counter.
func (s *stream) step(a, b int) float64 {
	if s.timed {
		return s.of[b].Taken.Sub(s.of[a].Taken).Seconds()
	}
	d := s.count[b] - s.count[a]
	if d < 0 {
		d += s.wraps
	}
	return float64(d)
}

// part parts a stream.
func (s *stream) part() (all []Group) {
	s.look()
	var group *Group
	code := ""
	for n, i := range s.order {
		p := s.of[i]
		wide := n > 0 && s.wide(n, group.Pictures)
		opens := Group{Slate: -1}
		switch {
		case p.Code != "" && (group == nil || code != p.Code || wide):
			opens = Group{Why: Read, Slate: i, Owner: p.Owner, Card: s.cards}
			if p.Owner == 0 {
				opens.Why = Nobody
			}
		case s.cards && p.Code == "" && s.likeSlates(n):
			opens = Group{Why: Unread, Slate: i, Card: true}
		case n == 0:
			opens.Why = First
		case wide:
			opens.Why = Gap
		}
		if opens.Why != "" {
			all = append(all, opens)
			group, code = &all[len(all)-1], p.Code
		}
		if group.Slate != i || !group.Card {
			group.Pictures = append(group.Pictures, i)
		}
	}
	return all
}

// look finds the slates of a stream, whether they are cards, which look alike, and not the products' own packs, and what step is usual between
// pictures that are none.
func (s *stream) look() {
	code := ""
	alike, apart := 0, 0
	var steps []float64
	for n, i := range s.order {
		p := s.of[i]
		if p.Code == "" && n > 0 {
			steps = append(steps, s.step(s.order[n-1], i))
		}
		if p.Code == "" || p.Code == code {
			continue
		}
		code = p.Code
		if last := len(s.slates) - 1; last >= 0 && p.Likeness != nil && s.of[s.slates[last]].Likeness != nil {
			if s.apart(i, s.slates[last]) <= alikeSlates {
				alike++
			} else {
				apart++
			}
		}
		s.slates = append(s.slates, i)
	}
	s.cards = len(s.slates) > 0 && alike >= apart
	if len(steps) > 0 {
		slices.Sort(steps)
		s.usual = max(steps[len(steps)/2], 1)
	}
}

// apart is by how many bits the likenesses of two pictures differ; all where one has none.
func (s *stream) apart(a, b int) int {
	x, y := s.of[a].Likeness, s.of[b].Likeness
	if x == nil || y == nil {
		return 64
	}
	return likeness.Distance(*x, *y)
}

// likeColours reports whether two pictures have the same main colour, as far as it is known: sisters differ in nothing else.
func (s *stream) likeColours(a, b int) bool {
	x, y := s.of[a].Palette, s.of[b].Palette
	return len(x) == 0 || len(y) == 0 || colour.Alike(x, y)
}

// likeSlates reports whether the picture at a place in the order looks like half of the slates, of which there are two at least, and less like
// those beside it: on a plain ground all pictures look somewhat alike.
func (s *stream) likeSlates(n int) bool {
	i := s.order[n]
	alike, nearest := 0, 64
	for _, o := range s.slates {
		d := s.apart(i, o)
		if nearest = min(nearest, d); d <= alikeSlates {
			alike++
		}
	}
	if len(s.slates) < 2 || 2*alike < len(s.slates) {
		return false
	}
	for _, beside := range []int{n - 1, n + 1} {
		if beside >= 0 && beside < len(s.order) && s.of[s.order[beside]].Code == "" && s.apart(i, s.order[beside]) <= nearest+4 {
			return false
		}
	}
	return true
}

// wide reports whether the step to a place in the order is wider than usual. Where the pictures behind it look like those of the group, it must
// be much wider; where there are no slates and they do not, less is enough.
func (s *stream) wide(n int, group []int) bool {
	step := s.step(s.order[n-1], s.order[n])
	switch {
	case s.usual == 0 || step <= 2*s.usual || len(group) == 0: // behind the slate the product is fetched
		return false
	case step > 4*s.usual && step > s.usual+8:
		return step > 10*s.usual || !s.goesOn(n, group)
	}
	return len(s.slates) == 0 && s.apart(s.order[n-1], s.order[n]) >= unlike && !s.goesOn(n, group)
}

// goesOn reports whether one of the next pictures looks like one of a group.
func (s *stream) goesOn(n int, group []int) bool {
	const next, alike = 4, 10
	for at, i := range s.order[n:min(n+next, len(s.order))] {
		if s.of[i].Code != "" || at > 0 && s.step(s.order[n+at-1], i) > 4*s.usual {
			break
		}
		if slices.ContainsFunc(group, func(o int) bool { return s.apart(i, o) <= alike && s.likeColours(i, o) }) {
			return true
		}
	}
	return false
}
