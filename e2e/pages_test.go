package e2e

import (
	"fmt"
	"image/color"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// shopOf is a supplier's shop: a listing of six items on two pages, whose pictures come late, an item that robots.txt forbids, and one page that
// is busy the first time. Small pictures lie in s, large ones in l.
func shopOf(t *testing.T) string {
	t.Helper()
	var busy atomic.Int32
	shop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var n, v int
		page := func(text string) {
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			fmt.Fprint(w, "<html><body><header><img src=/logo.jpg alt=logo></header>"+text+"<script>document.title = 'ran'; top.ran = true</script></body></html>")
		}
		link := func(n int) string {
			if n == 5 {
				return "/hidden/5"
			}
			return fmt.Sprintf("/item/%d", n)
		}
		switch path := r.URL.RequestURI(); {
		case path == "/robots.txt":
			fmt.Fprint(w, "User-agent: *\nDisallow: /hidden/\n")
		case path == "/list" || path == "/list?page=2":
			var b strings.Builder
			first := map[bool]int{true: 4, false: 1}[strings.Contains(path, "2")]
			for n := first; n < first+3; n++ {
				fmt.Fprintf(&b, `<li class="good"><a href="%s"><img width=90 height=90 src="data:image/gif;base64,R0lGODlhAQABAAAAACw=" data-src="/s/%d-1.jpg"><h3>Kite %d</h3></a></li>`, link(n), n, n)
			}
			next := ""
			if first == 1 {
				next = `<a class="later" href="/list?page=2">Further</a>`
			}
			page("<ul class=goods>" + b.String() + "</ul>" + next)
		case path == "/late":
			page(`<div id=x></div><script>document.getElementById('x').innerHTML = '<img src=/l/1-1.jpg>'</script>`)
		case strings.HasPrefix(path, "/item/") || strings.HasPrefix(path, "/hidden/"):
			if _, err := fmt.Sscanf(path[strings.LastIndex(path, "/")+1:], "%d", &n); err != nil || n == 2 && busy.Add(1) == 1 {
				w.Header().Set("Retry-After", "1")
				w.WriteHeader(http.StatusServiceUnavailable)
				return
			}
			page(fmt.Sprintf(`<h1 class="title">Kite %d</h1><p>No. <b class="code">K-%d</b></p><div class="shots"><a class="shot" href="/l/%d-1.jpg"><img width=90 height=90 src="/s/%d-1.jpg"></a>`+
				`<a class="shot" href="/l/%d-2.jpg"><img width=90 height=90 src="/s/%d-2.jpg"></a></div><div class="related"><a href="%s"><img src="/s/%d-1.jpg"></a></div>`, n, n, n, n, n, n, link(n%6+1), n%6+1))
		case strings.HasPrefix(path, "/s/"), strings.HasPrefix(path, "/l/"):
			if _, err := fmt.Sscanf(path[3:], "%d-%d.jpg", &n, &v); err != nil {
				http.NotFound(w, r)
				return
			}
			w.Header().Set("Content-Type", "image/jpeg")
			_, _ = w.Write(jpegOf(color.RGBA{uint8(40 * n), uint8(100 * v), 200, 255}, map[bool]int{true: 90, false: 800}[path[1] == 's']))
		default:
			http.NotFound(w, r)
		}
	}))
	t.Cleanup(shop.Close)
	return shop.URL
}

