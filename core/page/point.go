package page

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/andybalholm/cascadia"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// ErrPoint is returned where no selector finds what was pointed at, as where two elements have nothing in common.
var ErrPoint = errors.New("no selector finds these elements; point at two that are alike")

// Pointed is a selector that was inferred from elements that somebody pointed at, and the numbers of the elements that it finds.
type Pointed struct {
	Selector string
	Found    []int
}

// Point infers the selector of what was pointed at: elements by their numbers, one or two. many says that there are several of them on the page,
// as items and pictures are; else the one element is meant, as a title is. It is the tightest that holds for all of them, and does not count
// siblings: what comes later at another place changes nothing. ErrPoint. Cost: by the page, a few dozen times.
func (p *Page) Point(numbers []int, many bool) (Pointed, error) {
	var nodes []*html.Node
	for _, number := range numbers {
		n := p.Element(number)
		if n == nil || n.DataAtom == atom.Html || n.DataAtom == atom.Body || n.DataAtom == atom.Head {
			return Pointed{}, ErrPoint
		}
		nodes = append(nodes, n)
	}
	if len(nodes) == 0 {
		return Pointed{}, ErrPoint
	}
	if !many {
		return p.pointOne(nodes[len(nodes)-1])
	}
	return p.pointMany(nodes)
}

// pointOne finds the shortest selector that finds one element first.
func (p *Page) pointOne(n *html.Node) (Pointed, error) {
	for _, whole := range []bool{true, false} { // it alone; else it as the first
		for _, selector := range ways(n, nil) {
			found := p.Select(selector)
			if len(found) > 0 && found[0] == n && (!whole || len(found) == 1) {
				return p.pointed(selector, found), nil
			}
		}
	}
	return Pointed{}, ErrPoint
}

func (p *Page) pointed(selector string, found []*html.Node) Pointed {
	out := Pointed{Selector: selector, Found: make([]int, len(found))}
	for i, n := range found {
		out.Found[i] = p.Number(n)
	}
	return out
}

// pointMany finds the tightest selector of a group: the elements that stand as those pointed at do, in parts of the page that repeat.
func (p *Page) pointMany(nodes []*html.Node) (Pointed, error) {
	n := nodes[0]
	if len(nodes) == 1 {
		for level, top := 0, n; top.Parent != nil && top.Parent.Type == html.ElementNode && level < 8; level, top = level+1, top.Parent {
			group := alikeSiblings(n, top)
			if len(group) >= 2 {
				return p.tightest(group, n)
			}
		}
		return p.pointOne(n) // it stands alone: one picture, one item
	}
	// What holds for all that were pointed at: their common steps from the part around all of them.
	top := common(nodes)
	if top == nil {
		return Pointed{}, ErrPoint
	}
	var parts []*html.Node
	for _, d := range nodes {
		parts = append(parts, childTowards(top, d))
	}
	if parts[0] != parts[1] && parts[0].Data == parts[1].Data {
		group := alikeSiblings(n, parts[0])
		if !contains(group, nodes) {
			group = looseSiblings(nodes, parts)
		}
		if contains(group, nodes) {
			return p.tightest(group, n)
		}
	}
	return p.tightest(nodes, n)
}

func contains(group, nodes []*html.Node) bool {
	has := make(map[*html.Node]bool, len(group))
	for _, n := range group {
		has[n] = true
	}
	return !slices.ContainsFunc(nodes, func(n *html.Node) bool { return !has[n] })
}

// tightest is the selector that finds a group and nothing else; where there is none, the one that finds the least beside it.
func (p *Page) tightest(group []*html.Node, n *html.Node) (Pointed, error) {
	best, least := Pointed{}, -1
	for _, selector := range ways(n, group) {
		found := p.Select(selector)
		if !contains(found, group) {
			continue
		}
		if len(found) == len(group) {
			return p.pointed(selector, found), nil
		}
		if least < 0 || len(found) < least {
			best, least = p.pointed(selector, found), len(found)
		}
	}
	if least < 0 {
		return best, ErrPoint
	}
	return best, nil
}

// alikeSiblings are the elements that stand in the siblings of a part as n stands in it: by the names of the elements between, and by the steady
// classes of the part and of n.
func alikeSiblings(n, part *html.Node) (group []*html.Node) {
	way := namesBetween(n, part)
	for c := part.Parent.FirstChild; c != nil; c = c.NextSibling {
		if c.Type != html.ElementNode || c.Data != part.Data || !sharesLook(c, part) {
			continue
		}
		for d := range all(c) {
			if d.Type == html.ElementNode && d.Data == n.Data && sharesLook(d, n) && slices.Equal(namesBetween(d, c), way) {
				group = append(group, d)
				if d == c {
					break
				}
			}
		}
	}
	return group
}

// looseSiblings are those that stand in the siblings of a part at any depth, as two that were pointed at do not stand alike.
func looseSiblings(nodes, parts []*html.Node) (group []*html.Node) {
	n := nodes[0]
	for c := parts[0].Parent.FirstChild; c != nil; c = c.NextSibling {
		if c.Type != html.ElementNode || c.Data != parts[0].Data || len(sharedClasses(parts)) > 0 && !hasClasses(c, sharedClasses(parts)) {
			continue
		}
		for d := range all(c) {
			if d.Type == html.ElementNode && d.Data == n.Data && hasClasses(d, sharedClasses(nodes)) {
				group = append(group, d)
			}
		}
	}
	return group
}

