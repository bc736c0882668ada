package e2e

import (
	"fmt"
	"image/color"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// TestPicturesAndTidy finds a picture among all, puts it into the bin by the keyboard, has it back, marks a placeholder, and sees what is missing;
// as a person does.
func TestPicturesAndTidy(t *testing.T) {
	p := serve(t)
	p.me.load("sku,title,category\nK-1,Drift Delta,Kites\nK-2,Moss Box,Kites\n")
	spring := p.me.deliver("spring", map[string][]byte{"K-1 front.jpg": jpegOf(color.RGBA{9, 200, 60, 255}, 300), "K-2 front.jpg": jpegOf(color.RGBA{200, 20, 60, 255}, 200),
		"spare/old.jpg": jpegOf(color.RGBA{20, 20, 220, 255}, 120)})
	binned := func() int { return one[int](p, "SELECT count(*) FROM asset WHERE binned_at IS NOT NULL") }
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/pictures"))
	s.sees("3 pictures")
	s.do(chromedp.Click(chromedp.CSS(".wall .tile")), chromedp.SendKeys(chromedp.CSS(".filterfield input"), "spare"))
	s.until(`document.querySelectorAll(".tile").length === 1`, "one picture")
	s.until(`document.querySelectorAll('.tile').length === 1`, "the picture that was looked for")
	s.do(chromedp.Focus(chromedp.CSS(".wall")), chromedp.KeyEvent(" "))
	s.sees("1 picture is picked")
	s.do(chromedp.KeyEvent(kb.Enter))
	s.sees("120 × 120 pixels")
	s.do(chromedp.KeyEvent(kb.Escape))
	s.click("Put 1 into the bin")
	s.sees("Into the bin")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if binned() != 1 {
		t.Error("it is not in the bin")
	}
	s.do(chromedp.Navigate(p.url() + "/pictures"))
	s.sees("2 pictures")
	s.do(chromedp.Navigate(p.url() + "/tidy?show=bin"))
	s.sees("old.jpg")
	s.do(chromedp.Focus(chromedp.CSS("[role=grid]")), chromedp.KeyEvent(" "))
	s.click("Restore 1")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if binned() != 0 {
		t.Error("it is still in the bin")
	}
	// The owner that misses a picture is offered the one whose name speaks for it.
	s.do(chromedp.Navigate(p.url() + "/tidy?show=gap.no_main"))
	s.click("Find again")
	s.sees("K-1")
	s.do(chromedp.Click(chromedp.Search("//*[contains(@class, 'line')]//*[.='K-1']")))
	s.until(`document.querySelector('.pickgrid li')?.innerText.includes('K-1 front.jpg')`, "the picture that speaks for it")
	s.do(chromedp.Click(chromedp.CSS(".pickgrid li button")))
	s.click("Put 1 on it")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if got := one[string](p, "SELECT o.sku || ' ' || v.path FROM placement p JOIN owner o ON o.id = p.owner_id JOIN arrival v ON v.asset_id = p.asset_id"); got != "K-1 K-1 front.jpg" {
		t.Errorf("placed: %s", got)
	}
	// Emptying wants the number.
	s.do(chromedp.Navigate(p.url() + "/pictures?q=spare"))
	s.until(`document.querySelectorAll(".tile").length === 1`, "one picture")
	s.click("Put 1 into the bin")
	s.click("Apply 1 change")
	s.sees("1 change made")
	s.do(chromedp.Navigate(p.url() + "/tidy?show=bin"))
	s.sees("old.jpg")
	s.click("Empty the bin …")
	s.sees("All runs can still be undone whole")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input"), "1"))
	s.click("Delete 1 for good")
	s.sees("deleted for good")
	if got := one[int](p, "SELECT count(*) FROM asset"); got != 2 {
		t.Errorf("%d pictures are left", got)
	}
	// A picture table of what is picked, and a delivery that is deleted with what nothing else has.
	s.do(chromedp.Navigate(p.url() + "/pictures?view=lines"))
	s.sees("2 pictures")
	s.do(chromedp.Focus(chromedp.CSS("[role=grid]")), chromedp.KeyEvent(" "))
	s.sees("1 picture is picked")
	s.click("Picture table …")
	s.sees("Preview size")
	s.do(chromedp.Evaluate[chromedp.Void](`const f = [...document.querySelectorAll('[role=dialog] select')].find(s => [...s.options].some(o => o.value === 'csv')); f.value = 'csv'; f.dispatchEvent(new Event('change', { bubbles: true }))`))
	s.do(chromedp.Evaluate[chromedp.Void]("window.fetched = []; { const f = window.fetch; window.fetch = async (...a) => { const r = await f(...a); if (String(a[0]).includes('picture-tables')) window.fetched.push(await r.clone().text()); return r } }"))
	s.click("Make table")
	s.until("window.fetched.length === 1", "the table")
	table, err := chromedp.Run(s.ctx, chromedp.Evaluate[string]("window.fetched[0]"))
	if rows := strings.Split(strings.TrimSpace(table), "\n"); err != nil || len(rows) != 2 || !strings.Contains(rows[1], "front.jpg") {
		t.Errorf("the table of one picture: %q", rows)
	}
	s.do(chromedp.Navigate(fmt.Sprint(p.url(), "/gather?in=", spring.ID)))
	s.click("Close")
	s.click("Delete …")
	s.sees("Delete delivery: spring")
	s.click("Apply 2 changes")
	s.sees("2 changes made")
	if got := one[string](p, "SELECT (SELECT count(*) FROM delivery WHERE removed_at IS NULL) || ' ' || (SELECT string_agg(v.path, ',') FROM asset a JOIN arrival v ON v.asset_id = a.id WHERE a.binned_at IS NOT NULL)"); got != "0 K-2 front.jpg" {
		t.Errorf("after the delivery was deleted: %s", got)
	}
	s.do(chromedp.Navigate(p.url() + "/gather"))
	s.sees("No pictures have arrived yet")
}
