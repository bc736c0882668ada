package demo

import (
	"fmt"
	"html"
	"net/http"
	"strconv"
	"strings"

	"ambrosa/internal/standin"
)

// ShopHost is where Windhover Remnants have their shop.
const ShopHost = "shop.windhover.example"

// The shop's listing: so many items, so many on a page.
const (
	shopItems   = 36
	shopOnPage  = 12
	shopSmall   = 160
	shopMiddle  = 420
	shopLarge   = 1000
	shopNoRobot = 17 // the item whose page lies in the folder that robots.txt forbids
	shopBusy    = 5  // the item whose page answers 503 the first time
)

// remnants are the articles that Windhover Remnants sell.
func remnants() []article { return of("PFL", "TAL")[60 : 60+shopItems] }

// shopViews are the pictures of an item: some have three, some have two.
func shopViews(i int) []view {
	if i%3 == 1 {
		return []view{front, detail}
	}
	return []view{front, back, detail}
}

// shopAddress is where a picture lies in a size: the shop grew over the years, and knows five ways to say a size.
func shopAddress(i int, v view, size int) string {
	name := fmt.Sprintf("wr%03d-%s", 100+i, v)
	large := size == shopLarge
	switch i % 5 {
	case 0:
		return "/img/" + map[bool]string{true: "l", false: "s"}[large] + "/" + name + ".jpg"
	case 1:
		return "/media/" + name + map[bool]string{true: "", false: fmt.Sprintf("-%dx%d", size, size)}[large] + ".jpg"
	case 2:
		return "/pics/" + name + ".jpg" + map[bool]string{true: "?v=3", false: fmt.Sprintf("?v=3&w=%d", size)}[large]
	case 3:
		return "/photo/" + name + map[bool]string{true: "_xl", false: "_t"}[large] + ".jpg"
	}
	return "/cache/" + map[bool]string{true: "", false: fmt.Sprintf("%dx%d/", size, size)}[large] + name + ".jpg"
}

func shopPage(i int) string {
	if i == shopNoRobot {
		return fmt.Sprintf("/private/wr%03d.html", 100+i)
	}
	return fmt.Sprintf("/item/wr%03d.html", 100+i)
}

// pixelGIF is a transparent pixel, as pages have it where a picture comes later.
const pixelGIF = "data:image/gif;base64,R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7"

const shopStyle = `body{font:15px/1.5 sans-serif;margin:0;background:#fff;color:#223}.bar{background:#2f4858;color:#fff;padding:12px 24px}.bar a{color:#fff;margin-right:16px}
.goods{display:grid;grid-template-columns:repeat(4,1fr);gap:20px;padding:24px;list-style:none;margin:0}.goods li{border:1px solid #dde}.goods img,.shots img{display:block;width:100%}
.name{padding:8px;font-size:14px}.item{display:grid;grid-template-columns:420px 1fr;gap:32px;padding:24px}.shots{display:grid;grid-template-columns:repeat(3,1fr);gap:8px}.shots .first{grid-column:1/-1}
.alike{display:flex;gap:12px;padding:24px;background:#f4f4f8}.alike img{width:110px}.pages{padding:24px}.note{background:#fde8c8;padding:8px}`

// shop answers as Windhover Remnants' shop does.
func (o *Outside) shop(r *http.Request) *standin.Page {
	all := remnants()
	path := r.URL.Path
	switch path {
	case "/robots.txt":
		return &standin.Page{Bytes: []byte("User-agent: *\nDisallow: /private/\n"), Header: map[string]string{"Content-Type": "text/plain"}}
	case "/":
		return htmlPage(`<h1>Windhover Remnants</h1><p><a href="/remnants?page=1">All remnants</a>`)
	case "/remnants":
		n, err := strconv.Atoi(r.URL.Query().Get("page"))
		if err != nil || n < 1 || n > (len(all)+shopOnPage-1)/shopOnPage {
			return nil
		}
		return htmlPage(shopListing(all, n))
	}
	for i, a := range all {
		if path == shopPage(i) {
			if i == shopBusy && o.once("shop "+path) {
				return &standin.Page{Status: http.StatusServiceUnavailable, Header: map[string]string{"Retry-After": "1"}}
			}
			return htmlPage(shopItem(all, i, a))
		}
		if !strings.Contains(path, fmt.Sprintf("wr%03d-", 100+i)) {
			continue
		}
		for _, v := range append(shopViews(i), packed) {
			for _, size := range []int{shopSmall, shopMiddle, shopLarge} {
				if r.URL.RequestURI() == shopAddress(i, v, size) {
					return &standin.Page{Bytes: o.drawn(a, v, size), Header: map[string]string{"ETag": fmt.Sprintf(`"%d-%s-%d"`, i, v, size)}}
				}
			}
		}
	}
	if path == "/logo.png" {
		return &standin.Page{Bytes: drawing(all[0], packed, 60)}
	}
	return nil
}

// drawn is a picture of an article, which is drawn once.
func (o *Outside) drawn(a article, v view, size int) []byte {
	key := fmt.Sprintf("%s %s %d", a.sku, v, size)
	if b, ok := o.pictures.Load(key); ok {
		return b.([]byte)
	}
	b := drawing(a, v, size)
	o.pictures.Store(key, b)
	return b
}

