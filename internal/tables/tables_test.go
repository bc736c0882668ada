package tables

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ambrosa/core/placement"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tablefiles"
	"ambrosa/internal/wording"

	"github.com/jackc/pgx/v5"
)

var ctx = context.Background()

type station struct {
	t *testing.T
	*Tables
	person int64
}

func newStation(t *testing.T) *station {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	book := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	wording.New(s, book)
	st := &station{t, &Tables{Store: s, Ledger: book, Jobs: j, Folder: t.TempDir()}, person}
	st.Register()
	return st
}

// bring sends a table and waits until it is checked.
func (st *station) bring(name, text string) int64 {
	st.t.Helper()
	id, err := st.Bring(ctx, name, strings.NewReader(text), st.person)
	if err != nil {
		st.t.Fatal(err)
	}
	st.checked(id)
	return id
}

func (st *station) checked(id int64) query.WorksheetByIDRow {
	st.t.Helper()
	if job, err := st.Jobs.Finished(ctx, Work, id); err != nil || job.State != string(jobs.Done) {
		st.t.Fatalf("%+v, %v", job, err)
	}
	w, err := st.Store.WorksheetByID(ctx, id)
	if err != nil || !w.Read || w.Checked != w.Version {
		st.t.Fatalf("%+v, %v", w, err)
	}
	return w
}

// found tells what is wrong with a table: row, column, kind and repair.
func (st *station) found(id int64) string {
	st.t.Helper()
	rows, err := st.Store.WorksheetProblemsOn(ctx, query.WorksheetProblemsOnParams{ID: id, FromRow: 0, ToRow: 1 << 30, Most: 1000})
	if err != nil {
		st.t.Fatal(err)
	}
	var all []string
	for _, p := range rows {
		s := fmt.Sprintf("%d.%d %s", p.Row, p.Col, p.Kind)
		if p.Repair != nil {
			s += "→" + *p.Repair
		}
		all = append(all, s)
	}
	return strings.Join(all, ", ")
}

func (st *station) cells(id int64) string {
	st.t.Helper()
	rows, err := st.Rows(ctx, id, 0, 1000, "")
	if err != nil {
		st.t.Fatal(err)
	}
	var all []string
	for _, r := range rows {
		s := strings.Join(r.Texts(), "|")
		if r.LeftOut {
			s = "out " + s
		}
		all = append(all, s)
	}
	return strings.Join(all, "\n")
}

// apply plans a table and applies the plan; it returns what stands then: SKU, title and pictures.
func (st *station) apply(id int64, rule placement.Rule) string {
	st.t.Helper()
	plan, err := st.Plan(ctx, id, st.person, rule)
	if err != nil {
		st.t.Fatal(err)
	}
	run, err := st.Ledger.Apply(ctx, plan, st.person)
	if err != nil {
		st.t.Fatal(err)
	}
	if done, err := st.Ledger.Finish(ctx, run); err != nil || done.LeftAlone > 0 {
		st.t.Fatalf("%+v, %v", done, err)
	}
	return st.stands()
}

func (st *station) stands() string {
	st.t.Helper()
	rows, err := st.Store.Pool.Query(ctx, `SELECT o.sku || ' ' || o.title || coalesce(' ' || string_agg(encode(a.sha256, 'escape') || coalesce(':' || w.text, ''), ',' ORDER BY p.position), '')
		FROM owner o LEFT JOIN placement p ON p.owner_id = o.id LEFT JOIN asset a ON a.id = p.asset_id
		LEFT JOIN wording w ON w.owner_id = o.id AND w.asset_id = a.id WHERE o.kind <> 'category' GROUP BY o.id ORDER BY o.sku`)
	if err != nil {
		st.t.Fatal(err)
	}
	all, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		st.t.Fatal(err)
	}
	return strings.Join(all, "; ")
}

// arrive makes pictures that have arrived, each with bytes of its own.
func (st *station) arrive(paths ...string) (delivery int64) {
	st.t.Helper()
	if err := st.Store.Pool.QueryRow(ctx, "INSERT INTO delivery (title, created_by) VALUES ('d', $1) RETURNING id", st.person).Scan(&delivery); err != nil {
		st.t.Fatal(err)
	}
	for _, p := range paths {
		if _, err := st.Store.Pool.Exec(ctx, `WITH a AS (INSERT INTO asset (sha256, bytes, format, width, height) VALUES (convert_to($1, 'UTF8'), 1, 'JPEG', 9, 9) RETURNING id)
			INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) SELECT $2, $1, $1, 1, id FROM a`, p, delivery); err != nil {
			st.t.Fatal(err)
		}
	}
	return delivery
}

