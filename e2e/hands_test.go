package e2e

import (
	"fmt"
	"image/color"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Keys that are held, as the browser's protocol counts them.
const alt, ctrl, shift = 1, 2, 8

// colleague adds a person and signs them in.
func (p *program) colleague(name string) *client {
	p.t.Helper()
	if _, complaints, code := command(p.t.(*testing.T), nil, adminPassword+"\n", "user", "add", name, "--role", "editor", "--data", p.data); code != 0 {
		p.t.Fatalf("%s is not added: %s", name, complaints)
	}
	return signIn(p.t, p.url(), name, adminPassword)
}

// at waits until the line that shows a text has the focus.
func (s screen) at(text string) {
	s.t.Helper()
	s.until(fmt.Sprintf("document.querySelector('.scroll .line.at')?.innerText.replace(/\\n/g, '').includes(%q)", text), "the focus on "+text)
}

// counts waits until the rail shows a kind of lines with a count.
func (s screen) counts(want string) {
	s.t.Helper()
	s.until(fmt.Sprintf(`('|' + [...document.querySelectorAll('.rail .filter')].map(f => f.innerText.replace(/\s+/g, ' ')).join('|') + '|').includes(%q)`, "|"+want+"|"), want)
}

// A morning's work on one delivery goes where the hands mean it to go: the focus stays with its line and goes on to the next one
// that is open, several lines take each their own candidate, a held key decides one line, what is picked is counted also where it
// is not shown, and undo is one's own, outlives the page, can be done again, and leaves alone what a colleague decided later.
func TestHands(t *testing.T) {
	p := serve(t)
	p.me.load(table + "KR-1001,,Reel one,,Reels,\nKR-1002,,Reel two,,Reels,\nKR-1003,,Reel three,,Reels,\nKR-1004,,Reel four,,Reels,\n")
	files := map[string][]byte{"__MACOSX/._KR-1001.jpg": []byte("litter")}
	for i, name := range []string{"KR-1001 bright.jpg", "KR-1002 misty.jpg", "KR-1003 calm.jpg", "KR-1004 late.jpg",
		"KR-1001 + KR-1002.jpg", "KR-1003 + KR-1004.jpg", "zz.jpg"} {
		files[name] = jpegOf(color.RGBA{uint8(30 * i), 90, 60, 255}, 120)
	}
	d := p.me.deliver("hands", map[string][]byte{"a.zip": zipOf(t, files)})
	brae := p.colleague("brae")
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	open := func(show string) {
		t.Helper()
		s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d?show=%s", p.url(), d.ID, show)))
		s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
	}
	decided := func() (byHand string) {
		var pairing struct {
			Lines []struct {
				Path, Person string
				Aside        bool
				Owner        int64
			}
		}
		p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing", d.ID), nil, &pairing)
		for _, l := range pairing.Lines {
			if l.Person != "" {
				byHand += fmt.Sprintf("%s %s %v|", l.Path, l.Person, l.Aside)
			}
		}
		return byHand
	}

	// Litter is last: the first picture has the focus from the start.
	open("all")
	s.at("KR-1001")
	s.press(kb.End)
	s.at("._KR-1001.jpg")

	// Working through a filter.
	open("likely")
	s.at("KR-1001 bright")
	s.press(kb.Enter)
	s.at("KR-1002 misty")
	s.counts("likely 3")
	s.at("KR-1002 misty")
	s.press(kb.Enter)
	s.at("KR-1003 calm")
	s.counts("likely 2")
	s.do(chromedp.Evaluate[chromedp.Void](`for (let i = 0; i < 9; i++) document.activeElement.dispatchEvent(
		new KeyboardEvent('keydown', { key: i % 2 ? 'Enter' : 'x', repeat: true, bubbles: true, cancelable: true }))`))
	s.press("x")
	s.at("KR-1004 late")
	s.counts("set aside 1")
	s.counts("by hand 2")

	// Undo is one's own, again and again, also after the page was left; then forward again.
	open("all")
	s.press("z")
	s.sees("Undone: 1 line set aside.")
	s.counts("set aside 0")
	s.press("z")
	s.counts("by hand 1")
	s.press("Z")
	s.sees("Done again: 1 line accepted.")
	s.counts("by hand 2")
	s.press("Z")
	s.counts("set aside 1")
	s.press("Z")
	s.sees("Nothing is left here")
	var lines struct {
		Lines []struct {
			ID   int64
			Path string
		}
	}
	brae.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing", d.ID), nil, &lines)
	for _, l := range lines.Lines {
		if strings.HasPrefix(l.Path, "KR-1003 calm") {
			brae.do("PUT", fmt.Sprintf("/api/deliveries/%d/decisions", d.ID), []map[string]any{{"arrival": l.ID, "rank": 3}}, nil)
		}
	}
	s.counts("set aside 0")
	s.press("z")
	s.sees("1 line was not changed, because brae decided later.")
	if got := decided(); !strings.Contains(got, "KR-1003 calm.jpg brae") {
		t.Errorf("the colleague's decision is gone: %s", got)
	}

	// Of several lines each takes its own second candidate.
	open("contested")
	s.press(" ", kb.ArrowDown, " ", "2")
	s.counts("contested 0")
	open("hand")
	for _, want := range []string{"KR-1002", "KR-1004"} {
		s.until(fmt.Sprintf(`[...document.querySelectorAll('.scroll .line')].some(l => l.innerText.includes(' + ') && l.querySelector('b').innerText === %q)`, want), want+" by hand")
	}

	// What the filter hides stays in hand, and it is said.
	open("all")
	s.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('.scroll').focus()`))
	s.press(kb.End, kb.ArrowUp)
	s.at("zz.jpg")
	s.press(" ", kb.Home, " ")
	s.sees("2 picked")
	s.do(chromedp.SendKeys(chromedp.CSS(".filterfield input"), "zz"+kb.Enter))
	s.sees("2 picked, 1 not shown")
	s.press("x")
	s.counts("set aside 2")
}

// Deliveries are found by their words, state and supplier, renamed, noted, and closed when one is done with them.
func TestDeliveries(t *testing.T) {
	p := serve(t)
	p.me.load(table)
	picture := zipOf(t, map[string][]byte{"PK-DLT-140-AMB.jpg": jpegOf(color.RGBA{90, 90, 60, 255}, 90)})
	first := p.me.deliver("spring", map[string][]byte{"a.zip": picture})
	p.me.deliver("autumn", map[string][]byte{"b.zip": picture})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather?in=%d", p.url(), first.ID)))
	s.sees("1 line")
	s.click("Edit …")
	s.until("document.querySelector('[role=dialog] input')", "the form")
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] textarea"), "two are blurred, 100% sure"))
	s.do(chromedp.SendKeys(chromedp.CSS("[role=dialog] input[role=combobox], [role=dialog] .mantine-Autocomplete-input"), "Corrie"+kb.Enter))
	s.click("Save")
	s.sees("two are blurred")
	rail := func(want string) {
		t.Helper()
		s.until(fmt.Sprintf(`[...document.querySelectorAll('.rail .filter')].map(f => f.innerText.split('\n')[0]).filter(f => /spring|autumn/.test(f)).join() === %q`, want), "the deliveries "+want)
	}
	rail("autumn,spring")
	for _, c := range []struct{ text, want string }{{"CORRIE", "spring"}, {"100%", "spring"}, {"u_n", ""}, {"utu", "autumn"}} {
		s.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('.finddelivery input').select()`), chromedp.SendKeys(chromedp.CSS(".finddelivery input"), c.text))
		rail(c.want)
	}
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather?in=%d", p.url(), first.ID)))
	rail("autumn,spring")
	s.click("Close")
	s.click("Open again")
	s.click("Close")
	rail("autumn")
	var waiting struct{ ToPair int }
	p.me.do("GET", "/api/trail", nil, &waiting)
	if waiting.ToPair != 1 {
		t.Errorf("%d deliveries wait to be paired", waiting.ToPair)
	}
	var list []struct{ Title string }
	p.me.do("GET", "/api/deliveries?closed=yes&supplier=Corrie", nil, &list)
	if len(list) != 1 || list[0].Title != "spring" {
		t.Errorf("closed are %+v", list)
	}
}