func namesBetween(n, part *html.Node) (way []string) {
	for d := n; d != nil && d != part; d = d.Parent {
		way = append(way, d.Data)
	}
	return way
}

// sharesLook reports whether two elements have a steady class in common, or neither has one.
func sharesLook(a, b *html.Node) bool {
	of, other := classes(a), classes(b)
	if len(of) == 0 || len(other) == 0 {
		return len(of) == len(other)
	}
	return slices.ContainsFunc(of, func(c string) bool { return slices.Contains(other, c) })
}

func hasClasses(n *html.Node, wanted []string) bool {
	of := classes(n)
	return !slices.ContainsFunc(wanted, func(c string) bool { return !slices.Contains(of, c) })
}

func sharedClasses(nodes []*html.Node) []string {
	shared := slices.Clone(classes(nodes[0]))
	for _, n := range nodes[1:] {
		of := classes(n)
		shared = slices.DeleteFunc(shared, func(c string) bool { return !slices.Contains(of, c) })
	}
	return shared
}

// common is the nearest element that holds all of some.
func common(nodes []*html.Node) *html.Node {
	for up := nodes[0].Parent; up != nil; up = up.Parent {
		if !slices.ContainsFunc(nodes, func(n *html.Node) bool { return n == up || !below(n, up) }) {
			return up
		}
	}
	return nil
}

func childTowards(top, n *html.Node) *html.Node {
	for n.Parent != top {
		n = n.Parent
	}
	return n
}

// passing are classes that say how an element is just now, or where among its siblings it stands.
var passing = regexp.MustCompile(`(?i)^(?:active|selected|current|first|last|odd|even|hover|focus|open|closed|show|shown|hidden|visible|loaded|loading|lazy|lazyload(?:ed|ing)?|in|on|is-.+|has-.+|js-.+)$|[0-9]{3,}|^[0-9]|^(?:css|sc|jsx|_)-?[a-z0-9]*[0-9]`)

// wordLike are names that a selector can have as they are.
var wordLike = regexp.MustCompile(`^-?[A-Za-z_][A-Za-z0-9_-]*$`)

// classes are the steady classes of an element.
func classes(n *html.Node) (steady []string) {
	for _, c := range strings.Fields(attribute(n, "class")) {
		if wordLike.MatchString(c) && !passing.MatchString(c) && !slices.Contains(steady, c) && len(steady) < 4 {
			steady = append(steady, c)
		}
	}
	return steady
}

// marks are the ways in which an element can be named, the tightest first. group are those that the name must hold for, too.
func marks(n *html.Node, group []*html.Node) (all []string) {
	holds := func(has func(*html.Node) bool) bool {
		return !slices.ContainsFunc(group, func(o *html.Node) bool { return !has(o) })
	}
	if id := attribute(n, "id"); len(group) <= 1 && wordLike.MatchString(id) && !passing.MatchString(id) {
		all = append(all, "#"+id)
	}
	for _, name := range []string{"itemprop", "rel", "data-role", "data-testid", "role"} {
		v := attribute(n, name)
		if wordLike.MatchString(v) && holds(func(o *html.Node) bool { return attribute(o, name) == v }) {
			all = append(all, n.Data+"["+name+"="+v+"]")
		}
	}
	of := slices.DeleteFunc(slices.Clone(classes(n)), func(c string) bool {
		return !holds(func(o *html.Node) bool { return slices.Contains(classes(o), c) })
	})
	for _, c := range of {
		all = append(all, n.Data+"."+c)
	}
	if len(of) > 1 {
		all = append(all, n.Data+"."+strings.Join(of, "."))
	}
	return append(all, n.Data)
}

// mostWays is how many selectors are tried.
const mostWays = 150

// ways are selectors that find an element, by itself or below elements around it, the shortest first.
func ways(n *html.Node, group []*html.Node) (all []string) {
	own := marks(n, group)
	all = append(all, own[:len(own)-1]...) // its bare name comes with what is around it
	if group == nil {
		all = append(all, own[len(own)-1])
	}
	around := func(up *html.Node) []string {
		var of []*html.Node
		for _, o := range group { // what holds all of the group, or one each that look alike
			at := o
			for at != nil && (at.Data != up.Data || !sharesLook(at, up)) {
				at = at.Parent
			}
			if at == nil {
				return nil
			}
			if !slices.Contains(of, at) {
				of = append(of, at)
			}
		}
		return marks(up, of)
	}
	direct := true
	var steps []string // the names between
	for up, level := n.Parent, 0; up != nil && up.Type == html.ElementNode && level < 10; up, level = up.Parent, level+1 {
		named := around(up)
		for _, a := range named[:max(0, len(named)-1)] {
			for _, o := range own {
				if direct {
					all = append(all, a+" > "+o)
				}
				all = append(all, a+" "+o)
			}
			if len(steps) > 0 {
				all = append(all, a+" > "+strings.Join(steps, " > ")+" > "+own[len(own)-1])
			}
		}
		direct = false
		steps = append([]string{up.Data}, steps...)
		if len(all) > mostWays {
			return all[:mostWays]
		}
	}
	return append(all, strings.Join(append(steps, own[len(own)-1]), " > "), own[len(own)-1])
}

// CheckSelector returns ErrGuide for a selector that can't be read, nil for one that can.
func CheckSelector(selector string) error {
	if _, err := cascadia.ParseGroup(selector); err != nil {
		return fmt.Errorf("%w: the selector can't be read: %w", ErrGuide, err)
	}
	return nil
}
