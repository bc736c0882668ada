// Package page reads what pages of shops say: which items a listing leads to, what an item is called, which pictures are its own, and where
// the largest of each is to be had. It asks for nothing: addresses go out, and what came back comes in.
package page

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/url"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
	"golang.org/x/net/html/charset"
)

// ErrPage is returned for what can't be read as a page.
var ErrPage = errors.New("this can't be read as a page")

// MostPictures is how many pictures are read off one page; what comes behind is left out.
const MostPictures = 5000

// Page is a page as it came, in a tree whose elements are numbered from 1 in their order.
type Page struct {
	Address  string // where it came from
	Root     *html.Node
	Elements []*html.Node // the n-th is at n-1
	Title    string       // that of the window
	base     *url.URL
	numbers  map[*html.Node]int // made when it is asked for
	product  *Product           // read when it is asked for
}

// Parse reads a page. contentType is what the server said of it, empty for nothing: the encoding is told by it, else by the page itself, as
// WHATWG Encoding and HTML (section 13.2.3.2, determining the character encoding) have it. ErrPage where it can't be read. Cost: by its bytes.
func Parse(b []byte, contentType, address string) (*Page, error) {
	at, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("%w: its address is none", ErrPage)
	}
	var in io.Reader = bytes.NewReader(b)
	if in, err = charset.NewReader(in, contentType); err != nil {
		if errors.Is(err, io.EOF) { // an empty page has no encoding
			return nil, fmt.Errorf("%w: it is empty", ErrPage)
		}
		in = bytes.NewReader(b) // an encoding that nobody knows: what is plain in it can be read all the same
	}
	// Without scripts, so that what stands in noscript is read as elements.
	root, err := html.ParseWithOptions(in, html.ParseOptionEnableScripting(false))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrPage, err)
	}
	p := &Page{Address: address, Root: root, base: at}
	p.number(root)
	return p, nil
}

// number numbers the elements, and finds what holds for the whole page.
func (p *Page) number(n *html.Node) {
	based := false
	for d := range all(n) {
		if d.Type != html.ElementNode {
			continue
		}
		p.Elements = append(p.Elements, d)
		switch d.DataAtom {
		case atom.Base:
			// The first one with an address counts (WHATWG HTML, 4.2.3), and none that leads to data or scripts.
			if href := attribute(d, "href"); href != "" && !based {
				based = true
				if to, err := p.base.Parse(strings.Trim(href, blank)); err == nil && (to.Scheme == "http" || to.Scheme == "https") {
					p.base = to
				}
			}
		case atom.Title:
			if p.Title == "" && d.Namespace == "" {
				p.Title = Text(d)
			}
		}
	}
}

// all are a node and all below it, in the order of the page. It does not recurse: hostile pages are deep.
func all(top *html.Node) func(yield func(*html.Node) bool) {
	return func(yield func(*html.Node) bool) {
		for n := top; n != nil; {
			if !yield(n) {
				return
			}
			if n.FirstChild != nil {
				n = n.FirstChild
				continue
			}
			for n != nil && n.NextSibling == nil {
				if n == top {
					return
				}
				n = n.Parent
			}
			if n == nil || n == top {
				return
			}
			n = n.NextSibling
		}
	}
}

// Number is the number of an element; 0 for what is none of the page.
func (p *Page) Number(n *html.Node) int {
	if p.numbers == nil {
		p.numbers = make(map[*html.Node]int, len(p.Elements))
		for i, e := range p.Elements {
			p.numbers[e] = i + 1
		}
	}
	return p.numbers[n]
}

// Element is that of a number; nil where there is none.
func (p *Page) Element(number int) *html.Node {
	if number < 1 || number > len(p.Elements) {
		return nil
	}
	return p.Elements[number-1]
}

