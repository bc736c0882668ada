package e2e

import (
	"fmt"
	"image/color"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"ambrosa/internal/standin"
)

// A list that lies on a drive beside its pictures is read by each visit; where the source wants it, its plan is made and applied, but never with
// a problem or a picture that is not cleared.
func TestTablesOfSources(t *testing.T) {
	folder := t.TempDir()
	put := func(name string, content []byte) {
		t.Helper()
		if err := os.WriteFile(filepath.Join(folder, name), content, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	put("one.jpg", jpegOf(color.RGBA{200, 90, 60, 255}, 300))
	put("products.csv", []byte("sku,title,picture\nK-1,Kite,one.jpg\n"))
	p := serve(t, "AMBROSA_FOLDERS="+folder)
	id := p.source("local", "file://"+folder)
	set := func(tables, may string) {
		t.Helper()
		p.me.do("PUT", fmt.Sprintf("/api/sources/%d", id), map[string]any{"name": "drive local", "kind": "drive",
			"settings": map[string]any{"protocol": "local", "folder": folder, "tables": tables}, "rights": map[string]any{"may": may}}, nil)
	}
	checked := func(name string) {
		t.Helper()
		await(t, 60*time.Second, name+" to be checked", func() bool {
			return one[int](p, "SELECT count(*) FROM worksheet WHERE checked = version AND name = $1", name) > 0
		})
	}
	plans := func() int { return one[int](p, "SELECT count(*) FROM plan") }
	runs := func() int { return one[int](p, "SELECT count(*) FROM run") }
	set("", "not_cleared")
	p.collect(id)
	checked("products.csv")
	time.Sleep(time.Second)
	if plans() != 0 {
		t.Fatal("a plan was made, and nobody asked for it")
	}
	set("apply", "not_cleared")
	put("second.csv", []byte("sku,title,picture\nK-2,Kite two,one.jpg\n"))
	p.collect(id)
	checked("second.csv")
	await(t, 60*time.Second, "a plan", func() bool { return plans() == 1 })
	time.Sleep(time.Second)
	if runs() != 0 {
		t.Fatal("a plan with a picture that is not cleared was applied")
	}
	set("apply", "not_cleared")
	put("third.csv", []byte("sku,title\nK-3,Kite three\n,No key\n"))
	p.collect(id)
	checked("third.csv")
	await(t, 60*time.Second, "another plan", func() bool { return plans() == 2 })
	put("fourth.csv", []byte("sku,title\nK-4,Kite four\n"))
	p.collect(id)
	await(t, 60*time.Second, "the product", func() bool { return one[int](p, "SELECT count(*) FROM owner WHERE sku = 'K-4'") == 1 })
	if n := one[int](p, "SELECT count(*) FROM owner WHERE sku IN ('K-2', 'K-3')"); n != 0 {
		t.Errorf("%d products of tables with problems are there", n)
	}
}

// In the browser a drive is named, checked, browsed and collected from; after a day, what changed is seen, and the changed picture takes the
// place of the former one on its product by a plan. What is not cleared is held, and an admin releases it.
func TestSourceByHand(t *testing.T) {
	folder := t.TempDir()
	put := func(path string, c color.RGBA, side int) {
		t.Helper()
		at := filepath.Join(folder, filepath.FromSlash(path))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(at, jpegOf(c, side), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	put("spring/K-1.jpg", color.RGBA{200, 9, 60, 255}, 120)
	put("spring/K-2.jpg", color.RGBA{9, 200, 60, 255}, 120)
	put("old/K-9.jpg", color.RGBA{9, 9, 60, 255}, 120)
	at, err := standin.WebDAV(t.Context(), folder, "mo", "hush")
	if err != nil {
		t.Fatal(err)
	}
	p := serve(t, onLoopback)
	p.me.load("sku,title\nK-1,Alpha\nK-2,Beta\n")
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/gather"))
	s.click("Add source …")
	s.sees("A folder on a server or in a cloud.")
	fill := func(label, text string) {
		t.Helper()
		s.do(chromedp.SendKeys(chromedp.Search(`//*[contains(@class, 'fields')]//label[starts-with(normalize-space(.), '`+label+`')]/following::input[1]`), text))
	}
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input[data-autofocus]"), "Tarn, drive"))
	fill("Address", "http://"+at+"/")
	fill("Name", "mo")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input[type=password]"), "hush"))
	s.click("Allow 127.0.0.1")
	s.until("![...document.querySelectorAll('[role=dialog] button')].some(b => b.innerText.startsWith('Allow'))", "the host to be allowed")
	s.do(chromedp.Click(chromedp.CSS("[role=dialog] button[type=submit]")))
	s.sees("Nothing came from this source yet.")
	if got := one[string](p, "SELECT settings->>'protocol' || ' ' || (secrets IS NOT NULL) FROM source"); got != "webdav true" {
		t.Errorf("kept is %s", got)
	}
	s.click("Check connection")
	s.sees("3 files seen, 3 pictures")

	s.do(chromedp.Navigate(p.url() + "/gather/1?show=browse"))
	s.until("[...document.querySelectorAll('.line')].some(l => l.innerText.includes('spring') && l.innerText.includes('2'))", "the folders with their counts")
	s.press("j", " ")
	s.sees("2 files ticked")
	s.click("Collect ticked")
	await(t, time.Minute, "what was ticked", func() bool { return one[int](p, "SELECT count(*) FROM arrival") == 2 })
	s.do(chromedp.Navigate(p.url() + "/pair/" + fmt.Sprint(one[int64](p, "SELECT max(id) FROM delivery"))))
	s.sees("2 ready")
	s.click("Show plan")
	s.click("Apply 2 changes")
	s.sees("2 changes made")

	put("spring/K-1.jpg", color.RGBA{210, 9, 70, 255}, 240)
	s.do(chromedp.Navigate(p.url() + "/gather/1"))
	s.click("Collect what is new")
	s.until(`document.querySelector('.visitglass')?.textContent.includes('changed1')`, "the second visit")
	s.click("Show what was found")
	s.sees("old/K-9.jpg")
	s.do(chromedp.Click(chromedp.Search(`//button[contains(@class, 'filter') and contains(., 'changed')]`)))
	s.sees("The new picture has more pixels.")
	s.click("Replace it on products …")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if got := one[int](p, "SELECT a.width FROM placement p JOIN owner o ON o.id = p.owner_id JOIN asset a ON a.id = p.asset_id WHERE o.sku = 'K-1'"); got != 240 {
		t.Errorf("K-1 shows a picture of %d pixels", got)
	}

	p.me.do("PUT", "/api/sources/1", map[string]any{"name": "Tarn, drive", "kind": "drive", "settings": map[string]any{"protocol": "webdav", "values": map[string]string{"url": "http://" + at + "/", "user": "mo"}},
		"rights": map[string]any{"may": "not_cleared"}}, nil)
	put("spring/K-2 back.jpg", color.RGBA{9, 210, 90, 255}, 200)
	d := p.collect(1)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d?rule=add_after", p.url(), d.ID)))
	s.click("Show plan")
	s.sees("A picture is not cleared for use.")
	s.sees("Apply 0 changes")
	s.do(chromedp.SendKeys(chromedp.CSS(".release input"), "asked by telephone"))
	s.click("Release all held lines")
	s.click("Apply 1 change")
	s.sees("1 change made")
	if got := one[string](p, "SELECT reason FROM plan_hold WHERE released_by IS NOT NULL"); got != "asked by telephone" {
		t.Errorf("the reason is %q", got)
	}

	put("spring/QX-771.jpg", color.RGBA{90, 10, 190, 255}, 200)
	d = p.collect(1)
	line := one[int64](p, "SELECT max(id) FROM arrival")
	p.me.do("PUT", fmt.Sprintf("/api/deliveries/%d/decisions", d.ID), []map[string]any{{"arrival": line, "owner": one[int64](p, "SELECT id FROM owner WHERE sku = 'K-1'")}}, nil)
	s.do(chromedp.Navigate(p.url() + "/gather/1?show=references"))
	s.click("Add to cross-reference")
	await(t, time.Minute, "the code that was learnt", func() bool { return one[int](p, "SELECT count(*) FROM cross_reference WHERE code = 'qx771'") == 1 })

	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather?in=%d", p.url(), d.ID)))
	s.click("Set rights of this picture …")
	s.do(chromedp.Click(chromedp.CSS("[role=dialog] .mantine-Select-input")), chromedp.Click(chromedp.Search(`//*[@role='option'][contains(., 'Internal only')]`)))
	s.do(chromedp.Click(chromedp.CSS("[role=dialog] button[type=submit]")))
	await(t, time.Minute, "the rights", func() bool { return one[int](p, "SELECT count(*) FROM rights WHERE may = 'internal'") == 1 })
}
