package ledger_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tablefiles"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

// book is a ledger with what tests ask of it.
type book struct{ *ledger.Ledger }

// world is a catalogue of owners 1…n, each a product, and assets 1…n.
func world(t testing.TB, owners, assets int) (*book, int64) {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	r := &book{ledger.New(s, j, owner.Subject{}, pictures.Subject{})}
	for _, sql := range []string{
		fmt.Sprintf("INSERT INTO owner (id, kind, sku, identity, title) SELECT n, 'product', 'K' || n, 'k' || n, 'Kite' FROM generate_series(1, %d) n", owners),
		fmt.Sprintf("INSERT INTO asset (sha256, bytes, format, width, height) SELECT sha256(n::text::bytea), 1, 'JPEG', 1, 1 FROM generate_series(1, %d) n", assets),
		"SELECT setval('owner_id', 1000000)",
	} {
		if _, err := s.Pool.Exec(ctx, sql); err != nil {
			t.Fatal(err)
		}
	}
	return r, person
}

func some(ids ...int64) []placement.Picture {
	var out []placement.Picture
	for _, id := range ids {
		p := placement.Picture{Asset: id}
		p.Texts.Set(wording.Alt, "en", wording.Text{Text: fmt.Sprint("alt ", id)})
		out = append(out, p)
	}
	return out
}

func (r *book) keepOwners(d ledger.Draft, edits []catalogue.Edit) (int64, error) {
	changes, err := catalogue.Changes(edits)
	if err != nil {
		return 0, err
	}
	return r.Keep(ctx, d, changes)
}

func (r *book) must(t testing.TB, person int64, changes ...change.Change) query.RunsRow {
	t.Helper()
	plan, err := r.Keep(ctx, ledger.Draft{Kind: "pairing", Title: "test", Person: person}, changes)
	if err != nil {
		t.Fatal(err)
	}
	return r.mustApply(t, plan, person)
}

func (r *book) mustApply(t testing.TB, plan, person int64) query.RunsRow {
	t.Helper()
	run, err := r.Apply(ctx, plan, person)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := r.Finish(ctx, run); err != nil {
		t.Fatal(err)
	}
	return r.row(t, run)
}

func (r *book) row(t testing.TB, run int64) query.RunsRow {
	t.Helper()
	rows, err := r.Store.Runs(ctx, query.RunsParams{ID: &run, Most: 1})
	if err != nil || len(rows) != 1 {
		t.Fatal(rows, err)
	}
	return rows[0]
}

// stands returns the placements of all owners in one line.
func (r *book) stands(t testing.TB) string {
	t.Helper()
	var s *string
	if err := r.Store.Pool.QueryRow(ctx, "SELECT string_agg(p.owner_id || '.' || position || '=' || p.asset_id || ' ' || text, '; ' ORDER BY p.owner_id, position) FROM placement p JOIN wording w ON w.owner_id = p.owner_id AND w.asset_id = p.asset_id").Scan(&s); err != nil {
		t.Fatal(err)
	}
	if s == nil {
		return ""
	}
	return *s
}

// later makes all that was asked for older than a double click.
func (r *book) later(t *testing.T) {
	t.Helper()
	for _, table := range []string{"plan", "run"} {
		if _, err := r.Store.Pool.Exec(ctx, "UPDATE "+table+" SET created_at = created_at - interval '1 minute'"); err != nil {
			t.Fatal(err)
		}
	}
}

