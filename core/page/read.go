package page

import (
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/andybalholm/cascadia"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// GuideStep is a step of a guide.
type GuideStep string

const (
	StepNext     GuideStep = "next"
	StepItems    GuideStep = "items"
	StepTitle    GuideStep = "title"
	StepSKU      GuideStep = "sku"
	StepBarcode  GuideStep = "barcode"
	StepPictures GuideStep = "pictures"
	StepNot      GuideStep = "not"
)

// Item is what is read on an item's page, before any picture is asked for.
type Item struct {
	Title, SKU, Barcode string
	Pictures            []Picture
	Rules               []Rule      // over addresses, that the page shows by itself
	Failed              []GuideStep // steps of the guide that found nothing here
}

// Select are the elements that a selector finds; none for what can't be read, which Check says.
func (p *Page) Select(selector string) []*html.Node {
	if selector == "" {
		return nil
	}
	group, err := cascadia.ParseGroup(selector)
	if err != nil {
		return nil
	}
	return cascadia.QueryAll(p.Root, group)
}

// read is the text of a field on a page.
func (f Field) read(p *Page) string {
	found := p.Select(f.Selector)
	if len(found) == 0 {
		return ""
	}
	text := ""
	if f.Attribute != "" {
		text = cleanText(attribute(found[0], f.Attribute))
	} else if text = cleanText(microValue(found[0])); found[0].DataAtom == atom.A {
		text = Text(found[0])
	}
	if f.Pattern == "" {
		return text
	}
	pattern, err := regexp.Compile(f.Pattern)
	if err != nil {
		return ""
	}
	m := pattern.FindStringSubmatch(text)
	switch {
	case len(m) > 1:
		return strings.TrimSpace(m[1])
	case len(m) == 1:
		return strings.TrimSpace(m[0])
	}
	return ""
}

// Item reads an item's page by a guide; what the guide does not say is found by what the page's data say, and by itself.
func (g Guide) Item(p *Page) Item {
	product := p.Product()
	it := Item{Title: product.Title, SKU: product.SKU, Barcode: codeOf(product.Barcode)}
	for _, f := range []struct {
		step  GuideStep
		field Field
		into  *string
	}{{StepTitle, g.Title, &it.Title}, {StepSKU, g.SKU, &it.SKU}, {StepBarcode, g.Barcode, &it.Barcode}} {
		if f.field.Selector == "" {
			continue
		}
		if text := f.field.read(p); text != "" {
			*f.into = text
		} else {
			it.Failed = append(it.Failed, f.step)
		}
	}
	if it.Title == "" {
		if heads := p.Select("h1"); len(heads) > 0 {
			it.Title = Text(heads[0])
		} else {
			it.Title = p.Title
		}
	}
	it.Pictures = p.Pictures()
	if g.Pictures.Selector != "" && !g.choose(p, it.Pictures) {
		it.Failed = append(it.Failed, StepPictures)
	}
	g.leaveOut(p, it.Pictures)
	it.Rules = pageRules(it.Pictures)
	addRules(it.Pictures, g.Larger, it.Rules)
	return it
}

// choose leaves out what the guide does not point at, and takes the address from the attribute that it names. It reports whether it found any.
func (g Guide) choose(p *Page, pictures []Picture) bool {
	chosen := p.within(g.Pictures.Selector)
	any := false
	for i := range pictures {
		at := &pictures[i]
		holder := at.in(chosen)
		if holder == nil {
			if at.Why == "" {
				at.Why = NotGuided
			}
			continue
		}
		any = true
		if at.Why == Furniture || at.Why == OtherProduct || at.Why == OtherHost {
			at.Why = "" // people know better
		}
		if name := g.Pictures.Attribute; name != "" {
			for _, n := range []*html.Node{p.Element(at.Element), holder} {
				if address, ok := p.Resolve(attribute(n, name)); ok {
					at.Candidates = append([]Candidate{{Address: address, From: ByGuide}}, slices.DeleteFunc(at.Candidates, func(c Candidate) bool { return c.Address == address })...)
					break
				}
			}
		}
	}
	return any
}

// within says for the numbers of elements by which element of a selector they are found: they are it, stand below it, or it stands in their link.
func (p *Page) within(selector string) map[int]*html.Node {
	found := map[int]*html.Node{}
	for _, n := range p.Select(selector) {
		for d := range all(n) {
			if number := p.Number(d); number > 0 && found[number] == nil {
				found[number] = n
			}
		}
	}
	return found
}

// leaveOut leaves out what the guide says by markup alone.
func (g Guide) leaveOut(p *Page, pictures []Picture) {
	var out map[int]*html.Node
	if g.Not.Selector != "" {
		out = p.within(g.Not.Selector)
	}
	holds := func(text, part string) bool {
		return part != "" && strings.Contains(strings.ToLower(text), strings.ToLower(part))
	}
	for i := range pictures {
		at := &pictures[i]
		switch {
		case at.Why == Video && g.Not.Videos:
			at.Why = ""
		case at.Why != "":
		case at.in(out) != nil:
			at.Why = ByGuideNot
		case holds(at.Alt, g.Not.Alt):
			at.Why = ByAlt
		case slices.ContainsFunc(at.Candidates, func(c Candidate) bool { return holds(c.Address, g.Not.Address) }):
			at.Why = ByAddress
		}
	}
}

// ByGuideNot is the reason of what the guide's selector leaves out.
const ByGuideNot Reason = "guide"

// ItemLinks are the addresses of the items of a listing, each once, in the order of the page. Without a selector Ambrosa finds them by itself.
func (g Guide) ItemLinks(p *Page) (found []string) {
	seen := map[string]bool{p.Address: true}
	add := func(ref string) {
		if to, ok := p.Resolve(ref); ok && !seen[to] && len(found) < mostItems {
			seen[to] = true
			found = append(found, to)
		}
	}
	nodes := p.Select(g.Items.Selector)
	if g.Items.Selector == "" {
		nodes = p.guessItems()
	}
	for _, n := range nodes {
		if link := linkOf(n); link != nil {
			add(attribute(link, "href"))
		}
	}
	return found
}

// Leads are the items that a page leads to, at which a walk starts. Where the guide does not say what items are, a page that states a product, or
// leads to no group of others, is itself the item, and no listing.
func (g Guide) Leads(p *Page) (items []string, listing bool) {
	product := p.Product()
	if g.Items.Selector == "" && (product.SKU != "" || product.Barcode != "") {
		return []string{p.Address}, false
	}
	if items = g.ItemLinks(p); g.Items.Selector == "" && len(items) < fewItems {
		return []string{p.Address}, false
	}
	return items, true
}

// fewItems is less than what makes a listing.
const fewItems = 3

// mostItems is how many items one page of a listing may have.
const mostItems = 20_000

// linkOf is the link that an element is, holds, or stands in.
func linkOf(n *html.Node) *html.Node {
	for d := range all(n) {
		if d.DataAtom == atom.A && has(d, "href") {
			return d
		}
	}
	for up := n.Parent; up != nil; up = up.Parent {
		if up.DataAtom == atom.A && has(up, "href") {
			return up
		}
	}
	return nil
}

// guessItems are the links to other pages with a picture in them, of the largest group that stands in the same way on the page.
func (p *Page) guessItems() []*html.Node {
	groups := map[string][]*html.Node{}
	best := ""
	r := reader{page: p}
	for _, n := range p.Elements {
		if n.DataAtom != atom.A || !r.leadsAway(n) || isPictureAddress(attribute(n, "href")) || !holdsPicture(n) || underFurniture(n) {
			continue
		}
		way := wayOf(n)
		groups[way] = append(groups[way], n)
		if len(groups[way]) > len(groups[best]) {
			best = way
		}
	}
	return groups[best]
}

func underFurniture(n *html.Node) bool {
	for ; n != nil; n = n.Parent {
		if n.Type == html.ElementNode && whyBelow(n) == Furniture {
			return true
		}
	}
	return false
}

// wayOf is how an element stands on a page: the names of the elements around it.
func wayOf(n *html.Node) string {
	var b strings.Builder
	for ; n != nil && n.Type == html.ElementNode; n = n.Parent {
		b.WriteString(n.Data)
		b.WriteByte('<')
	}
	return b.String()
}

// NextPage is the address of the page behind one of a listing. number is that of the page itself, counted from 1. ok is false where it is the last.
func (g Guide) NextPage(p *Page, number int) (address string, ok bool) {
	switch {
	case g.Next.Number != "":
		from := g.Next.From
		if from == 0 {
			from = 2
		}
		next := from + number - 1
		if g.Next.Last > 0 && next > g.Next.Last {
			return "", false
		}
		return strings.ReplaceAll(g.Next.Number, "{page}", strconv.Itoa(next)), true
	case g.Next.Selector != "":
		for _, n := range p.Select(g.Next.Selector) {
			if link := linkOf(n); link != nil {
				if to, ok := p.Resolve(attribute(link, "href")); ok && to != p.Address {
					return to, true
				}
			}
		}
		return "", false
	}
	return p.guessNext()
}

// nextWords are what links to the next page say. Common practice, no source.
var nextWords = map[string]bool{"next": true, "next page": true, "next »": true, "next >": true, "next ›": true, "next →": true, "»": true, "›": true, "→": true, ">": true, "weiter": true, "nächste": true,
	"nächste seite": true, "suivant": true, "siguiente": true, "more": true, "older": true}

// guessNext finds the link to the next page: by rel, as WHATWG HTML (4.6.7) has it, else by what links say.
func (p *Page) guessNext() (string, bool) {
	for _, n := range p.Elements {
		if (n.DataAtom == atom.A || n.DataAtom == atom.Link) && slices.Contains(strings.Fields(strings.ToLower(attribute(n, "rel"))), "next") {
			if to, ok := p.Resolve(attribute(n, "href")); ok && to != p.Address {
				return to, true
			}
		}
	}
	for _, n := range p.Elements {
		if n.DataAtom != atom.A || !has(n, "href") {
			continue
		}
		if nextWords[strings.ToLower(Text(n))] || nextWords[strings.ToLower(attribute(n, "aria-label"))] {
			if to, ok := p.Resolve(attribute(n, "href")); ok && to != p.Address && sameHost(to, p.Address) {
				return to, true
			}
		}
	}
	return "", false
}

func sameHost(a, b string) bool {
	u, err := url.Parse(a)
	v, err2 := url.Parse(b)
	return err == nil && err2 == nil && u.Host == v.Host
}
