package pages

import (
	"bytes"
	"context"
	"io"
	"net/url"
	"regexp"
	"strconv"
	"strings"

	"ambrosa/core/page"
	"ambrosa/internal/fetch"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Through is where pictures of a page are fetched through, before the picture's address.
const Through = "/api/pages/picture?address="

// safe is what is left of a page that is shown: what gives it its form, and the numbers of its elements. Scripts, forms and frames are not.
var safe = policy()

func policy() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements("a", "abbr", "address", "article", "aside", "b", "bdi", "bdo", "blockquote", "br", "button", "caption", "center", "cite", "code", "col", "colgroup", "dd", "del", "details", "dfn", "div",
		"dl", "dt", "em", "figcaption", "figure", "font", "footer", "h1", "h2", "h3", "h4", "h5", "h6", "header", "hr", "i", "img", "ins", "kbd", "label", "li", "main", "mark", "nav", "ol", "p", "picture", "pre", "q",
		"s", "samp", "section", "small", "span", "strike", "strong", "sub", "summary", "sup", "table", "tbody", "td", "tfoot", "th", "thead", "time", "tr", "u", "ul", "var", "wbr")
	p.AllowNoAttrs().OnElements("a", "span", "font", "label")
	p.AllowAttrs("class", "id", "dir", "lang", "style", "hidden").Globally()
	p.AllowAttrs("data-n").Matching(regexp.MustCompile(`^[0-9]+$`)).Globally()
	p.AllowAttrs("colspan", "rowspan", "width", "height", "align", "valign").OnElements("td", "th", "table", "img", "col")
	p.AllowAttrs("alt").OnElements("img")
	p.AllowAttrs("open").OnElements("details")
	p.AllowAttrs("src").Matching(regexp.MustCompile(`^` + regexp.QuoteMeta(Through) + `[A-Za-z0-9%._~+-]+$`)).OnElements("img")
	p.AllowRelativeURLs(true)
	p.RequireParseableURLs(true)
	return p
}

const (
	mostStyles = 6        // sheets of styles that are fetched
	mostStyle  = 1 << 20  // bytes of each
	mostShown  = 16 << 20 // bytes of a page that is shown
)

// Shown is a page as HTML that can be shown in a frame without scripts: its elements carry their numbers as data-n, its pictures come through the
// server, and nothing of it runs or leads anywhere. Its styles come along where they can be had.
func (r *Reader) Shown(ctx context.Context, p *page.Page) (string, error) {
	shown, again := map[int]string{}, map[int]bool{}
	for _, picture := range p.Pictures() {
		for _, n := range append([]int{picture.Element}, picture.Also...) {
			shown[n] = picture.Shown
		}
		for _, n := range picture.Also { // what stands in noscript for one that comes late is shown in its place already
			again[n] = inNoscript(p.Element(n))
		}
	}
	var styles strings.Builder
	var sheets []string
	for i, n := range p.Elements {
		switch {
		case n.DataAtom == atom.Style && n.FirstChild != nil:
			styles.WriteString(cleanStyle(n.FirstChild.Data) + "\n")
		case n.DataAtom == atom.Link && strings.Contains(strings.ToLower(page.Attribute(n, "rel")), "stylesheet") && len(sheets) < mostStyles:
			if at, ok := p.Resolve(page.Attribute(n, "href")); ok {
				sheets = append(sheets, at)
			}
		}
		dress(n, i+1, shown[i+1])
		if again[i+1] {
			n.Attr = append(n.Attr, html.Attribute{Key: "hidden"})
		}
	}
	for _, at := range sheets {
		styles.WriteString(r.sheet(ctx, at))
	}
	var raw bytes.Buffer
	if body := find(p.Root, atom.Body); body != nil {
		body.Data, body.DataAtom = "div", atom.Div
		if err := html.Render(&raw, body); err != nil {
			return "", err
		}
	}
	if raw.Len() > mostShown {
		raw.Truncate(mostShown)
	}
	return `<!doctype html><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src 'self'; style-src 'unsafe-inline'"><style>` + styles.String() +
		"</style><style>[hidden]{display:none!important}a,button{cursor:default}img{min-width:8px;min-height:8px}</style>" + safe.SanitizeReader(&raw).String(), nil
}

// sheet fetches a sheet of styles; what can't be had is left out.
func (r *Reader) sheet(ctx context.Context, at string) string {
	if r.MayAsk(ctx, at) != nil {
		return ""
	}
	answer, err := r.Fetch.Get(ctx, fetch.Request{URL: at, Bytes: mostStyle, Paced: true})
	if err != nil {
		return ""
	}
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	if err != nil {
		return ""
	}
	return cleanStyle(string(b)) + "\n"
}

var (
	styleComment = regexp.MustCompile(`(?s)/\*.*?(?:\*/|$)`)
	styleImport  = regexp.MustCompile(`(?i)@(?:import|charset|namespace|font-face)[^;{}]*(?:;|\{[^}]*\})?`)
	styleAddress = regexp.MustCompile(`(?i)(?:url|src|image|image-set|-webkit-image-set|cross-fade|-webkit-cross-fade|element|expression|paint)\s*\(`)
	styleFixed   = regexp.MustCompile(`(?i)position\s*:\s*(?:fixed|sticky)`)
)

// cleanStyle takes out of styles what leads anywhere: addresses, imports, escapes by which those could be hidden, and what could end the element.
func cleanStyle(text string) string {
	text = strings.NewReplacer(`\`, "", "<", "", "\x00", "").Replace(text)
	text = styleComment.ReplaceAllString(text, " ")
	text = styleImport.ReplaceAllString(text, "")
	text = styleAddress.ReplaceAllString(text, "x(")
	return styleFixed.ReplaceAllString(text, "position:absolute")
}

// dress readies an element for being shown.
func dress(n *html.Node, number int, picture string) {
	kept := []html.Attribute{{Key: "data-n", Val: strconv.Itoa(number)}}
	for _, a := range n.Attr {
		switch {
		case a.Key == "style":
			kept = append(kept, html.Attribute{Key: "style", Val: cleanStyle(a.Val)})
		case a.Key != "src" && a.Key != "data-n" && a.Namespace == "":
			kept = append(kept, a)
		}
	}
	through := ""
	if picture != "" {
		through = Through + url.QueryEscape(picture)
	}
	switch n.DataAtom {
	case atom.Img:
		if through != "" {
			kept = append(kept, html.Attribute{Key: "src", Val: through})
		}
	case atom.Noscript:
		n.Data, n.DataAtom = "span", atom.Span
	case atom.Form, atom.Video, atom.Svg, atom.Input, atom.Select, atom.Textarea, atom.Iframe:
		n.Data, n.DataAtom, n.Namespace = "span", atom.Span, ""
	default:
		if through != "" { // a picture behind it, or one that a link leads to
			n.AppendChild(&html.Node{Type: html.ElementNode, Data: "img", DataAtom: atom.Img, Attr: []html.Attribute{{Key: "src", Val: through}, {Key: "data-n", Val: strconv.Itoa(number)}}})
		}
	}
	n.Attr = kept
}

func inNoscript(n *html.Node) bool {
	for n != nil && n.DataAtom != atom.Noscript {
		n = n.Parent
	}
	return n != nil
}

func find(n *html.Node, what atom.Atom) *html.Node {
	for d := range n.Descendants() {
		if d.DataAtom == what && d.Type == html.ElementNode {
			return d
		}
	}
	return nil
}
