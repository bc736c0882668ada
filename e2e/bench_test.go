package e2e

import (
	"archive/zip"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"testing"
	"time"

	"bytes"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
)

// photo is a JPEG with the detail of a photograph: soft shapes and grain.
func photo(side int) []byte {
	r := rand.New(rand.NewPCG(5, 6))
	m := image.NewYCbCr(image.Rect(0, 0, side, side), image.YCbCrSubsampleRatio420)
	for y := range side {
		for x := range side {
			m.Y[y*m.YStride+x] = uint8(110 + x*60/side + (y/90%2)*30 + r.IntN(14))
		}
	}
	for i := range m.Cb {
		m.Cb[i], m.Cr[i] = uint8(120+i/side%17), uint8(130+i%23)
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, m, &jpeg.Options{Quality: 85}); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// numbered returns the same picture other bytes: a comment segment (ISO/IEC 10918-1, B.2.4.5) after its start.
func numbered(photo []byte, n int) []byte {
	comment := fmt.Sprintf("\xff\xfe\x00\x0c%010d", n)
	return append(append(append(make([]byte, 0, len(photo)+len(comment)), photo[:2]...), comment...), photo[2:]...)
}

// archiveOf writes a zip of count numbered pictures, stored, to a file.
func archiveOf(b *testing.B, picture []byte, count int) string {
	b.Helper()
	path := filepath.Join(dataFolder(b), "pictures.zip")
	f, err := os.Create(path)
	if err != nil {
		b.Fatal(err)
	}
	defer f.Close()
	w := zip.NewWriter(f)
	for i := range count {
		e, err := w.CreateHeader(&zip.FileHeader{Name: fmt.Sprintf("K-%06d.jpg", i), Method: zip.Store})
		if err != nil {
			b.Fatal(err)
		}
		if _, err := e.Write(numbered(picture, i)); err != nil {
			b.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		b.Fatal(err)
	}
	return path
}

// send uploads a file in pieces as the browser does, and returns the delivery, not yet closed.
func (p *program) send(path string) int64 {
	p.t.Helper()
	f, err := os.Open(path)
	if err != nil {
		p.t.Fatal(err)
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		p.t.Fatal(err)
	}
	var d id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "bench"}, &d)
	address := p.me.announce(d.ID, filepath.Base(path), int(info.Size()))
	piece := make([]byte, 8<<20)
	for at := 0; ; {
		n, err := io.ReadFull(f, piece)
		if n > 0 {
			p.me.patch(address, at, piece[:n])
			at += n
		}
		if err != nil {
			return d.ID
		}
	}
}

func (p *program) peakMiB() float64 {
	p.t.Helper()
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", p.cmd.Process.Pid))
	if err != nil {
		p.t.Fatal(err)
	}
	for line := range strings.Lines(string(status)) {
		if kb, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			n, err := strconv.Atoi(strings.Fields(kb)[0])
			if err != nil {
				p.t.Fatal(err)
			}
			return float64(n) / 1024
		}
	}
	p.t.Fatal("no peak in /proc")
	return 0
}

// BenchmarkTakeIn takes 1,000 JPEGs of 2000 × 2000 in from a zip, to the last thumbnail, and compares its time
// with vipsthumbnail making the same two sizes from the unpacked files, one process a core.
func BenchmarkTakeIn(b *testing.B) {
	const count = 1000
	p := serve(b)
	picture := photo(2000)
	path := archiveOf(b, picture, count)
	folder := dataFolder(b)
	for i := range count {
		if err := os.WriteFile(filepath.Join(folder, fmt.Sprintf("K-%06d.jpg", i)), numbered(picture, i), 0o644); err != nil {
			b.Fatal(err)
		}
	}
	for b.Loop() {
		yardstick := time.Duration(0)
		for _, size := range []int{480, 96} {
			script := fmt.Sprintf("ls *.jpg | VIPS_CONCURRENCY=1 xargs -P %d -n 100 vipsthumbnail --size %d -o 'out%d/%%s.webp[Q=80,strip]'", runtime.NumCPU(), size, size)
			if err := os.MkdirAll(filepath.Join(folder, fmt.Sprintf("out%d", size)), 0o755); err != nil {
				b.Fatal(err)
			}
			cmd := exec.Command("bash", "-c", script)
			cmd.Dir = folder
			begun := time.Now()
			if out, err := cmd.CombinedOutput(); err != nil {
				b.Fatalf("%v: %s", err, out)
			}
			yardstick += time.Since(begun)
		}
		d := p.send(path)
		begun := time.Now()
		p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", d), nil, nil)
		if got := p.me.taken(d); got.Pictures != count || got.Problems != 0 {
			b.Fatalf("%+v", got)
		}
		ours := time.Since(begun)
		b.ReportMetric(ours.Seconds(), "s/taking-in")
		b.ReportMetric(yardstick.Seconds(), "s/vipsthumbnail")
		b.ReportMetric(float64(ours)/float64(yardstick), "ratio")
		b.ReportMetric(float64(len(picture))/1e6, "MB/picture")
	}
}

// BenchmarkMemory sends and takes in an archive of 4 GiB and reports the server's peak memory.
func BenchmarkMemory(b *testing.B) {
	p := serve(b)
	picture := photo(2600)
	path := archiveOf(b, picture, 4<<30/len(picture)+1)
	for b.Loop() {
		d := p.send(path)
		p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", d), nil, nil)
		got := p.me.taken(d)
		if got.Problems != 0 {
			b.Fatalf("%+v", got)
		}
		b.ReportMetric(p.peakMiB(), "MiB-peak")
		b.ReportMetric(float64(got.Pictures), "pictures")
	}
}

