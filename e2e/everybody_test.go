package e2e

import (
	"fmt"
	"image/color"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// audit runs axe-core (Deque, rules of WCAG 2.0 to 2.2, levels A and AA) on the page and fails for what is serious or critical.
func (s screen) audit(what string) {
	s.t.Helper()
	const ask = `new Promise(done => axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] }).then(r => done(r.violations
		.filter(v => v.impact === 'serious' || v.impact === 'critical')
		.map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160) + ' ' + n.any.concat(n.all, n.none).map(c => c.message).join('; ')).join(' | ')).join('\n'))))`
	s.do(chromedp.Evaluate[chromedp.Void](axe(s.t)))
	found, err := chromedp.Run(s.ctx, chromedp.Evaluate[string](ask, chromedp.EvalAwaitPromise))
	if err != nil {
		s.t.Fatal(err)
	}
	if found != "" {
		s.t.Errorf("%s:\n%s", what, found)
	}
	// Targets of at least 24 px (2.5.8), but for links within text and what the system draws.
	small, err := chromedp.Run(s.ctx, chromedp.Evaluate[string](`[...document.querySelectorAll('button, [role=button], input:not([type=checkbox]), summary')]
		.filter(e => { const b = e.getBoundingClientRect(); return b.width > 1 && (b.height < 24 || b.width < 24) && getComputedStyle(e).visibility !== 'hidden' })
		.map(e => e.outerHTML.slice(0, 120)).slice(0, 5).join('\n')`))
	if err != nil || small != "" {
		s.t.Errorf("%s: targets under 24 px, %v:\n%s", what, err, small)
	}
}

func axe(t testing.TB) string {
	t.Helper()
	script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal(err)
	}
	return "window.axe ? undefined : (() => {" + string(script) + "})()"
}

// tooWide names what makes a page be scrolled sideways.
const tooWide = `document.documentElement.scrollWidth <= innerWidth ? '' : [...document.querySelectorAll('body *')]
	.filter(e => e.getBoundingClientRect().right > innerWidth + 1 && !e.closest('.scroll, .trial, .tablebox, nav'))
	.slice(0, 5).map(e => e.tagName + '.' + e.className + ' to ' + Math.round(e.getBoundingClientRect().right)).join(', ') || 'something'`

