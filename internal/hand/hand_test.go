package hand

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/catalogue"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	labels "ambrosa/internal/catalogue"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	texts "ambrosa/internal/wording"

	"github.com/jackc/pgx/v5"
)

var ctx = context.Background()

func TestMain(m *testing.M) { storetest.Main(m) }

type house struct {
	testing.TB
	*Hand
	person int64
}

// newHouse has Kites (10) with Small (11) and Great (12), Reels (13) with Small (14); K-1 (1) in 11 with variants 2 and 3; R-1 (4) in 14;
// pictures 1 to 6, of which 1 and 2 stand on K-1's first variant and 3 on R-1.
func newHouse(t testing.TB) house {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	book := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	texts.New(s, book)
	h := house{t, &Hand{Store: s, Ledger: book}, person}
	h.exec(`INSERT INTO owner (id, kind, parent, category, sku, identity, barcode, code, title, options, ordinal) VALUES
		(10, 'category', NULL, NULL, '', NULL, '', 'c-10', 'Kites', '{}', 1), (11, 'category', 10, NULL, '', NULL, '', '', 'Small', '{}', 2),
		(12, 'category', 10, NULL, '', NULL, '', '', 'Great', '{}', 3), (13, 'category', NULL, NULL, '', NULL, '', '', 'Reels', '{}', 4),
		(14, 'category', 13, NULL, '', NULL, '', '', 'Small', '{}', 5), (1, 'product', NULL, 11, 'K-1', 'k-1', '9520123456788', '', 'Delta', '{}', 6),
		(2, 'variant', 1, NULL, 'K-1-A', 'k-1-a', '', '', '', '{"colour": "amber"}', 7), (3, 'variant', 1, NULL, 'K-1-T', 'k-1-t', '', '', '', '{"colour": "teal"}', 8),
		(4, 'product', NULL, 14, 'R-1', 'r-1', '', '', 'Reel', '{}', 9)`)
	h.exec("SELECT setval('owner_id', 100)")
	for n := range 6 {
		h.exec("INSERT INTO asset (sha256, bytes, format, width, height) VALUES (sha256($1::text::bytea), 1, 'JPEG', 9, 9)", fmt.Sprint(n))
	}
	h.exec("INSERT INTO placement (owner_id, position, asset_id) VALUES (2, 1, 1), (2, 2, 2), (4, 1, 3)")
	return h
}

func (h house) exec(sql string, args ...any) {
	h.Helper()
	if _, err := h.Store.Pool.Exec(ctx, sql, args...); err != nil {
		h.Fatal(err)
	}
}

func (h house) one(sql string, args ...any) (text string) {
	h.Helper()
	if err := h.Store.Pool.QueryRow(ctx, sql, args...).Scan(&text); err != nil {
		h.Fatal(err)
	}
	return text
}

// stands is all that this station can change.
func (h house) stands() string {
	return h.one(`SELECT (SELECT string_agg(to_jsonb(o)::text, E'\n' ORDER BY id) FROM owner o) || (SELECT string_agg(p::text, ';' ORDER BY owner_id, position) FROM placement p)
		|| coalesce((SELECT string_agg(w::text, ';' ORDER BY w.owner_id, w.asset_id) FROM wording w JOIN placement p ON p.owner_id = w.owner_id AND p.asset_id = w.asset_id), '')`)
}

func (h house) run(plan int64) int64 {
	h.Helper()
	run, err := h.Ledger.Apply(ctx, plan, h.person)
	if err != nil {
		h.Fatal(err)
	}
	if done, err := h.Ledger.Finish(ctx, run); err != nil || done.State != "done" || done.LeftAlone > 0 {
		h.Fatalf("%+v, %v", done, err)
	}
	return run
}

// makes applies edits.
func (h house) makes(edits ...Edit) int64 {
	h.Helper()
	plan, wrong, err := h.Plan(ctx, h.person, edits)
	if err != nil || len(wrong) > 0 {
		h.Fatalf("%+v: %+v, %v", edits, wrong, err)
	}
	return h.run(plan)
}

func (h house) undo(run int64) {
	h.Helper()
	plan, err := h.Ledger.PlanUndo(ctx, run, h.person)
	if err != nil {
		h.Fatal(err)
	}
	h.run(plan)
}