// BenchmarkBoard opens the Pair board with many lines: how long after the server's answer the first lines are
// seen, how much of the view is ever blank while scrolling fast, and the browser's heap.
func BenchmarkBoard(b *testing.B) {
	for _, lines := range []int{20_000, 100_000} {
		b.Run(strconv.Itoa(lines), func(b *testing.B) { board(b, lines) })
	}
}

// ladderChange switches the cell that pairs every line off, and measures until the board shows that nobody claims them.
func ladderChange(b *testing.B, ctx context.Context) float64 {
	b.Helper()
	do(b, ctx, chromedp.WaitVisible(chromedp.Search("//table//button[starts-with(normalize-space(.), 'SKU within')]")))
	took, err := chromedp.Run(ctx, chromedp.Evaluate[float64](`new Promise(done => {
		document.querySelector('.scroll').scrollTop = 0;
		const cell = [...document.querySelectorAll('.trial td button')].find(b => b.textContent.startsWith('SKU within'));
		const start = performance.now();
		cell.click();
		const look = () => {
			const sure = [...document.querySelectorAll('.rail .filter')].find(f => f.innerText.includes('sure')).querySelector('.figures').innerText;
			if (sure === '0' && document.querySelectorAll('.scroll .line').length > 10) requestAnimationFrame(() => done(performance.now() - start));
			else requestAnimationFrame(look);
		};
		requestAnimationFrame(look);
	})`, chromedp.EvalAwaitPromise))
	if err != nil {
		b.Fatal(err)
	}
	return took
}

func board(b *testing.B, lines int) {
	p := serve(b)
	var table strings.Builder
	table.WriteString("sku,title\n")
	for i := range lines / 4 {
		fmt.Fprintf(&table, "PK-%06d-AMB,Drift Delta %d\n", i, i)
	}
	p.me.load(table.String())
	files := map[string][]byte{}
	for i := range 60 {
		files[fmt.Sprintf("K-%d.jpg", i)] = jpegOf(color.RGBA{uint8(4 * i), 90, 60, 255}, 200)
	}
	d := p.me.deliver("many", map[string][]byte{"a.zip": zipOf(b, files)})
	// The other lines are made in the database, with the pictures that are there.
	if _, err := p.database().Exec(context.Background(), `INSERT INTO arrival (delivery_id, item, path, bytes, asset_id)
		SELECT a.delivery_id, 'more/' || n, 'autumn/tarn_pk ' || lpad((n / 4)::text, 6, '0') || ' amb ' || n % 4 || '.jpg', 2000, a.asset_id
		FROM generate_series(0, $1::int - 61) n JOIN (SELECT *, row_number() OVER () - 1 AS k FROM arrival WHERE delivery_id = $2) a ON a.k = n % 60`, lines, d.ID); err != nil {
		b.Fatal(err)
	}
	ctx := browser(b)
	enter(b, ctx, p.url(), adminName, adminPassword)
	for b.Loop() {
		do(b, ctx, chromedp.EmulateViewport(1280, 800), chromedp.Navigate(fmt.Sprintf("%s/pair/%d", p.url(), d.ID)))
		seen, err := chromedp.Run(ctx, chromedp.Evaluate[float64](`new Promise(done => {
			const look = () => {
				const answer = performance.getEntriesByType('resource').find(e => e.name.includes('/pairing') && e.responseEnd > 0);
				if (answer && document.querySelectorAll('.scroll .line').length > 10) requestAnimationFrame(() => done(performance.now() - answer.responseEnd));
				else requestAnimationFrame(look);
			};
			look();
		})`, chromedp.EvalAwaitPromise))
		if err != nil {
			b.Fatal(err)
		}
		s := screen{b, ctx}
		s.until("!document.querySelector('.progress')", "every line to be here")
		// Every frame of a scroll through the whole board: the pixels of the view without a line in them.
		blank, err := chromedp.Run(ctx, chromedp.Evaluate[float64](`new Promise(done => {
			const view = document.querySelector('.scroll');
			const step = Math.max(400, view.scrollHeight / 300);
			let worst = 0;
			const next = () => {
				const box = view.getBoundingClientRect();
				const covered = [...view.querySelectorAll('.line')].reduce((sum, l) => {
					const r = l.getBoundingClientRect();
					return sum + Math.max(0, Math.min(r.bottom, box.bottom) - Math.max(r.top, box.top));
				}, 0);
				worst = Math.max(worst, view.clientHeight - covered);
				if (view.scrollTop + view.clientHeight >= view.scrollHeight - 1) return done(worst);
				view.scrollTop += step;
				requestAnimationFrame(() => requestAnimationFrame(next));
			};
			next();
		})`, chromedp.EvalAwaitPromise))
		if err != nil {
			b.Fatal(err)
		}
		if _, err := chromedp.Call(ctx, performance.Enable, performance.EnableParams{}); err != nil {
			b.Fatal(err)
		}
		metrics, err := chromedp.Call(ctx, performance.GetMetrics, cdp.Empty{})
		if err != nil {
			b.Fatal(err)
		}
		for _, m := range metrics.Metrics {
			if m.Name == "JSHeapUsedSize" {
				b.ReportMetric(m.Value/(1<<20), "MiB-heap")
			}
		}
		visit(b, s)
		waits(b, s, lines)
		b.ReportMetric(ladderChange(b, ctx), "ms-ladder-change")
		b.ReportMetric(seen, "ms-to-first-lines")
		b.ReportMetric(blank, "px-blank")
	}
}
