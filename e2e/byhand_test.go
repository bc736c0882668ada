package e2e

import (
	"fmt"
	"image/color"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// stands says which pictures an owner has, by the order in which they came, with their English alt texts.
const stands = `SELECT coalesce(string_agg(p.asset_id || coalesce(' ' || w.text, ''), '; ' ORDER BY p.position), '') FROM placement p JOIN owner o ON o.id = p.owner_id
	LEFT JOIN wording w ON w.owner_id = o.id AND w.asset_id = p.asset_id AND w.field = 'alt' AND w.language = 'en' WHERE $1 IN (o.sku, o.title)`

// TestByHand works on one product as a person does: a picture from disk, one by address, one of those that are here; order, main image, alt
// text; applied at once, seen as a customer, taken back.
func TestByHand(t *testing.T) {
	p := serve(t, onLoopback)
	p.me.load("sku,product,title,category,colour\nK-1,,Alpha,Kites,\nK-1-R,K-1,,,red\nK-2,,Beta,Kites > Small,\n")
	p.me.deliver("spring", map[string][]byte{"K-2.jpg": jpegOf(color.RGBA{9, 200, 60, 255}, 120)})
	web := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/a.jpg" {
			http.NotFound(w, r)
			return
		}
		w.Header().Set("Content-Type", "image/jpeg")
		_, _ = w.Write(jpegOf(color.RGBA{90, 90, 200, 255}, 300))
	}))
	defer web.Close()

	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/catalogue/pictures"))
	s.sees("Alpha")
	file := filepath.Join(t.TempDir(), "K-1 new.jpg")
	if err := os.WriteFile(file, jpegOf(color.RGBA{20, 20, 20, 255}, 200), 0o644); err != nil {
		t.Fatal(err)
	}
	picks := s.choosing(file)
	s.do(chromedp.Click(chromedp.Search(`//button[contains(., 'Choose files …')]`)))
	picks()
	s.sees("1 owner changed, not yet written")
	s.do(chromedp.SendKeys(chromedp.CSS(".ownerhand input[type=url]"), web.URL+"/none.jpg\n"))
	s.sees("404")
	s.retype(".ownerhand input[type=url]", web.URL+"/a.jpg\n")
	s.until(`document.querySelectorAll('.ownerhand .order li').length === 2`, "the picture from the address")
	s.click("Choose from all pictures …")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input[data-autofocus]"), "K-2.jpg"))
	s.until(`document.querySelectorAll('.pickgrid li').length === 1`, "the picture that is here")
	s.do(chromedp.Click(chromedp.CSS(".pickgrid button")))
	s.click("Add 1 picture")
	s.until(`document.querySelectorAll('.ownerhand .order li').length === 3`, "the third picture")
	s.do(chromedp.Click(chromedp.CSS(".ownerhand .order li:nth-child(3) button")))
	s.click("Make main image")
	s.retype(".ownerhand textarea", "Alpha from above")
	if got := one[int](p, "SELECT count(*) FROM placement"); got != 0 {
		t.Errorf("%d pictures stand before anything is applied", got)
	}
	s.do(chromedp.Reload()) // nothing that was done is lost
	s.sees("1 owner changed, not yet written")
	s.click("Apply now")
	s.sees("1 change made")
	if got, want := one[string](p, stands, "K-1"), "1 Alpha from above; 2 Alpha; 3 Alpha"; got != want {
		t.Errorf("K-1 shows %s, want %s", got, want)
	}
	id := one[int64](p, "SELECT id FROM owner WHERE sku = 'K-1'")
	s.do(chromedp.Navigate(fmt.Sprintf("%s/catalogue/shop/%d", p.url(), id)))
	s.sees("Alpha from above")
	s.do(chromedp.Navigate(p.url() + "/catalogue/pictures?q=K-1"))
	s.sees("3 of 3")
	s.click("Remove")
	s.click("Show plan")
	s.sees("Apply 1 change")
	s.sees("3 pictures, 1 removed")
	s.press("c")
	s.sees("after the plan")
	s.until(`document.querySelectorAll('.shopthumbs button').length === 2`, "the page after the plan")
	s.do(chromedp.Click(chromedp.Search(`//button[contains(@class, 'filter') and contains(., 'before the plan')]`)))
	s.until(`document.querySelectorAll('.shopthumbs button').length === 3`, "the page before the plan")

	// Two people at one owner: who comes later is told, and nothing of what they did is lost.
	s.do(chromedp.Navigate(p.url() + "/catalogue/pictures?q=K-1"))
	s.sees("3 of 3")
	s.click("Move back")
	p.me.apply(one[int64](p, "SELECT max(id) FROM plan"))
	s.click("Apply now")
	s.sees("Somebody else changed the pictures since you opened them.")
	s.click("Discard all")

	s.press("e")
	s.retype("[role=dialog] input[data-autofocus]", "Gamma")
	s.click("Note the change")
	s.click("Apply now")
	await(t, time.Minute, "the new title", func() bool { return one[int](p, "SELECT count(*) FROM owner WHERE title = 'Gamma'") == 1 })
}

