package runs

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ambrosa/core/change"
)

// BenchmarkApply applies a plan of 20,000 placements, in two shapes, and compares its time with that of psql
// copying the same rows into the same table, with its keys and references, in the same run.
func BenchmarkApply(b *testing.B) {
	for _, shape := range []struct{ owners, each int }{{20_000, 1}, {5_000, 4}} {
		b.Run(fmt.Sprintf("%dx%d", shape.owners, shape.each), func(b *testing.B) {
			r, mo := world(b, shape.owners, 100)
			var changes []change.Change
			var rows strings.Builder
			for o := range shape.owners {
				var after []change.Picture
				for i := range shape.each {
					asset := int64((o+i)%100 + 1)
					after = append(after, change.Picture{Asset: asset, Alt: "Drift Delta 140, amber"})
					fmt.Fprintf(&rows, "%d\t%d\t%d\tDrift Delta 140, amber\n", o+1, i+1, asset)
				}
				changes = append(changes, change.Change{Owner: int64(o + 1), After: after})
			}
			file := filepath.Join(b.TempDir(), "rows.tsv")
			if err := os.WriteFile(file, []byte(rows.String()), 0o644); err != nil {
				b.Fatal(err)
			}
			var ours, copied time.Duration
			n := 0
			for b.Loop() {
				for range 5 {
					n++
					empty(b, r)
					begun := time.Now()
					copyCmd := exec.Command("psql", "-q", r.Store.Pool.Config().ConnString(), "-c", `\copy placement FROM '`+file+`'`)
					if out, err := copyCmd.CombinedOutput(); err != nil {
						b.Fatalf("%v: %s", err, out)
					}
					copied += time.Since(begun)
					empty(b, r)
					plan, err := r.KeepPictures(ctx, Draft{Kind: "pairing", Title: "bench", Person: mo}, changes)
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

func empty(b *testing.B, r *Runner) {
	b.Helper()
	if _, err := r.Store.Pool.Exec(ctx, "TRUNCATE placement"); err != nil {
		b.Fatal(err)
	}
}
