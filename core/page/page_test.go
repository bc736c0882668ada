package page_test

import (
	"ambrosa/core/checks"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/page"
)

func parse(t *testing.T, text string) *page.Page {
	t.Helper()
	p, err := page.Parse([]byte(text), "text/html; charset=utf-8", "https://shop.example/p/1")
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// tell writes what is found: where from, the best address, and why it is left out.
func tell(pictures []page.Picture) string {
	var all []string
	for _, p := range pictures {
		best := slices.MinFunc(p.Candidates, func(a, b page.Candidate) int { return 0 })
		if tries := p.Tries(); len(tries) > 0 {
			best = tries[0]
		}
		line := string(best.From) + " " + strings.TrimPrefix(best.Address, "https://shop.example")
		if p.Why != "" {
			line = "(" + string(p.Why) + ")"
		}
		all = append(all, line)
	}
	return strings.Join(all, ", ")
}

// Where pages have their pictures: WHATWG HTML for img, srcset, picture, base and noscript; the rest is common practice, no source.
func TestPictures(t *testing.T) {
	for _, c := range []struct{ name, html, want string }{
		{"an img", `<img src=a.jpg>`, "img /p/a.jpg"},
		{"a base", `<base href=/x/><img src=a.jpg>`, "img /x/a.jpg"},
		{"a link to the large one", `<a href=/l.jpg><img src=/t.jpg></a>`, "link /l.jpg"},
		{"the link's words", `<a href=/l.jpg>Picture for print</a>`, "link /l.jpg"},
		{"a srcset", `<img src=a.jpg srcset="a.jpg 300w, b.jpg 900w">`, "srcset /p/b.jpg"},
		{"a picture element", `<picture><source srcset="b.webp 1200w"><img src=a.jpg></picture>`, "srcset /p/b.webp"},
		{"data of the img", `<img src=/t.jpg data-zoom-image=/l.jpg>`, "data /l.jpg"},
		{"data without an extension", `<img src=/t.jpg data-large=/media/77>`, "data /media/77"},
		{"JSON in data", `<img src=/t.jpg data-views='{"zoom":"\/l.jpg"}'>`, "data /l.jpg"},
		{"data around one img", `<li data-full=/l.jpg><span><img src=/t.jpg></span></li>`, "data /l.jpg"},
		{"data around two", `<div data-full=/l.jpg><img src=/kite.jpg><img src=/reel.jpg></div>`, "img /kite.jpg, img /reel.jpg"},
		{"lazy", `<img src="data:image/gif;base64,R0lGOD" data-src=/a.jpg>`, "data /a.jpg"},
		{"lazy with noscript", `<img src="data:image/gif;base64,R0lGOD"><noscript><img src=/a.jpg></noscript>`, "noscript /a.jpg"},
		{"lazy, both", `<img src=/img/blank.gif data-src=/a.jpg><noscript><img src=/a.jpg></noscript>`, "data /a.jpg"},
		{"a background", `<div style="background-image: url('/a.jpg')"></div>`, "style /a.jpg"},
		{"a script that knows the larger", `<img src=/a_small.jpg><script>var g=["https:\/\/shop.example\/a_large.jpg"]</script>`, "script /a_large.jpg"},
		{"a script alone", `<div></div><script>{"g":["\/a.jpg","\/b.jpg"]}</script>`, "script /a.jpg, script /b.jpg"},
		{"JSON-LD first", `<img src=/b.jpg><script type=application/ld+json>{"@type":"Product","image":["/a.jpg","/b.jpg"]}</script>`, "json-ld /a.jpg, json-ld /b.jpg"},
		{"microdata", `<div itemscope itemtype="https://schema.org/Product"><img itemprop=image src=/a.jpg></div>`, "microdata /a.jpg"},
		{"OpenGraph", `<meta property=og:image content=/a.jpg>`, "opengraph /a.jpg"},
		{"OpenGraph beside data", `<meta property=og:image content=/logo2.jpg><script type=application/ld+json>{"@type":"Product","image":"/a.jpg"}</script>`, "json-ld /a.jpg"},
		{"one picture in two sizes", `<img src=/kite-600x600.jpg><a href=/kite.jpg><img src=/kite-80x80.jpg></a>`, "link /kite.jpg"},
		{"a logo", `<header><img src=/l.png></header><div class="site-logo"><img src=/m.png></div><img src=/a.jpg>`, "(furniture), (furniture), img /a.jpg"},
		{"the head of an article", `<article><header><img src=/a.jpg></header></article>`, "img /a.jpg"},
		{"another product", `<div class=related-items><img src=/r.jpg></div><a href=/p/2><img src=/s.jpg></a>`, "(other_product), (other_product)"},
		{"a link to itself", `<a href="/p/1?zoom=1"><img src=/s.jpg></a>`, "img /s.jpg"},
		{"a video's still", `<a href=/v.mp4><img src=/v.jpg></a><div class="thumb thumb--video"><img src=/w.jpg></div><li><img src=/x.jpg><i class=play-icon></i></li><video poster=/y.jpg></video>`, "(video), (video), (video), (video)"},
		{"what stands until it comes", `<img src=/spinner.gif><img src=/a.jpg width=1 height=1>`, "(placeholder), (placeholder)"},
		{"from elsewhere", `<img src=/a.jpg><img src=/b.jpg><img src=/c.jpg><img src=https://ads.example.org/x.jpg>`, "img /a.jpg, img /b.jpg, img /c.jpg, (other_host)"},
		{"the shop's other machine", `<img src=https://img.shop.example/a.jpg>`, "img https://img.shop.example/a.jpg"},
		{"what is no address", `<img src="javascript:alert(1)"><img src="https://u:p@shop.example/a.jpg"><img src="file:///etc/passwd"><img src="data:image/png;base64,AAAA">`, ""},
		{"a rule that the page shows", `<a href=/l/1.jpg><img src=/s/1.jpg></a><a href=/l/2.jpg><img src=/s/2.jpg></a><img src=/s/3.jpg>`, "link /l/1.jpg, link /l/2.jpg, rule /l/3.jpg"},
	} {
		if got := tell(page.Guide{}.Item(parse(t, c.html)).Pictures); got != c.want {
			t.Errorf("%s: %s; want %s", c.name, got, c.want)
		}
	}
}

// The example that schema.org/Product gives, from memory, in JSON-LD and in microdata; the names are other ones.
func TestProduct(t *testing.T) {
	const linked = `<script type="application/ld+json">{"@context":"https://schema.org","@type":"Product","name":"Delta kite 140","image":"delta-140.jpg","description":"A kite.",
		"sku":"PK-DLT-140","gtin13":"9520123456788","aggregateRating":{"@type":"AggregateRating","ratingValue":"3.5"},"offers":{"@type":"Offer","price":"55.00"},
		"isRelatedTo":{"@type":"Product","name":"Reel","image":"reel.jpg"},"review":[{"@type":"Review","author":"Mo","name":"Good"}]}</script>`
	const micro = `<div itemscope itemtype="https://schema.org/Product"><span itemprop="name">Delta kite 140</span><img itemprop="image" src="delta-140.jpg" alt="kite">
		<meta itemprop="sku" content="PK-DLT-140"><meta itemprop="gtin13" content="9520123456788"><div itemprop="aggregateRating" itemscope itemtype="https://schema.org/AggregateRating"><span itemprop="name">no</span></div>
		<div itemprop="isRelatedTo" itemscope itemtype="https://schema.org/Product"><span itemprop="name">Reel</span><img itemprop="image" src="reel.jpg"></div></div>`
	for name, text := range map[string]string{"JSON-LD": linked, "microdata": micro, "in a graph": strings.Replace(strings.Replace(linked, `{"@context"`, `{"@graph":[{"@type":"WebPage"},{"@context"`, 1), "]}</script>", "]}]}</script>", 1)} {
		p := parse(t, text).Product()
		if got := fmt.Sprint(p.Title, "|", p.SKU, "|", p.Barcode, "|", len(p.Images)); got != "Delta kite 140|PK-DLT-140|9520123456788|1" || p.Images[0].Address != "https://shop.example/p/delta-140.jpg" {
			t.Errorf("%s: %+v", name, p)
		}
	}
}

// Source: RFC 3986, section 5.4, reference resolution examples; those that lead to a web server, without their fragments.
func TestResolve(t *testing.T) {
	p, err := page.Parse([]byte("<p>"), "", "http://a/b/c/d;p?q")
	if err != nil {
		t.Fatal(err)
	}
	for _, line := range strings.Split(`g:h 
g http://a/b/c/g
./g http://a/b/c/g
g/ http://a/b/c/g/
/g http://a/g
//g http://g
?y http://a/b/c/d;p?y
g?y http://a/b/c/g?y
#s http://a/b/c/d;p?q
g#s http://a/b/c/g
g?y#s http://a/b/c/g?y
;x http://a/b/c/;x
g;x http://a/b/c/g;x
g;x?y#s http://a/b/c/g;x?y
. http://a/b/c/
./ http://a/b/c/
.. http://a/b/
../ http://a/b/
../g http://a/b/g
../.. http://a/
../../ http://a/
../../g http://a/g
../../../g http://a/g
../../../../g http://a/g
/./g http://a/g
/../g http://a/g
g. http://a/b/c/g.
.g http://a/b/c/.g
g.. http://a/b/c/g..
..g http://a/b/c/..g
./../g http://a/b/g
./g/. http://a/b/c/g/
g/./h http://a/b/c/g/h
g/../h http://a/b/c/h
g;x=1/./y http://a/b/c/g;x=1/y
g;x=1/../y http://a/b/c/y
g?y/./x http://a/b/c/g?y/./x
g?y/../x http://a/b/c/g?y/../x`, "\n") {
		ref, want, _ := strings.Cut(line, " ")
		if got, ok := p.Resolve(ref); got != want || ok != (want != "") {
			t.Errorf("%s is %s, want %s", ref, got, want)
		}
	}
}

// Source: RFC 9309, sections 2.2.2, 2.2.3 and 5 (examples), from memory.
func TestRobots(t *testing.T) {
	const simple = "User-Agent: *\nDisallow: *.gif$\nDisallow: /example/\nAllow: /publications/\n\nUser-Agent: foobot\nDisallow:/\nAllow:/example/page.html\nAllow:/example/allowed.gif\n\n" +
		"User-Agent: barbot\nUser-Agent: bazbot\nDisallow: /example/page.html\n\nUser-Agent: quxbot\n"
	const longest = "User-Agent: foobot\nAllow: /example/page/\nDisallow: /example/page/disallowed.gif\n"
	for _, c := range []struct {
		text, robot, path string
		want              bool
	}{
		{simple, "foobot", "/example/page.html", true}, {simple, "foobot", "/example/allowed.gif", true}, {simple, "foobot", "/other", false}, {simple, "FooBot", "/", false},
		{simple, "barbot", "/example/page.html", false}, {simple, "bazbot", "/example/page.html", false}, {simple, "barbot", "/x.gif", true},
		{simple, "quxbot", "/example/", true}, {simple, "other", "/a/b.gif", false}, {simple, "other", "/a/b.gif?x", true}, {simple, "other", "/example/x", false}, {simple, "other", "/publications/", true},
		{longest, "foobot", "/example/page/disallowed.gif", false}, {longest, "foobot", "/example/page/x", true},
		{"User-agent: *\nDisallow: /a\nAllow: /a", "x", "/a", true},
		{"User-agent: *\nDisallow: /foo/bar/U+E38384", "x", "/foo/bar/U+E38384", false},
		{"User-agent: *\nDisallow: /foo/bar/ツ", "x", "/foo/bar/%E3%83%84", false},
		{"User-agent: *\nDisallow: /foo/bar/%E3%83%84", "x", "/foo/bar/ツ", false},
		{"User-agent: *\nDisallow: /foo/bar/%62%61%7A", "x", "/foo/bar/baz", false},
		{"User-agent: *\nDisallow: /\r\n", "x", "/robots.txt", true},
		{"\xEF\xBB\xBFuser-agent : *\rdisallow : /x # why\r", "x", "/x/y", false},
		{"User-agent: *\nDisallow: /a*b*c$", "x", "/axxbxxcxxc", false}, {"User-agent: *\nDisallow: /a*b*c$", "x", "/axbxcx", true},
		{"Disallow: /", "x", "/", true}, {"", "x", "/", true}, {"<html>User-agent: *</html>", "x", "/", true},
		{"User-agent: x/1.0\nDisallow: /", "x", "/", false},
		{"User-agent: *\nUser-agent: x\nDisallow: /1\n\nUser-agent: x\nDisallow: /2", "x", "/1", false}, {"User-agent: *\nUser-agent: x\nDisallow: /1\n\nUser-agent: x\nDisallow: /2", "x", "/2", false},
	} {
		if got, line := page.ReadRobots([]byte(c.text), c.robot).Allows(c.path); got != c.want {
			t.Errorf("%q lets %s to %s: %t by %q", c.text, c.robot, c.path, got, line)
		}
	}
}

const shopPage = `<html><body><nav><a href=/>Home</a></nav><main id=main><h1 class=name>Delta</h1><p class="no num-4711">Art. no. <b>PK-DLT-140</b></p>
<div class=gallery><figure class="shot first"><a href=/l/1.jpg><img src=/s/1.jpg></a></figure><figure class=shot><a href=/l/2.jpg><img src=/s/2.jpg></a></figure>
<figure class="shot active"><a href=/l/3.jpg><img src=/s/3.jpg></a></figure></div></main>
<ul class=more><li class=tile><a href=/p/2><img src=/s/8.jpg><h3>Reel</h3></a></li><li class=tile><a href=/p/3><img src=/s/9.jpg><h3>Tail</h3></a></li></ul><a class=next href="?page=2">Next</a></body></html>`

// TestPoint points at elements of a page, and uses the selector on it and on one where elements came before them.
func TestPoint(t *testing.T) {
	later := strings.NewReplacer(`<div class=gallery>`, `<div class=banner><figure><img src=/x.jpg></figure></div><div class=gallery><figure class=shot><a href=/l/0.jpg><img src=/s/0.jpg></a></figure>`,
		`<h1`, `<p>New</p><h1`, `<ul class=more>`, `<ul class=more><li class="tile wide"><a href=/p/4><img src=/s/7.jpg><h3>Line</h3></a></li>`).Replace(shopPage)
	for _, c := range []struct {
		name        string
		at          []string // selectors of what is pointed at
		many        bool
		here, later int
	}{
		{"a title", []string{"h1"}, false, 1, 1},
		{"a code", []string{"b"}, false, 1, 1},
		{"the next page", []string{"a.next"}, false, 1, 1},
		{"one picture of a gallery", []string{"figure:nth-child(2) img"}, true, 3, 4},
		{"the first picture", []string{"figure:nth-child(1) img"}, true, 3, 4},
		{"two pictures", []string{"figure:nth-child(1) img", "figure:nth-child(3) img"}, true, 3, 4},
		{"one item", []string{"li:nth-child(1) h3"}, true, 2, 3},
		{"two items", []string{"li:nth-child(1) a", "li:nth-child(2) a"}, true, 2, 3},
	} {
		p := parse(t, shopPage)
		var numbers []int
		for _, at := range c.at {
			numbers = append(numbers, p.Number(p.Select(at)[0]))
		}
		got, err := p.Point(numbers, c.many)
		if err != nil || len(got.Found) != c.here || !slices.Contains(got.Found, numbers[0]) || len(parse(t, later).Select(got.Selector)) != c.later {
			t.Errorf("%s: %q finds %v, %d later; %v", c.name, got.Selector, got.Found, len(parse(t, later).Select(got.Selector)), err)
		}
		if strings.Contains(got.Selector, "nth") || strings.Contains(got.Selector, "active") || strings.Contains(got.Selector, "4711") {
			t.Errorf("%s: %q counts siblings, or holds what passes", c.name, got.Selector)
		}
	}
}

func TestGuide(t *testing.T) {
	g := page.Guide{Form: 1, Start: []string{"https://shop.example/"}, Title: page.Field{Selector: "h1"}, SKU: page.Field{Selector: "p.no", Pattern: `no\. (\S+)`},
		Pictures: page.Pictures{Selector: ".gallery img"}, Items: page.Items{Selector: "li.tile"}, Next: page.Next{Selector: "a.next"}}
	if err := g.Check(); err != nil {
		t.Fatal(err)
	}
	p := parse(t, shopPage)
	it := g.Item(p)
	if it.Title != "Delta" || it.SKU != "PK-DLT-140" || len(it.Failed) > 0 || tell(it.Pictures) != "link /l/1.jpg, link /l/2.jpg, link /l/3.jpg, (other_product), (other_product)" {
		t.Errorf("the item: %+v, %s", it, tell(it.Pictures))
	}
	next, ok := g.NextPage(p, 1)
	links := g.ItemLinks(p)
	if fmt.Sprint(links) != "[https://shop.example/p/2 https://shop.example/p/3]" || next != "https://shop.example/p/1?page=2" || !ok || fmt.Sprint(page.Guide{}.ItemLinks(p)) != fmt.Sprint(links) {
		t.Errorf("items %v, next %s", links, next)
	}
	if found, _ := (page.Guide{}).NextPage(p, 1); found != next {
		t.Errorf("without a guide the next page is %s", found)
	}
	lost := page.Guide{Form: 1, Start: g.Start, Title: page.Field{Selector: ".gone"}, Pictures: page.Pictures{Selector: ".gone"}}.Item(p)
	if fmt.Sprint(lost.Failed) != "[title pictures]" || lost.Title != "Delta" {
		t.Errorf("a guide that finds nothing says %v, title %q", lost.Failed, lost.Title)
	}
	counted := page.Guide{Next: page.Next{Number: "https://shop.example/l?page={page}", Last: 3}}
	second, _ := counted.NextPage(p, 1)
	_, more := counted.NextPage(p, 3)
	if second != "https://shop.example/l?page=2" || more {
		t.Errorf("by number: %s, more behind the last: %t", second, more)
	}
	for name, wrong := range map[string]page.Guide{"form": {Start: g.Start}, "start": {Form: 1}, "address": {Form: 1, Start: []string{"ftp://x"}}, "secret": {Form: 1, Start: []string{"https://u:p@x/"}},
		"selector": {Form: 1, Start: g.Start, Title: page.Field{Selector: "a["}}, "pattern": {Form: 1, Start: g.Start, SKU: page.Field{Pattern: "("}}, "number": {Form: 1, Start: g.Start, Next: page.Next{Number: "https://x/2"}}} {
		if wrong.Check() == nil {
			t.Errorf("%s: it may be", name)
		}
	}
}

// TestChoose decides by what was found at the addresses.
func TestChoose(t *testing.T) {
	look := uint64(7)
	seen := map[string]page.Seen{
		"https://shop.example/a.jpg": {Width: 900, Height: 900, Bytes: 10, Head: "a"}, "https://shop.example/b.jpg": {Width: 900, Height: 700, Bytes: 11, Head: "b", Likeness: &look},
		"https://shop.example/c.jpg": {Width: 200, Height: 900, Bytes: 12}, "https://shop.example/d.jpg": {Width: 900, Height: 900, Bytes: 10, Head: "a"},
		"https://shop.example/e.jpg": {Failed: page.Unreached}, "https://shop.example/f.jpg": {Width: 3000, Height: 600, Bytes: 13}, "https://shop.example/t.jpg": {Width: 90, Height: 90, Bytes: 1},
		"https://shop.example/g.jpg": {Width: 1600, Height: 1600, Bytes: 14, Facts: &checks.Facts{Width: 1600, Height: 1600, TrueWidth: 500, Padding: checks.Sides{Left: 400}}},
	}
	pictures := page.Guide{}.Item(parse(t, `<img src=/a.jpg><img src=/b.jpg><img src=/c.jpg><img src=/d.jpg><img src=/e.jpg><img src=/f.jpg><a href=/e.jpg><img src=/t.jpg></a><a href=/g.jpg><img src=/t2.jpg></a>`)).Pictures
	told := func(all []page.Chosen) (s string) {
		for _, c := range all {
			s += fmt.Sprintf("%s %d %s %d; ", c.Taken.Address[len("https://shop.example/"):], c.Order, c.Why, len(c.Remarks))
		}
		return s
	}
	if got := told(page.Choose(pictures, seen, page.Not{Least: 500}, false)); got != "a.jpg 1  0; b.jpg 2  0; c.jpg 0 small 0; d.jpg 0 twin 0; t.jpg 0 small 0; f.jpg 0 shape 0; g.jpg 3  2; " {
		t.Error(got)
	}
	if got := told(page.Choose(pictures, seen, page.Not{Places: []int{1, -1}}, true)); got != "a.jpg 0 place 0; b.jpg 1  0; c.jpg 2  0; d.jpg 0 twin 0; t.jpg 3  0; f.jpg 4  0; g.jpg 0 place 0; " {
		t.Error(got)
	}
}

// TestHostilePages reads pages that were made to do harm.
func TestHostilePages(t *testing.T) {
	many := strings.Repeat(`<img src="/a.jpg" class=x>`, 100) + func() string {
		var b strings.Builder
		for i := range 100_000 {
			fmt.Fprintf(&b, `<div data-x="1"><img src="/%d.jpg"></div>`, i)
		}
		return b.String()
	}()
	if got := len(parse(t, "<body data-big=1>"+many).Pictures()); got != page.MostPictures {
		t.Errorf("of 100,000 pictures %d are read", got)
	}
	for name, text := range map[string]string{"deep": strings.Repeat("<div data-a=1>", 100_000), "open": `<img src="/a.jpg`, "none": "\x00\x01\x02", "JSON": `<script type=application/ld+json>{"@type":"Product","image":[[[[[[[["/a.jpg"]]]]]]]]`,
		"selfish": strings.Repeat(`<a href=/a.jpg>`, 2000), "quotes": strings.Repeat(`<div style="background:url(((((`, 1000)} {
		if p, err := page.Parse([]byte(text), "", "https://shop.example/"); err == nil {
			p.Pictures()
		} else if !strings.Contains(err.Error(), page.ErrPage.Error()) {
			t.Errorf("%s: %v", name, err)
		}
	}
	for name, c := range map[string][2]string{"said": {"<title>Dr\xe4chen</title>", "text/html; charset=iso-8859-1"}, "meta": {"<meta charset=windows-1252><title>Dr\xe4chen</title>", ""},
		"none said": {"<title>Drächen</title>", ""}, "unknown": {"<title>Drächen</title>", "text/html; charset=klingon"}, "UTF-16": {"\xfe\xff" + utf16("<title>Drächen</title>"), "text/html"}} {
		p, err := page.Parse([]byte(c[0]), c[1], "https://shop.example/")
		if err != nil || p.Title != "Drächen" {
			t.Errorf("%s: %q, %v", name, p.Title, err)
		}
	}
}

func utf16(text string) string {
	var b []byte
	for _, r := range text {
		b = append(b, byte(r>>8), byte(r))
	}
	return string(b)
}
