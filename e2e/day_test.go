package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image/color"
	"io"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A day's work: ranges and all of a filter are picked, a group that shares its reason is accepted at once, lines are marked as read with
// the count of what is left, pictures are compared large by the arrows, a row's menu does what the keys do, and what is picked is had as
// an archive.
func TestDay(t *testing.T) {
	p := serve(t)
	p.me.load(table + "KR-1001,,Reel one,,Reels,\nKR-1002,,Reel two,,Reels,\nKR-1003,,Reel three,,Reels,\nKR-1004,,Reel four,,Reels,\nKR-1005,,Reel five,,Reels,\n")
	files := map[string][]byte{}
	for i, name := range []string{"1001.jpg", "1002.jpg", "1003.jpg", "1004.jpg", "in/KR-1005.jpg", "in/PK-DLT-140-AMB.jpg", "zz.jpg"} {
		files[name] = jpegOf(color.RGBA{uint8(30 * i), 90, 60, 255}, 120)
	}
	d := p.me.deliver("day", map[string][]byte{"a.zip": zipOf(t, files)})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	open := func(search string) {
		t.Helper()
		s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d?%s", p.url(), d.ID, search)))
		s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
	}

	// Ranges, all, the others.
	open("")
	s.do(chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(shift)), chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(shift)))
	s.sees("3 picked")
	s.press("i")
	s.sees("4 picked")
	s.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(ctrl)))
	s.sees("7 picked")
	s.do(chromedp.Evaluate[chromedp.Void]("document.querySelectorAll('.scroll .line:not(.head)')[1].dispatchEvent(new MouseEvent('click', { bubbles: true, ctrlKey: true }))"))
	s.sees("6 picked")

	// The group: likely, because the key lacks its beginning.
	open("")
	s.do(chromedp.Click(chromedp.Search(`//aside//button[contains(., '“KR-” is missing before it')]`)))
	s.sees("4 likely lines for this reason")
	s.until("document.querySelectorAll('.scroll .line:not(.head)').length === 4", "four lines")
	s.do(chromedp.Evaluate[chromedp.Void]("document.querySelector('.scroll').focus()"), chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(shift)))
	s.counts("by hand 4")

	// Read through, with what is left; a line that goes to another is to be read again.
	open("show=toread")
	s.counts("to check 6")
	s.at("1001.jpg")
	s.press("c")
	s.at("1002.jpg")
	s.counts("to check 5")
	s.press("c")
	s.counts("checked 2")
	open("show=checked")
	s.press("x")
	s.counts("checked 1")
	s.press("z")
	s.counts("checked 2")

	// Large, by the arrows, with the keys of the board.
	open("")
	s.press("m")
	s.until("document.querySelector('[role=dialog] .pane img')", "the picture large")
	s.sees("Compare: line 1 of 7")
	s.press(kb.ArrowRight, "+")
	s.sees("Compare: line 2 of 7")
	s.until("document.querySelector('.pane img').style.transform.includes('scale(1.5)')", "the zoom")
	s.press("x")
	s.counts("set aside 1")
	s.press(kb.Escape)
	s.until("!document.querySelector('[role=dialog]')", "the dialog to close")

	// The menu of a row.
	s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
	s.press(kb.End)
	s.at("zz.jpg")
	s.do(chromedp.KeyEvent(kb.F10, chromedp.KeyModifiers(shift)))
	s.until("document.querySelector('[role=menu]')", "the menu")
	s.do(chromedp.Click(chromedp.Search(`//*[@role='menuitem' and contains(., 'Set aside')]`)))
	s.counts("set aside 2")

	// An archive of what is picked: the pictures byte for byte, by names that any system takes. Nobody else has it.
	var pairing struct {
		Lines []struct {
			ID   int64
			Path string
		}
	}
	p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing", d.ID), nil, &pairing)
	var ids []int64
	for _, l := range pairing.Lines {
		if strings.HasPrefix(l.Path, "in/") {
			ids = append(ids, l.ID)
		}
	}
	var made struct{ Ticket string }
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/zip", d.ID), map[string]any{"arrivals": ids}, &made)
	status, text := p.me.try("GET", "/api/downloads/"+made.Ticket, nil, nil)
	if status != 200 {
		t.Fatalf("the archive: %d %s", status, text)
	}
	z, err := zip.NewReader(strings.NewReader(text), int64(len(text)))
	if err != nil || len(z.File) != len(ids) {
		t.Fatalf("%d files, %v", len(z.File), err)
	}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if got, err := io.ReadAll(r); err != nil || !bytes.Equal(got, files[f.Name]) {
			t.Errorf("%s: %d bytes, %v", f.Name, len(got), err)
		}
	}
	if status, _ := p.colleague("brae").try("GET", "/api/downloads/"+made.Ticket, nil, nil); status != 404 {
		t.Errorf("a colleague fetches it: %d", status)
	}
}

// What ended is told by a quiet note, in the tab's title and in the bell, which keeps it until it is read; also where a process died.
func TestBell(t *testing.T) {
	p := serve(t)
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.sees("No pictures have arrived yet.")
	brae := p.colleague("brae")
	run := p.me.load(table)
	s.sees("products.csv is read and checked.")
	s.sees("Done: products.csv, 5 changes.")
	s.until("document.title.startsWith('(')", "the count in the title")
	s.do(chromedp.Click(chromedp.CSS(".bell")))
	s.until("document.querySelectorAll('[role=menu] .unread').length >= 1", "what is not read")
	s.until("!document.title.startsWith('(')", "all read")
	s.do(chromedp.Click(chromedp.Search(`//*[@role='menuitem' and contains(., '5 changes')]`)))
	s.until(fmt.Sprintf("location.pathname === '/ledger/%d'", run.ID), "the run")
	var told struct {
		Unread  int
		Notices []struct{ State string }
	}
	brae.do("GET", "/api/notices", nil, &told)
	if told.Unread != 0 || len(told.Notices) != 0 {
		t.Errorf("a colleague is told %+v", told)
	}
}
