package catalogue_test

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	core "ambrosa/core/catalogue"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/demo"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
)

var ctx = context.Background()

// hostile is a table whose values a format or an office program may bend.
const hostile = `sku,kind,title,parent,barcode,code,category,option:colour,attribute:note
,category,"Kites > great",,,007,,,
,category,Deltas,"Kites \> great",,8,,,
,category,"a\b",,,,,,
0012,product,"=1+1",,9520123456788,,"Kites \> great > Deltas",,"'quoted"
PK,product,"  Two  ",,ABC-77,-3,"a\\b",,"<b>&amp;"
0012-R,variant,,0012,,,,"@red","line
two"
-7,product,"é ""q"" ; ,",,,,,,+1
`

// What is exported and imported again changes nothing; imported into an empty catalogue and exported again, it is the same to the byte
// in CSV: the demo's catalogue and hostile values, by way of each format.
func TestRoundTrip(t *testing.T) {
	for name, first := range map[string]string{"the demo": demo.Table(), "hostile values": hostile} {
		s, im, person := house(t)
		bring(t, im, file(t, "first.csv", []byte(first)), person)
		out := export(t, s, ".csv")
		if lines := strings.Count(string(out), "\r\n"); lines < 7 {
			t.Fatalf("%s: only %d rows are exported:\n%s", name, lines, out)
		}
		for _, format := range []string{".csv", ".xlsx", ".ods"} {
			path := file(t, "again"+format, export(t, s, format))
			if changes, problems, err := catalogue.Look(ctx, s, path); err != nil || len(changes) > 0 || len(problems) > 0 {
				t.Errorf("%s, %s: %d changes, %v, %v", name, format, len(changes), problems, err)
			}
			other, into, somebody := house(t)
			bring(t, into, path, somebody)
			if again := export(t, other, ".csv"); !bytes.Equal(again, out) {
				t.Errorf("%s, by way of %s:\n%s\nwas\n%s", name, format, again, out)
			}
		}
	}
}

func house(t *testing.T) (*store.Store, *catalogue.Importer, int64) {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	return s, &catalogue.Importer{Store: s, Ledger: ledger.New(s, j, owner.Subject{}, pictures.Subject{}), Jobs: j, Folder: t.TempDir()}, person
}

// bring imports a table and applies its plan; nothing of it may be left out.
func bring(t *testing.T, im *catalogue.Importer, path string, person int64) {
	t.Helper()
	plan, err := im.PlanImport(ctx, "t", path, person)
	if err != nil {
		t.Fatal(err)
	}
	if problems, _, err := catalogue.Problems(ctx, im.Store, plan); err != nil || core.LeftOut(problems) > 0 {
		t.Fatalf("%s: %v, %v", filepath.Base(path), problems, err)
	}
	run, err := im.Ledger.Apply(ctx, plan, person)
	if err != nil {
		t.Fatal(err)
	}
	if done, err := im.Ledger.Finish(ctx, run); err != nil || done.LeftAlone > 0 {
		t.Fatalf("%+v, %v", done, err)
	}
}

func export(t *testing.T, s *store.Store, format string) []byte {
	t.Helper()
	var b bytes.Buffer
	w, err := sheet.NewWriter(&b, "t"+format)
	if err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(catalogue.Export(ctx, s, w), w.Close()); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func file(t *testing.T, name string, content []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, content, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}