// point points at the first element of a page that is shown.
func (s screen) point(selector string) {
	s.t.Helper()
	s.until(fmt.Sprintf(`document.querySelector('.pageframe iframe')?.contentDocument?.querySelector('%s')?.getBoundingClientRect().width > 0`, selector), selector+" in the page")
	s.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => { const sheet = document.querySelector('.pageframe .sheet'), at = sheet.getBoundingClientRect(),
		b = document.querySelector('.pageframe iframe').contentDocument.querySelector('%s').getBoundingClientRect();
		sheet.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: at.left + b.left + b.width / 2, clientY: at.top + b.top + b.height / 2 })) })()`, selector)))
}

// TestPagesByHand shows a guide by pointing, tries it, walks the listing, pairs what came, opens it as a table, and takes one page by eye.
func TestPagesByHand(t *testing.T) {
	shop := shopOf(t)
	p := serve(t, onLoopback)
	p.me.load("sku,title\nK-1,Kite 1\nK-2,Kite 2\nK-3,Kite 3\nK-4,Kite 4\n")
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/gather"))
	s.click("Add source …")
	s.do(chromedp.Click(chromedp.Search(`//*[@role='dialog']//label[contains(., 'Web pages')]`)))
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input[data-autofocus]"), "Shop"), chromedp.SendKeys(chromedp.CSS("[role=dialog] input[type=url]"), shop+"/list"))
	s.do(chromedp.Click(chromedp.CSS("[role=dialog] button[type=submit]")))
	s.click("Guide")
	s.point("li.good img")
	s.until(`[...document.querySelectorAll('.guideglass [role=status]')].some(e => e.innerText.startsWith('3 '))`, "three items found")
	step := func(name string) {
		t.Helper()
		s.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`[...document.querySelectorAll('.steps button')].find(b => b.innerText.trim().endsWith('%s')).click()`, name)))
	}
	step("Next page")
	s.point("a.later")
	s.until(`[...document.querySelectorAll('.guideglass [role=status]')].some(e => e.innerText.startsWith('1 '))`, "the link found")
	s.click("Try on one")
	s.sees("3 items found on the listing.")
	s.sees("Next page: " + shop + "/list?page=2")
	s.sees("2 pictures are left out") // the logo, and another product's
	step("Title")
	s.point("h1")
	step("SKU")
	s.point("b.code")
	s.sees("K-1")
	step("Pictures")
	s.point("a.shot img")
	s.until(`[...document.querySelectorAll('.guideglass [role=status]')].some(e => e.innerText.startsWith('2 '))`, "two pictures found")
	same, err := chromedp.Run(s.ctx, chromedp.Evaluate[bool](`document.querySelector('.pageframe iframe').contentDocument.querySelectorAll(document.querySelector('.guideglass input.mono').value).length === 2`))
	if err != nil || !same {
		t.Error("the browser's own selectors find something else: ", err)
	}
	s.do(chromedp.SendKeys(chromedp.Search(`//label[contains(., 'Least pixels')]/following::input[1]`), "500"))
	if ran, err := chromedp.Run(s.ctx, chromedp.Evaluate[bool](`window.ran === true`)); err != nil || ran {
		t.Fatal("a script of the page ran")
	}
	s.click("Try on three")
	s.until(`document.querySelectorAll('.tried article').length === 3`, "three items tried")
	s.until(`document.querySelectorAll('.tried .strip li').length === 6`, "six pictures")
	s.click("Keep guide")
	s.until(`[...document.querySelectorAll('button.go')].some(b => b.innerText === 'Walk the listing' && !b.disabled)`, "the guide to be kept")
	s.click("Walk the listing")
	source := one[int64](p, "SELECT id FROM source WHERE kind = 'pages'")
	await(t, time.Minute, "the walk", func() bool { return one[int](p, "SELECT count(*) FROM arrival") == 10 })
	walk := one[int64](p, "SELECT max(delivery_id) FROM walk")
	p.me.taken(walk)
	if got, want := one[string](p, `SELECT string_agg(n || ' ' || state || ' ' || title || ' ' || sku || ' ' || kept, ', ' ORDER BY n) FROM walk_item`),
		"1 read Kite 1 K-1 2, 2 read Kite 2 K-2 2, 3 read Kite 3 K-3 2, 4 read Kite 4 K-4 2, 5 failed   0, 6 read Kite 6 K-6 2"; got != want {
		t.Errorf("the walk read %s; want %s", got, want)
	}
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather/%d?in=%d", p.url(), source, walk)))
	s.sees("5 of 6 items read, 10 pictures")
	s.click("Without a picture 1")
	s.sees("robots.txt")
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), walk)))
	s.sees("8 ready") // K-6 is no product of ours yet
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather/%d?in=%d", p.url(), source, walk)))
	s.click("Open as a table")
	table := func() int64 {
		return one[int64](p, "SELECT coalesce(max(id), 0) FROM worksheet WHERE name LIKE 'Shop%'")
	}
	await(t, time.Minute, "the table", func() bool { return table() > 0 })
	await(t, time.Minute, "the table to be checked", func() bool {
		var now struct{ State string }
		p.me.do("GET", fmt.Sprintf("/api/tables/%d", table()), nil, &now)
		return now.State == "done"
	})
	var rows []struct{ Cells []string }
	p.me.do("GET", fmt.Sprintf("/api/tables/%d/rows?most=10", table()), nil, &rows)
	if got, want := fmt.Sprint(rows[len(rows)-1].Cells), fmt.Sprintf("[%[1]s/item/6 Kite 6 K-6  %[1]s/l/6-1.jpg|%[1]s/l/6-2.jpg]", shop); got != want {
		t.Errorf("the table's last row is %s; want %s", got, want)
	}
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", walk), map[string]any{"rule": "only_where_empty"}, nil)
	p.me.apply(one[int64](p, "SELECT max(id) FROM plan"))
	if got, want := one[string](p, "SELECT string_agg(o.sku || ' ' || (a.origin->>'address'), ', ' ORDER BY o.sku, p.position) FROM owner o JOIN placement p ON p.owner_id = o.id JOIN arrival a ON a.asset_id = p.asset_id WHERE o.sku IN ('K-1', 'K-4')"),
		fmt.Sprintf("K-1 %[1]s/l/1-1.jpg, K-1 %[1]s/l/1-2.jpg, K-4 %[1]s/l/4-1.jpg, K-4 %[1]s/l/4-2.jpg", shop); got != want {
		t.Errorf("placed: %s; want %s", got, want)
	}
	before := one[int](p, "SELECT count(*) FROM arrival")
	p.me.do("POST", fmt.Sprintf("/api/sources/%d/visits", source), map[string]any{}, nil)
	await(t, time.Minute, "the second walk", func() bool {
		return one[int](p, "SELECT count(*) FROM visit v JOIN job j ON j.kind = 'take_in' AND j.subject = v.delivery_id WHERE j.state = 'done'") == 2
	})
	if after := one[int](p, "SELECT count(*) FROM arrival WHERE delivery_id > $1 AND NOT seen_before", walk); after != 0 {
		t.Errorf("of %d pictures %d came anew", before, after)
	}

	// By eye: the page's pictures, the large ones of each; one is taken for a product, and the page remembers.
	s.do(chromedp.Navigate(p.url() + "/gather/page?q=" + shop + "/item/2"))
	s.sees("2 of 4")
	s.do(chromedp.Click(chromedp.CSS(".eyegrid li:nth-child(2) input[type=checkbox]")))
	s.do(chromedp.SendKeys(chromedp.CSS(".eyegrid li:nth-child(2) input[aria-label=Name]"), "kite from behind"))
	s.click("Choose …")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input"), "K-1"))
	s.until(`document.querySelectorAll('[role=option]').length > 0`, "the product")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input"), "\n"))
	s.click("Plan 1 picture")
	s.sees("Apply 1 change")
	s.do(chromedp.Navigate(p.url() + "/gather/page?q=" + shop + "/item/2"))
	s.sees("taken for Kite 1")
	if got := one[int](p, "SELECT count(*) FROM eye_set"); got != 1 {
		t.Errorf("%d pictures of the page are remembered", got)
	}
}