// What is picked is moved together among its owners' pictures, by a key or from the menu of a row, and one step takes it back; then
// the plan is applied without the mouse.
func TestMoves(t *testing.T) {
	p := serve(t)
	p.me.load(table + "KR-1001,,Reel one,,Reels,\n")
	files := map[string][]byte{}
	for i, name := range []string{"KR-1001_1.jpg", "KR-1001_2.jpg", "KR-1001_3.jpg", "PK-DLT-140-AMB_1.jpg", "PK-DLT-140-AMB_2.jpg"} {
		files[name] = jpegOf(color.RGBA{uint8(30 * i), 90, 60, 255}, 90)
	}
	d := p.me.deliver("moves", map[string][]byte{"a.zip": zipOf(t, files)})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
	s.at("KR-1001_1.jpg")
	places := func(want string) {
		t.Helper()
		s.until(fmt.Sprintf(`[...document.querySelectorAll('.scroll .line')].map(l => [...l.querySelectorAll('[role=gridcell]')].find(c => /^\d+$/.test(c.innerText.trim()))?.innerText.trim()).join('') === %q`, want), "the places "+want)
	}
	places("12312")
	s.press("j", " ", "j", " ", "j", "j", " ")
	s.sees("3 picked")
	s.do(chromedp.KeyEvent(kb.ArrowUp, chromedp.KeyModifiers(alt|shift)))
	places("31221")
	s.sees("3 picked")
	s.press("z")
	places("12312")
	s.do(chromedp.KeyEvent(kb.F10, chromedp.KeyModifiers(shift)))
	s.do(chromedp.Click(chromedp.Search(`//*[@role='menuitem' and contains(., 'Move to the front')]`)))
	places("31221")

	s.until("!document.querySelector('[role=menu]')", "the menu to be gone")
	s.press("v")
	s.until("location.search.includes('view=owner') && document.querySelectorAll('.scroll .line.at').length === 1", "the board by owner")
	s.do(chromedp.KeyEvent(kb.F10, chromedp.KeyModifiers(shift)))
	s.until("document.querySelector('[role=menu]')?.innerText.includes('Set aside') && !document.querySelector('[role=menu]').innerText.includes('Compare')", "the menu by owner")
	s.press(kb.Escape)
	s.until("!document.querySelector('[role=menu]')", "the menu to be gone again")
	s.press("v")
	s.until("!location.search.includes('view=owner')", "the board by file")

	// By keyboard to the plan, and to the run: a key applies only with the number of changes.
	s.press("p")
	s.sees("Apply 2 changes")
	s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
	s.do(chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(ctrl)))
	s.sees("Type 2 to confirm")
	s.press("5", kb.Enter, kb.Backspace, "2", kb.Enter)
	s.until("location.pathname.startsWith('/ledger/')", "the run")
	s.sees("2 changes made")
}
