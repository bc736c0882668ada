package e2e

import (
	"fmt"
	"image/color"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// Whoever watches a delivery come in is sent each of its lines once, in answers of less than 200 kB, and sees them all.
func TestGatherGrows(t *testing.T) {
	const lines = 3300
	p := serve(t)
	holds := map[string][]byte{"3000/not a picture.jpg": []byte("words")}
	for n := range lines - 1 {
		holds[fmt.Sprintf("%d/front_%05d.jpg", n/1000, n)] = jpegOf(color.RGBA{uint8(n), uint8(n >> 8), 90, 255}, 16)
	}
	var d id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "comes in"}, &d)
	p.me.upload(d.ID, "all.zip", zipOf(t, holds), 1)
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather?in=%d", p.url(), d.ID)))
	s.sees("comes in")
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", d.ID), nil, nil)
	p.me.taken(d.ID) // the page is open all the while; how long it takes is the machine's
	s.until(fmt.Sprintf("document.querySelector('[role=grid]')?.getAttribute('aria-rowcount') === '%d'", lines+1), "every line")
	s.look("gather-grows")
	asked, err := chromedp.Run(s.ctx, chromedp.Evaluate[[]int](`performance.getEntriesByType('resource').filter(e => e.name.includes('/arrivals')).map(e => e.decodedBodySize)`))
	if err != nil {
		t.Fatal(err)
	}
	whole := 0
	for after := int64(0); ; {
		var piece []struct{ ID int64 }
		_, text := p.me.try("GET", fmt.Sprintf("/api/deliveries/%d/arrivals?after=%d", d.ID, after), nil, &piece)
		if whole += len(text); len(piece) == 0 {
			break
		}
		after = piece[len(piece)-1].ID
	}
	sent := 0
	for _, bytes := range asked {
		if sent += bytes; bytes > 200_000 {
			t.Errorf("an answer of %d bytes", bytes)
		}
	}
	if sent > whole+whole/5 {
		t.Errorf("%d answers of %d bytes for lines of %d", len(asked), sent, whole)
	}
	// A problem far down is found by its filter.
	s.do(chromedp.Navigate(fmt.Sprintf("%s/gather?in=%d&show=not_picture", p.url(), d.ID)))
	s.sees("not a picture.jpg")
	if rows := strings.Count(s.text("[role=grid]"), "front_"); rows > 0 {
		t.Errorf("%d other lines", rows)
	}
}