// TestWalkKilled kills the program while it walks: nothing is lost, and nothing comes twice.
func TestWalkKilled(t *testing.T) {
	shop := shopOf(t)
	p := serve(t, onLoopback)
	var source, walk struct{ ID int64 }
	p.me.do("POST", "/api/sources", map[string]any{"name": "shop", "kind": "pages"}, &source)
	p.me.do("PUT", fmt.Sprintf("/api/sources/%d/guide", source.ID), map[string]any{"form": 1, "start": []string{shop + "/list"}, "next": map[string]any{"selector": "a.later"},
		"items": map[string]any{"selector": "li.good"}, "pictures": map[string]any{"selector": "a.shot img"}, "limits": map[string]any{"pause": 0.4}}, nil)
	p.me.do("POST", fmt.Sprintf("/api/sources/%d/visits", source.ID), map[string]any{}, &walk)
	for _, read := range []int{1, 3} {
		await(t, time.Minute, "some items", func() bool { return one[int](p, "SELECT count(*) FROM walk_item WHERE state = 'read'") >= read })
		p.kill()
		p.start("serve")
	}
	d := p.me.taken(walk.ID)
	if got := one[string](p, "SELECT count(*) || ' ' || count(*) FILTER (WHERE state = 'read') || ' ' || sum(kept) FROM walk_item"); got != "6 5 10" || d.Pictures != 10 {
		t.Errorf("after two kills the walk has %s, the delivery %d pictures", got, d.Pictures)
	}
}