// Each screen once a theme has no serious finding of axe-core; every page has a title of its own, reflows to 320 pixels without being
// scrolled sideways, and its boards are grids that say how many lines there are.
func TestEverybody(t *testing.T) {
	p := serve(t)
	p.me.load(table + "KR-1001,,Reel one,,Reels,\nKR-1002,,Reel two,,Reels,\n")
	files := map[string][]byte{"readme.txt": []byte("words"), "a \u202egpj.exe KR-1002 late.jpg": jpegOf(color.RGBA{9, 9, 60, 255}, 90)}
	for i, name := range []string{"PK-DLT-140-AMB_1.jpg", "PK-DLT-140-AMB_2.jpg", "KR-1001 bright.jpg", "KR-1001 + KR-1002.jpg", "PK-DLT-14.jpg", strings.Repeat("very ", 40) + "KR-1001 " + strings.Repeat("long ", 40) + ".jpg"} {
		files[name] = jpegOf(color.RGBA{uint8(30 * i), 90, 60, 255}, 120)
	}
	d := p.me.deliver("everybody", map[string][]byte{"a.zip": zipOf(t, files)})
	var plan struct{ ID int64 }
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", d.ID), map[string]string{"rule": "add_after"}, &plan)
	p.me.table("prices.csv", "Item no.;EAN;Image\nKR-1001;9.52E+12;kr 1001 bright.jpg\nKR-1002;9521234500017;nothing.jpg\n")
	s := screen{t, browserFor(t, 3*time.Minute)}
	s.do(chromedp.Navigate(p.url()))
	s.until("document.querySelector('input[name=name]')", "the form")
	s.audit("sign in")
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	pages := []struct{ name, path, title string }{
		{"gather", "/gather", "Gather · everybody · Ambrosa"},
		{"pair", fmt.Sprintf("/pair/%d", d.ID), "Pair · everybody · Ambrosa"},
		{"pair, contested", fmt.Sprintf("/pair/%d?show=contested", d.ID), "Pair · everybody · Ambrosa"},
		{"by owner", fmt.Sprintf("/pair/%d?view=owner", d.ID), "Pair · everybody · Ambrosa"},
		{"plan", fmt.Sprintf("/plan/%d", plan.ID), "Plan · everybody · Ambrosa"},
		{"ledger", "/ledger", "Ledger · "},
		{"catalogue", "/catalogue", "Catalogue · "},
		{"tables", "/tables", "Tables · prices.csv · Ambrosa"},
		{"people", "/people", "People · Ambrosa"},
		{"settings", "/settings", "My settings · Ambrosa"},
		{"tidy", "/tidy", "Tidy · Ambrosa"},
		{"pictures", "/pictures", "Pictures · Ambrosa"},
	}
	open := func(path, title string) {
		t.Helper()
		s.do(chromedp.Navigate(p.url() + path))
		s.until(fmt.Sprintf("document.title.replace(/^\\(\\d+\\) /, '').startsWith(%q) && document.title.endsWith('Ambrosa')", title), "the title "+title)
		s.until("!document.querySelector('.hush') && document.querySelector('h1, h2')", "the page to be there")
	}
	for _, theme := range []string{"light", "dark"} {
		s.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf("localStorage.setItem('mantine-color-scheme-value', '%s')", theme)))
		for _, page := range pages {
			open(page.path, page.title)
			s.audit(theme + " " + page.name)
		}
		open(fmt.Sprintf("/pair/%d", d.ID), "Pair")
		s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
		s.press("?")
		s.sees("this list")
		s.audit(theme + " keys")
		// Nothing behind the dialog answers.
		s.press("v", "x")
		s.until("!location.search.includes('view=owner')", "the dialog to hold the keys")
		s.press(kb.Escape)
		s.counts("set aside 0")
	}
	grids := `[...document.querySelectorAll('[role=grid]')].every(g => +g.getAttribute('aria-rowcount') > 1 && g.querySelectorAll('[role=columnheader]').length > 2 &&
		[...g.querySelectorAll('[role=row]')].every(r => r.hasAttribute('aria-rowindex') && [...r.querySelectorAll('[role=gridcell]')].every(c => c.hasAttribute('aria-colindex'))) &&
		document.getElementById(g.getAttribute('aria-activedescendant'))?.innerText.trim().length > 3)`
	for _, page := range pages[:8] {
		open(page.path, page.title)
		s.until(grids, page.name+" to have a grid that is told in full")
	}

	// A name that turns its direction is shown as it is written; a long one keeps its key and its end in sight.
	open(fmt.Sprintf("/pair/%d", d.ID), "Pair")
	s.until(`[...document.querySelectorAll('.scroll .filename')].some(f => f.innerText.replace(/\n/g, '').startsWith('a \u2370gpj.exe'))`, "the sign in the place of the turn")
	s.until(`[...document.querySelectorAll('.scroll .filename')].some(f => f.innerText.replace(/\n/g, '').startsWith('…') && f.querySelector('u').innerText === 'KR-1001')`, "the key of the long name")

	// Single keys can be switched off.
	open("/settings", "My settings")
	s.do(chromedp.Click(chromedp.Search(`//label[contains(., 'Single keys')]`)))
	open(fmt.Sprintf("/pair/%d", d.ID), "Pair")
	s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
	s.press("x", "v", "z")
	s.counts("set aside 0")
	s.until("!location.search.includes('view=owner')", "v to do nothing")
	open("/settings", "My settings")
	s.do(chromedp.Click(chromedp.Search(`//label[contains(., 'Single keys')]`)))

	// The focus never falls to the page: after an act of the glass the board has it.
	open(fmt.Sprintf("/pair/%d?show=likely", d.ID), "Pair")
	s.do(chromedp.Click(chromedp.Search(`//aside//button[starts-with(normalize-space(.), 'Accept')]`)))
	s.counts("by hand 1")
	s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus after accepting")

	// Small pages: nothing is scrolled sideways, the rail and the glass are sheets.
	for _, size := range [][2]int64{{320, 640}, {900, 700}, {640, 400}} {
		if _, err := chromedp.Call(s.ctx, emulation.SetDeviceMetricsOverride, emulation.SetDeviceMetricsOverrideParams{Width: size[0], Height: size[1], DeviceScaleFactor: 1}); err != nil {
			t.Fatal(err)
		}
		for _, page := range pages {
			open(page.path, page.title)
			if wide, _ := chromedp.Run(s.ctx, chromedp.Evaluate[string](tooWide)); wide != "" {
				t.Errorf("%s at %d × %d is scrolled sideways for %s", page.name, size[0], size[1], wide)
			}
			if strings.HasPrefix(page.name, "pair") {
				s.until("document.querySelector('.scroll').clientHeight >= 120", fmt.Sprintf("%s to have room for lines at %d × %d", page.name, size[0], size[1]))
			}
			if size[0] == 320 {
				s.audit("320 px " + page.name)
			}
		}
	}
}

// Everything is said in German where a person wants it, and English words are gone.
func TestGerman(t *testing.T) {
	p := serve(t)
	p.me.load(table)
	d := p.me.deliver("deutsch", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{"PK-DLT-140-AMB.jpg": jpegOf(color.RGBA{90, 90, 60, 255}, 90), "zz.jpg": jpegOf(color.RGBA{9, 90, 60, 255}, 90)})})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/settings"))
	s.do(chromedp.Click(chromedp.Search(`//label[contains(., 'Deutsch')]`)))
	s.sees("Meine Einstellungen")
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
	s.sees("Kein Treffer im Katalog.")
	s.sees("wahrscheinlich")
	s.until("document.documentElement.lang === 'de' && document.title.endsWith('Zuordnen · deutsch · Ambrosa')", "the title in German")
	s.press("z")
	s.sees("Hier ist nichts mehr, was Sie getan haben")
	s.do(chromedp.Reload())
	s.sees("Der Name ist die SKU.")
	s.until(`!/\b(the|and|owner|lines|accept)\b/i.test(document.querySelector('main').innerText)`, "no English words")
}

// The licences of what others made stand in the program.
func TestNotices(t *testing.T) {
	p := serve(t)
	status, text := p.me.try("GET", "/notices", nil, nil)
	if status != 200 {
		t.Fatalf("%d %.200s", status, text)
	}
	for _, of := range []string{"== github.com/gofiber/fiber/v2 ", "== github.com/jackc/pgx/v5 ", "== react-dom ", "== @mantine/core ", "== @fontsource/atkinson-hyperlegible "} {
		_, rest, found := strings.Cut(text, of)
		if notice, _, _ := strings.Cut(rest, "\n== "); !found || len(notice) < 400 || !strings.Contains(strings.ToLower(notice), "licen") {
			t.Errorf("%s has the notice %.100q", of, notice)
		}
	}
}