func TestApplyAndUndo(t *testing.T) {
	r, mo := world(t, 3, 9)
	first := r.must(t, mo, placement.Change(1, nil, some(1, 2)), placement.Change(2, nil, some(3)), placement.Change(99, nil, some(3)))
	if first.State != "done" || first.Applied != 2 || first.LeftAlone != 1 {
		t.Fatalf("%+v", first)
	}
	want := "1.1=1 alt 1; 1.2=2 alt 2; 2.1=3 alt 3"
	if got := r.stands(t); got != want {
		t.Fatalf("%s, want %s", got, want)
	}
	if again, err := r.Apply(ctx, first.PlanID, mo); again != first.ID || err != nil {
		t.Errorf("a double click: run %d, %v", again, err)
	}
	r.later(t)
	if _, err := r.Apply(ctx, first.PlanID, mo); !errors.Is(err, ledger.ErrApplied) {
		t.Errorf("applying twice: %v", err)
	}
	// Another order on 1, and something new on 2; then the first run is undone: 2 changed since and is left alone.
	r.must(t, mo, placement.Change(2, some(3), some(4, 3)))
	undo, err := r.PlanUndo(ctx, first.ID, mo)
	if err != nil {
		t.Fatal(err)
	}
	back := r.mustApply(t, undo, mo)
	if back.Applied != 1 || back.LeftAlone != 1 {
		t.Errorf("the undo: %+v", back)
	}
	if got, want := r.stands(t), "2.1=4 alt 4; 2.2=3 alt 3"; got != want {
		t.Errorf("after the undo %s, want %s", got, want)
	}
	left, err := r.Store.PlanChanges(ctx, query.PlanChangesParams{PlanID: undo, LeftOnly: true, Most: 9})
	if err != nil || len(left) != 1 || left[0].SubjectID != 2 || left[0].Code != string(change.Changed) {
		t.Errorf("left alone: %+v, %v", left, err)
	}
	// The undo is undone like any run.
	redo, err := r.PlanUndo(ctx, back.ID, mo)
	if err != nil {
		t.Fatal(err)
	}
	if row := r.row(t, first.ID); row.UndoneBy != back.ID || row.Undone != 1 {
		t.Errorf("one of its two lines is taken back, and the run says %+v", row)
	}
	again := r.mustApply(t, redo, mo)
	if got, want := r.stands(t), "1.1=1 alt 1; 1.2=2 alt 2; 2.1=4 alt 4; 2.2=3 alt 3"; got != want {
		t.Errorf("after undoing the undo %s, want %s", got, want)
	}
	if row := r.row(t, first.ID); row.UndoneBy != 0 || row.Undone != 0 {
		t.Errorf("all of it stands again, and the run says %+v", row)
	}
	// And the undo of that, up the chain.
	third, err := r.PlanUndo(ctx, again.ID, mo)
	if err != nil {
		t.Fatal(err)
	}
	r.mustApply(t, third, mo)
	if row := r.row(t, first.ID); row.Undone != 1 || r.row(t, back.ID).Undone != 0 || r.row(t, again.ID).Undone != 1 {
		t.Errorf("undone, redone and undone: %+v", row)
	}
}

