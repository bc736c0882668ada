package e2e

import (
	"fmt"
	"image/color"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// measure runs a script that ends with a number.
func (s screen) measure(script string) float64 {
	s.t.Helper()
	took, err := chromedp.Run(s.ctx, chromedp.Evaluate[float64](script, chromedp.EvalAwaitPromise))
	if err != nil {
		s.t.Fatal(err)
	}
	return took
}

// keyWait is how long it takes in milliseconds from a key to the next line painted, in 95 of 100 cases, on an open board.
func (s screen) keyWait() float64 {
	s.t.Helper()
	return s.measure(`(async () => {
		const grid = document.querySelector('.scroll'), took = [];
		grid.focus();
		const frame = () => new Promise(done => requestAnimationFrame(done));
		for (let i = 0; i < 100; i++) {
			const was = grid.getAttribute('aria-activedescendant'), start = performance.now();
			grid.dispatchEvent(new KeyboardEvent('keydown', { key: 'j', bubbles: true, cancelable: true }));
			do await frame(); while (grid.getAttribute('aria-activedescendant') === was);
			took.push(performance.now() - start);
		}
		return took.sort((a, b) => a - b)[94];
	})()`)
}

// waits measures on an open board of so many lines how long the hand waits: from a key to the next line painted, from a filter to its
// lines, and from a decision on 200 picked lines until they are counted.
func waits(b *testing.B, s screen, lines int) {
	b.Helper()
	b.ReportMetric(s.keyWait(), "ms-key-p95")
	filter := func(name, count string) float64 {
		return s.measure(fmt.Sprintf(`new Promise(done => {
			const start = performance.now();
			[...document.querySelectorAll('.rail .filter')].find(f => f.innerText.startsWith(%q)).click();
			const look = () => document.querySelector('.foot .figures').innerText.replace(/\s/g, '').endsWith(%q)
				? requestAnimationFrame(() => done(performance.now() - start)) : requestAnimationFrame(look);
			requestAnimationFrame(look);
		})`, name, count))
	}
	b.ReportMetric(filter("by hand", "of0"), "ms-filter-to-none")
	b.ReportMetric(filter("all", fmt.Sprintf("of%d", lines)), "ms-filter-to-all")
	b.ReportMetric(s.measure(`(async () => {
		const grid = document.querySelector('.scroll');
		grid.focus();
		const press = (key, more) => grid.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }));
		const frame = () => new Promise(done => requestAnimationFrame(done));
		press('Home'); await frame(); await frame();
		for (let i = 0; i < 199; i++) { press('ArrowDown', { shiftKey: true }); await frame(); }
		const picked = () => document.querySelector('.foot').innerText.includes('200 picked');
		for (let i = 0; i < 100 && !picked(); i++) await frame();
		if (!picked()) return -1;
		const start = performance.now();
		press('x');
		const aside = () => [...document.querySelectorAll('.rail .filter')].some(f => f.innerText.replace(/\s+/g, ' ') === 'set aside 200');
		while (!aside()) await frame();
		return performance.now() - start;
	})()`), "ms-decide-200")
}

// visit says what a first visit to an open page loaded.
func visit(b *testing.B, s screen) {
	b.Helper()
	loaded := func(of string) float64 {
		return s.measure("Promise.resolve(performance.getEntriesByType('resource')" + of + ")")
	}
	b.ReportMetric(loaded(".filter(e => e.name.endsWith('.js')).reduce((sum, e) => sum + e.encodedBodySize, 0) / 1000"), "kB-scripts")
	b.ReportMetric(loaded(".length"), "requests")
}

// BenchmarkKeys decides 300 lines of all grades by hand, with the keyboard alone, and counts the keys a line.
func BenchmarkKeys(b *testing.B) {
	p := serve(b)
	table := "sku,title\n"
	files := map[string][]byte{}
	const of = 100
	for i := range of {
		table += fmt.Sprintf("KR-%04d,Reel %d\n", 1000+i, i)
		files[fmt.Sprintf("a/KR-%04d word%d.jpg", 1000+i, i)] = jpegOf(color.RGBA{uint8(i), 90, 60, 255}, 60)
		files[fmt.Sprintf("b/KR-%04d + KR-%04d.jpg", 1000+i, 1000+(i+1)%of)] = jpegOf(color.RGBA{uint8(i), 9, 60, 255}, 60)
		files[fmt.Sprintf("c/KR-%04d_2.jpg", 1000+i)] = jpegOf(color.RGBA{uint8(i), 9, 160, 255}, 60)
	}
	p.me.load(table)
	d := p.me.deliver("keys", map[string][]byte{"a.zip": zipOf(b, files)})
	s := screen{b, browser(b)}
	enter(b, s.ctx, p.url(), adminName, adminPassword)
	for b.Loop() {
		keys := 0
		s.do(chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
		s.until("document.activeElement?.getAttribute('role') === 'grid'", "the board to have the focus")
		for range 3 * of {
			key := kb.Enter
			if s.text(".line.at .grade") == "contested" {
				key = "1"
			}
			s.press(key)
			keys++
		}
		s.until(fmt.Sprintf(`[...document.querySelectorAll('.rail .filter')].some(f => f.innerText.replace(/\s+/g, ' ') === 'by hand %d')`, 3*of), "all lines decided by hand")
		b.ReportMetric(float64(keys)/(3*of), "keys/line")
	}
}
