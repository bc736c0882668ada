package wording

import (
	"fmt"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"ambrosa/core/wording"
)

// BenchmarkWordingPlan makes a plan of alt texts by a pattern for 100,000 pictures, in two shapes, and compares its time with that of
// psql copying the same rows of the plan (its lines and what they touch) into the same two tables, with their keys and references, in the
// same run.
func BenchmarkWordingPlan(b *testing.B) {
	for _, shape := range []struct{ owners, each int }{{100_000, 1}, {25_000, 4}} {
		b.Run(fmt.Sprintf("%dx%d", shape.owners, shape.each), func(b *testing.B) {
			h := newHouse(b)
			h.exec("DELETE FROM owner WHERE id IN (1, 2, 3, 4)")
			h.exec("INSERT INTO asset (sha256, bytes, format, width, height) SELECT sha256(('many ' || n)::bytea), 1, 'JPEG', 9, 9 FROM generate_series(1, 100000) n")
			h.exec("INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) SELECT 1, 'many ' || id, 'K-' || id || '_back.jpg', 1, id FROM asset WHERE id > 6")
			h.exec(`INSERT INTO owner (id, kind, category, sku, identity, title, options, ordinal) SELECT n, 'product', 10, 'K-' || n, 'k-' || n, 'Drift Delta ' || n, '{"colour": "amber"}', n
				FROM generate_series(1001, 1000 + $1::int) n`, shape.owners)
			h.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT 1001 + (n / $1::int), 1 + (n % $1::int), 7 + n FROM generate_series(0, 99999) n", shape.each)
			h.exec("ANALYZE")
			act := Act{Kind: "pattern", Field: wording.Alt, Language: "en", Pattern: "{product.title} in {category.title}[, {role}], picture {number}"}
			folder := b.TempDir()
			files := []string{}
			for _, table := range []string{"plan_change", "ledger_ref"} {
				files = append(files, filepath.Join(folder, table))
			}
			psql := func(way, change, ref string) time.Duration {
				begun := time.Now()
				if out, err := exec.Command("psql", "-q", h.Store.Pool.Config().ConnString(), "-c", `\copy plan_change `+way+` '`+change+`'`, "-c", `\copy ledger_ref `+way+` '`+ref+`'`).CombinedOutput(); err != nil {
					b.Fatalf("%v: %s", err, out)
				}
				return time.Since(begun)
			}
			var ours, copied time.Duration
			n := 0
			for b.Loop() {
				for range 3 {
					n++
					begun := time.Now()
					plan, err := h.Plan(ctx, h.person, "bench", Scope{}, act)
					if err != nil {
						b.Fatal(err)
					}
					ours += time.Since(begun)
					var lines int
					if err := h.Store.Pool.QueryRow(ctx, "SELECT count(*) FROM plan_change WHERE plan_id = $1", plan).Scan(&lines); err != nil || lines != shape.owners {
						b.Fatalf("%d lines, %v", lines, err)
					}
					psql("TO", files[0], files[1])
					h.exec("DELETE FROM plan_change")
					h.exec("DELETE FROM ledger_ref")
					copied += psql("FROM", files[0], files[1])
					h.exec("DELETE FROM plan_change")
					h.exec("DELETE FROM ledger_ref")
					h.exec("VACUUM plan_change, ledger_ref")
				}
			}
			b.ReportMetric(ours.Seconds()/float64(n), "s/plan")
			b.ReportMetric(copied.Seconds()/float64(n), "s/copy")
			b.ReportMetric(float64(ours)/float64(copied), "ratio")
		})
	}
}
