package e2e

import (
	"fmt"
	"image/color"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
)

// BenchmarkHandBoard measures the board of pictures by owner on 100,000 owners: from a key to the next line painted, from a filter to its
// lines and back, how much is blank while it is scrolled fast, and the browser's heap once all are here.
func BenchmarkHandBoard(b *testing.B) {
	const products, variants = 25_000, 3
	p := serve(b)
	var t strings.Builder
	t.WriteString("sku,product,title,colour\n")
	for i := range products {
		fmt.Fprintf(&t, "K-%05d,,Kite %d,\n", i, i)
		for v := range variants {
			fmt.Fprintf(&t, "K-%05d-%d,K-%05d,,colour %d\n", i, v, i, v)
		}
	}
	p.me.load(t.String())
	files := map[string][]byte{}
	for i := range 60 {
		files[fmt.Sprintf("%d.jpg", i)] = jpegOf(color.RGBA{uint8(4 * i), 90, 60, 255}, 90)
	}
	p.me.deliver("many", files)
	db := p.database()
	if _, err := db.Exec(b.Context(), "INSERT INTO placement (owner_id, position, asset_id) SELECT o.id, n, 1 + (o.id + n) % 60 FROM owner o, generate_series(1, 2) n; ANALYZE"); err != nil {
		b.Fatal(err)
	}
	s := screen{b, browserFor(b, 10*time.Minute)}
	enter(b, s.ctx, p.url(), adminName, adminPassword)
	for b.Loop() {
		s.do(chromedp.Navigate(p.url() + "/catalogue/pictures"))
		s.until("document.querySelectorAll('.scroll .line').length > 10", "the first lines")
		b.ReportMetric(s.measure(`(async () => {
			const grid = document.querySelector('.scroll'), frame = () => new Promise(done => requestAnimationFrame(done));
			const start = performance.now();
			const all = () => document.querySelector('.board .top .soft').innerText.replace(/\s/g, '').startsWith('100000lines');
			while (!all()) { grid.scrollTop = grid.scrollHeight; await frame(); }
			return (performance.now() - start) / 1000;
		})()`), "s-all-here")
		b.ReportMetric(s.measure(`(async () => {
			const grid = document.querySelector('.scroll'), frame = () => new Promise(done => requestAnimationFrame(done));
			const box = grid.getBoundingClientRect();
			let blank = 0;
			grid.scrollTop = 0; await frame(); await frame();
			for (let i = 0; i < 200; i++) {
				grid.scrollTop += grid.clientHeight * 0.9; await frame();
				for (let y = box.top + 60; y < box.bottom - 20; y += 40) if (!document.elementFromPoint(box.left + 60, y)?.closest('.line')) blank += 40;
			}
			return blank;
		})()`), "px-blank")
		b.ReportMetric(s.keyWait(), "ms-key-p95")
		if _, err := chromedp.Call(s.ctx, performance.Enable, performance.EnableParams{}); err != nil {
			b.Fatal(err)
		}
		metrics, err := chromedp.Call(s.ctx, performance.GetMetrics, cdp.Empty{})
		if err != nil {
			b.Fatal(err)
		}
		for _, m := range metrics.Metrics {
			if m.Name == "JSHeapUsedSize" {
				b.ReportMetric(m.Value/(1<<20), "MiB-heap")
			}
		}
		filter := func(text, first string) float64 {
			return s.measure(fmt.Sprintf(`new Promise(done => {
				const field = document.querySelector('.board .top input'), start = performance.now();
				Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, %q);
				field.dispatchEvent(new Event('input', { bubbles: true }));
				const look = () => document.querySelector('.board .top .soft').innerText.replace(/\s/g, '').startsWith(%q)
					? requestAnimationFrame(() => done(performance.now() - start)) : requestAnimationFrame(look);
				requestAnimationFrame(look);
			})`, text, first))
		}
		b.ReportMetric(filter("K-12345", "4lines"), "ms-filter")
		b.ReportMetric(filter("", "100000lines"), "ms-filter-to-all")
	}
}
