package store_test

import (
	"context"
	"errors"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
)

const deliveriesOf = `WITH d AS (INSERT INTO delivery (title, created_by)
		SELECT 'd' || n, (SELECT min(id) FROM person) FROM generate_series(1, $1::int) n RETURNING id, created_by)
	INSERT INTO upload (id, delivery_id, path, bytes, created_by) SELECT id::text, id, 'a.zip', 1, created_by FROM d`

var errRolledBack = errors.New("rolled back")

// What is kept of each delivery is what counting says, whatever comes, changes and goes, and across what is rolled back.
func TestCountsAreKept(t *testing.T) {
	ctx := context.Background()
	s, _ := storetest.New(t)
	must(t, s, deliveriesOf, 5)
	must(t, s, "INSERT INTO asset (sha256, bytes, format, width, height, likeness, palette) VALUES ('\\x01', 1, 'JPEG', 1, 1, 0, '')")
	r := rand.New(rand.NewPCG(1, 7))
	entry := 0
	for round := range 120 {
		some, rest := r.IntN(5)+2, r.IntN(5)
		sql, args := "DELETE FROM arrival WHERE id % $1 = $2", []any{some, rest}
		switch r.IntN(8) {
		case 0:
			sql = "UPDATE arrival SET asset_id = NULL, problem = 'not_picture', bytes = bytes / 2 WHERE id % $1 = $2"
		case 1:
			sql = "UPDATE arrival SET seen_before = NOT seen_before, delivery_id = delivery_id WHERE id % $1 = $2"
		case 2:
			sql, args = "DELETE FROM delivery WHERE id = $1 AND $2::int > 90", []any{r.IntN(5) + 1, round}
		case 3, 4, 5, 6:
			sql, args = `INSERT INTO arrival (delivery_id, item, path, bytes, asset_id, problem, seen_before)
				SELECT d.id, $1::int + n, 'x', CASE n WHEN 3 THEN 9223372036854775807 ELSE n END, CASE WHEN n % 2 = 0 THEN 1 END, CASE WHEN n % 3 = 0 THEN 'broken' ELSE '' END, n % 5 = 0
				FROM delivery d, generate_series(1, $2::int) n ON CONFLICT DO NOTHING`, []any{entry, r.IntN(9)}
			entry += r.IntN(9)
		}
		err := pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error {
			if _, err := tx.Exec(ctx, sql, args...); err != nil || r.IntN(4) > 0 {
				return err
			}
			return errRolledBack
		})
		if err != nil && !errors.Is(err, errRolledBack) {
			t.Fatalf("%s: %v", sql, err)
		}
		kept := texts(t, s.Pool, "SELECT concat_ws(' ', delivery_id, lines, pictures, problems, seen, bytes) FROM delivery_count WHERE lines > 0 ORDER BY delivery_id")
		counted := texts(t, s.Pool, `SELECT concat_ws(' ', delivery_id, count(*), count(asset_id), count(*) FILTER (WHERE problem <> ''), count(*) FILTER (WHERE seen_before), sum(bytes))
			FROM arrival GROUP BY delivery_id ORDER BY delivery_id`)
		if !slices.Equal(kept, counted) {
			t.Fatalf("after round %d, %s:\nkept    %q\ncounted %q", round, sql, kept, counted)
		}
	}
	if entry == 0 || len(texts(t, s.Pool, "SELECT id::text FROM arrival")) == 0 {
		t.Error("nothing came")
	}
}

func must(t testing.TB, s *store.Store, sql string, args ...any) {
	t.Helper()
	if _, err := s.Pool.Exec(context.Background(), sql, args...); err != nil {
		t.Fatalf("%s: %v", sql, err)
	}
}

func texts(t *testing.T, pool *pgxpool.Pool, sql string) []string {
	t.Helper()
	rows, err := pool.Query(context.Background(), sql)
	if err != nil {
		t.Fatal(err)
	}
	all, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		t.Fatal(err)
	}
	return all
}

// BenchmarkDeliveries lists 300 deliveries of 10,000 lines each; its yardstick counts the lines in the same database.
func BenchmarkDeliveries(b *testing.B) {
	ctx := context.Background()
	s, _ := storetest.New(b)
	must(b, s, deliveriesOf, 300)
	must(b, s, `INSERT INTO arrival (delivery_id, item, path, bytes) SELECT d.id, n, 'Spring/PK-' || n || '_front.jpg', n FROM delivery d, generate_series(1, 10000) n`)
	must(b, s, "ANALYZE")
	best := func(ask func()) time.Duration {
		took := time.Duration(1 << 62)
		for range 5 {
			begun := time.Now()
			ask()
			took = min(took, time.Since(begun))
		}
		return took
	}
	for b.Loop() {
		listed := best(func() {
			if rows, err := s.Deliveries(ctx, query.DeliveriesParams{}); err != nil || len(rows) != 300 || rows[0].Lines != 10000 {
				b.Fatal(len(rows), err)
			}
		})
		counted := best(func() { must(b, s, "SELECT delivery_id, count(*), sum(bytes) FROM arrival GROUP BY delivery_id") })
		b.ReportMetric(float64(listed.Microseconds())/1000, "ms")
		b.ReportMetric(float64(counted)/float64(listed), "×counting")
	}
}
