package hand

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ambrosa/core/catalogue"
	"ambrosa/core/placement"
)

// BenchmarkEverywhere gives one picture to 5,000 categories, plan and run, and compares its time with that of psql copying the same
// placements and texts into the same two tables in the same run. above is what it takes beyond twice that, in seconds.
func BenchmarkEverywhere(b *testing.B) {
	const many = 5000
	h := newHouse(b)
	h.exec("INSERT INTO owner (id, kind, parent, title, ordinal) SELECT n, 'category', 10, 'Branch ' || n, n FROM generate_series(1001, 1000 + $1::int) n", many)
	h.exec("ANALYZE")
	var placed, texts strings.Builder
	for n := 1001; n <= 1000+many; n++ {
		fmt.Fprintf(&placed, "%d\t1\t6\n", n)
		fmt.Fprintf(&texts, "%d\t6\ten\talt\tBranch %d\tf\n", n, n)
	}
	folder := b.TempDir()
	psql := []string{"-q", h.Store.Pool.Config().ConnString()}
	for table, rows := range map[string]string{"placement": placed.String(), "wording": texts.String()} {
		file := filepath.Join(folder, table)
		if err := os.WriteFile(file, []byte(rows), 0o644); err != nil {
			b.Fatal(err)
		}
		psql = append(psql, "-c", `\copy `+table+` FROM '`+file+`'`)
	}
	clear := func() { h.exec("TRUNCATE placement, wording") }
	var ours, copied time.Duration
	n := 0
	for b.Loop() {
		for range 5 {
			n++
			clear()
			begun := time.Now()
			if out, err := exec.Command("psql", psql...).CombinedOutput(); err != nil {
				b.Fatalf("%v: %s", err, out)
			}
			copied += time.Since(begun)
			clear()
			begun = time.Now()
			plan, err := h.Everywhere(ctx, h.person, "bench", Search{Kind: catalogue.Category, Text: "branch"}, 6, placement.OnlyWhereEmpty)
			if err != nil {
				b.Fatal(err)
			}
			h.run(plan)
			ours += time.Since(begun)
		}
	}
	if got := h.one("SELECT count(*)::text FROM placement p JOIN wording w ON w.owner_id = p.owner_id"); got != fmt.Sprint(many) {
		b.Fatalf("%s categories show it", got)
	}
	b.ReportMetric(ours.Seconds()/float64(n), "s/all")
	b.ReportMetric(copied.Seconds()/float64(n), "s/copy")
	b.ReportMetric((ours-2*copied).Seconds()/float64(n), "s/above")
}
