package store_test

import (
	"context"
	"math/rand/v2"
	"slices"
	"testing"

	"ambrosa/internal/store/storetest"
)

// Whatever is written to owners and placements, one by one or many at once: what is kept beside them is what counting gives.
func TestCatalogueCountsAreKept(t *testing.T) {
	ctx := context.Background()
	s, _ := storetest.New(t)
	must(t, s, "INSERT INTO asset (sha256, bytes, format, width, height) SELECT sha256(n::text::bytea), 1, 'JPEG', 1, 1 FROM generate_series(1, 5) n")
	r := rand.New(rand.NewPCG(3, 9))
	const products = `SELECT concat_ws(' ', o.id, (SELECT count(*) FROM owner v WHERE v.kind = 'variant' AND v.parent = o.id),
		(SELECT count(*) FROM placement p WHERE p.owner_id = o.id),
		(SELECT count(*) FROM placement p JOIN owner v ON v.id = p.owner_id WHERE v.kind = 'variant' AND v.parent = o.id)) FROM owner o WHERE o.kind = 'product' ORDER BY o.id`
	const whole = `SELECT concat_ws(' ', count(*) FILTER (WHERE kind = 'product'), count(*) FILTER (WHERE kind = 'variant'), count(*) FILTER (WHERE kind = 'category'),
		count(*) FILTER (WHERE kind = 'product' AND NOT EXISTS (SELECT FROM placement p JOIN owner f ON f.id = p.owner_id WHERE f.id = o.id OR f.kind = 'variant' AND f.parent = o.id))) FROM owner o`
	next := 1
	for round := range 150 {
		n, from := r.IntN(6)+1, next
		var sql string
		args := []any{r.IntN(5) + 2, r.IntN(5)}
		switch r.IntN(9) {
		case 0:
			sql, args = "INSERT INTO owner (id, kind, ordinal) SELECT n, 'category', n FROM generate_series($1::int, $2::int) n", []any{from, from + n - 1}
			next += n
		case 1, 2:
			sql, args = `INSERT INTO owner (id, kind, category, ordinal) SELECT n, 'product', (SELECT min(id) FROM owner WHERE kind = 'category' AND id % 3 = n % 3), n
				FROM generate_series($1::int, $2::int) n`, []any{from, from + n - 1}
			next += n
		case 3:
			sql, args = `INSERT INTO owner (id, kind, parent, ordinal) SELECT n, 'variant', (SELECT p.id FROM owner p WHERE p.kind = 'product' ORDER BY (p.id * 7 + n) % 11, p.id LIMIT 1), n
				FROM generate_series($1::int, $2::int) n WHERE EXISTS (SELECT FROM owner WHERE kind = 'product')`, []any{from, from + n - 1}
			next += n
		case 4, 5:
			sql = "INSERT INTO placement (owner_id, position, asset_id) SELECT id, 1 + id % 2, 1 FROM owner WHERE id % $1 = $2 AND kind <> 'category' ON CONFLICT DO NOTHING"
		case 6:
			sql = "DELETE FROM placement WHERE owner_id % $1 = $2"
		case 7:
			sql = `UPDATE owner SET parent = (SELECT max(p.id) FROM owner p WHERE p.kind = 'product' AND p.id % 3 = $2 % 3), category = category
				WHERE id % $1 = $2 AND kind = 'variant' AND EXISTS (SELECT FROM owner p WHERE p.kind = 'product' AND p.id % 3 = $2 % 3)`
		case 8:
			sql = `DELETE FROM owner o WHERE id % $1 = $2 AND NOT EXISTS (SELECT FROM placement p WHERE p.owner_id = o.id)
				AND NOT EXISTS (SELECT FROM owner c WHERE c.parent = o.id OR c.category = o.id)`
		}
		if _, err := s.Pool.Exec(ctx, sql, args...); err != nil {
			t.Fatalf("%s: %v", sql, err)
		}
		kept := texts(t, s.Pool, "SELECT concat_ws(' ', product_id, variants, pictures, variant_pictures) FROM product_count ORDER BY product_id")
		if counted := texts(t, s.Pool, products); !slices.Equal(kept, counted) {
			t.Fatalf("round %d, after %s %v: kept\n%v, counted\n%v", round, sql, args, kept, counted)
		}
		kept = texts(t, s.Pool, "SELECT concat_ws(' ', products, variants, categories, without) FROM catalogue_count")
		if counted := texts(t, s.Pool, whole); !slices.Equal(kept, counted) {
			t.Fatalf("round %d, after %s: the catalogue is kept as %v, counted %v", round, sql, kept, counted)
		}
		kept = texts(t, s.Pool, "SELECT concat_ws(' ', category_id, products) FROM category_count WHERE products > 0 ORDER BY category_id")
		counted := texts(t, s.Pool, "SELECT concat_ws(' ', category, count(*)) FROM owner WHERE kind = 'product' AND category IS NOT NULL GROUP BY category ORDER BY category")
		if !slices.Equal(kept, counted) {
			t.Fatalf("round %d, after %s: categories are kept as %v, counted %v", round, sql, kept, counted)
		}
	}
	if next < 50 || len(texts(t, s.Pool, "SELECT owner_id::text FROM placement")) == 0 {
		t.Error("nothing came of it")
	}
}
