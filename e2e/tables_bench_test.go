package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// BenchmarkTableBoard opens a table of 100,000 rows and 40 columns: how long a repair of 5,000 cells of one kind takes until it is shown,
// and how many pixels stay blank while it is scrolled down and sideways.
func BenchmarkTableBoard(b *testing.B) {
	const rows, columns, wrong = 100_000, 40, 5_000
	p := serve(b)
	var t strings.Builder
	t.WriteString("sku,title")
	for c := 2; c < columns; c++ {
		fmt.Fprintf(&t, ",field %d", c)
	}
	for r := range rows {
		fmt.Fprintf(&t, "\nKR-%06d,Reel %d", r, r)
		if r%(rows/wrong) == 0 {
			t.WriteString(" ")
		}
		for c := 2; c < columns; c++ {
			fmt.Fprintf(&t, ",v%d", (r*c)%97)
		}
	}
	var sent id
	p.me.do("POST", "/api/tables?name=large.csv", t.String(), &sent)
	var now struct{ State string }
	begun := time.Now()
	await(b, 5*time.Minute, "the table to be checked", func() bool {
		p.me.do("GET", fmt.Sprintf("/api/tables/%d", sent.ID), nil, &now)
		return now.State == "done"
	})
	checked := time.Since(begun)
	p.me.do("PATCH", fmt.Sprintf("/api/tables/%d", sent.ID), map[string]string{"mode": "create"}, nil)
	await(b, 5*time.Minute, "the table to be checked again", func() bool {
		p.me.do("GET", fmt.Sprintf("/api/tables/%d", sent.ID), nil, &now)
		return now.State == "done"
	})
	s := screen{b, browserFor(b, 5*time.Minute)}
	enter(b, s.ctx, p.url(), adminName, adminPassword)
	for b.Loop() {
		b.ReportMetric(checked.Seconds(), "s-read-check")
		s.do(chromedp.Navigate(fmt.Sprintf("%s/tables/%d", p.url(), sent.ID)))
		s.until("document.querySelectorAll('.line.cells').length > 10", "the rows")
		b.ReportMetric(s.measure(`(async () => {
			const grid = document.querySelector('.scroll'), frame = () => new Promise(done => requestAnimationFrame(done));
			const box = grid.getBoundingClientRect();
			let blank = 0;
			const look = () => {
				for (let x = box.left + 30; x < box.right - 40; x += 40)
					for (let y = box.top + 40; y < box.bottom - 20; y += 40)
						if (!document.elementFromPoint(x, y)?.closest('.cell')) blank += 1600;
			};
			for (let i = 0; i < 120; i++) { grid.scrollTop += grid.clientHeight * 0.8; await frame(); look(); }
			for (let i = 0; i < 40; i++) { grid.scrollLeft += grid.clientWidth * 0.6; await frame(); look(); }
			for (let i = 0; i < 40; i++) { grid.scrollLeft -= grid.clientWidth * 0.6; grid.scrollTop -= grid.clientHeight; await frame(); look(); }
			return blank;
		})()`), "px-blank")
		b.ReportMetric(s.measure("Promise.resolve(document.querySelectorAll('.line.cells .cell').length)"), "cells-drawn")
		b.ReportMetric(s.measure(fmt.Sprintf(`(async () => {
			const frame = () => new Promise(done => requestAnimationFrame(done));
			const kind = () => [...document.querySelectorAll('.rail .filter')].find(f => f.innerText.replace(/\D/g, '') === '%d' && !f.innerText.includes('all'));
			while (!kind()) await frame();
			const button = () => [...document.querySelectorAll('.top button')].find(b => b.innerText.startsWith('Accept all repairs') && !b.disabled);
			while (!button()) await frame();
			const start = performance.now();
			button().click();
			while (kind()) await frame();
			return performance.now() - start;
		})()`, wrong)), "ms-repair-5000")
	}
}