// A price list as it comes: read under its title, checked against the catalogue and the pictures that arrived, repaired, planned, applied.
func TestPriceList(t *testing.T) {
	st := newStation(t)
	st.apply(st.bring("first.csv", "sku,title,barcode\n0012,Alpha,9520123456788\nK-2,Beta,\n"), placement.OnlyWhereEmpty)
	delivery := st.arrive("x-1.jpg", "sub/Kite Amber.jpg", "unused.jpg")
	id := st.bring("list.csv", "Spring;;;;;\n\nItem no. (SKU);Title;EAN;Image;Pos;Alt\n12;Alpha two;9.52012E+12;x 1.jpg;2;a kite\nK-2;Beta;;kite-amber.jpg;1;\nK-3;Gamma;;nix.jpg;1;ok\n12;Alpha two;;Kite Amber.jpg;1;front\n")
	want := "4.0 zeros_lost→0012, 4.2 barcode_damaged→9520123456788, 4.3 picture_near→x-1.jpg, 5.3 picture_near→Kite Amber.jpg, 5.5 alt_missing, " +
		"6.0 key_unknown, 6.3 picture_missing, 7.0 zeros_lost→0012"
	if got := st.found(id); got != want {
		t.Errorf("found %s\nwant %s", got, want)
	}
	if w := st.checked(id); w.Stopped != 4 || w.Rows != 4 || w.HeaderRow != 3 {
		t.Errorf("%+v", w)
	}
	if _, err := st.Plan(ctx, id, st.person, placement.AddAfter); err != nil && !errors.Is(err, ledger.ErrNothingToDo) {
		t.Error(err)
	}
	if n, err := st.Repair(ctx, id, st.person, "", nil); err != nil || n != 5 {
		t.Fatalf("%d repaired, %v", n, err)
	}
	if _, err := st.Plan(ctx, id, st.person, placement.AddAfter); !errors.Is(err, ErrNotChecked) {
		t.Errorf("a plan before the check: %v", err)
	}
	st.checked(id)
	if got, want := st.found(id), "5.5 alt_missing, 6.0 key_unknown, 6.3 picture_missing, 7.3 picture_shared"; got != want {
		t.Errorf("repaired: %s, want %s", got, want)
	}
	if err := st.Describe(ctx, id, Described{Delivery: &delivery}); err != nil {
		t.Fatal(err)
	}
	st.checked(id)
	if got := st.found(id); !strings.HasSuffix(got, "0.-1 picture_unused") {
		t.Errorf("with its delivery: %s", got)
	}
	got := st.apply(id, placement.OnlyWhereEmpty)
	if want := "0012 Alpha two sub/Kite Amber.jpg:front,x-1.jpg:a kite; K-2 Beta sub/Kite Amber.jpg:Beta"; got != want {
		t.Errorf("stands %s\nwant  %s", got, want)
	}
	if _, err := st.Plan(ctx, id, st.person, placement.OnlyWhereEmpty); err != nil && !errors.Is(err, ledger.ErrNothingToDo) {
		t.Error(err)
	}
}

// A model of the cells: two people edit, leave out, undo and do again in any order; what one changed since the other's step stays.
func TestSteps(t *testing.T) {
	st := newStation(t)
	id := st.bring("t.csv", "sku,title\na1,x\nb2,x\nc3,x\n")
	other, err := st.Store.AddPerson(ctx, query.AddPersonParams{Name: "Brae", PasswordHash: "x", Role: "editor"})
	if err != nil {
		t.Fatal(err)
	}
	type cell struct{ row, column int }
	type change struct{ before, after string }
	type step struct {
		of     map[cell]change
		undone bool
	}
	now := map[cell]string{}
	for i, sku := range []string{"a1", "b2", "c3"} {
		now[cell{i + 2, 0}], now[cell{i + 2, 1}], now[cell{i + 2, Whole}] = sku, "x", In
	}
	steps := map[int64][]*step{}
	r := rand.New(rand.NewPCG(5, 5))
	undone, left := 0, 0
	for round := range 150 {
		who := []int64{st.person, other}[r.IntN(2)]
		mine := steps[who]
		switch again := r.IntN(2) == 0; r.IntN(3) {
		case 0:
			made := &step{of: map[cell]change{}}
			var edits []Edit
			for range 1 + r.IntN(3) {
				c := cell{2 + r.IntN(3), r.IntN(4) - 1}
				text := fmt.Sprint("t", round, r.IntN(2))
				if c.column == Whole {
					text = []string{In, Out}[r.IntN(2)]
				}
				if _, twice := made.of[c]; twice || now[c] == text {
					continue
				}
				edits = append(edits, Edit{c.row, c.column, text})
				made.of[c] = change{now[c], text}
				now[c] = text
			}
			if len(edits) == 0 {
				continue
			}
			if n, err := st.Edit(ctx, id, who, edits); err != nil || n != len(edits) {
				t.Fatalf("round %d: %d, %v", round, n, err)
			}
			keep := mine[:0]
			for _, s := range mine {
				if !s.undone {
					keep = append(keep, s)
				}
			}
			steps[who] = append(keep, made)
		default:
			var last *step
			for _, s := range mine {
				if s.undone == again && (last == nil || !again) {
					last = s
				}
			}
			n, stay, err := st.Undo(ctx, id, who, again)
			if last == nil {
				if !errors.Is(err, ErrNoStep) {
					t.Fatalf("round %d: %v", round, err)
				}
				continue
			}
			wantStay := 0
			for c, of := range last.of {
				from, to := of.after, of.before
				if again {
					from, to = to, from
				}
				if now[c] == from {
					now[c] = to
				} else {
					wantStay++
				}
			}
			last.undone = !again
			undone, left = undone+n, left+stay
			if err != nil || stay != wantStay {
				t.Fatalf("round %d: %d changed, %d stay, want %d, %v", round, n, stay, wantStay, err)
			}
		}
		var want []string
		for row := 2; row < 5; row++ {
			cells := []string{now[cell{row, 0}], now[cell{row, 1}]}
			if third := now[cell{row, 2}]; third != "" || strings.Count(strings.Split(st.cells(id), "\n")[row-2], "|") == 2 {
				cells = append(cells, third)
			}
			s := strings.Join(cells, "|")
			if now[cell{row, Whole}] == Out {
				s = "out " + s
			}
			want = append(want, s)
		}
		if got := st.cells(id); got != strings.Join(want, "\n") {
			t.Fatalf("round %d:\n%s\nwant\n%s", round, got, strings.Join(want, "\n"))
		}
	}
	if undone < 20 || left < 3 {
		t.Errorf("only %d cells undone, %d left", undone, left)
	}
}

