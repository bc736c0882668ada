package ledger_test

import (
	"context"
	"encoding/json"
	"fmt"
	"testing"

	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

// early is what a database of the first schema may hold: a category, a product and its variant; a table's run that made the
// variant and altered the product; a delivery's run that put two pictures on it and left a line alone.
var early = []string{
	"INSERT INTO person (name, password_hash, role) VALUES ('mo', '-', 'editor')",
	"INSERT INTO asset (sha256, bytes, format, width, height) SELECT sha256(n::text::bytea), 1, 'JPEG', 1, 1 FROM generate_series(1, 3) n",
	"INSERT INTO delivery (title, state, note, created_by) VALUES ('spring', 'ready', 'the same archive', 1)",
	"INSERT INTO upload (id, delivery_id, path, bytes, entries) VALUES ('u1', 1, 'a.zip', 5, 2)",
	"INSERT INTO arrival (delivery_id, upload_id, entry, path, bytes, asset_id) SELECT 1, 'u1', n, 'K' || n || '.jpg', 1, n FROM generate_series(1, 2) n",
	"INSERT INTO arrival (delivery_id, upload_id, entry, path, bytes, problem, detail) VALUES (1, 'u1', 3, 'x.txt', 1, 'not_picture', 'No picture.')",
	`INSERT INTO owner (id, kind, parent, category, sku, identity, title, options, ordinal) VALUES (1, 'category', NULL, NULL, '', NULL, 'Kites', '{}', 1),
		(2, 'product', NULL, 1, 'K1', 'k1', 'Drift', '{"fabric": "ripstop"}', 2), (3, 'variant', 2, NULL, 'K1-R', 'k1-r', '', '{"colour": "red"}', 3)`,
	"INSERT INTO placement VALUES (2, 1, 1, 'Drift'), (2, 2, 2, '')",
	`INSERT INTO plan (kind, title, changes, problems, created_by) VALUES ('catalogue', 'table', 2, '[{"line": 7, "column": "sku", "why": "The row has no SKU."}]', 1)`,
	"INSERT INTO plan (kind, title, delivery_id, house_rule, changes, created_by) VALUES ('pairing', 'spring', 1, 'add_after', 2, 1)",
	`INSERT INTO plan_change VALUES
		(1, 1, 2, 'owner', '{"kind": "product", "category": 1, "sku": "K1", "title": "Kite", "barcode": "95200017", "options": {"fabric": "ripstop", "odd": "x"}, "ordinal": 2}',
			'{"kind": "product", "category": 1, "sku": "K1", "title": "Drift", "options": {"fabric": "ripstop"}, "ordinal": 2}'),
		(1, 2, 3, 'owner', 'null', '{"kind": "variant", "parent": 2, "sku": "K1-R", "title": "", "options": {"colour": "red"}, "ordinal": 3}'),
		(2, 1, 2, 'pictures', '[]', '[{"asset": 1, "alt": "Drift"}, {"asset": 2}]'), (2, 2, 1, 'pictures', '[]', '[{"asset": 3}]')`,
	"INSERT INTO run (plan_id, state, done, applied, left_alone, created_by) VALUES (1, 'done', 2, 2, 0, 1), (2, 'done', 2, 1, 1, 1)",
	"INSERT INTO plan (kind, title, undoes, created_by) VALUES ('undo', 'Undo: Undo: table', 1, 1)",
	"INSERT INTO run_entry VALUES (1, 1, ''), (1, 2, ''), (2, 1, ''), (2, 2, 'It changed since the plan was made.')",
}

// A database of each earlier schema, with all that it holds, is brought up to date: what it showed is shown, and its runs are
// undone and redone like those of today.
func TestUpgrade(t *testing.T) {
	for version := int64(1); version <= 10; version++ {
		t.Run(fmt.Sprint("from ", version), func(t *testing.T) {
			url := storetest.Empty(t)
			pool, err := pgxpool.New(ctx, url)
			if err != nil {
				t.Fatal(err)
			}
			db := stdlib.OpenDBFromPool(pool)
			steps, err := goose.NewProvider(goose.DialectPostgres, db, store.Migrations())
			if err != nil {
				t.Fatal(err)
			}
			if _, err := steps.UpTo(ctx, 1); err != nil {
				t.Fatal(err)
			}
			for _, sql := range early {
				if _, err := pool.Exec(ctx, sql); err != nil {
					t.Fatalf("%s: %v", sql, err)
				}
			}
			if _, err := steps.UpTo(ctx, version); err != nil {
				t.Fatal(err)
			}
			db.Close()
			pool.Close()

			opened, end := context.WithCancel(ctx)
			s, err := store.Open(opened, url)
			if err != nil {
				end()
				t.Fatal(err)
			}
			t.Cleanup(func() { end(); s.Pool.Close() })
			j, err := jobs.New(ctx, s)
			if err != nil {
				t.Fatal(err)
			}
			r := &book{ledger.New(s, j, owner.Subject{}, pictures.Subject{})}
			upgraded(t, r)
		})
	}
}

// upgraded asks of an upgraded database all that the early one knew.
func upgraded(t *testing.T, r *book) {
	t.Helper()
	said := func(sql string) (s string) {
		t.Helper()
		if err := r.Store.Pool.QueryRow(ctx, sql).Scan(&s); err != nil {
			t.Fatalf("%s: %v", sql, err)
		}
		return s
	}
	const (
		owners = "SELECT string_agg(concat_ws(' ', id, kind, parent, category, sku, barcode, title, options), '; ' ORDER BY id) FROM owner"
		placed = "SELECT coalesce(string_agg(concat_ws(' ', owner_id, position, asset_id), '; ' ORDER BY owner_id, position), '') FROM placement"
	)
	if got, want := said(owners), `1 category Kites {}; 2 product 1 K1 Drift {"fabric": "ripstop"}; 3 variant 2 K1-R {"colour": "red"}`; squeezed(got) != want {
		t.Fatalf("owners %s, want %s", squeezed(got), want)
	}
	if got := said("SELECT string_agg(concat_ws(' ', owner_id, asset_id, language, field, text, by_hand), '; ') FROM wording"); got != "2 1 en alt Drift f" {
		t.Errorf("wordings %s", got)
	}
	if got := said("SELECT string_agg(item || ' ' || problem || ' ' || (message->>'code') || ' ' || (message->'data'->>'text'), '') FROM arrival"); got != "u1/3 not_picture as_written No picture." {
		t.Errorf("what is wrong with arrivals: %s", got)
	}
	if got := said("SELECT notes::text FROM delivery"); got != `[{"code": "as_written", "data": {"text": "the same archive"}}]` {
		t.Errorf("notes of the delivery: %s", got)
	}
	lines, err := r.Lines(ctx, 2, 0, 9, false)
	if err != nil || len(lines) != 2 || lines[0].Why.Code != "" || lines[1].Why.Code != "changed_since" || len(lines[0].Refs) != 3 {
		t.Errorf("lines of the delivery's plan: %+v, %v", lines, err)
	}
	if lines, err = r.Lines(ctx, 1, 0, 9, false); err != nil {
		t.Fatal(err)
	}
	if got, want := squeezed(string(lines[0].Before)), `{"title": "Kite", "barcode": "95200017", "options": {"odd": "x"}}`; !sameJSON(got, want) {
		t.Errorf("the product's line was %s, want %s", got, want)
	}
	if got, want := string(lines[0].After), `{"title": "Drift", "barcode": null, "options": {"odd": null}}`; !sameJSON(got, want) {
		t.Errorf("the product's line becomes %s, want %s", got, want)
	}
	if got := said("SELECT concat_ws(' ', source->>'delivery', source->>'rule', (SELECT problems->0->>'code' FROM plan WHERE id = 1)) FROM plan WHERE id = 2"); got != "1 add_after as_written" {
		t.Errorf("the plans say %s", got)
	}
	if got := said("SELECT title FROM plan WHERE undoes = 1"); got != "table" {
		t.Errorf("the plan that takes the first run back is called %s", got)
	}
	var undos []int64
	for _, run := range []int64{2, 1} {
		plan, err := r.PlanUndo(ctx, run, 1)
		if err != nil {
			t.Fatal(err)
		}
		back := r.mustApply(t, plan, 1)
		if back.LeftAlone != 0 {
			t.Errorf("undoing run %d: %+v", run, back)
		}
		undos = append(undos, back.ID)
	}
	if got, want := squeezed(said(owners)), `1 category Kites {}; 2 product 1 K1 95200017 Kite {"odd": "x", "fabric": "ripstop"}`; got != want || said(placed) != "" {
		t.Errorf("undone: %s; %s; want %s", got, said(placed), want)
	}
	for i := len(undos) - 1; i >= 0; i-- {
		plan, err := r.PlanUndo(ctx, undos[i], 1)
		if err != nil {
			t.Fatal(err)
		}
		r.mustApply(t, plan, 1)
	}
	if got, want := squeezed(said(owners)), `1 category Kites {}; 2 product 1 K1 Drift {"fabric": "ripstop"}; 3 variant 2 K1-R {"colour": "red"}`; got != want || said(placed) != "2 1 1; 2 2 2" {
		t.Errorf("redone: %s; %s", got, said(placed))
	}
}

// squeezed is a text without the blanks of columns that are empty.
func squeezed(s string) string {
	out := []byte{}
	for i := range len(s) {
		if s[i] != ' ' || len(out) == 0 || out[len(out)-1] != ' ' {
			out = append(out, s[i])
		}
	}
	return string(out)
}

func sameJSON(a, b string) bool {
	var x, y any
	if json.Unmarshal([]byte(a), &x) != nil || json.Unmarshal([]byte(b), &y) != nil {
		return false
	}
	p, _ := json.Marshal(x)
	q, _ := json.Marshal(y)
	return string(p) == string(q)
}
