package e2e

import (
	"bytes"
	"context"
	"fmt"
	"os/exec"
	"sync"
	"testing"
	"time"
)

// BenchmarkOrphans finds the pictures that no owner shows among a million, with all that speaks for them, and compares that with one bare
// anti-join that reads the same pictures: the least of three rounds each.
func BenchmarkOrphans(b *testing.B) {
	p := serve(b)
	fillPictures(b, p)
	conn := p.database()
	defer conn.Close(context.Background())
	for b.Loop() {
		yard, whole := time.Hour, time.Hour
		for range 3 {
			begun := time.Now()
			rows, err := conn.Query(context.Background(), "SELECT a.id, a.sha256, a.bytes, a.created_at, a.tags FROM asset a WHERE NOT EXISTS (SELECT 1 FROM placement p WHERE p.asset_id = a.id)")
			orphans := 0
			for ; err == nil && rows.Next(); orphans++ {
			}
			yard = min(yard, time.Since(begun))
			begun = time.Now()
			out, err := exec.Command("../bin/ambrosa", "tidy", "orphans", "--data", p.data).Output()
			whole = min(whole, time.Since(begun))
			if lines := bytes.Count(out, []byte("\n")); err != nil || orphans == 0 || lines != orphans {
				b.Fatalf("%d lines, %d orphans, %v, %v", lines, orphans, err, rows.Err())
			}
		}
		b.ReportMetric(yard.Seconds(), "s-antijoin")
		b.ReportMetric(whole.Seconds(), "s-command")
		b.ReportMetric(whole.Seconds()/yard.Seconds(), "of-antijoin")
	}
}

// fillPictures makes a million pictures, of which nine in ten stand on products.
func fillPictures(b *testing.B, p *program) {
	b.Helper()
	conn := p.database()
	defer conn.Close(context.Background())
	for _, sql := range []string{
		"INSERT INTO owner (id, kind, sku, identity, title, ordinal) SELECT n, 'product', 'PK-' || n, 'pk-' || n, 'Kite', n FROM generate_series(1, 300000) n",
		// All are looked at in the moment they are there, so that no check begins.
		`WITH made AS (INSERT INTO asset (sha256, bytes, format, width, height, created_at)
			SELECT sha256(n::text::bytea), 1000, 'JPEG', 900, 900, now() - interval '1 year' FROM generate_series(1, 1000000) n RETURNING id)
			INSERT INTO asset_fact (asset_id, version, true_width, true_height, model) SELECT id, 1000, 900, 900, 'rgb' FROM made`,
		"INSERT INTO placement (owner_id, position, asset_id) SELECT 1 + n / 3, 1 + n % 3, n + 1 FROM generate_series(0, 899999) n",
		"INSERT INTO delivery (title, open, created_by, closed_at) SELECT 'Delivery ' || n, false, 1, CASE WHEN n % 10 > 0 THEN now() END FROM generate_series(1, 1000) n",
		"INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) SELECT 1 + n % 1000, n, 'a/' || n || '.jpg', 1, n FROM generate_series(1, 1000000) n",
		"VACUUM ANALYZE",
	} {
		if _, err := conn.Exec(context.Background(), sql); err != nil {
			b.Fatalf("%s: %v", sql, err)
		}
	}
}

// galleryAsks are filters of all kinds, alone and together, and words that few, many and no pictures have.
var galleryAsks = []string{"", "is=unplaced", "is=placed,square", "is=tall,png,dark", "is=enlarged", "is=binned", "q=pk-99887", "q=spring", "q=spring&is=unplaced,huge", "q=nothing-of-this", "q=kite+12&is=jpeg", "like=00000000000000ff", "source=1"}

// BenchmarkGallery asks for the first page of a million pictures with any filter: twenty people, one question a second each.
func BenchmarkGallery(b *testing.B) {
	p := serve(b)
	fillPictures(b, p)
	for b.Loop() {
		begun := time.Now()
		p.me.weigh("/api/gallery")
		b.ReportMetric(time.Since(begun).Seconds(), "s-first-of-all")
		var mu sync.Mutex
		var took []time.Duration
		var wg sync.WaitGroup
		for n := range housePeople {
			name := fmt.Sprint("looker ", n)
			p.me.do("POST", "/api/people", map[string]string{"name": name, "password": "long-enough-for-this", "role": "viewer"}, nil)
			who := signIn(b, p.url(), name, "long-enough-for-this")
			wg.Go(func() {
				for k := range 40 {
					begun := time.Now()
					who.weigh("/api/gallery?" + galleryAsks[(n*3+k)%len(galleryAsks)])
					spent := time.Since(begun)
					mu.Lock()
					took = append(took, spent)
					mu.Unlock()
					time.Sleep(time.Second - min(spent, time.Second))
				}
			})
		}
		wg.Wait()
		b.ReportMetric(percentile(took, .5), "ms-p50")
		b.ReportMetric(percentile(took, .99), "ms-p99")
		b.ReportMetric(float64(p.memory())/(1<<20), "MiB-server")
	}
}