// TestWalkEnds walks listings that never end, one that changes under the guide, and one whose next page is gone.
func TestWalkEnds(t *testing.T) {
	var page atomic.Int32
	shop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		n := page.Add(1)
		switch path := r.URL.Path; {
		case path == "/calendar": // another day each time, and nothing on it but what was there
			fmt.Fprintf(w, `<li class=good><a href="/item">x</a></li><a class=later href="/calendar?day=%d">tomorrow</a>`, n)
		case path == "/endless":
			fmt.Fprintf(w, `<li class=good><a href="/item?%d">x</a></li><a class=later href="/endless?page=%d">more</a>`, n, n)
		case path == "/circle":
			fmt.Fprint(w, `<li class=good><a href="/item">x</a></li><a class=later href="/circle?again">more</a>`)
		case path == "/broken" && r.URL.RawQuery == "":
			fmt.Fprint(w, `<li class=good><a href="/item">x</a></li><a class=later href="/broken?2">more</a>`)
		case path == "/item":
			fmt.Fprint(w, `<h1>Item</h1>`)
		default:
			http.NotFound(w, r)
		}
	}))
	defer shop.Close()
	p := serve(t, onLoopback)
	for path, want := range map[string]string{"/calendar": "nothing", "/endless": "pages", "/circle": "last", "/broken": "failed"} {
		var source, walk struct{ ID int64 }
		p.me.do("POST", "/api/sources", map[string]any{"name": path, "kind": "pages"}, &source)
		p.me.do("PUT", fmt.Sprintf("/api/sources/%d/guide", source.ID), map[string]any{"form": 1, "start": []string{shop.URL + path}, "next": map[string]any{"selector": "a.later"},
			"items": map[string]any{"selector": "li.good"}, "pictures": map[string]any{"selector": ".gone"}, "limits": map[string]any{"pause": 0, "pages": 12}}, nil)
		p.me.do("POST", fmt.Sprintf("/api/sources/%d/visits", source.ID), map[string]any{}, &walk)
		await(t, time.Minute, path+" to end", func() bool {
			return one[int](p, "SELECT count(*) FROM job WHERE kind = 'take_in' AND subject = $1 AND state = 'done'", walk.ID) == 1
		})
		if got := one[string](p, "SELECT ended FROM walk WHERE delivery_id = $1", walk.ID); got != want {
			t.Errorf("%s ended with %s; want %s", path, got, want)
		}
		if got := one[int](p, "SELECT count(*) FROM walk_item WHERE delivery_id = $1 AND NOT (state = 'read' AND kept = 0 AND failed = '{pictures}')", walk.ID); got != 0 {
			t.Errorf("%s: %d items do not say that the guide finds no pictures", path, got)
		}
	}
}