// TestCategoriesByHand gives categories pictures: what is offered, and one picture for all that are found; makes one, and moves none below
// itself.
func TestCategoriesByHand(t *testing.T) {
	p := serve(t)
	p.me.load("sku,title,category\nK-1,Alpha,Kites > Small\nK-2,Beta,Kites > Great\nK-3,Gamma,Reels > Small\n")
	for n, name := range []string{"K-1.jpg", "K-2.jpg"} {
		d := p.me.deliver(name, map[string][]byte{name: jpegOf(color.RGBA{uint8(200 * n), 9, 60, 255}, 120)})
		var plan id
		p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", d.ID), map[string]any{"rule": "only_where_empty"}, &plan)
		p.me.apply(plan.ID)
	}
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/catalogue/categories?show=without"))
	s.sees("3 categories here could have the picture of their first product.")
	s.click("Plan these pictures")
	s.click("Apply 3 changes")
	s.sees("3 changes made")
	if got := one[string](p, stands, "Kites"); !strings.HasPrefix(got, "1") {
		t.Errorf("Kites shows %q", got)
	}
	s.do(chromedp.Navigate(p.url() + "/catalogue/categories?q=small"))
	s.sees("2 lines")
	s.sees("Reels > Small")
	s.click("One picture for all …")
	s.do(chromedp.Click(chromedp.Search(`//*[@role='dialog']//button[contains(., 'Choose from all pictures …')]`)))
	s.do(chromedp.Click(chromedp.CSS(".pickgrid li:first-child button")))
	s.click("Add 1 picture")
	s.until(`document.querySelector('[role=dialog] img[alt="The chosen picture"]')`, "the chosen picture")
	s.do(chromedp.Click(chromedp.Search(`//*[@role='dialog']//input[contains(@class, 'mantine-Select-input')]`)), chromedp.Click(chromedp.Search(`//*[@role='option'][contains(., 'whole set')]`)))
	s.do(chromedp.Click(chromedp.Search(`//*[@role='dialog']//button[contains(., 'Show plan')]`)))
	s.click("Apply 2 changes")
	s.sees("2 changes made")
	for _, path := range []string{"Kites", "Reels"} {
		got := one[string](p, "SELECT string_agg(p.asset_id::text, ',') FROM placement p JOIN owner o ON o.id = p.owner_id JOIN owner u ON u.id = o.parent WHERE o.title = 'Small' AND u.title = $1", path)
		if got != "2" {
			t.Errorf("%s > Small shows %q", path, got)
		}
	}
	s.do(chromedp.Navigate(p.url() + "/catalogue/categories"))
	s.click("New category …")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input[data-autofocus]"), "Tails"))
	s.click("Note the change")
	s.click("Apply now")
	s.sees("1 change made")
	if got := one[int](p, "SELECT count(*) FROM owner WHERE title = 'Tails' AND kind = 'category'"); got != 1 {
		t.Errorf("there are %d categories of the new name", got)
	}

	// A number that a product and a category have: the delivery says which it is for.
	tails := one[int64](p, "SELECT id FROM owner WHERE title = 'Tails'")
	var made struct{ Plan int64 }
	p.me.do("POST", "/api/owners/plans", map[string]any{"edits": []any{map[string]any{"owner": tails, "fields": map[string]string{"code": "K-3"}}}}, &made)
	p.me.apply(made.Plan)
	d := p.me.deliver("numbers", map[string][]byte{"K-3.jpg": jpegOf(color.RGBA{9, 9, 9, 255}, 120)})
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
	for kind, owner := range map[string]string{"categories": "Tails", "products": "Gamma"} {
		s.until(fmt.Sprintf(`(s => { if (!s || s.disabled) return false; s.value = %q; s.dispatchEvent(new Event('change', { bubbles: true })); return true })(document.querySelector('.against select'))`, kind), "the choice of owners")
		s.until(fmt.Sprintf(`document.querySelector('.line.at')?.innerText.includes(%q)`, owner), "the owner "+owner)
	}
}

