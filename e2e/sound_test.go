package e2e

import (
	"fmt"
	"image/color"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A code that is typed fast and ended by Enter, as a hand scanner does, takes the owner of that very code or nobody: neither one of
// an earlier text nor one that is only near.
func TestScanner(t *testing.T) {
	p := serve(t)
	p.me.load(table + "KR-1001,,Reel one,9521234500032,Reels,\nKR-10010,,Reel ten,,Reels,\n")
	d := p.me.deliver("scan", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{"zz.jpg": jpegOf(color.RGBA{90, 90, 60, 255}, 90)})})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
	scan := func(code string) {
		t.Helper()
		s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
		// The protocol of the browser puts a letter into whatever has the focus by then, also where its key was taken, as no keyboard does.
		s.do(chromedp.Evaluate[chromedp.Void]("void document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: 's', bubbles: true, cancelable: true}))"))
		s.do(chromedp.WaitVisible(chromedp.CSS("[role=combobox]")))
		s.until("document.activeElement?.getAttribute('role') === 'combobox'", "the search to have the focus")
		s.do(chromedp.KeyEvent(code + kb.Enter))
	}
	for _, c := range []struct{ code, sku string }{{"kr-1001", "KR-1001"}, {"9521234500018", "PK-DLT-140-AMB"}, {"0 9521234500032", "KR-1001"}} {
		scan(c.code)
		s.until(fmt.Sprintf("!document.querySelector('[role=dialog]') && document.querySelector('.line.at b')?.innerText === %q", c.sku), c.code+" to be "+c.sku)
	}
	// The search of one letter has hits; what is meant has none.
	scan("KR-1009")
	s.sees("No owner has exactly the code “KR-1009”.")
	s.press(kb.Escape)
	scan("QXWV-77/3")
	s.sees("No match for “QXWV-77/3”.")
	s.press(kb.Escape)
	s.until("document.querySelector('.line.at b')?.innerText === 'KR-1001'", "the owner to stay")
}

// A double click asks once: one plan, one run, one undo; also from two tabs at the same moment. The glass never shows a line of
// another run.
func TestDoubleClick(t *testing.T) {
	p := serve(t)
	p.me.load(table)
	p.me.load("sku,title\nPK-ZZZ-1,Gorse one\n")
	d := p.me.deliver("twice", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{"PK-DLT-140-AMB.jpg": jpegOf(color.RGBA{90, 90, 60, 255}, 90)})})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	double := func(button string) {
		t.Helper()
		s.until(fmt.Sprintf("[...document.querySelectorAll('button')].find(b => b.innerText.startsWith(%q) && !b.disabled)", button), button)
		s.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf("(b => { b.click(); b.click() })([...document.querySelectorAll('button')].find(b => b.innerText.startsWith(%q)))", button)))
	}
	counts := func(plans, runs int) {
		t.Helper()
		if got := one[string](p, "SELECT (SELECT count(*) FROM plan) || ' plans, ' || (SELECT count(*) FROM run) || ' runs'"); got != fmt.Sprintf("%d plans, %d runs", plans, runs) {
			t.Errorf("there are %s, want %d and %d", got, plans, runs)
		}
	}
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
	double("Show plan")
	s.sees("Nothing is written yet.")
	counts(3, 2)
	double("Apply 1 change")
	s.sees("1 change made")
	counts(3, 3)
	double("Undo …")
	s.sees("Undo of run 3")
	counts(4, 3)
	// Two requests at once, as from two tabs.
	undo := one[int64](p, "SELECT max(id) FROM plan")
	got := make(chan string, 2)
	for range 2 {
		go func() {
			status, text := p.me.try("POST", fmt.Sprintf("/api/plans/%d/apply", undo), nil, nil)
			got <- fmt.Sprint(status, text)
		}()
	}
	if a, b := <-got, <-got; a != b {
		t.Errorf("asked twice: %s and %s", a, b)
	}
	s.sees("This plan was applied.")
	counts(4, 4)

	// Another run's line is not shown, not even for a moment: nothing but what stands on the board.
	s.do(chromedp.Navigate(p.url() + "/ledger/2"))
	s.until("document.querySelector('.glass h3')?.innerText === 'PK-ZZZ-1'", "the line of run 2")
	s.do(chromedp.Evaluate[chromedp.Void](`window.wrong = 0; new MutationObserver(() => {
		const other = location.pathname.endsWith('/ledger/1') && document.querySelector('.glass h3')?.innerText === 'PK-ZZZ-1';
		if (other) window.wrong++;
	}).observe(document.body, { subtree: true, childList: true, characterData: true })`))
	s.do(chromedp.Click(chromedp.CSS(".rail .filter:last-of-type")))
	s.until("location.pathname.endsWith('/ledger/1') && document.querySelector('.glass h3') && document.querySelector('.glass h3').innerText !== 'PK-ZZZ-1'", "the line of run 1")
	s.until("window.wrong === 0", "no line of another run")
}

// An error without a word is an error, a server that does not answer is no reason to sign in, and who signs in again after the session
// ended goes on where they were.
func TestTrouble(t *testing.T) {
	p := serve(t)
	p.me.load(table)
	d := p.me.deliver("trouble", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{"PK-DLT-140-AMB.jpg": jpegOf(color.RGBA{90, 90, 60, 255}, 90),
		"zz.jpg": jpegOf(color.RGBA{90, 9, 60, 255}, 90)})})
	s := screen{t, browser(t)}
	const proxy = `const asked = window.fetch; window.fetch = (request, ...more) => window.broken && request.url.endsWith('/decisions') ?
		Promise.resolve(new Response(null, { status: 502 })) : asked(request, ...more)`
	if _, err := chromedp.Call(s.ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: proxy}); err != nil {
		t.Fatal(err)
	}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
	s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")

	// A proxy's answer: status 502, no body.
	s.do(chromedp.Evaluate[chromedp.Void]("window.broken = true"))
	s.press("x")
	s.sees("The server answered with an error (502).")
	s.counts("set aside 0")
	s.do(chromedp.Evaluate[chromedp.Void]("window.broken = false"))

	// The session ends while two lines are picked.
	s.press(" ", kb.ArrowDown, " ")
	s.sees("2 picked")
	one[int64](p, "WITH gone AS (DELETE FROM session RETURNING 1) SELECT count(*) FROM gone")
	s.press("x")
	s.sees("Your session has ended")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input[type=password]"), adminPassword+kb.Enter))
	s.until("!document.querySelector('[role=dialog]')", "the dialog to close")
	s.sees("2 files")
	s.do(chromedp.Evaluate[chromedp.Void]("document.querySelector('.scroll').focus()"))

	// A file dropped on the board is refused with a word, and the page stays.
	s.do(chromedp.Evaluate[chromedp.Void](`(() => { const files = new DataTransfer(); files.items.add(new File(['x'], 'x.jpg', { type: 'image/jpeg' }));
		window.stays = true;
		window.dropped = document.querySelector('.scroll').dispatchEvent(new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true })) })()`))
	s.sees("Files are not taken here. Drop them on the Gather page.")
	s.until("window.stays && window.dropped === false", "the drop to be prevented")

	// The server is gone: no sign-in form, and when it is back, on it goes.
	p.stop()
	s.press("x")
	s.sees("The server does not answer.")
	s.until("!document.querySelector('input[type=password]')", "no sign-in form")
	p.start("serve")
	s.do(chromedp.Reload())
	s.sees("2 files")
}