// TestSavedPages drops pages that were saved, complete and as one file: the pictures of their product come with what the page says of them, the
// others are left out, and what is larger elsewhere is fetched.
func TestSavedPages(t *testing.T) {
	shop := shopOf(t)
	p := serve(t, onLoopback)
	p.me.load("sku,title\nK-1,Kite 1\nK-2,Kite 2\n")
	large, other := jpegOf(color.RGBA{200, 10, 10, 255}, 800), jpegOf(color.RGBA{10, 10, 200, 255}, 120)
	data := func(sku string) string {
		return `<script type="application/ld+json">{"@type":"Product","name":"Saved","sku":"` + sku + `"}</script>`
	}
	page := "<!-- saved from url=(0020)" + shop + "/item/1 --><html>" + data("K-1") + `<img src="./kite_files/large.jpg"><div class="related"><img src="./kite_files/other.jpg"></div><a href="` + shop + `/l/3-2.jpg"><img src="kite_files/small.jpg"></a></html>`
	mhtml := "From: <Saved>\r\nSnapshot-Content-Location: " + shop + "/item/2\r\nMIME-Version: 1.0\r\nContent-Type: multipart/related; type=\"text/html\"; boundary=\"--b\"\r\n\r\n----b\r\nContent-Type: text/html\r\n" +
		"Content-Transfer-Encoding: quoted-printable\r\nContent-Location: " + shop + "/item/2\r\n\r\n" + strings.ReplaceAll("<html>"+data("K-2")+`<img src="/m/one.jpg"></html>`, "=", "=3D") +
		"\r\n----b\r\nContent-Type: image/jpeg\r\nContent-Transfer-Encoding: base64\r\nContent-Location: " + shop + "/m/one.jpg\r\n\r\n" + base64(string(jpegOf(color.RGBA{9, 200, 9, 255}, 700))) + "\r\n----b--\r\n"
	d := p.me.deliver("saved", map[string][]byte{"kite.html": []byte(page), "kite_files/large.jpg": large, "kite_files/other.jpg": other, "kite_files/small.jpg": jpegOf(color.RGBA{120, 200, 200, 255}, 90), "two.mhtml": []byte(mhtml),
		"broken.mhtml": []byte("no MIME at all"), "plain.jpg": other})
	got := one[string](p, "SELECT string_agg(path || ' ' || problem || ' ' || coalesce((SELECT string_agg(s->>'text', '/') FROM jsonb_array_elements(said) s WHERE s->>'field' IN ('sku', 'number')), ''), ', ' ORDER BY path) FROM arrival WHERE delivery_id = $1", d.ID)
	at := strings.TrimPrefix(shop, "http://")
	at = at[:strings.Index(at, ":")]
	want := at + "/l/3-2.jpg  K-1/2, " + at + "/m/one.jpg  K-2/1, broken.mhtml not_picture , kite.html not_picture , kite_files/large.jpg  K-1/1, kite_files/other.jpg left_out , kite_files/small.jpg left_out , plain.jpg  , two.mhtml not_picture "
	if got != want {
		t.Errorf("came\n%s; want\n%s", got, want)
	}
}

