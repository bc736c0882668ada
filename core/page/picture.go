package page

import (
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// From says by what a picture was found.
type From string

const (
	JSONLD    From = "json-ld"
	Microdata From = "microdata"
	OpenGraph From = "opengraph"
	Srcset    From = "srcset"
	Link      From = "link"
	Data      From = "data"
	Script    From = "script"
	Style     From = "style"
	Noscript  From = "noscript"
	Img       From = "img"
	ByGuide   From = "guide"
	ByRule    From = "rule"
)

// Candidate is one address at which a picture may be had. Width and Height are pixels as the page says; 0 where it does not.
type Candidate struct {
	Address       string
	From          From
	Width, Height int
}

// Picture is one picture of a page, with the addresses at which it may be had, those that promise most first.
type Picture struct {
	Element    int   // its number; 0 where it stands only in data
	Also       []int // the numbers of others that show it, too
	Alt        string
	Shown      string // the address that the page shows, mostly a small one
	Candidates []Candidate
	Stated     bool   // the page's data say that it is one of the product
	Why        Reason // why the markup alone says that it is none of the product; empty where it may be
	host       string
}

// Reason is why a picture is left out.
type Reason string

const (
	Placeholder  Reason = "placeholder"   // stands until the picture comes
	Video        Reason = "video"         // a still of a video
	Furniture    Reason = "furniture"     // belongs to the page: its head, foot, menu, a logo
	OtherProduct Reason = "other_product" // leads to another page, or stands among related ones
	OtherHost    Reason = "other_host"    // comes from somewhere else than the others: an advertisement
	Repeated     Reason = "repeated"      // stands on pages of several items
	Small        Reason = "small"
	Shape        Reason = "shape"
	Place        Reason = "place"
	ByAlt        Reason = "alt"
	ByAddress    Reason = "address"
	Twin         Reason = "twin"
	Unreached    Reason = "unreachable"
	NotPicture   Reason = "not_picture"
	NotGuided    Reason = "not_guided" // the guide does not point at it
)

// in is an element of a set that shows a picture; nil for none.
func (p *Picture) in(set map[int]*html.Node) *html.Node {
	if n := set[p.Element]; n != nil {
		return n
	}
	for _, other := range p.Also {
		if n := set[other]; n != nil {
			return n
		}
	}
	return nil
}

// around is what holds for all that stands below an element.
type around struct {
	why      Reason
	link     *html.Node // the link it stands in
	picture  *html.Node // the picture element it stands in
	holder   *html.Node // the nearest element around it with data of its own
	noscript bool
}

// Pictures are the pictures of a page in its order, those that its data state first. Cost: by its elements.
func (p *Page) Pictures() []Picture {
	r := reader{page: p, product: p.Product(), at: map[string]int{}, single: map[*html.Node]bool{}}
	for _, image := range r.product.Images {
		r.put(Picture{Candidates: []Candidate{image}, Stated: true, Shown: image.Address})
	}
	r.read(p.Root)
	r.scripts()
	r.hosts()
	return r.found
}

type reader struct {
	page    *Page
	product Product
	found   []Picture
	at      map[string]int // which picture has an address, and which an address without its size
	number  int
	loose   []string            // addresses in scripts
	single  map[*html.Node]bool // whether an element holds one img at most
}

// read walks the page with what holds around each element. The stack is its own: hostile pages are deep.
func (r *reader) read(root *html.Node) {
	type step struct {
		node *html.Node
		in   around
	}
	stack := []step{{root, around{}}}
	for len(stack) > 0 {
		s := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		n, in := s.node, s.in
		if n.Type == html.ElementNode {
			r.number++
			in = r.enter(n, in)
		}
		first := len(stack)
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			if c.Type == html.ElementNode {
				stack = append(stack, step{c, in})
			}
		}
		slices.Reverse(stack[first:])
	}
}