func titled(title string) *Fields { return &Fields{Title: &title} }

// What can't be is told at its owner and field, and then nothing is kept.
func TestWrongEdits(t *testing.T) {
	h := newHouse(t)
	for _, c := range []struct {
		name string
		edit Edit
		want string
	}{
		{"an owner that is gone", Edit{Owner: 77, Fields: titled("x")}, "77  owner_gone"},
		{"no title", Edit{Owner: 1, Fields: titled(" ")}, "1 title title_missing"},
		{"no SKU", Edit{Owner: -1, Kind: catalogue.Product, Fields: titled("x")}, "-1 sku sku_missing"},
		{"a SKU of another, written otherwise", Edit{Owner: 4, Fields: &Fields{SKU: new("k-1")}}, "4 sku sku_there"},
		{"a barcode of another", Edit{Owner: 4, Fields: &Fields{Barcode: new("952 0123 45678 8")}}, "4 barcode barcode_taken"},
		{"a code of another category", Edit{Owner: 13, Fields: &Fields{Code: new("C-10")}}, "13 code code_there"},
		{"a category below itself", Edit{Owner: 10, Fields: &Fields{Parent: new(int64(11))}}, "10 parent own_ground"},
		{"below what is no category", Edit{Owner: 11, Fields: &Fields{Parent: new(int64(1))}}, "11 parent category_gone"},
		{"two of one name at one place", Edit{Owner: 12, Fields: titled("SMALL")}, "12 title category_there"},
		{"a category in use is retired", Edit{Owner: 11, Fields: &Fields{Retired: new(true)}}, "11 retired category_in_use"},
		{"a variant without a product", Edit{Owner: -1, Kind: catalogue.Variant, Fields: &Fields{SKU: new("K-9"), Parent: new(int64(4000))}}, "-1 parent product_gone"},
		{"a picture that is not here", Edit{Owner: 2, Pictures: &Pictures{Was: []int64{1, 2}, Now: []int64{1, 0}}}, "2 pictures picture_gone"},
		{"other pictures than were seen", Edit{Owner: 2, Pictures: &Pictures{Was: []int64{1}, Now: []int64{2}}}, "2 pictures pictures_since"},
		{"a very long title", Edit{Owner: 1, Fields: titled(strings.Repeat("x", 5000))}, "1 title title_long"},
	} {
		plan, wrong, err := h.Plan(ctx, h.person, []Edit{c.edit})
		var told []string
		for _, w := range wrong {
			told = append(told, fmt.Sprintf("%d %s %s", w.Owner, w.Field, w.Code))
		}
		if err != nil || plan != 0 || strings.Join(told, "; ") != c.want {
			t.Errorf("%s: plan %d, %v, %v; want %s", c.name, plan, told, err, c.want)
		}
	}
	if n := h.one("SELECT count(*)::text FROM plan"); n != "0" {
		t.Errorf("%s plans were kept", n)
	}
	if _, _, err := h.Plan(ctx, h.person, []Edit{{Owner: 1, Fields: titled("Delta")}}); !errors.Is(err, ledger.ErrNothingToDo) {
		t.Errorf("an edit that changes nothing: %v", err)
	}
}

