package e2e

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// cpu is how much time of the processor the server has used.
func (p *program) cpu() time.Duration {
	p.t.Helper()
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", p.cmd.Process.Pid))
	if err != nil {
		p.t.Fatal(err)
	}
	fields := strings.Fields(string(stat)[strings.LastIndexByte(string(stat), ')')+1:])
	var user, system int64
	fmt.Sscan(fields[11], &user) // proc(5): utime and stime in ticks of a hundredth of a second
	fmt.Sscan(fields[12], &system)
	return time.Duration(user+system) * 10 * time.Millisecond
}

// BenchmarkGather watches a delivery in the browser while 100,000 lines come in, and reports how much of one core the server needs for
// what the page asks. The lines come from elsewhere, so that nothing else is in the figure.
func BenchmarkGather(b *testing.B) {
	p := serve(b)
	conn := p.database()
	defer conn.Close(context.Background())
	exec := func(sql string, args ...any) {
		b.Helper()
		if _, err := conn.Exec(context.Background(), sql, args...); err != nil {
			b.Fatalf("%s: %v", sql, err)
		}
	}
	exec("INSERT INTO asset (sha256, bytes, format, width, height, likeness, palette) VALUES (sha256('x'), 1, 'JPEG', 900, 900, 1, '')")
	exec("INSERT INTO delivery (title, open, created_by) VALUES ('spring', false, 1)")
	exec("INSERT INTO job (kind, subject, title, state, total, unit, worker) VALUES ('take_in', 1, 'spring', 'working', 100000, 'files', (SELECT objid::int FROM pg_locks WHERE locktype = 'advisory' AND classid = 952 LIMIT 1))")
	ctx := browser(b)
	enter(b, ctx, p.url(), adminName, adminPassword)
	do(b, ctx, chromedp.Navigate(p.url()+"/gather?in=1"), chromedp.Sleep(2*time.Second))
	for b.Loop() {
		used, begun := p.cpu(), time.Now()
		for piece := range 100 {
			exec(`INSERT INTO arrival (delivery_id, item, path, bytes, asset_id)
				SELECT 1, n, 'Spring collection/PK-' || n || '_front.jpg', 2000, 1 FROM generate_series($1::int, $1::int + 999) n`, piece*1000)
			exec("UPDATE job SET done = $1 WHERE kind = 'take_in'", (piece+1)*1000)
			exec("SELECT pg_notify('ambrosa', 'delivery:1'), pg_notify('ambrosa', 'job:0')")
			time.Sleep(time.Duration(piece+1)*300*time.Millisecond - time.Since(begun))
		}
		wall := time.Since(begun)
		screen{b, ctx}.until("document.querySelector('.lines .scroll')?.getAttribute('aria-rowcount') === '100001'", "all lines to be shown")
		b.ReportMetric(100*(p.cpu()-used).Seconds()/wall.Seconds(), "%-of-a-core")
	}
}
