package page

import (
	"regexp"
	"strings"

	"golang.org/x/net/html"
)

// hasData reports whether an element has data attributes.
func hasData(n *html.Node) bool {
	for i := range n.Attr {
		if strings.HasPrefix(n.Attr[i].Key, "data-") {
			return true
		}
	}
	return false
}

// dataAddresses are the addresses of pictures in an element's data attributes: as they are, or within JSON. srcset attributes are read elsewhere.
func dataAddresses(n *html.Node) (all []string) {
	for i := range n.Attr {
		name, text := n.Attr[i].Key, strings.TrimSpace(n.Attr[i].Val)
		if !strings.HasPrefix(name, "data-") || strings.HasSuffix(name, "srcset") || len(text) < 5 || len(text) > maxData || strings.HasPrefix(text, "data:") {
			continue
		}
		switch {
		case text[0] == '{' || text[0] == '[':
			all = append(all, pictureStrings(text)...)
		case !strings.ContainsAny(text, blank+"{}<>\"") && isPictureAddress(text):
			all = append(all, text)
		case saysLarge(name) && looksLikeAddress(text):
			all = append(all, text)
		}
	}
	return all
}

// maxData is how long an attribute of data may be that is read, in bytes.
const maxData = 64 << 10

var largeNames = regexp.MustCompile(`(?:^|-)(?:src|image|img|picture|large|big|full|zoom|original|hires|high)(?:-|$)`)

// saysLarge reports whether the name of a data attribute says that it holds a picture. Common practice, no source.
func saysLarge(name string) bool { return largeNames.MatchString(strings.TrimPrefix(name, "data-")) }

func looksLikeAddress(text string) bool {
	return !strings.ContainsAny(text, blank+"{}<>\"'") && (strings.HasPrefix(text, "http") || strings.HasPrefix(text, "/"))
}

// quoted are strings in scripts and JSON that look like addresses of pictures.
var quoted = regexp.MustCompile(`(?i)["'](` + `(?:(?:https?:)?(?:\\?/){2}|\\?/|\.{1,2}\\?/)?[^"'<>\s{}()]{1,1000}\.(?:jpe?g|png|webp|avif|gif|tiff?)(?:\?[^"'<>\s]{0,1000})?` + `)["']`)

// mostStrings is how many addresses are read out of one script.
const mostStrings = 2000

// pictureStrings are the addresses of pictures in a script or JSON text: its strings that end as those do.
func pictureStrings(text string) (all []string) {
	if !pictureName.MatchString(text) && !strings.Contains(text, ".jpg") && !strings.Contains(text, ".png") && !strings.Contains(text, ".webp") {
		return nil
	}
	plain := strings.NewReplacer(`\/`, "/", `\u002F`, "/", `\u002f`, "/", `\u0026`, "&")
	for _, m := range quoted.FindAllStringSubmatch(text, mostStrings) {
		if ref := plain.Replace(m[1]); !strings.Contains(ref, `\`) {
			all = append(all, ref)
		}
	}
	return all
}

var backgroundURL = regexp.MustCompile(`(?i)background(?:-image)?\s*:[^;]*?url\(\s*(?:"([^"]+)"|'([^']+)'|([^)'"\s]+))\s*\)`)

// background reads the picture that stands behind an element.
func (r *reader) background(n *html.Node, style string, in around) {
	for _, m := range backgroundURL.FindAllStringSubmatch(style, 4) {
		address, ok := r.page.Resolve(m[1] + m[2] + m[3])
		if !ok || isPlaceholder(address) {
			continue
		}
		found := Picture{Element: r.number, Alt: attribute(n, "aria-label"), Shown: address, Why: in.why, Candidates: []Candidate{{Address: address, From: Style}}}
		for _, ref := range dataAddresses(n) {
			if larger, ok := r.page.Resolve(ref); ok {
				found.Candidates = append([]Candidate{{Address: larger, From: Data}}, found.Candidates...)
			}
		}
		if in.link != nil {
			if to, ok := r.page.Resolve(attribute(in.link, "href")); ok && isPictureAddress(to) {
				found.Candidates = append([]Candidate{{Address: to, From: Link}}, found.Candidates...)
			} else if found.Why == "" && r.leadsAway(in.link) {
				found.Why = OtherProduct
			}
		}
		if found.Why == "" && saysVideo(n) {
			found.Why = Video
		}
		r.put(found)
	}
}
