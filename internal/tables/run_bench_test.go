package tables

import (
	"fmt"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/wording"
)

// BenchmarkImportRun imports 100,000 products; ratio is the time of the run by that of psql's \copy of the same rows into a table with the
// same indices and rules.
func BenchmarkImportRun(b *testing.B) {
	const products = 100_000
	s, person := storetest.New(b)
	j, err := jobs.New(ctx, s)
	if err != nil {
		b.Fatal(err)
	}
	book := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	wording.New(s, book)
	im := &Tables{Store: s, Ledger: book, Jobs: j, Folder: b.TempDir()}
	var t strings.Builder
	t.WriteString("sku,title,barcode,category,option:colour,attribute:weight\n")
	for i := range products {
		fmt.Fprintf(&t, "PK-%06d,Drift Delta %d,,Kites > Deltas,red,%d\n", i, i, i%900)
	}
	for b.Loop() {
		begun := time.Now()
		plan, err := im.PlanText(ctx, "products.csv", t.String(), person)
		if err != nil {
			b.Fatal(err)
		}
		planned := time.Since(begun)
		begun = time.Now()
		run, err := im.Ledger.Apply(ctx, plan, person)
		if err != nil {
			b.Fatal(err)
		}
		if done, err := im.Ledger.Finish(ctx, run); err != nil || done.Applied < products {
			b.Fatalf("%+v, %v", done, err)
		}
		applied := time.Since(begun)
		lines := filepath.Join(b.TempDir(), "owners")
		psql := func(commands ...string) {
			args := []string{"-q", s.Pool.Config().ConnString()}
			for _, c := range commands {
				args = append(args, "-c", c)
			}
			if out, err := exec.Command("psql", args...).CombinedOutput(); err != nil {
				b.Fatalf("%v: %s", err, out)
			}
		}
		psql(`\copy owner TO '`+lines+`'`, "CREATE TABLE copied (LIKE owner INCLUDING ALL)")
		begun = time.Now()
		psql(`\copy copied FROM '` + lines + `'`)
		copied := time.Since(begun)
		b.ReportMetric(applied.Seconds()/copied.Seconds(), "ratio")
		b.ReportMetric(applied.Seconds(), "s/run")
		b.ReportMetric(copied.Seconds(), "s/copy")
		b.ReportMetric(planned.Seconds(), "s/plan")
	}
}
