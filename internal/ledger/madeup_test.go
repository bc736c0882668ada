package ledger_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// flags is a made-up subject: an owner flies a flag or none. It shows what a new kind of change takes: this type, and naming it
// where the ledger is made. Hoisting one is work outside the database, as that of a picture sent somewhere would be.
type flags struct {
	mu      sync.Mutex
	hoisted []string // by whom, in order, also twice
	die     func()   // called when the work outside is done
}

func (*flags) Name() string { return "flag" }

func (*flags) Locks(changes []change.Change) (locks []ledger.Lock) {
	for _, c := range changes {
		locks = append(locks, ledger.Lock{Class: ledger.Owner, ID: c.ID})
	}
	return locks
}

func (*flags) Standing(ctx context.Context, tx pgx.Tx, ids []int64) (map[int64]json.RawMessage, error) {
	rows, err := tx.Query(ctx, "SELECT o.id, coalesce(f.fields, '{}') FROM owner o LEFT JOIN flag f ON f.owner = o.id WHERE o.id = ANY ($1)", ids)
	if err != nil {
		return nil, err
	}
	standing := map[int64]json.RawMessage{}
	var id int64
	var fields json.RawMessage
	_, err = pgx.ForEachRow(rows, []any{&id, &fields}, func() error { standing[id] = slices.Clone(fields); return nil })
	return standing, err
}

func (*flags) Same(standing, fields json.RawMessage) bool { return change.Same(standing, fields) }

// Write leaves alone whoever wants a black flag.
func (f *flags) Write(ctx context.Context, tx pgx.Tx, changes []change.Change) (left []ledger.Left, err error) {
	now, err := f.Standing(ctx, tx, ids(changes))
	if err != nil {
		return nil, err
	}
	for _, c := range changes {
		if strings.Contains(string(c.After), "black") {
			left = append(left, ledger.Left{Seq: c.Seq, Message: message.New("flag_refused", "colour", "black")})
			continue
		}
		fields, err := change.Merge(now[c.ID], c.After)
		if err == nil {
			_, err = tx.Exec(ctx, "INSERT INTO flag VALUES ($1, $2) ON CONFLICT (owner) DO UPDATE SET fields = excluded.fields", c.ID, fields)
		}
		if err != nil {
			return nil, err
		}
	}
	return left, nil
}

func (*flags) Refs(c change.Change) []ledger.Ref {
	return []ledger.Ref{{Class: ledger.Owner, ID: c.ID}}
}

func (*flags) Topics([]change.Change) []string { return []string{"flag:0"} }

func (*flags) Batch() int { return 2 }

func (f *flags) Do(_ context.Context, changes []change.Change) ([]ledger.Left, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	for _, c := range changes {
		f.hoisted = append(f.hoisted, fmt.Sprint(c.ID))
	}
	if f.die != nil {
		f.die()
		return nil, errors.New("the process died")
	}
	return nil, nil
}

func ids(changes []change.Change) []int64 {
	all := make([]int64, len(changes))
	for i, c := range changes {
		all[i] = c.ID
	}
	return all
}

func hoist(owner int64, before, after string) change.Change {
	return change.Change{Subject: "flag", ID: owner, Before: json.RawMessage(before), After: json.RawMessage(after)}
}

