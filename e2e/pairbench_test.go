package e2e

import (
	"fmt"
	"image/color"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// What is contested is given to both, a group of unclaimed lines is paired in one go, both views are looked at; another
// ladder and a habit switched off leave what was decided by hand; what others do, and a catalogue that changes, is seen at once.
func TestPairBench(t *testing.T) {
	p := serve(t)
	p.me.load(table + "PK-DLT-240,,Hearth Delta 240,,Kites > Deltas,\nPK-DLT-241,,Lark Delta 241,,Kites > Deltas,\nPK-DLT-242,,Fell Delta 242,,Kites > Deltas,\n")
	files := map[string][]byte{}
	for i, name := range []string{"PK-DLT-140-AMB + PK-DLT-140-PLM.jpg", "PK-DLT-340.jpg", "PK-DLT-341.jpg", "PK-DLT-342.jpg", "pk-dlt-140-amb_2.jpg", "PK-DLT-140/7.jpg", "PK-DLT-999.jpg"} {
		files[name] = jpegOf(color.RGBA{uint8(30 * i), 90, 60, 255}, 120)
	}
	d := p.me.deliver("bench", map[string][]byte{"a.zip": zipOf(t, files)})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d?show=contested", p.url(), d.ID)))
	s.sees("Trial board")
	s.until(`[...document.querySelectorAll(".trial td button")].some(b => b.textContent.startsWith('SKU whole: 1 sure'))`, "the trial board's counts")
	s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
	// Both keys are underlined; the name is too long for its place, and yet its end is there.
	s.until(`[...document.querySelectorAll('.line.at .filename u.met')].map(u => u.innerText).join('') === 'PK-DLT-140-AMBPK-DLT-140-PLM'`, "both keys underlined")
	s.until(`(e => e.right <= document.querySelector('.line.at .filename').getBoundingClientRect().right + 1)(document.querySelector('.line.at .filename > :last-child').getBoundingClientRect())`, "the end of the name in sight")
	s.press("b")
	s.sees("No line is of this kind.")
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d?show=hand", p.url(), d.ID)))
	s.sees("by hand, ines · and 1 more owner")
	s.sees("Also for")

	s.press("v")
	s.sees("With this rule")
	s.until(`document.querySelectorAll('.line .strip .fresh').length === 3`, "the one picture on two owners, beside another")
	s.press("v")

	s.do(chromedp.Click(chromedp.Search(`//aside//button[starts-with(normalize-space(.), '“3” instead of “2”')]`)))
	s.sees("3 unclaimed lines would match an owner")
	s.do(chromedp.Click(chromedp.Search(`//button[starts-with(normalize-space(.), 'Pair all 3')]`)))
	s.until(`[...document.querySelectorAll('.rail .filter')].some(f => f.innerText.replace(/\s+/g, ' ') === 'by hand 4')`, "four lines decided by hand")

	// Without the whole SKU only the folder and what was decided by hand are left.
	counts := func(want string) {
		t.Helper()
		s.until(fmt.Sprintf(`[...document.querySelectorAll('.rail .filter')].map(f => f.innerText.replace(/\s+/g, ' ')).join('|').includes(%q)`, want), want)
	}
	counts("sure 6|")
	toggle := func(cell string) {
		t.Helper()
		s.do(chromedp.Click(chromedp.Search(fmt.Sprintf(`//table//button[starts-with(normalize-space(.), %q)]`, cell))))
		s.until(fmt.Sprintf(`[...document.querySelectorAll(".trial td button")].find(b => b.textContent.startsWith(%q)).getAttribute('aria-pressed') === 'false'`, cell), cell+" to be off")
	}
	toggle("SKU whole")
	toggle("SKU within")
	counts("sure 5|")
	counts("by hand 4|")
	s.do(chromedp.Click(chromedp.Search(`//label[contains(., 'The folder of a file is the key')]/input`)))
	counts("sure 4|")
	s.do(chromedp.Click(chromedp.Search(`//button[starts-with(normalize-space(.), 'Use every cell')]`)))
	counts("sure 5|")

	// Somebody else sets a line aside, and the catalogue gets what was missing.
	var pairing struct {
		Lines []struct {
			ID   int64
			Path string
		}
	}
	p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing", d.ID), nil, &pairing)
	for _, l := range pairing.Lines {
		if l.Path == "pk-dlt-140-amb_2.jpg" {
			p.me.do("PUT", fmt.Sprintf("/api/deliveries/%d/decisions", d.ID), []map[string]any{{"arrival": l.ID, "aside": true}}, nil)
		}
	}
	counts("set aside 1|")
	p.me.load("sku,title\nPK-DLT-999,Gorse Delta 999\n")
	s.sees("The catalogue has changed: 1 line is paired differently now.")
	counts("sure 5|")

	// All of it stands when the page is opened again.
	s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)), chromedp.Sleep(300*time.Millisecond))
	counts("by hand 4|")
	counts("set aside 1|")
}
