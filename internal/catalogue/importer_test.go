package catalogue

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	core "ambrosa/core/catalogue"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tablefiles"
)

// A table is kept, its plan is made once, also where the process died before it could say so, and what nothing needs any more is
// cleared away. What can be said by the beginning is said at once.
func TestImporter(t *testing.T) {
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	l := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	im := &Importer{Store: s, Ledger: l, Jobs: j, Folder: t.TempDir()}
	im.Register()
	files := func() int {
		t.Helper()
		names, err := filepath.Glob(filepath.Join(im.Folder, "*"))
		if err != nil {
			t.Fatal(err)
		}
		return len(names)
	}
	for table, want := range map[string]error{"": tablefiles.ErrEmpty, "a,b\n1,2\n": core.ErrNoSKU, "PK\x03\x04\x00": sheet.ErrDamaged,
		"\xff\xd8\xff\xe0\x00\x10JFIF\x00\x01\x01\x00\x00\x01\x00\x01\x00\x00\xff\xdb\x00C\x00\x08\x06\x06\x07\x06": sheet.ErrNoTable, "sku" + strings.Repeat(",x", 300): core.ErrColumns} {
		if _, err := im.Bring(ctx, "x.csv", strings.NewReader(table), person); !errors.Is(err, want) {
			t.Errorf("%.10q: %v, want %v", table, err, want)
		}
	}
	if files() != 0 {
		t.Errorf("%d files of tables that were refused", files())
	}
	bring := func(table string) (id, plan int64) {
		t.Helper()
		id, err := im.Bring(ctx, "products.csv", strings.NewReader(table), person)
		if err != nil {
			t.Fatal(err)
		}
		job, err := j.Finished(ctx, ImportWork, id)
		if err != nil || job.State != string(jobs.Done) {
			t.Fatalf("%+v, %v", job, err)
		}
		of, err := s.ImportByID(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		if of.PlanID != nil {
			plan = *of.PlanID
		}
		return id, plan
	}
	file := func(text string) string {
		t.Helper()
		path := filepath.Join(t.TempDir(), "t.csv")
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	apply := func(plan int64) {
		t.Helper()
		run, err := l.Apply(ctx, plan, person)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := l.Finish(ctx, run); err != nil {
			t.Fatal(err)
		}
	}
	// A character of several bytes stands where the beginning that is looked at ends.
	long := "sku,title,barcode,category\n"
	for i := range 4000 {
		long += fmt.Sprintf("K%d,Drächen %d,,Kites > Small\n", i, i)
	}
	_, plan := bring(long)
	apply(plan)
	if id, again := bring(long); again != 0 || id == 0 {
		t.Errorf("the same table again makes plan %d", again)
	}
	if files() != 0 {
		t.Errorf("%d tables stay", files())
	}
	// What a table touches is found by its barcodes, too, however they are written.
	if _, err := s.Pool.Exec(ctx, "UPDATE owner SET barcode = '9521234 50001-8' WHERE sku = 'K1'"); err != nil {
		t.Fatal(err)
	}
	_, problems, err := Look(ctx, s, file("sku,title,barcode\nNEW,New,09521234500018\n"))
	if err != nil || len(problems) != 1 || problems[0].Code != "barcode_taken" {
		t.Errorf("a barcode that another has: %+v, %v", problems, err)
	}
	changes, problems, err := Look(ctx, s, file("sku,title,barcode\nNEW,New,09521234500018\nK1,Drächen 1,9521234500025\n"))
	if err != nil || len(problems) != 0 || len(changes) != 2 {
		t.Errorf("a barcode that is given away: %+v, %+v, %v", changes, problems, err)
	}

	yesterday := time.Now().Add(-25 * time.Hour)
	for _, name := range []string{"table-1", "table-7.part", "table-99", "uploads"} {
		path := filepath.Join(im.Folder, name)
		if err := os.WriteFile(path, []byte("x"), 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(path, yesterday, yesterday); err != nil {
			t.Fatal(err)
		}
	}
	waiting, err := im.Bring(ctx, "later.csv", strings.NewReader("sku\nK1\n"), person)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.Chtimes(im.file(waiting), yesterday, yesterday); err != nil {
		t.Fatal(err)
	}
	if err := im.clear(ctx); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(im.file(waiting)); err != nil || files() != 2 {
		t.Errorf("%d files are left, the one that waits: %v", files(), err)
	}
}
