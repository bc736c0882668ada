package store_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

// Deliveries and runs of the schema before the jobs say the same after it, and again when it is taken back.
func TestJobsOfEarlierSchema(t *testing.T) {
	ctx := context.Background()
	url := storetest.Empty(t)
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		t.Fatal(err)
	}
	defer pool.Close()
	db := stdlib.OpenDBFromPool(pool)
	defer db.Close()
	steps, err := goose.NewProvider(goose.DialectPostgres, db, store.Migrations())
	if err != nil {
		t.Fatal(err)
	}
	if _, err := steps.UpTo(ctx, 4); err != nil {
		t.Fatal(err)
	}
	for _, sql := range []string{
		"INSERT INTO person (name, password_hash, role) VALUES ('mo', '-', 'editor')",
		`INSERT INTO delivery (title, state, note, created_by, finished_at) SELECT s, s, CASE s WHEN 'waiting' THEN 'no room' WHEN 'ready' THEN 'the same archive' ELSE '' END, 1,
			CASE WHEN s IN ('ready', 'failed') THEN timestamptz '2026-01-02' END FROM unnest(ARRAY['open', 'waiting', 'taking_in', 'stopping', 'stopped', 'ready', 'failed']) s`,
		"INSERT INTO upload (id, delivery_id, path, bytes, entries, created_by) SELECT 'u' || id, id, 'a.zip', 5, 3, 1 FROM delivery",
		"INSERT INTO arrival (delivery_id, upload_id, entry, path, bytes) SELECT id, 'u' || id, n, 'K' || n, 1 FROM delivery, generate_series(1, 2) n",
		"INSERT INTO plan (kind, title, changes, created_by) SELECT 'order', s, 9, 1 FROM unnest(ARRAY['waiting', 'running', 'stopping', 'stopped', 'done', 'failed']) s",
		`INSERT INTO run (plan_id, state, done, applied, note, created_by, finished_at) SELECT id, title, id, id - 1, CASE title WHEN 'failed' THEN 'it went wrong' ELSE '' END, 1,
			CASE title WHEN 'done' THEN timestamptz '2026-01-02' END FROM plan`,
	} {
		if _, err := pool.Exec(ctx, sql); err != nil {
			t.Fatalf("%s: %v", sql, err)
		}
	}
	told := func(sql string) []string { return texts(t, pool, sql) }
	const deliveries = "SELECT concat_ws(' ', id, state, note, finished_at) FROM delivery ORDER BY id"
	const runs = "SELECT concat_ws(' ', id, state, done, applied, note, finished_at) FROM run ORDER BY id"
	hadDeliveries, hadRuns := told(deliveries), told(runs)
	// There and back again; what came after the jobs can't be taken back.
	if _, err := steps.UpTo(ctx, 8); err != nil {
		t.Fatal(err)
	}
	if _, err := steps.DownTo(ctx, 4); err != nil {
		t.Fatal(err)
	}
	if now := told(deliveries); !slices.Equal(now, hadDeliveries) {
		t.Errorf("deliveries taken back:\n%v, had\n%v", now, hadDeliveries)
	}
	if now := told(runs); !slices.Equal(now, hadRuns) {
		t.Errorf("runs taken back:\n%v, had\n%v", fmt.Sprint(now), hadRuns)
	}

	opened, end := context.WithCancel(ctx)
	defer end()
	s, err := store.Open(opened, url)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Pool.Close()
	rows, err := s.Deliveries(ctx, query.DeliveriesParams{})
	if err != nil || len(rows) != 7 {
		t.Fatalf("%d deliveries, %v", len(rows), err)
	}
	for _, d := range rows {
		if d.State != d.Title || (string(d.Notes) != "[]") != (d.Title == "waiting" || d.Title == "ready") || d.Lines != 2 {
			t.Errorf("the delivery that was %s: %+v", d.Title, d)
		}
	}
	made, err := s.Runs(ctx, query.RunsParams{Most: 100})
	if err != nil || len(made) != 6 {
		t.Fatalf("%d runs, %v", len(made), err)
	}
	for _, r := range made {
		want := r.Title
		if want == "running" {
			want = "working"
		}
		if r.State != want || int64(r.Done) != r.ID || int64(r.Applied) != r.ID-1 || (string(r.Notes) != "[]") != (want == "failed") {
			t.Errorf("the run that was %s: %+v", r.Title, r)
		}
	}
	jobs, err := s.AbandonedJobs(ctx)
	if err != nil || len(jobs) != 6 {
		t.Errorf("to be taken up are %v, %v", jobs, err)
	}

	if _, err := steps.DownTo(ctx, 4); err == nil || !strings.Contains(err.Error(), "restore a backup") {
		t.Errorf("lines of plans are taken back to an earlier version: %v", err)
	}
}

// What a newer version has worked with is left alone.
func TestNewerSchema(t *testing.T) {
	ctx, end := context.WithCancel(context.Background())
	defer end()
	s, _ := storetest.New(t)
	if _, err := s.Pool.Exec(ctx, "INSERT INTO goose_db_version (version_id, is_applied) VALUES (99999, true)"); err != nil {
		t.Fatal(err)
	}
	if _, err := store.Open(ctx, s.Pool.Config().ConnString()); !errors.Is(err, store.ErrNewer) || !strings.Contains(err.Error(), "99999") {
		t.Errorf("%v", err)
	}
}

// Whatever is taken out with its rows elsewhere, or may not be while they are there, is found by an index: without one, each
// row that is deleted reads the other table whole. People are few and stay.
func TestForeignKeysAreIndexed(t *testing.T) {
	s, _ := storetest.New(t)
	bare := texts(t, s.Pool, `
		SELECT c.conrelid::regclass || ' (' || (SELECT string_agg(a.attname, ', ') FROM pg_attribute a
			WHERE a.attrelid = c.conrelid AND a.attnum = ANY (c.conkey)) || ')'
		FROM pg_constraint c
		WHERE c.contype = 'f' AND c.conrelid::regclass::text NOT LIKE 'river%' AND (c.confrelid <> 'person'::regclass OR c.confdeltype = 'c')
			AND NOT EXISTS (SELECT FROM pg_index i WHERE i.indrelid = c.conrelid AND i.indkey[0] = ANY (c.conkey)
				AND (i.indkey::int2[])[0:cardinality(c.conkey) - 1] @> c.conkey)
		ORDER BY 1`)
	if len(bare) > 0 {
		t.Errorf("without an index: %q", bare)
	}
}