// enter reads one element and returns what holds below it.
func (r *reader) enter(n *html.Node, in around) around {
	if len(r.found) >= MostPictures {
		return in
	}
	if in.why == "" {
		in.why = whyBelow(n)
	}
	switch n.DataAtom {
	case atom.A:
		in.link = n
		if href := attribute(n, "href"); !isPictureAddress(href) || holdsPicture(n) { // most links: nothing is resolved for them
			break
		} else if to, ok := r.page.Resolve(href); ok {
			r.put(Picture{Element: r.number, Alt: Text(n), Shown: to, Candidates: []Candidate{{Address: to, From: Link}}, Why: in.why})
		}
	case atom.Picture:
		in.picture = n
	case atom.Noscript:
		in.noscript = true
	case atom.Img:
		r.image(n, in)
		return in
	case atom.Video:
		if poster, ok := r.page.Resolve(attribute(n, "poster")); ok {
			r.put(Picture{Element: r.number, Shown: poster, Candidates: []Candidate{{Address: poster, From: Img}}, Why: Video})
		}
		in.why = Video
	case atom.Script:
		if !strings.Contains(attribute(n, "type"), "ld+json") && n.FirstChild != nil {
			r.loose = append(r.loose, pictureStrings(n.FirstChild.Data)...)
		}
	}
	if style := attribute(n, "style"); style != "" {
		r.background(n, style, in)
	}
	if hasData(n) {
		in.holder = n
	}
	return in
}

// image reads an img with all that stands around it.
func (r *reader) image(n *html.Node, in around) {
	found := Picture{Element: r.number, Alt: strings.TrimSpace(attribute(n, "alt")), Why: in.why}
	add := func(ref string, from From, width, height int) {
		if address, ok := r.page.Resolve(ref); ok && !isPlaceholder(address) {
			if !slices.ContainsFunc(found.Candidates, func(c Candidate) bool { return c.Address == address }) {
				found.Candidates = append(found.Candidates, Candidate{address, from, width, height})
			}
		}
	}
	if found.Why == "" && r.isVideoStill(n, in.link) {
		found.Why = Video
	}
	if in.link != nil {
		if to, ok := r.page.Resolve(attribute(in.link, "href")); ok && isPictureAddress(to) {
			add(to, Link, 0, 0)
		} else if found.Why == "" && r.leadsAway(in.link) {
			found.Why = OtherProduct
		}
	}
	r.sets(n, in, add)
	for _, holder := range []*html.Node{n, in.link, in.holder} {
		if holder != nil && (holder != in.holder || r.alone(holder)) {
			for _, ref := range dataAddresses(holder) {
				add(ref, Data, 0, 0)
			}
		}
	}
	own := Img
	if in.noscript {
		own = Noscript
	}
	src := attribute(n, "src")
	add(src, own, pixels(attribute(n, "width")), pixels(attribute(n, "height")))
	if shown, ok := r.page.Resolve(src); ok {
		found.Shown = shown
	}
	if len(found.Candidates) > 0 && (found.Shown == "" || isPlaceholder(found.Shown)) {
		found.Shown = found.Candidates[len(found.Candidates)-1].Address
	}
	switch {
	case len(found.Candidates) == 0 && in.noscript:
	case len(found.Candidates) == 0:
		found.Why = Placeholder
		found.Candidates = placeholderOf(r.page, src)
		if len(found.Candidates) > 0 {
			r.put(found)
		}
	case tiny(n):
		found.Why = Placeholder
		r.put(found)
	default:
		r.put(found)
	}
}

// sets reads what srcset attributes offer: the img's own, and those of the picture element around it.
func (r *reader) sets(n *html.Node, in around, add func(ref string, from From, width, height int)) {
	var offered []Source
	for _, name := range []string{"srcset", "data-srcset", "data-lazy-srcset"} {
		offered = append(offered, ReadSrcset(attribute(n, name))...)
	}
	if in.picture != nil {
		for c := in.picture.FirstChild; c != nil; c = c.NextSibling {
			if c.DataAtom == atom.Source {
				offered = append(offered, ReadSrcset(attribute(c, "srcset"))...)
				offered = append(offered, ReadSrcset(attribute(c, "data-srcset"))...)
			}
		}
	}
	if best, ok := Largest(offered); ok {
		add(best.Address, Srcset, best.Width, 0)
	}
}