// A made-up subject goes through plan, hold, run, stop, death, undo and redo, and nothing else is touched for it.
func TestMadeUpSubject(t *testing.T) {
	r, mo := world(t, 6, 1)
	f := &flags{}
	r.Register(f)
	if _, err := r.Store.Pool.Exec(ctx, "CREATE TABLE flag (owner bigint PRIMARY KEY, fields jsonb NOT NULL)"); err != nil {
		t.Fatal(err)
	}
	flies := func() string {
		var s string
		err := r.Store.Pool.QueryRow(ctx, "SELECT coalesce(string_agg(owner || '=' || (fields->>'colour'), ' ' ORDER BY owner), '') FROM flag WHERE fields ? 'colour'").Scan(&s)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	const none = `{"colour": null}`
	plan, err := r.Keep(ctx, ledger.Draft{Kind: "flags", Title: "test", Person: mo, Held: []ledger.Hold{
		{Seq: 4, Message: message.New("flag_odd")}, {Seq: 5, Message: message.New("flag_odd")}}},
		[]change.Change{hoist(1, none, `{"colour":"red"}`), hoist(2, none, `{"colour":"black"}`), hoist(3, none, `{"colour":"blue"}`),
			hoist(4, none, `{"colour":"pink"}`), hoist(5, none, `{"colour":"grey"}`), hoist(99, none, `{"colour":"red"}`)})
	if err != nil {
		t.Fatal(err)
	}
	why := func() (codes []string) {
		t.Helper()
		lines, err := r.Lines(ctx, plan, 0, 100, false)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range lines {
			codes = append(codes, l.Why.Code)
		}
		return codes
	}
	if n, err := r.Release(ctx, plan, mo, []int32{5}, "looked at it"); n != 1 || err != nil {
		t.Errorf("released %d, %v", n, err)
	}
	if got := why(); !slices.Equal(got, []string{"", "", "", "flag_odd", "", "gone_since"}) {
		t.Errorf("before it is applied: %q", got)
	}

	// The first batch is done and committed; in the second the process dies when the work outside is done.
	run, err := r.Apply(ctx, plan, mo)
	if err != nil {
		t.Fatal(err)
	}
	if more, err := ledger.Chunk(r.Ledger, ctx, run); !more || err != nil {
		t.Fatal(more, err)
	}
	f.die = func() {}
	if _, err := ledger.Chunk(r.Ledger, ctx, run); err == nil {
		t.Fatal("it did not die")
	}
	f.die = nil
	if got := flies(); got != "1=red" {
		t.Errorf("after the death %q", got)
	}
	// Stopped and resumed, it goes on where it was: what was done outside is done again, and nothing else twice.
	if err := errors.Join(r.Stop(ctx, run), r.Jobs.Do(ctx, ledger.Work, run)); err != nil {
		t.Fatal(err)
	}
	if row := r.row(t, run); row.State != string(jobs.Stopped) || row.Applied != 1 || row.LeftAlone != 1 {
		t.Errorf("stopped: %+v", row)
	}
	if err := r.Resume(ctx, run); err != nil {
		t.Fatal(err)
	}
	done, err := r.Finish(ctx, run)
	if err != nil || done.Applied != 3 || done.LeftAlone != 3 || flies() != "1=red 3=blue 5=grey" {
		t.Errorf("%+v, %v, %s", done, err, flies())
	}
	if got := why(); !slices.Equal(got, []string{"", "flag_refused", "", "flag_odd", "", "gone_since"}) {
		t.Errorf("after it is applied: %q", got)
	}
	if got := strings.Join(f.hoisted, " "); got != "1 2 3 3 5" {
		t.Errorf("outside was done %s", got)
	}
	if _, err := r.Release(ctx, plan, mo, nil, "late"); !errors.Is(err, ledger.ErrApplied) {
		t.Errorf("releasing what is applied: %v", err)
	}

	// Another field changes meanwhile: undo does not mind, and does not touch it. Redo brings all back.
	if _, err := r.Store.Pool.Exec(ctx, `UPDATE flag SET fields = fields || '{"height": 3}' WHERE owner = 1`); err != nil {
		t.Fatal(err)
	}
	undo, err := r.PlanUndo(ctx, run, mo)
	if err != nil {
		t.Fatal(err)
	}
	back := r.mustApply(t, undo, mo)
	if back.Applied != 3 || flies() != "" {
		t.Errorf("undone: %+v, %s", back, flies())
	}
	redo, err := r.PlanUndo(ctx, back.ID, mo)
	if err != nil {
		t.Fatal(err)
	}
	if again := r.mustApply(t, redo, mo); again.Applied != 3 || flies() != "1=red 3=blue 5=grey" {
		t.Errorf("redone: %+v, %s", again, flies())
	}
	var height, refs int
	if err := r.Store.Pool.QueryRow(ctx, `SELECT (SELECT (fields->>'height')::int FROM flag WHERE owner = 1),
		(SELECT count(*) FROM ledger_ref WHERE class = 'owner' AND id = 3)`).Scan(&height, &refs); err != nil || height != 3 || refs != 3 {
		t.Errorf("the other field is %d; plan, undo and redo make %d references, %v", height, refs, err)
	}
	for _, broken := range [][]change.Change{{hoist(1, none, none), hoist(1, none, none)}, {{Subject: "kite", ID: 1}}} {
		if _, err := r.Keep(ctx, ledger.Draft{Kind: "flags", Title: "test", Person: mo}, broken); err == nil {
			t.Errorf("%+v is kept", broken)
		}
	}
}

// What a plan says of large lines still fits in a chunk: it has fewer of them.
func TestLargeLines(t *testing.T) {
	r, mo := world(t, 5, 1)
	f := &quiet{}
	r.Register(f)
	var changes []change.Change
	for owner := int64(1); owner <= 5; owner++ {
		changes = append(changes, change.Change{Subject: f.Name(), ID: owner, Before: json.RawMessage(`{}`),
			After: json.RawMessage(`{"text":"` + strings.Repeat("x", 3<<20) + `"}`)})
	}
	plan, err := r.Keep(ctx, ledger.Draft{Kind: "texts", Title: "test", Person: mo}, changes)
	if err != nil {
		t.Fatal(err)
	}
	if row := r.mustApply(t, plan, mo); row.Applied != 5 || !slices.Equal(f.groups, []int{2, 2, 1}) {
		t.Errorf("%+v in groups of %v", row, f.groups)
	}
}

// quiet is a made-up subject that does nothing.
type quiet struct{ groups []int }

func (*quiet) Name() string                        { return "quiet" }
func (*quiet) Locks([]change.Change) []ledger.Lock { return nil }
func (*quiet) Standing(_ context.Context, _ pgx.Tx, ids []int64) (map[int64]json.RawMessage, error) {
	standing := map[int64]json.RawMessage{}
	for _, id := range ids {
		standing[id] = json.RawMessage(`{}`)
	}
	return standing, nil
}
func (*quiet) Same(json.RawMessage, json.RawMessage) bool { return true }
func (f *quiet) Write(_ context.Context, _ pgx.Tx, c []change.Change) ([]ledger.Left, error) {
	f.groups = append(f.groups, len(c))
	return nil, nil
}
func (*quiet) Refs(change.Change) []ledger.Ref { return nil }
func (*quiet) Topics([]change.Change) []string { return nil }

// Two people's edits of different fields of one owner do not meet; of one field the later is left alone.
func TestFields(t *testing.T) {
	r, mo := world(t, 1, 1)
	edit := func(before, after string) query.RunsRow {
		t.Helper()
		plan, err := r.Keep(ctx, ledger.Draft{Kind: "catalogue", Title: "test", Person: mo},
			[]change.Change{{Subject: "owner", ID: 1, Before: json.RawMessage(before), After: json.RawMessage(after)}})
		if err != nil {
			t.Fatal(err)
		}
		return r.mustApply(t, plan, mo)
	}
	title := edit(`{"title":"Kite"}`, `{"title":"Drift"}`)
	options := edit(`{"options":{"colour":null}}`, `{"options":{"colour":"red"}}`)
	code := edit(`{"code":null,"titles":{"de":null},"attributes":{"weight":null}}`, `{"code":"77","titles":{"de":"Drachen"},"attributes":{"weight":12.5}}`)
	if title.Applied+options.Applied+code.Applied != 3 {
		t.Errorf("%+v, %+v, %+v", title, options, code)
	}
	if again := edit(`{"title":"Kite"}`, `{"title":"Delta"}`); again.LeftAlone != 1 {
		t.Errorf("the same field twice: %+v", again)
	}
	for _, run := range []int64{title.ID, options.ID, code.ID} {
		plan, err := r.PlanUndo(ctx, run, mo)
		if err != nil {
			t.Fatal(err)
		}
		if back := r.mustApply(t, plan, mo); back.Applied != 1 {
			t.Errorf("undone: %+v", back)
		}
	}
	var owner string
	if err := r.Store.Pool.QueryRow(ctx, "SELECT concat_ws(' ', title, options, code, titles, attributes) FROM owner WHERE id = 1").Scan(&owner); err != nil || owner != "Kite {}  {} {}" {
		t.Errorf("%q, %v", owner, err)
	}
}