// Resolve makes an address of the page whole, without its fragment. ok is false for what is no address of a web server, or has a name and
// password in it. Source: RFC 3986, section 5.
func (p *Page) Resolve(ref string) (address string, ok bool) {
	ref = strings.Trim(ref, blank)
	if ref == "" || len(ref) > maxAddress {
		return "", false
	}
	if strings.ContainsAny(ref, blank) {
		ref = blanksOut.Replace(ref)
	}
	to, err := p.base.Parse(ref)
	if err != nil || !isWeb(to) {
		return "", false
	}
	to.Fragment, to.RawFragment = "", ""
	return to.String(), true
}

// blanksOut treats blanks in addresses as WHATWG URL has browsers do.
var blanksOut = strings.NewReplacer("\t", "", "\n", "", "\r", "", " ", "%20")

// maxAddress is how long an address may be, in bytes; what is longer holds data.
const maxAddress = 4096

// Attribute is the value of an element's attribute, empty where there is none.
func Attribute(n *html.Node, name string) string { return attribute(n, name) }

// attribute is the value of an element's attribute, empty where there is none.
func attribute(n *html.Node, name string) string {
	for i := range n.Attr {
		if n.Attr[i].Key == name && n.Attr[i].Namespace == "" {
			return n.Attr[i].Val
		}
	}
	return ""
}

func has(n *html.Node, name string) bool {
	for i := range n.Attr {
		if n.Attr[i].Key == name {
			return true
		}
	}
	return false
}

// maxText is how much text is read out of one element, in bytes.
const maxText = 2000

// Text is what an element says, with single blanks; scripts and styles say nothing.
func Text(n *html.Node) string {
	var b strings.Builder
	gap := false
	var skip *html.Node
	for d := range all(n) {
		if skip != nil && below(d, skip) {
			continue
		}
		skip = nil
		if d.Type == html.ElementNode && (d.DataAtom == atom.Script || d.DataAtom == atom.Style || d.DataAtom == atom.Template) {
			skip = d
			continue
		}
		if d.Type != html.TextNode {
			gap = gap || d.Type == html.ElementNode && d != n && !inline[d.DataAtom]
			continue
		}
		for _, r := range d.Data {
			if isSpace(r) {
				gap = true
				continue
			}
			if gap && b.Len() > 0 {
				b.WriteByte(' ')
			}
			gap = false
			b.WriteRune(r)
		}
		if b.Len() > maxText {
			break
		}
	}
	text := b.String()
	if len(text) > maxText {
		text = strings.ToValidUTF8(text[:maxText], "")
	}
	return text
}

func isSpace(r rune) bool {
	return r == ' ' || r == '\n' || r == '\t' || r == '\r' || r == '\f' || r == 0xa0
}

// inline are elements that do not part words.
var inline = map[atom.Atom]bool{atom.B: true, atom.I: true, atom.Em: true, atom.Strong: true, atom.Span: true, atom.A: true, atom.Small: true, atom.Sub: true, atom.Sup: true,
	atom.Mark: true, atom.Abbr: true, atom.U: true, atom.Code: true, atom.Bdi: true, atom.Time: true, atom.Data: true, atom.Wbr: true}

// below reports whether a node is another, or stands below it.
func below(n, top *html.Node) bool {
	for ; n != nil; n = n.Parent {
		if n == top {
			return true
		}
	}
	return false
}

// SavedFrom is where a page that was saved came from: as the browser noted it, or as the page says of itself. Empty where nobody says.
func (p *Page) SavedFrom() string {
	if !strings.Contains(p.Address, "//saved.invalid/") {
		return p.Address
	}
	for n := range all(p.Root) {
		if n.Type == html.CommentNode {
			if _, at, ok := strings.Cut(n.Data, "saved from url=("); ok {
				_, at, _ = strings.Cut(at, ")")
				return strings.TrimSpace(at)
			}
		}
		if n.DataAtom == atom.Body {
			break
		}
	}
	for _, n := range p.Elements {
		switch {
		case n.DataAtom == atom.Link && attribute(n, "rel") == "canonical":
			return attribute(n, "href")
		case n.DataAtom == atom.Meta && attribute(n, "property") == "og:url":
			return attribute(n, "content")
		}
	}
	return ""
}