func htmlPage(body string) *standin.Page {
	return &standin.Page{Bytes: []byte(`<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Windhover Remnants</title><style>` + shopStyle + `</style></head><body>
<header class="bar"><img src="/logo.png" alt="Windhover Remnants" width="30" height="30"> <a href="/">Home</a> <a href="/remnants?page=1">Remnants</a></header>` + body +
		`<footer class="bar">Windhover Remnants, everything must fly.</footer></body></html>`), Header: map[string]string{"Content-Type": "text/html; charset=utf-8"}}
}

// shopListing is one page of the listing: its pictures come late.
func shopListing(all []article, n int) string {
	var b strings.Builder
	fmt.Fprintf(&b, `<h1 class="bar">Remnants, page %d</h1><ul class="goods">`, n)
	for i := (n - 1) * shopOnPage; i < min(n*shopOnPage, len(all)); i++ {
		small := shopAddress(i, front, shopSmall)
		fmt.Fprintf(&b, `<li class="good%s"><a href="%s"><img src="%s" data-src="%s" alt="%s"><noscript><img src="%s"></noscript></a><div class="name">%s</div></li>`,
			map[bool]string{true: " reduced", false: ""}[i%4 == 2], shopPage(i), pixelGIF, small, html.EscapeString(shopTitle(all[i])), small, html.EscapeString(shopTitle(all[i])))
	}
	b.WriteString(`</ul><nav class="pages">`)
	if n > 1 {
		fmt.Fprintf(&b, `<a class="earlier" href="/remnants?page=%d">Back</a> `, n-1)
	}
	if n*shopOnPage < len(all) {
		fmt.Fprintf(&b, `<a class="later" href="/remnants?page=%d">Further remnants</a>`, n+1)
	}
	return b.String() + "</nav>"
}

func shopTitle(a article) string { return a.title + ", " + a.hue.word }

// shopItem is an item's page. What stands above the pictures differs from item to item, as do the places of stills and of the main picture's second.
func shopItem(all []article, i int, a article) string {
	var b strings.Builder
	views := shopViews(i)
	if i%3 == 0 {
		fmt.Fprintf(&b, `<script type="application/ld+json">{"@context":"https://schema.org","@type":"Product","name":%q,"sku":%q,"gtin13":%q,"image":[`, shopTitle(a), a.sku, a.barcode)
		for n, v := range views {
			fmt.Fprintf(&b, `%s%q`, map[bool]string{true: ",", false: ""}[n > 0], "http://"+ShopHost+shopAddress(i, v, shopLarge))
		}
		b.WriteString(`]}</script>`)
	}
	if i%4 == 1 {
		b.WriteString(`<p class="note">Only a few are left.</p>`)
	}
	b.WriteString(`<main class="item"><div class="shots">`)
	still := fmt.Sprintf(`<a class="shot film" href="/film/wr%03d.mp4"><img src="%s" alt=""><span class="play-sign"></span></a>`, 100+i, shopAddress(i, packed, shopSmall))
	for n, v := range views {
		class, size := "shot", shopSmall
		if n == 0 {
			class, size = "shot first", shopMiddle
			if i%5 != 1 && i%5 != 2 && i%5 != 4 { // two of the five ways know only a small and a large one
				size = shopSmall
			}
		}
		if n == 1+i%2 {
			b.WriteString(still)
		}
		small := shopAddress(i, v, size)
		switch {
		case i%2 == 0:
			fmt.Fprintf(&b, `<a class="%s" href="%s"><img src="%s" alt="%s, %s"></a>`, class, shopAddress(i, v, shopLarge), small, html.EscapeString(shopTitle(a)), v)
		case n == 0:
			fmt.Fprintf(&b, `<a class="%s" href="#"><img src="%s" data-zoom="%s" alt="%s"></a>`, class, small, shopAddress(i, v, shopLarge), html.EscapeString(shopTitle(a)))
		default:
			fmt.Fprintf(&b, `<a class="%s" href="#"><img src="%s" data-src="%s" data-zoom="%s" alt=""></a>`, class, pixelGIF, small, shopAddress(i, v, shopLarge))
		}
	}
	fmt.Fprintf(&b, `<a class="shot" href="%s"><img src="%s" alt=""></a></div><div><h1 class="title">%s</h1><p>Article <b class="code">%s</b></p><p>A remnant, as it is.</p></div></main>`,
		shopAddress(i, front, shopLarge), shopAddress(i, front, shopSmall), html.EscapeString(shopTitle(a)), a.sku)
	b.WriteString(`<section class="alike"><h2>Others look at</h2>`)
	for _, other := range []int{(i + 7) % len(all), (i + 13) % len(all)} {
		fmt.Fprintf(&b, `<a href="%s"><img src="%s" alt="%s"></a>`, shopPage(other), shopAddress(other, front, shopSmall), html.EscapeString(shopTitle(all[other])))
	}
	return b.String() + "</section>"
}