// Undone is what the lines say. An undo that left everything alone undid nothing and can be made later; what is left can be
// taken back again; two undos of one run do not both take it back; what was undone in part does not go on.
func TestUndone(t *testing.T) {
	r, mo := world(t, 4, 9)
	undo := func(run int64) (int64, error) { return r.PlanUndo(ctx, run, mo) }
	must := func(id int64, err error) int64 {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	first := r.must(t, mo, placement.Change(1, nil, some(1)), placement.Change(2, nil, some(2)))
	over := r.must(t, mo, placement.Change(1, some(1), some(3)), placement.Change(2, some(2), some(4)))
	if none := r.mustApply(t, must(undo(first.ID)), mo); none.Applied != 0 || r.row(t, first.ID).Undone != 0 || r.row(t, first.ID).UndoneBy != 0 {
		t.Fatalf("an undo that left everything alone: %+v, the run %+v", none, r.row(t, first.ID))
	}
	r.mustApply(t, must(undo(over.ID)), mo)
	r.must(t, mo, placement.Change(2, some(2), some(5)))
	part := r.mustApply(t, must(undo(first.ID)), mo)
	if part.Applied != 1 || part.LeftAlone != 1 || r.row(t, first.ID).Undone != 1 {
		t.Fatalf("one line changed since: %+v, the run %+v", part, r.row(t, first.ID))
	}
	r.must(t, mo, placement.Change(2, some(5), some(2)))
	rest := must(undo(first.ID))
	if p, err := r.Store.PlanByID(ctx, rest); err != nil || p.Changes != 1 {
		t.Errorf("undoing again takes what is left: %+v, %v", p, err)
	}
	r.mustApply(t, rest, mo)
	if got := r.stands(t); got != "" || r.row(t, first.ID).Undone != 2 {
		t.Errorf("%q stands, the run says %+v", got, r.row(t, first.ID))
	}
	if _, err := undo(first.ID); !errors.Is(err, ledger.ErrUndone) {
		t.Errorf("undoing what is undone: %v", err)
	}

	// Two plans to undo one run, made before either is applied.
	second := r.must(t, mo, placement.Change(3, nil, some(1)))
	a, twice := must(undo(second.ID)), must(undo(second.ID))
	r.later(t)
	b := must(undo(second.ID))
	if a != twice || a == b {
		t.Errorf("a double click makes plans %d and %d, and later %d", a, twice, b)
	}
	run := must(r.Apply(ctx, a, mo))
	if _, err := r.Apply(ctx, b, mo); !errors.Is(err, ledger.ErrState) {
		t.Errorf("two undos of one run at work: %v", err)
	}
	if _, err := r.Finish(ctx, run); err != nil {
		t.Fatal(err)
	}
	// The same is put there again by hand: the second undo is of the first run, not of this.
	r.must(t, mo, placement.Change(3, nil, some(1)))
	if late := r.mustApply(t, b, mo); late.Applied != 0 || r.stands(t) != "3.1=1 alt 1" || r.row(t, second.ID).Undone != 1 {
		t.Errorf("the second undo: %+v, %s", late, r.stands(t))
	}
}

func TestUndoOfStopped(t *testing.T) {
	r, mo := world(t, 2*ledger.ChunkLines, 1)
	var changes []change.Change
	for o := int64(1); o <= 2*ledger.ChunkLines; o++ {
		changes = append(changes, placement.Change(o, nil, some(1)))
	}
	plan, err := r.Keep(ctx, ledger.Draft{Kind: "pairing", Title: "test", Person: mo}, changes)
	if err != nil {
		t.Fatal(err)
	}
	run, err := r.Apply(ctx, plan, mo)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := ledger.Chunk(r.Ledger, ctx, run); err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(r.Stop(ctx, run), r.Jobs.Do(ctx, ledger.Work, run)); err != nil {
		t.Fatal(err)
	}
	undo, err := r.PlanUndo(ctx, run, mo)
	if err != nil {
		t.Fatal(err)
	}
	back, err := r.Apply(ctx, undo, mo)
	if err != nil {
		t.Fatal(err)
	}
	if err := r.Resume(ctx, run); !errors.Is(err, ledger.ErrUndone) {
		t.Errorf("resuming what is being undone: %v", err)
	}
	if _, err := r.Finish(ctx, back); err != nil {
		t.Fatal(err)
	}
	if err := r.Resume(ctx, run); !errors.Is(err, ledger.ErrUndone) {
		t.Errorf("resuming what is undone: %v", err)
	}
	if row := r.row(t, run); row.State != "stopped" || row.Undone != ledger.ChunkLines || r.stands(t) != "" {
		t.Errorf("%+v, %s stands", row, r.stands(t))
	}
}

// What a line stands on is gone: the line is left alone with a reason, and the run goes on.
func TestMissingGround(t *testing.T) {
	r, mo := world(t, 0, 1)
	owner := func(kind, sku string, parent, category int64) *catalogue.Owner {
		return &catalogue.Owner{Kind: kind, SKU: sku, Title: sku + kind, Parent: parent, Category: category}
	}
	keep := func(edits ...catalogue.Edit) query.RunsRow {
		t.Helper()
		plan, err := r.keepOwners(ledger.Draft{Kind: "catalogue", Title: "test", Person: mo}, edits)
		if err != nil {
			t.Fatal(err)
		}
		return r.mustApply(t, plan, mo)
	}
	made := keep(catalogue.Edit{ID: 1, After: owner("product", "A", 0, 0)}, catalogue.Edit{ID: 2, After: owner("variant", "A-1", 1, 0)})
	if made.Applied != 2 {
		t.Fatalf("%+v", made)
	}
	got := keep(
		catalogue.Edit{ID: 1, Before: owner("product", "A", 0, 0), After: owner("product", "A", 0, 77)}, // a category that is not there
		catalogue.Edit{ID: 3, After: owner("variant", "B-1", 88, 0)},                                    // a product that is not there
		catalogue.Edit{ID: 2, Before: owner("variant", "A-1", 1, 0), After: owner("variant", "A", 1, 0)},
		catalogue.Edit{ID: 4, After: owner("category", "", 5, 0)}, catalogue.Edit{ID: 5, After: owner("category", "", 4, 0)}, // in a circle
		catalogue.Edit{ID: 6, After: owner("product", "C", 0, 0)})
	if got.State != "done" || got.Applied != 1 || got.LeftAlone != 5 {
		t.Errorf("%+v", got)
	}
	rows, err := r.Store.PlanChanges(ctx, query.PlanChangesParams{PlanID: got.PlanID, Most: 10})
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{"ground_missing", "ground_missing", "sku_taken", "own_ground", "own_ground", ""} {
		if rows[i].Code != want {
			t.Errorf("line %d: %q, want %q", i+1, rows[i].Code, want)
		}
	}
}

// Two catalogue runs over the same owners in opposite order both come to their end; for each owner one of them wins.
func TestTwoCataloguesAtOnce(t *testing.T) {
	const owners = 2*ledger.ChunkLines + 10
	r, mo := world(t, 0, 1)
	plan := func(title string, backwards bool, from int64) int64 {
		var changes []catalogue.Edit
		for i := range int64(owners) {
			n := i
			if backwards {
				n = owners - 1 - i
			}
			changes = append(changes, catalogue.Edit{ID: from + i, After: &catalogue.Owner{Kind: "product", SKU: fmt.Sprint("K", n), Title: title}})
		}
		id, err := r.keepOwners(ledger.Draft{Kind: "catalogue", Title: title, Person: mo}, changes)
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	plans := []int64{plan("a", false, 1), plan("b", true, 1_000_000)}
	results := make([]query.RunsRow, 2)
	var wg sync.WaitGroup
	for i := range plans {
		wg.Go(func() { results[i] = r.mustApply(t, plans[i], mo) })
	}
	wg.Wait()
	if results[0].Applied+results[1].Applied != owners || results[0].State != "done" || results[1].State != "done" {
		t.Errorf("%+v", results)
	}
}

// Two people apply plans to the same products at once: for each product one of them wins, whole.
func TestTwoAtOnce(t *testing.T) {
	const owners = 6000 // three chunks
	r, mo := world(t, owners, 4)
	plan := func(asset int64, backwards bool) int64 {
		var changes []change.Change
		for i := int64(1); i <= owners; i++ {
			o := i
			if backwards {
				o = owners + 1 - i
			}
			changes = append(changes, placement.Change(o, nil, some(asset, asset+1)))
		}
		id, err := r.Keep(ctx, ledger.Draft{Kind: "pairing", Title: "test", Person: mo}, changes)
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	plans := []int64{plan(1, false), plan(3, true)}
	results := make([]query.RunsRow, 2)
	var wg sync.WaitGroup
	for i := range plans {
		wg.Go(func() { results[i] = r.mustApply(t, plans[i], mo) })
	}
	wg.Wait()
	if sum := results[0].Applied + results[1].Applied; sum != owners {
		t.Errorf("%d changes were made on %d products: %+v", sum, owners, results)
	}
	var mixed, placements int
	if err := r.Store.Pool.QueryRow(ctx, `SELECT count(*) FILTER (WHERE n <> 2 OR low NOT IN (1, 3) OR high <> low + 1), sum(n)
		FROM (SELECT count(*) n, min(asset_id) low, max(asset_id) high FROM placement GROUP BY owner_id) x`).Scan(&mixed, &placements); err != nil {
		t.Fatal(err)
	}
	if mixed != 0 || placements != 2*owners {
		t.Errorf("%d products are mixed, %d placements", mixed, placements)
	}
}

func TestStopAndResume(t *testing.T) {
	r, mo := world(t, 5000, 1)
	var changes []change.Change
	for o := int64(1); o <= 5000; o++ {
		changes = append(changes, placement.Change(o, nil, some(1)))
	}
	plan, err := r.Keep(ctx, ledger.Draft{Kind: "pairing", Title: "test", Person: mo}, changes)
	if err != nil {
		t.Fatal(err)
	}
	run, err := r.Apply(ctx, plan, mo)
	if err != nil {
		t.Fatal(err)
	}
	if more, err := ledger.Chunk(r.Ledger, ctx, run); !more || err != nil {
		t.Fatal(more, err)
	}
	if _, err := r.PlanUndo(ctx, run, mo); !errors.Is(err, ledger.ErrState) {
		t.Errorf("undoing a run at work: %v", err)
	}
	if err := r.Stop(ctx, run); err != nil {
		t.Fatal(err)
	}
	if err := r.Jobs.Do(ctx, ledger.Work, run); err != nil {
		t.Fatal(err)
	}
	if row := r.row(t, run); row.State != "stopped" || row.Applied != ledger.ChunkLines || strings.Count(r.stands(t), ";") != ledger.ChunkLines-1 {
		t.Errorf("stopped after one chunk: %+v", row)
	}
	if err := r.Stop(ctx, run); !errors.Is(err, ledger.ErrState) {
		t.Errorf("stopping what is stopped: %v", err)
	}
	if err := r.Resume(ctx, run); err != nil {
		t.Fatal(err)
	}
	if _, err := r.Finish(ctx, run); err != nil {
		t.Fatal(err)
	}
	if row := r.row(t, run); row.State != "done" || row.Applied != 5000 {
		t.Errorf("resumed: %+v", row)
	}
}

func TestOwners(t *testing.T) {
	r, mo := world(t, 0, 1)
	apply := func(table string) query.RunsRow {
		t.Helper()
		records, err := sheet.Records(strings.NewReader(table))
		if err != nil {
			t.Fatal(err)
		}
		b, err := tablefiles.Begin(records)
		if err != nil {
			t.Fatal(err)
		}
		rows, problems, err := b.Owners(true)
		if err != nil || len(problems) > 0 {
			t.Fatal(problems, err)
		}
		keyed, err := r.Store.KeyedOwners(ctx, nil)
		if err != nil {
			t.Fatal(err)
		}
		var ids []int64
		for _, o := range keyed {
			ids = append(ids, o.ID)
		}
		all, err := r.Store.OwnerRecords(ctx, ids)
		if err != nil {
			t.Fatal(err)
		}
		var standing []catalogue.Owner
		for _, o := range all {
			c, err := store.CatalogueOwner(o)
			if err != nil {
				t.Fatal(err)
			}
			standing = append(standing, c)
		}
		next := int64(len(standing) + 10)
		changes, problems := catalogue.Plan(standing, rows, 0, func() int64 { next++; return next })
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		plan, err := r.keepOwners(ledger.Draft{Kind: "catalogue", Title: "table", Person: mo}, changes)
		if err != nil {
			t.Fatal(err)
		}
		return r.mustApply(t, plan, mo)
	}
	count := func() (n int) {
		if err := r.Store.Pool.QueryRow(ctx, "SELECT count(*) FROM owner").Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	undo := func(run int64) query.RunsRow {
		t.Helper()
		plan, err := r.PlanUndo(ctx, run, mo)
		if err != nil {
			t.Fatal(err)
		}
		return r.mustApply(t, plan, mo)
	}
	made := apply("sku,product,title,category,colour\nK1,,One,Kites > Small,\nK1-R,K1,,,red\nK2,,Two,Kites,\n")
	if made.Applied != 5 || count() != 5 {
		t.Fatalf("%+v, %d owners", made, count())
	}
	changed := apply("sku,title,category\nK2,Deux,Kites\n")
	if changed.Applied != 1 {
		t.Errorf("%+v", changed)
	}
	var k1r int64
	if err := r.Store.Pool.QueryRow(ctx, "SELECT id FROM owner WHERE sku = 'K1-R'").Scan(&k1r); err != nil {
		t.Fatal(err)
	}
	r.must(t, mo, placement.Change(k1r, nil, some(1)))
	// K2 was changed since and K1-R has a picture: they and all they stand on stay.
	if back := undo(made.ID); back.Applied != 0 || back.LeftAlone != 5 || count() != 5 {
		t.Errorf("%+v, %d owners", back, count())
	}
	if back := undo(changed.ID); back.Applied != 1 {
		t.Errorf("%+v", back)
	}
	if back := undo(made.ID); back.Applied != 1 || back.LeftAlone != 4 || count() != 4 {
		t.Errorf("only K2 may go: %+v, %d owners", back, count())
	}
}