// TestWordingByHand writes rules and texts in the browser: a rule with what it makes while it is written, all texts by the rules, one by
// hand that stays, find and replace, and the texts of a plan switched off.
func TestWordingByHand(t *testing.T) {
	p := serve(t)
	p.me.load("sku,product,title,category,colour\nK-1,,Alpha,Kites,\nK-1-R,K-1,,,red\nK-1-B,K-1,,,blue\n")
	d := p.me.deliver("spring", map[string][]byte{"K-1-R.jpg": jpegOf(color.RGBA{210, 20, 30, 255}, 120), "K-1-R_back.jpg": jpegOf(color.RGBA{170, 10, 20, 255}, 120), "K-1-B.jpg": jpegOf(color.RGBA{215, 25, 30, 255}, 120)})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
	s.click("Show plan")
	s.sees("Alpha, red, back view")
	s.sees("Fill texts of new pictures by the rules")
	s.do(chromedp.Click(chromedp.CSS("input[role=switch]")))
	s.until(`!document.body.innerText.includes('Alpha, red, back view')`, "the texts to go")
	s.click("Apply 2 changes")
	s.sees("2 changes made")
	if got := one[int](p, "SELECT count(*) FROM wording"); got != 0 {
		t.Errorf("%d texts stand though they were switched off", got)
	}
	s.do(chromedp.Navigate(p.url() + "/catalogue/wording"))
	s.sees("no alt text")
	s.click("Add rule …")
	s.retype("[role=dialog] input[data-autofocus]", "{product.title} kite in {variant.colour}[, {role}]")
	s.sees("Alpha kite in red, back view")
	s.sees("other colour") // the picture of the blue variant is red
	s.do(chromedp.Click(chromedp.CSS("[role=dialog] button[type=submit]")))
	s.sees("There is a rule for these owners, this text and this language already")
	s.do(chromedp.Click(chromedp.Search(`//*[@role='dialog']//label[contains(., 'For')]/following::input[1]`)), chromedp.Click(chromedp.Search(`//*[@role='option' and normalize-space(.)='variant']`)))
	s.do(chromedp.Click(chromedp.CSS("[role=dialog] button[type=submit]")))
	await(t, time.Minute, "the rule", func() bool { return one[int](p, "SELECT count(*) FROM wording_rule") == 2 })
	s.until(`!document.querySelector('[role=dialog]')`, "the form to close") // until then it lies over the lines

	s.clickLine("K-1-B")
	s.until(`document.querySelector('.ownerhand b')?.innerText === 'K-1-B'`, "the line in the glass")
	s.retype(".ownerhand textarea", "A blue one")
	s.sees("1 text changed, not yet written")
	s.click("Show plan")
	s.click("Apply 1 change")
	s.sees("1 change made")
	s.do(chromedp.Navigate(p.url() + "/catalogue/wording"))
	s.click("Change many …")
	s.do(chromedp.Click(chromedp.CSS(".actform .mantine-Select-input")), chromedp.Click(chromedp.Search(`//*[@role='option'][contains(., 'By the rules')]`)))
	s.sees("Alpha kite in red, back view")
	s.click("Show plan")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if got, want := one[string](p, stands, "K-1-R")+" / "+one[string](p, stands, "K-1-B"), "2 Alpha kite in red; 3 Alpha kite in red, back view / 1 A blue one"; !sameTexts(got, want) {
		t.Errorf("the texts are %s, want %s", got, want)
	}
	s.do(chromedp.Navigate(p.url() + "/catalogue/wording"))
	s.click("Change many …")
	s.do(chromedp.SendKeys(chromedp.Search(`//label[contains(., 'Find')]/following::input[1]`), "kite"), chromedp.SendKeys(chromedp.Search(`//label[contains(., 'Replace with')]/following::input[1]`), "delta"))
	s.sees("Alpha delta in red")
	s.click("Show plan")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if got := one[string](p, stands, "K-1-R"); !strings.Contains(got, "Alpha delta in red, back view") {
		t.Errorf("after find and replace: %s", got)
	}
	s.click("Undo …")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if got := one[string](p, stands, "K-1-R"); !strings.Contains(got, "Alpha kite in red, back view") {
		t.Errorf("taken back: %s", got)
	}
}

// sameTexts compares what stands but for the numbers of the pictures.
func sameTexts(a, b string) bool {
	bare := func(s string) string {
		return strings.Map(func(r rune) rune {
			if '0' <= r && r <= '9' {
				return -1
			}
			return r
		}, s)
	}
	return bare(a) == bare(b)
}

// retype types a text in the place of what a field holds.
func (s screen) retype(selector, text string) {
	s.t.Helper()
	s.do(chromedp.Focus(chromedp.CSS(selector)), chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`), chromedp.SendKeys(chromedp.CSS(selector), text))
}