// What is no table is refused at once; another sheet is read in the place of the first; what is removed is gone, with its file.
func TestFiles(t *testing.T) {
	st := newStation(t)
	for text, want := range map[string]error{"": tablefiles.ErrEmpty, "PK\x03\x04": sheet.ErrDamaged, "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1": sheet.ErrOld} {
		if _, err := st.Bring(ctx, "x", strings.NewReader(text), st.person); !errors.Is(err, want) {
			t.Errorf("%q: %v, want %v", text, err, want)
		}
	}
	var b bytes.Buffer
	w, err := sheet.NewWriter(&b, "t.ods")
	if err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(w.Row([]string{"sku", "colour"}), w.Row([]string{"K-1", "red"}), w.Close()); err != nil {
		t.Fatal(err)
	}
	id := st.bring("t.ods", b.String())
	at := st.checked(id)
	var fields map[string]string
	if err := json.Unmarshal(at.Fields, &fields); err != nil || fmt.Sprint(fields) != "map[0:sku 1:option:colour]" || at.Format != "ods" {
		t.Errorf("%v, %+v, %v", fields, at, err)
	}
	nine := 9
	for _, wrong := range []Described{{Sheet: &nine}, {Fields: map[int]string{0: "sku", 1: "sku"}}, {Fields: map[int]string{0: "nonsense"}}, {Key: new("price")}, {Mode: new("all")}} {
		if err := st.Describe(ctx, id, wrong); !errors.Is(err, ErrField) {
			t.Errorf("%+v: %v", wrong, err)
		}
	}
	if _, err := st.Edit(ctx, id, st.person, []Edit{{77, 0, "x"}}); !errors.Is(err, ErrNoCell) {
		t.Errorf("a row that there is not: %v", err)
	}
	if err := st.Describe(ctx, id, Described{Fields: map[int]string{0: "sku"}, Key: new("sku"), Mode: new("update")}); err != nil {
		t.Fatal(err)
	}
	st.checked(id)
	if got := st.found(id); got != "2.0 key_unknown" {
		t.Errorf("found %s", got)
	}
	if err := st.Remove(ctx, id); err != nil {
		t.Fatal(err)
	}
	if err := st.Remove(ctx, id); !errors.Is(err, pgx.ErrNoRows) {
		t.Errorf("removed twice: %v", err)
	}
	// What nothing needs is cleared after a day; the file of a table in hand stays.
	kept := st.bring("t.csv", "sku\nK-1\n")
	yesterday := time.Now().Add(-25 * time.Hour)
	for _, name := range []string{"sheet-7.part", "sheet-99"} {
		if err := os.WriteFile(filepath.Join(st.Folder, name), nil, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	files, _ := filepath.Glob(filepath.Join(st.Folder, "*"))
	for _, name := range files {
		if err := os.Chtimes(name, yesterday, yesterday); err != nil {
			t.Fatal(err)
		}
	}
	if err := st.Clear(ctx); err != nil {
		t.Fatal(err)
	}
	if files, _ := filepath.Glob(filepath.Join(st.Folder, "*")); len(files) != 1 || files[0] != st.file(kept) {
		t.Errorf("left are %v", files)
	}
}

func TestMain(m *testing.M) { storetest.Main(m) }
