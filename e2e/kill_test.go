package e2e

import (
	"fmt"
	"image/color"
	"strings"
	"testing"
	"time"
)

// The program is killed in the middle of an upload, of a taking in and of a run. After each restart the work
// goes on, with nothing twice and nothing missing.
func TestKill(t *testing.T) {
	p := serve(t)
	const pictures, products = 700, 30_000

	// An upload: what has come in full pieces is kept.
	files := map[string][]byte{}
	for i := range pictures {
		files[fmt.Sprintf("K-%05d.jpg", i)] = jpegOf(color.RGBA{uint8(i), uint8(i >> 8), 99, 255}, 400+i)
	}
	archive := zipOf(t, files)
	var d id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "killed"}, &d)
	address := p.me.announce(d.ID, "all.zip", len(archive))
	third := len(archive) / 3
	p.me.patch(address, 0, archive[:third])
	p.me.patch(address, third, archive[third:2*third])
	p.kill()
	p.start("serve")
	if at := p.me.offset(address); at != 2*third {
		t.Fatalf("after the kill %d bytes are there, %d were sent", at, 2*third)
	}
	p.me.patch(address, 2*third, archive[2*third:])

	// A taking in: killed twice on its way.
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", d.ID), nil, nil)
	reached := 0
	for _, lines := range []int{40, 300} {
		await(t, time.Minute, fmt.Sprintf("%d lines", lines), func() bool {
			var now delivery
			p.me.do("GET", fmt.Sprintf("/api/deliveries/%d", d.ID), nil, &now)
			reached = now.Lines
			return now.Lines >= lines
		})
		p.kill()
		p.start("serve")
	}
	if reached >= pictures {
		t.Fatalf("the kill came too late: %d lines", reached)
	}
	begun := time.Now()
	now := p.me.taken(d.ID)
	t.Logf("taken up and finished %v after the restart", time.Since(begun).Round(time.Millisecond))
	var arrivals []struct {
		Path, Sha string
		Seen      bool
	}
	p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/arrivals", d.ID), nil, &arrivals)
	names := map[string]bool{}
	for _, a := range arrivals {
		names[a.Path] = true
		if a.Sha == "" || a.Seen {
			t.Errorf("%+v", a)
		}
	}
	if now.Lines != pictures || len(names) != pictures {
		t.Errorf("%d lines with %d names, want %d", now.Lines, len(names), pictures)
	}

	// A run.
	var table strings.Builder
	table.WriteString("sku,title\n")
	for i := range products {
		fmt.Fprintf(&table, "K-%05d,Kite %d\n", i, i)
	}
	var plan, r id
	p.me.do("POST", "/api/catalogue/imports", table.String(), &plan)
	p.me.do("POST", fmt.Sprintf("/api/plans/%d/apply", plan.ID), nil, &r)
	var at run
	await(t, time.Minute, "the run to be on its way", func() bool {
		p.me.do("GET", fmt.Sprintf("/api/runs/%d", r.ID), nil, &at)
		return at.Done > 0
	})
	p.kill()
	if at.Done >= products {
		t.Fatal("the kill came too late")
	}
	p.start("serve")
	done := p.me.finished(r.ID)
	var trail struct{ Products int }
	p.me.do("GET", "/api/trail", nil, &trail)
	if done.Applied != products || done.LeftAlone != 0 || trail.Products != products {
		t.Errorf("after the kill: %+v, %d products", done, trail.Products)
	}
}
