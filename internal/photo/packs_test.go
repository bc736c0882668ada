package photo

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"ambrosa/internal/hand"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// Whose pictures show another barcode than the catalogue has, a page of one at a time, and the plan that corrects what is clear. Whoever shows the own
// barcode, too, somebody else's, or a case of it, is right.
func TestPacks(t *testing.T) {
	ctx := context.Background()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	book := ledger.New(s, j, owner.Subject{})
	exec := func(sql string, args ...any) {
		t.Helper()
		if _, err := s.Pool.Exec(ctx, sql, args...); err != nil {
			t.Fatal(err)
		}
	}
	for i, o := range []struct {
		barcode string
		codes   string // on its one picture
	}{
		1: {"9520000000011", "09520000000998"},                // another
		2: {"", "00000095201238"},                             // none in the catalogue
		3: {"9520000000035", "09520000000035 09520000000981"}, // its own, too
		4: {"9520000000042", "09520000000011"},                // somebody else's
		5: {"9520000000059", "19520000000995"},                // a case
		6: {"9520000000066", "09520000000974 09520000000967"}, // two: which is it?
	} {
		if i == 0 {
			continue
		}
		exec("INSERT INTO owner (id, kind, sku, identity, barcode, title, ordinal) VALUES ($1, 'product', $2::text, lower($2::text), $3, $2::text, $4)", int64(i), fmt.Sprint("K-", i), o.barcode, i)
		exec("INSERT INTO asset (sha256, bytes, format, width, height) VALUES (sha256($1::text::bytea), 1, 'JPEG', 9, 9)", fmt.Sprint(i))
		exec("INSERT INTO placement (owner_id, asset_id, position) SELECT $1, max(id), 1 FROM asset", i)
		exec("INSERT INTO photo (asset_id, version) SELECT max(id), 1 FROM asset")
		for n, code := range strings.Fields(o.codes) {
			exec("INSERT INTO photo_code (asset_id, n, format, text, gtin, x, y, width, height) SELECT max(id), $1, 'EAN-13', $2::text, $2::text, 0, 0, 5, 5 FROM asset", n, code)
		}
	}
	p := &Photos{Store: s}
	got := ""
	for after := int64(0); ; {
		some, next, err := p.Packs(ctx, after, 2)
		if err != nil {
			t.Fatal(err)
		}
		for _, of := range some {
			got += fmt.Sprintf("%d %s %s %v; ", of.ID, of.Barcode, of.Shows, of.Alone)
		}
		if after = next; next == 0 {
			break
		}
	}
	if want := "1 9520000000011 9520000000998 true; 2  95201238 true; 6 9520000000066 9520000000967 false; 6 9520000000066 9520000000974 false; "; got != want {
		t.Errorf("packs:\n got %s\nwant %s", got, want)
	}
	if shown, err := s.PicturesShowing(ctx, query.PicturesShowingParams{Owner: 1, Most: 9}); err != nil || len(shown) != 1 {
		t.Errorf("pictures that show the barcode of the first: %v, %v", shown, err) // the fourth's picture
	}
	plan, wrong, err := p.Correct(ctx, &hand.Hand{Store: s, Ledger: book}, person, []int64{1, 2, 3, 6})
	if err != nil || len(wrong) > 0 {
		t.Fatal(wrong, err)
	}
	var changes string
	if err := s.Pool.QueryRow(ctx, "SELECT string_agg(subject_id || ' ' || (after->>'barcode'), '; ' ORDER BY subject_id) FROM plan_change WHERE plan_id = $1", plan).Scan(&changes); err != nil {
		t.Fatal(err)
	}
	if changes != "1 9520000000998; 2 95201238" {
		t.Errorf("the plan: %s", changes)
	}
}