// Owners are made, changed, moved and retired, with pictures and texts, in one plan; and all of it is taken back.
func TestEdits(t *testing.T) {
	h := newHouse(t)
	for _, c := range []struct {
		name  string
		edits []Edit
		sees  string // a question whose answer is yes
	}{
		{"a category, a product in it and its variant", []Edit{
			{Owner: -3, Kind: catalogue.Variant, Fields: &Fields{SKU: new("T-1-R"), Parent: new(int64(-2)), Options: map[string]string{"colour": "red"}}, Pictures: &Pictures{Now: []int64{5, 6, 5}},
				Texts: []Text{{wording.Place{Asset: 6, Field: wording.Alt, Language: "en"}, "A red tail"}}},
			{Owner: -2, Kind: catalogue.Product, Fields: &Fields{SKU: new("T-1"), Title: new("Tail"), Category: new(int64(-1)), Attributes: map[string]string{"cloth": "nylon"}}},
			{Owner: -1, Kind: catalogue.Category, Fields: &Fields{Title: new("Tails"), Code: new("t")}},
		}, `SELECT EXISTS (SELECT 1 FROM owner v JOIN owner p ON p.id = v.parent JOIN owner c ON c.id = p.category JOIN wording w ON w.owner_id = v.id
			WHERE v.sku = 'T-1-R' AND p.title = 'Tail' AND p.attributes->>'cloth' = 'nylon' AND c.title = 'Tails' AND w.text = 'A red tail' AND w.by_hand
			AND (SELECT array_agg(asset_id ORDER BY position) FROM placement WHERE owner_id = v.id) = '{5,6}'
			AND (SELECT text FROM wording WHERE owner_id = v.id AND asset_id = 5) = 'Tail, red')::text`},
		{"order, main image and text", []Edit{{Owner: 2, Pictures: &Pictures{Was: []int64{1, 2}, Now: []int64{2, 4, 1}},
			Texts: []Text{{wording.Place{Asset: 1, Field: wording.Alt, Language: "de"}, "Hinten"}}}},
			`SELECT ((SELECT array_agg(asset_id ORDER BY position) FROM placement WHERE owner_id = 2) = '{2,4,1}'
			AND EXISTS (SELECT 1 FROM wording WHERE owner_id = 2 AND asset_id = 1 AND language = 'de' AND text = 'Hinten'))::text`},
		{"a file name of a new picture is written as one", []Edit{{Owner: 3, Pictures: &Pictures{Now: []int64{4}},
			Texts: []Text{{wording.Place{Asset: 4, Field: wording.FileName, Language: "de"}, "Große Drachen!"}}}},
			"SELECT (text = 'grosse-drachen')::text FROM wording WHERE owner_id = 3 AND field = 'file_name'"},
		{"a picture goes to another owner", []Edit{{Owner: 2, Pictures: &Pictures{Was: []int64{1, 2}, Now: []int64{1}}}, {Owner: 3, Pictures: &Pictures{Now: []int64{2}}}},
			"SELECT (SELECT owner_id = 3 FROM placement WHERE asset_id = 2)::text"},
		{"renamed, moved, with a German title", []Edit{{Owner: 1, Fields: &Fields{Title: new("Drift"), Category: new(int64(12)), Titles: map[string]string{"de": "Trift"}}}},
			"SELECT (title = 'Drift' AND category = 12 AND titles->>'de' = 'Trift')::text FROM owner WHERE id = 1"},
		{"a category moves with what is in it", []Edit{{Owner: 13, Fields: &Fields{Parent: new(int64(12))}}}, "SELECT (parent = 12)::text FROM owner WHERE id = 13"},
		{"two products give each other their barcodes", []Edit{{Owner: 1, Fields: &Fields{Barcode: new("")}}, {Owner: 4, Fields: &Fields{Barcode: new("9520123456788")}}},
			"SELECT (barcode <> '')::text FROM owner WHERE id = 4"},
		{"a product is retired with its variants; its pictures stay", []Edit{{Owner: 1, Fields: &Fields{Retired: new(true)}}},
			"SELECT ((SELECT count(*) FROM owner WHERE retired) = 3 AND (SELECT count(*) FROM placement WHERE owner_id = 2) = 2)::text"},
		{"an empty category is retired", []Edit{{Owner: 12, Fields: &Fields{Retired: new(true)}}}, "SELECT retired::text FROM owner WHERE id = 12"},
	} {
		before := h.stands()
		run := h.makes(c.edits...)
		if got := h.one(c.sees); got != "true" {
			t.Errorf("%s: not so; %s", c.name, h.stands())
		}
		h.undo(run)
		if after := h.stands(); after != before {
			t.Errorf("%s, taken back:\n%s\nwas\n%s", c.name, after, before)
		}
	}
	run := h.makes(Edit{Owner: 1, Fields: &Fields{Retired: new(true)}})
	snapshot, err := (&labels.Snapshots{Store: h.Store}).At(ctx, 1)
	if err != nil || snapshot.Has(1) || snapshot.Has(2) || !snapshot.Has(4) {
		t.Errorf("a retired product is paired with, %v", err)
	}
	if found, err := labels.Search(ctx, h.Store, "K-1", 10); err != nil || len(found) > 0 {
		t.Errorf("a retired product is found: %+v, %v", found, err)
	}
	h.undo(run)
	// Two people at one owner: the second run leaves the line alone.
	first, _, err := h.Plan(ctx, h.person, []Edit{{Owner: 4, Fields: titled("One")}})
	if err != nil {
		t.Fatal(err)
	}
	second, _, err := h.Plan(ctx, h.person, []Edit{{Owner: 4, Fields: titled("Two")}})
	if err != nil {
		t.Fatal(err)
	}
	h.run(first)
	late, err := h.Ledger.Apply(ctx, second, h.person)
	if err != nil {
		t.Fatal(err)
	}
	if done, err := h.Ledger.Finish(ctx, late); err != nil || done.LeftAlone != 1 || h.one("SELECT title FROM owner WHERE id = 4") != "One" {
		t.Errorf("%+v, %v", done, err)
	}
}

