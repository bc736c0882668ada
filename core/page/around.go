package page

import (
	"net/url"
	"regexp"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// The words by which pages name their parts are common practice, no source. Each stands as a whole between signs in a class or id.
var (
	furnitureWords = words("logo logos icon icons sprite payment payments social flag flags avatar badge badges banner banners advert adverts ad ads newsletter cookie cookies breadcrumb " +
		"breadcrumbs masthead topbar navbar nav menu header footer sitefooter siteheader sidebar usp trust seal rating ratings review reviews captcha")
	otherWords = words("related recommend recommended recommendation recommendations recommends similar upsell crosssell crosselling alsobought alsolike recently lately accessories others bestseller " +
		"bestsellers teaser teasers suggestions")
	otherPairs = []string{"cross-sell", "up-sell", "also-bought", "also-like", "you-may", "recently-viewed", "more-from", "other-products", "last-seen"}
	videoWords = words("video videos movie film play playbutton playicon videothumb")
	emptyWords = regexp.MustCompile(`(?i)(?:^|[/_.-])(?:placeholder|spacer|blank|pixel|transparent|loading|lazy(?:load)?|spinner|1x1|dummy|noimage|no-image|no_image|no-photo|nopicture)(?:[/_.?-]|$)`)
)

func words(list string) map[string]bool {
	all := map[string]bool{}
	for _, w := range strings.Fields(list) {
		all[w] = true
	}
	return all
}

// whyBelow says why pictures in an element are none of the product; empty where it says nothing.
func whyBelow(n *html.Node) Reason {
	switch n.DataAtom {
	case atom.Header, atom.Nav, atom.Footer:
		if !isItemPart(n) {
			return Furniture
		}
	}
	for i := range n.Attr {
		switch n.Attr[i].Key {
		case "role":
			switch strings.TrimSpace(n.Attr[i].Val) {
			case "banner", "navigation", "contentinfo", "search", "menu":
				return Furniture
			}
		case "class", "id":
			if why := whyNamed(n.Attr[i].Val); why != "" && n.DataAtom != atom.Body && n.DataAtom != atom.Html {
				return why
			}
		}
	}
	return ""
}

// isItemPart reports whether a header or footer is one of an article, not of the page.
func isItemPart(n *html.Node) bool {
	for p := n.Parent; p != nil; p = p.Parent {
		switch p.DataAtom {
		case atom.Article, atom.Section, atom.Main, atom.Figure:
			return true
		}
	}
	return false
}

func whyNamed(names string) Reason {
	names = strings.ToLower(names)
	for _, pair := range otherPairs {
		if strings.Contains(names, pair) {
			return OtherProduct
		}
	}
	start := -1
	for i := 0; i <= len(names); i++ {
		if i < len(names) && (names[i] >= 'a' && names[i] <= 'z' || names[i] >= 0x80) {
			if start < 0 {
				start = i
			}
			continue
		}
		if start >= 0 {
			switch word := names[start:i]; {
			case otherWords[word]:
				return OtherProduct
			case furnitureWords[word]:
				return Furniture
			}
			start = -1
		}
	}
	return ""
}

// isPlaceholder reports whether an address is one of what stands until a picture comes.
func isPlaceholder(address string) bool { return emptyWords.MatchString(address) }

// placeholderOf is the address of what stands until the picture comes, where it has one.
func placeholderOf(p *Page, src string) []Candidate {
	if address, ok := p.Resolve(src); ok {
		return []Candidate{{Address: address, From: Img}}
	}
	return nil
}

var videoFile = regexp.MustCompile(`(?i)\.(?:mp4|webm|m3u8|mov|ogv|m4v)(?:$|[?#])`)

// isVideoStill reports whether an img is a still of a video: its link leads to one, or a play sign stands with it.
func (r *reader) isVideoStill(n, link *html.Node) bool {
	if link != nil && (videoFile.MatchString(attribute(link, "href")) || saysVideo(link)) {
		return true
	}
	if saysVideo(n) {
		return true
	}
	// The parts around it that hold no other picture, and the signs in them.
	for up, levels := n.Parent, 0; up != nil && levels < 3 && r.alone(up); up, levels = up.Parent, levels+1 {
		if saysVideo(up) {
			return true
		}
		for c := up.FirstChild; c != nil; c = c.NextSibling {
			if c.Type == html.ElementNode && c != n && (c.DataAtom == atom.Video || saysVideo(c)) {
				return true
			}
		}
	}
	return false
}

func saysVideo(n *html.Node) bool {
	for i := range n.Attr {
		a := &n.Attr[i]
		switch a.Key {
		case "class", "id":
			for _, w := range strings.FieldsFunc(strings.ToLower(a.Val), func(r rune) bool { return r < 'a' || r > 'z' }) {
				if videoWords[w] {
					return true
				}
			}
		case "data-video", "data-video-src", "data-video-url", "data-video-id":
			return a.Val != ""
		case "data-type", "data-media-type", "data-kind", "itemprop", "type":
			if v := strings.ToLower(a.Val); v == "video" || strings.HasPrefix(v, "video/") {
				return true
			}
		case "aria-label", "title":
			if v := strings.ToLower(a.Val); strings.HasPrefix(v, "play ") || strings.Contains(v, "video") {
				return true
			}
		}
	}
	return false
}

// hosts leaves out what comes from somewhere else than most, and than the page.
func (r *reader) hosts() {
	count, whole := map[string]int{}, 0
	for i := range r.found {
		p := &r.found[i]
		if u, err := url.Parse(p.Candidates[0].Address); err == nil {
			p.host = siteOf(u.Hostname())
		}
		if p.Why == "" {
			count[p.host]++
			whole++
		}
		if p.Stated {
			count[p.host] += MostPictures
		}
	}
	own := siteOf(r.page.base.Hostname())
	for i := range r.found {
		if p := &r.found[i]; p.Why == "" && !p.Stated && p.host != own && count[p.host]*3 < whole {
			p.Why = OtherHost
		}
	}
}

// siteOf is a host without the names of single machines: its last two parts.
func siteOf(host string) string {
	parts := strings.Split(host, ".")
	if len(parts) <= 2 || strings.Trim(parts[len(parts)-1], "0123456789") == "" {
		return host
	}
	return strings.Join(parts[len(parts)-2:], ".")
}
