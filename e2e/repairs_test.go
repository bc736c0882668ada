package e2e

import (
	"context"
	"fmt"
	"image/color"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// look keeps a picture of the page where AMBROSA_LOOK names a folder, for those who want to see it.
func (s screen) look(name string) {
	s.t.Helper()
	folder := os.Getenv("AMBROSA_LOOK")
	if folder == "" {
		return
	}
	s.do(chromedp.EmulateViewport(1280, 800), chromedp.Sleep(600*time.Millisecond))
	png, err := chromedp.Run(s.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		s.t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(folder, name+".png"), png, 0o644); err != nil {
		s.t.Fatal(err)
	}
}

func (s screen) click(button string) {
	s.t.Helper()
	s.until(fmt.Sprintf("(b => b && !b.disabled && (b.click(), true))([...document.querySelectorAll('button')].find(b => b.innerText.trim() === %q))", button), "the button "+button)
}

// The screens say what a plan takes off, that it is out of date, how much of a run is undone, and what can be done about a
// delivery that does not go on.
func TestScreensOfRepairs(t *testing.T) {
	p := serve(t)
	p.me.load(table)
	picture := func(n uint8) []byte { return jpegOf(color.RGBA{n, 130, 30, 255}, 90) }
	plan := func(d delivery, rule string) (id id) {
		p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", d.ID), map[string]string{"rule": rule}, &id)
		return id
	}
	first := p.me.deliver("first", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{
		"PK-DLT-140-AMB_1.jpg": picture(10), "PK-DLT-140-AMB_2.jpg": picture(60), "PK-DLT-140-PLM_1.jpg": picture(90)})})
	p.me.apply(plan(first, "add_after").ID)
	made := one[int64](p, "SELECT max(id) FROM run")
	second := p.me.deliver("second", map[string][]byte{"b.zip": zipOf(t, map[string][]byte{"PK-DLT-140-AMB_2.jpg": picture(200), "stray.jpg": picture(230)})})
	old := plan(second, "same_place")

	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/plan/%d", p.url(), old.ID)))
	s.sees("Pictures removed")
	s.sees("Removed")
	s.look("plan-taken-off")
	var pairing struct {
		Lines []struct {
			ID   int64
			Path string
		}
		Owners []struct{ ID int64 }
	}
	p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing", second.ID), nil, &pairing)
	for _, l := range pairing.Lines {
		if l.Path == "stray.jpg" {
			p.me.do("PUT", fmt.Sprintf("/api/deliveries/%d/decisions", second.ID), []map[string]any{{"arrival": l.ID, "owner": pairing.Owners[0].ID}}, nil)
		}
	}
	s.do(chromedp.Navigate(fmt.Sprintf("%s/plan/%d", p.url(), old.ID)))
	s.sees("have changed since this plan was made")
	s.look("plan-stale")
	s.click("Make the plan again")
	s.until(fmt.Sprintf("!location.pathname.endsWith('/%d') && !document.body.innerText.includes('have changed since')", old.ID), "the new plan")
	s.sees("This is what would change")

	// One of the first run's two owners changes; undoing takes the other back, and the ledger says so.
	p.me.apply(plan(second, "same_place").ID)
	var undo id
	p.me.do("POST", fmt.Sprintf("/api/runs/%d/undo", made), nil, &undo)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/plan/%d", p.url(), undo.ID)))
	s.sees("It changed since the plan was made.")
	s.look("plan-undo-conflict")
	p.me.apply(undo.ID)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/ledger/%d", p.url(), made)))
	s.sees("1 undone by run")
	s.sees("Undo the rest")
	s.look("ledger-partly-undone")

	// A delivery that nobody finishes can be removed; one whose bytes are lost is sent again.
	var open id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "left half sent"}, &open)
	p.me.patch(p.me.announce(open.ID, "c.zip", 100), 0, []byte("abc"))
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather?in=%d", p.url(), open.ID)))
	s.sees("Sending ended early")
	s.look("gather-half-sent")
	s.click("Remove …")
	s.sees("are removed from the server")
	s.look("gather-remove")
	s.click("Remove delivery")
	s.until("!document.body.innerText.includes('left half sent')", "the delivery to be gone")
	var lost id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "lost on the server"}, &lost)
	p.me.upload(lost.ID, "d.jpg", picture(9), 1)
	if err := os.Remove(filepath.Join(p.data, "uploads", one[string](p, "SELECT id FROM upload WHERE delivery_id = $1", lost.ID))); err != nil {
		t.Fatal(err)
	}
	conn := p.database()
	defer conn.Close(context.Background())
	for _, sql := range []string{"UPDATE delivery SET open = false WHERE id = $1",
		"INSERT INTO job (kind, subject, state, notes) VALUES ('take_in', $1, 'failed', '[{\"code\": \"bytes_gone\", \"data\": {\"path\": \"d.jpg\"}}]')"} {
		if _, err := conn.Exec(context.Background(), sql, lost.ID); err != nil {
			t.Fatal(err)
		}
	}
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather?in=%d", p.url(), lost.ID)))
	s.sees("bytes of d.jpg are gone")
	s.look("gather-failed")
	s.click("Send the files again")
	s.sees("Send the same files again")
	d := one[string](p, "SELECT CASE WHEN open THEN 'open' ELSE 'closed' END FROM delivery WHERE id = $1", lost.ID)
	if d != "open" {
		t.Errorf("the delivery is %s", d)
	}
	s.look("gather-reopened")
}