func pixels(text string) int {
	n, err := strconv.Atoi(strings.TrimSuffix(strings.TrimSpace(text), "px"))
	if err != nil || n < 0 {
		return 0
	}
	return n
}

// tiny reports whether an img says that it is a pixel.
func tiny(n *html.Node) bool {
	w, h := pixels(attribute(n, "width")), pixels(attribute(n, "height"))
	return w > 0 && w <= 2 && h > 0 && h <= 2
}

// alone reports whether an element holds one img at most, so that what it says is said of that. It is found out once for each.
func (r *reader) alone(holder *html.Node) bool {
	known, ok := r.single[holder]
	if ok {
		return known
	}
	images := 0
	for d := range all(holder) {
		if d.DataAtom == atom.Img && d.Type == html.ElementNode && !inNoscript(d, holder) {
			if images++; images > 1 {
				break
			}
		}
	}
	r.single[holder] = images <= 1
	return images <= 1
}

func inNoscript(n, top *html.Node) bool {
	for ; n != nil && n != top; n = n.Parent {
		if n.DataAtom == atom.Noscript {
			return true
		}
	}
	return false
}

// holdsPicture reports whether a link has an img of its own.
func holdsPicture(n *html.Node) bool {
	for d := range all(n) {
		if d.DataAtom == atom.Img && d.Type == html.ElementNode {
			return true
		}
	}
	return false
}

// leadsAway reports whether a link leads to another page.
func (r *reader) leadsAway(link *html.Node) bool {
	href := strings.TrimSpace(attribute(link, "href"))
	if href == "" || href[0] == '#' {
		return false
	}
	to, ok := r.page.Resolve(href)
	if !ok {
		return false
	}
	plain := func(a string) string { a, _, _ = strings.Cut(a, "?"); return strings.TrimSuffix(a, "/") }
	return plain(to) != plain(r.page.Address)
}

// put puts a picture among those found; one that is there already, in whatever size, takes its addresses over.
func (r *reader) put(found Picture) {
	if len(found.Candidates) == 0 {
		return
	}
	at := -1
	for _, c := range found.Candidates {
		for _, key := range []string{c.Address, "free:" + SizeFree(c.Address)} {
			if i, ok := r.at[key]; ok && at < 0 {
				at = i
			}
		}
	}
	if at < 0 {
		if len(r.found) >= MostPictures {
			return
		}
		r.found = append(r.found, Picture{Element: found.Element, Alt: found.Alt, Shown: found.Shown, Stated: found.Stated, Why: found.Why})
		at = len(r.found) - 1
	}
	into := &r.found[at]
	if into.Element == 0 && found.Element > 0 {
		into.Element, into.Shown = found.Element, found.Shown
	}
	if found.Element > 0 && found.Element != into.Element {
		into.Also = append(into.Also, found.Element)
	}
	if into.Alt == "" {
		into.Alt = found.Alt
	}
	// Where it stands once as one of the product, that counts; a still of a video is one wherever it stands.
	switch {
	case into.Stated:
		if found.Why == Video {
			into.Why = Video
		}
	case found.Why == "" && into.Why != Video:
		into.Why = ""
	case found.Why == Video:
		into.Why = Video
	}
	for _, c := range found.Candidates {
		if !slices.ContainsFunc(into.Candidates, func(o Candidate) bool { return o.Address == c.Address }) {
			into.Candidates = append(into.Candidates, c)
		}
		r.at[c.Address] = at
		r.at["free:"+SizeFree(c.Address)] = at
	}
}

// scripts puts the addresses that stand in scripts to the pictures that they are larger ones of; those of no picture stand for themselves,
// where the page shows no picture but has them.
func (r *reader) scripts() {
	shown := len(r.found) > 0 && slices.ContainsFunc(r.found, func(p Picture) bool { return p.Why == "" })
	for _, ref := range r.loose {
		address, ok := r.page.Resolve(ref)
		if !ok || isPlaceholder(address) {
			continue
		}
		if _, known := r.at["free:"+SizeFree(address)]; known || !shown {
			r.put(Picture{Shown: address, Candidates: []Candidate{{Address: address, From: Script}}})
		}
	}
}
