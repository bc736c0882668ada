package ledger_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	"ambrosa/internal/ledger"
)

// BenchmarkApply applies a plan of 20,000 placements, in two shapes, and compares its time with that of psql
// copying the same rows into the same two tables, with their keys and references, in the same run.
func BenchmarkApply(b *testing.B) {
	for _, shape := range []struct{ owners, each int }{{20_000, 1}, {5_000, 4}} {
		b.Run(fmt.Sprintf("%dx%d", shape.owners, shape.each), func(b *testing.B) {
			r, mo := world(b, shape.owners, 100)
			var changes []change.Change
			var placed, texts strings.Builder
			for o := range shape.owners {
				var after []placement.Picture
				for i := range shape.each {
					asset := int64((o+i)%100 + 1)
					after = append(after, placement.Picture{Asset: asset, Texts: wording.Texts{wording.Alt: {"en": {Text: "Drift Delta 140, amber"}}}})
					fmt.Fprintf(&placed, "%d\t%d\t%d\n", o+1, i+1, asset)
					fmt.Fprintf(&texts, "%d\t%d\ten\talt\tDrift Delta 140, amber\tf\n", o+1, asset)
				}
				changes = append(changes, placement.Change(int64(o+1), nil, after))
			}
			folder := b.TempDir()
			psql := []string{"-q", r.Store.Pool.Config().ConnString()}
			for table, rows := range map[string]string{"placement": placed.String(), "wording": texts.String()} {
				file := filepath.Join(folder, table)
				if err := os.WriteFile(file, []byte(rows), 0o644); err != nil {
					b.Fatal(err)
				}
				psql = append(psql, "-c", `\copy `+table+` FROM '`+file+`'`)
			}
			var ours, copied time.Duration
			n := 0
			for b.Loop() {
				for range 5 {
					n++
					empty(b, r)
					begun := time.Now()
					if out, err := exec.Command("psql", psql...).CombinedOutput(); err != nil {
						b.Fatalf("%v: %s", err, out)
					}
					copied += time.Since(begun)
					empty(b, r)
					plan, err := r.Keep(ctx, ledger.Draft{Kind: "pairing", Title: "bench", Person: mo}, changes)
					if err != nil {
						b.Fatal(err)
					}
					begun = time.Now()
					if row := r.mustApply(b, plan, mo); int(row.Applied) != shape.owners {
						b.Fatalf("%+v", row)
					}
					ours += time.Since(begun)
				}
			}
			b.ReportMetric(ours.Seconds()/float64(n), "s/apply")
			b.ReportMetric(copied.Seconds()/float64(n), "s/copy")
			b.ReportMetric(float64(ours)/float64(copied), "ratio")
		})
	}
}

func empty(b *testing.B, r *book) {
	b.Helper()
	if _, err := r.Store.Pool.Exec(ctx, "TRUNCATE placement, wording"); err != nil {
		b.Fatal(err)
	}
}