// One picture goes to all that a search finds, an offer to those without one, siblings into an order; deliveries for one kind alone do not
// meet the other.
func TestMany(t *testing.T) {
	h := newHouse(t)
	found := func(s Search) string {
		ids, err := h.Find(ctx, s)
		if err != nil {
			t.Fatal(err)
		}
		return strings.Trim(fmt.Sprint(ids), "[]")
	}
	for want, s := range map[string]Search{"11 14": {Kind: catalogue.Category, Text: "sMAll"}, "11 12": {Kind: catalogue.Category, Below: 10}, "11": {Kind: catalogue.Category, Below: 10, Text: "sm"},
		"10": {Kind: catalogue.Category, Text: "C-10"}, "1": {Kind: catalogue.Product, Text: "K-1-T", Below: 10}, "1 4": {Kind: catalogue.Product}, "": {Kind: catalogue.Product, Without: true},
		"10 11 12 13 14": {Kind: catalogue.Category, Without: true}} {
		if got := found(s); got != want {
			t.Errorf("%+v finds %q, want %q", s, got, want)
		}
	}
	offers, err := h.Offers(ctx)
	var told []string
	for _, o := range offers {
		told = append(told, fmt.Sprintf("%d←%d:%d", o.Category, o.Product, o.Asset))
	}
	if got := strings.Join(told, " "); err != nil || got != "10←1:1 11←1:1 13←4:3 14←4:3" {
		t.Errorf("offered is %s, %v", got, err)
	}
	before := h.stands()
	plan, err := h.Offered(ctx, h.person, "t", []int64{11, 13})
	if err != nil {
		t.Fatal(err)
	}
	offered := h.run(plan)
	if plan, err = h.Everywhere(ctx, h.person, "t", Search{Kind: catalogue.Category}, 6, placement.OnlyWhereEmpty); err != nil {
		t.Fatal(err)
	}
	all := h.run(plan)
	if got := h.one("SELECT string_agg(owner_id || ':' || asset_id, ' ' ORDER BY owner_id, position) FROM placement WHERE owner_id >= 10"); got != "10:6 11:1 12:6 13:3 14:6" {
		t.Errorf("categories show %s", got)
	}
	h.undo(all)
	h.undo(offered)
	if after := h.stands(); after != before {
		t.Errorf("taken back:\n%s\nwas\n%s", after, before)
	}
	if _, err := h.Everywhere(ctx, h.person, "t", Search{Kind: catalogue.Category, Below: 99}, 6, placement.AddAfter); !errors.Is(err, pgx.ErrNoRows) {
		t.Errorf("below what is not there: %v", err)
	}
	if plan, err = h.Order(ctx, h.person, []int64{12, 11}); err != nil {
		t.Fatal(err)
	}
	h.undo(h.run(plan))
	if _, err := h.Order(ctx, h.person, []int64{12, 14}); !errors.Is(err, ErrSiblings) {
		t.Errorf("an order of what does not stand side by side: %v", err)
	}
	snapshot, err := (&labels.Snapshots{Store: h.Store}).At(ctx, 1)
	if err != nil {
		t.Fatal(err)
	}
	for which, want := range map[string][]int64{labels.Everything: {1, 10}, labels.Products: {1}, labels.Categories: {10}} {
		var has []int64
		for _, id := range []int64{1, 10} {
			if snapshot.Of(which).Has(id) {
				has = append(has, id)
			}
		}
		if !slices.Equal(has, want) {
			t.Errorf("a delivery for %q meets %v", which, has)
		}
	}
}
