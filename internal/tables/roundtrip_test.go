package tables_test

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	core "ambrosa/core/catalogue"
	"ambrosa/core/placement"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/demo"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tables"
	"ambrosa/internal/wording"
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

// arrivals are pictures whose names are hard to tell apart, to be read as one name, or to be told from a formula.
const arrivals = `WITH d AS (INSERT INTO delivery (title, created_by) SELECT 'd', id FROM person RETURNING id),
	n AS (SELECT * FROM unnest(ARRAY['a/front.jpg', 'b/front.jpg', 'plain.jpg', 'one, two.jpg', 'x|y.jpg', '=1+1.jpg', 'photo', 'é ß.JPG', 'a.jpg; b.png', 'z#0123456789abcdef.jpg'])
		WITH ORDINALITY AS n (path, at)),
	a AS (INSERT INTO asset (sha256, bytes, format, width, height) SELECT sha256(convert_to(path, 'UTF8')), 1, 'JPEG', 9, 9 FROM n RETURNING id, sha256)
	INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) SELECT d.id, n.at, n.path, 1, a.id FROM d, n JOIN a ON a.sha256 = sha256(convert_to(n.path, 'UTF8'))`

// placements put all of them on a product, in another order on a variant, and one on a category.
const placements = `INSERT INTO placement (owner_id, position, asset_id)
	SELECT o.id, row_number() OVER (PARTITION BY o.id ORDER BY a.id * CASE o.kind WHEN 'variant' THEN -1 ELSE 1 END), a.id FROM owner o, asset a
	WHERE o.sku IN ('0012', '0012-R') OR o.kind = 'category' AND o.title = 'Deltas' AND a.id = 3`

// What is exported and imported again changes nothing; imported into an empty catalogue and exported again, it is the same to the byte
// in CSV: the demo's catalogue and hostile values, by way of each format.
func TestRoundTrip(t *testing.T) {
	for name, first := range map[string]string{"the demo": demo.Table(), "hostile values": hostile} {
		s, im, person := house(t)
		bring(t, im, file(t, "first.csv", []byte(first)), person)
		exec(t, s, arrivals)
		exec(t, s, placements)
		out := export(t, s, ".csv")
		if lines := strings.Count(string(out), "\r\n"); lines < 7 {
			t.Fatalf("%s: only %d rows are exported:\n%s", name, lines, out)
		}
		for _, format := range []string{".csv", ".xlsx", ".ods"} {
			path := file(t, "again"+format, export(t, s, format))
			if changes, problems, err := im.LookFile(ctx, path, placement.WholeSet); err != nil || len(changes) > 0 || core.LeftOut(problems) > 0 {
				t.Errorf("%s, %s: %d changes, %v, %v", name, format, len(changes), problems, err)
			}
			other, into, somebody := house(t)
			exec(t, other, arrivals)
			bring(t, into, path, somebody)
			if again := export(t, other, ".csv"); !bytes.Equal(again, out) {
				t.Errorf("%s, by way of %s:\n%s\nwas\n%s", name, format, again, out)
			}
			if got, want := placed(t, other), placed(t, s); got != want {
				t.Errorf("%s, by way of %s, there stands\n%s, want\n%s", name, format, got, want)
			}
		}
	}
}

func house(t *testing.T) (*store.Store, *tables.Tables, int64) {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	book := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	wording.New(s, book)
	return s, &tables.Tables{Store: s, Ledger: book, Jobs: j, Folder: t.TempDir()}, person
}

// bring imports a table and applies its plan; nothing of it may be left out.
func bring(t *testing.T, im *tables.Tables, path string, person int64) {
	t.Helper()
	plan, err := im.PlanFile(ctx, "t", path, person, placement.WholeSet)
	if err != nil {
		t.Fatal(err)
	}
	if problems, _, err := im.Problems(ctx, plan); err != nil || core.LeftOut(problems) > 0 {
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

// placed is which picture stands where.
func placed(t *testing.T, s *store.Store) (all string) {
	t.Helper()
	if err := s.Pool.QueryRow(ctx, `SELECT coalesce(string_agg(o.sku || o.kind || p.position || encode(a.sha256, 'hex'), ' ' ORDER BY o.sku, p.position), '')
		FROM placement p JOIN owner o ON o.id = p.owner_id JOIN asset a ON a.id = p.asset_id`).Scan(&all); err != nil {
		t.Fatal(err)
	}
	return all
}

func exec(t *testing.T, s *store.Store, sql string) {
	t.Helper()
	if _, err := s.Pool.Exec(ctx, sql); err != nil {
		t.Fatal(err)
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
