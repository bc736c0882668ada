package catalogue

import (
	"context"
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	"ambrosa/core/pairing"
	"ambrosa/internal/store/storetest"
)

// However owners change, what is kept up by their changes says of every name what one read again says.
func TestSnapshotIsKeptUp(t *testing.T) {
	s, _ := storetest.New(t)
	ctx := context.Background()
	kept := &Snapshots{Store: s}
	r := rand.New(rand.NewPCG(5, 5))
	var files []pairing.File
	for n := range 40 {
		files = append(files, pairing.File{Path: fmt.Sprintf("PK-%d.jpg", n)}, pairing.File{Path: fmt.Sprintf("ZZ-9%02d 2.jpg", n)},
			pairing.File{Path: fmt.Sprintf("Kite %d amber.jpg", n)})
	}
	exec := func(sql string, args ...any) {
		t.Helper()
		if _, err := s.Pool.Exec(ctx, sql, args...); err != nil {
			t.Fatal(err)
		}
	}
	exec("INSERT INTO owner (id, kind, sku, title) SELECT n, 'product', 'PK-' || n, 'Kite ' || n FROM generate_series(1, 30) n")
	alone := 0
	for version := int64(1); version < 40; version++ {
		for range 1 + r.IntN(4) {
			n := 1 + r.IntN(40)
			switch r.IntN(6) {
			case 5:
				exec("UPDATE owner SET ordinal = ordinal + 1 WHERE id = $1", n)
			case 0:
				exec("DELETE FROM owner WHERE id = $1 OR parent = $1", n)
			case 1:
				exec("UPDATE owner SET title = $2, code = $3 WHERE id = $1", n, fmt.Sprint("Kite ", n, r.IntN(9)), fmt.Sprint("C-", 500+r.IntN(30)))
			case 2:
				exec(`INSERT INTO owner (id, kind, parent, sku, options) SELECT 100 + $1, 'variant', $1, 'PK-' || $1::bigint || '-V',
					jsonb_build_object('colour', 'amber', 'mpn', 'ZZ-9' || lpad(($1::bigint)::text, 2, '0'))
					WHERE EXISTS (SELECT FROM owner WHERE id = $1) ON CONFLICT DO NOTHING`, n)
			default:
				exec("INSERT INTO owner (id, kind, sku, title) SELECT $1::bigint, 'product', 'PK-' || $1::bigint, 'Kite ' || $1::bigint ON CONFLICT DO NOTHING", n)
			}
		}
		exec("UPDATE catalogue_state SET owners = $1", version)
		if r.IntN(4) == 0 {
			continue // nobody asks: two versions in one
		}
		before := kept.last
		got, err := kept.At(ctx, version)
		if err != nil {
			t.Fatal(err)
		}
		if before != nil && got.whole.Equal(before.whole) {
			alone++
		}
		want, err := (&Snapshots{Store: s}).At(ctx, version)
		if err != nil {
			t.Fatal(err)
		}
		if !reflect.DeepEqual(got.Parent, want.Parent) || !reflect.DeepEqual(got.Colours, want.Colours) {
			t.Fatalf("version %d: owners %v, want %v", version, got.Parent, want.Parent)
		}
		if a, b := pairing.Pair(got.Index, files, nil), pairing.Pair(want.Index, files, nil); !reflect.DeepEqual(a, b) {
			t.Fatalf("version %d: the names are read otherwise", version)
		}
	}
	if alone < 15 {
		t.Errorf("only %d times what changed was read alone", alone)
	}
}