// TestLookup asks a service for barcodes: before it starts it says how many; then what is found is likely at best, not cleared without a licence,
// and what the service does not have is not asked for again.
func TestLookup(t *testing.T) {
	var asked atomic.Int32
	service := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		code := r.URL.Path[strings.LastIndex(r.URL.Path, "/")+1:]
		if strings.HasPrefix(r.URL.Path, "/photo/") {
			w.Header().Set("Content-Type", "image/jpeg")
			_, _ = w.Write(jpegOf(color.RGBA{code[12] * 3, 90, 200, 255}, 600))
			return
		}
		if asked.Add(1); r.Header.Get("X-Key") != "let-me" {
			w.WriteHeader(http.StatusUnauthorized)
			return
		}
		switch code {
		case "9520000000011", "9520000000028":
			licence := map[string]string{"9520000000028": "CC0"}[code]
			fmt.Fprintf(w, `{"items":[{"licence":"%s","photos":["http://%s/photo/%s.jpg","javascript:alert(1)"]}]}`, licence, r.Host, code)
		case "9520000000035":
			w.WriteHeader(http.StatusNotFound)
		case "9520000000042":
			fmt.Fprint(w, "<html>Sorry</html>")
		case "9520000000059":
			fmt.Fprint(w, strings.Repeat(`{"items":[`, 1<<20))
		}
	}))
	defer service.Close()
	p := serve(t, onLoopback)
	p.me.load("sku,title,barcode\nK-1,One,9520000000011\nK-2,Two,9520000000028\nK-3,Three,9520000000035\nK-4,Four,9520000000042\nK-5,Five,9520000000059\nK-6,Six,\nK-7,Seven,9520000000067\n")
	var source, run struct{ ID int64 }
	lookup := map[string]any{"address": service.URL + "/v1/{gtin}", "header": "X-Key", "pictures": "$.items[*].photos[*]", "licence": "$.items[0].licence"}
	p.me.do("POST", "/api/sources", map[string]any{"name": "service", "kind": "lookup", "settings": map[string]any{"lookup": lookup}, "secrets": map[string]any{"key": "wrong"}}, &source)
	at := fmt.Sprintf("/api/sources/%d/lookup", source.ID)
	var ahead struct{ Ask, Known, Nothing, None, Wrong int }
	p.me.do("GET", at, nil, &ahead)
	if got := fmt.Sprint(ahead); got != "{5 0 0 1 1}" || asked.Load() != 0 {
		t.Errorf("before: %s, asked %d times", got, asked.Load())
	}
	p.me.do("POST", at, nil, &run)
	await(t, time.Minute, "the key to be refused", func() bool {
		return one[int](p, "SELECT count(*) FROM job WHERE state = 'failed' AND notes::text LIKE '%lookup_sign_in%'") == 1
	})
	p.me.do("PUT", fmt.Sprintf("/api/sources/%d", source.ID), map[string]any{"name": "service", "kind": "lookup", "settings": map[string]any{"lookup": lookup}, "secrets": map[string]any{"key": "let-me"}, "rights": map[string]any{"may": "not_cleared"}}, nil)
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/resume", run.ID), nil, nil)
	p.me.taken(run.ID)
	if got, want := one[string](p, "SELECT string_agg(barcode || ' ' || state, ', ' ORDER BY n) FROM lookup_ask"), "9520000000011 found, 9520000000028 found, 9520000000035 none, 9520000000042 failed, 9520000000059 failed"; got != want {
		t.Errorf("asked: %s; want %s", got, want)
	}
	if got, want := one[string](p, "SELECT string_agg(coalesce(r.may, d.may), ' ' ORDER BY a.path) FROM arrival a JOIN delivery d ON d.id = a.delivery_id LEFT JOIN rights r ON r.asset_id = a.asset_id WHERE a.delivery_id = $1", run.ID), "not_cleared cleared"; got != want {
		t.Errorf("rights: %s; want %s", got, want)
	}
	var lines struct {
		Lines []struct{ Grade string }
	}
	p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing", run.ID), nil, &lines)
	for _, l := range lines.Lines {
		if l.Grade != "likely" {
			t.Errorf("a line is %s", l.Grade)
		}
	}
	before := asked.Load()
	p.me.do("GET", at, nil, &ahead)
	if got := fmt.Sprint(ahead); got != "{2 2 1 1 1}" || len(lines.Lines) != 2 || asked.Load() != before {
		t.Errorf("after: %s, %d lines", got, len(lines.Lines))
	}
}
