package wording

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/storetest"
	owners "ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"

	"github.com/jackc/pgx/v5"
)

var ctx = context.Background()

func TestMain(m *testing.M) { storetest.Main(m) }

type house struct {
	testing.TB
	*Wording
	person int64
}

// newHouse has a kite (1) in amber (2) and teal (3) below Kites (10), a reel (4), and pictures 1 to 6 that came under some names.
func newHouse(t testing.TB) house {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	h := house{t, New(s, ledger.New(s, j, owners.Subject{}, pictures.Subject{})), person}
	h.exec(`INSERT INTO owner (id, kind, parent, category, sku, identity, title, titles, options, ordinal) VALUES
		(10, 'category', NULL, NULL, '', NULL, 'Kites', '{}', '{}', 1), (1, 'product', NULL, 10, 'K-1', 'k-1', 'Drift Delta', '{"de": "Driftdrachen"}', '{}', 2),
		(2, 'variant', 1, NULL, 'K-1-A', 'k-1-a', '', '{}', '{"colour": "amber"}', 3), (3, 'variant', 1, NULL, 'K-1-T', 'k-1-t', '', '{}', '{"colour": "teal"}', 4),
		(4, 'product', NULL, NULL, 'R-1', 'r-1', 'Reel', '{}', '{}', 5)`)
	h.exec("INSERT INTO delivery (title, created_by) VALUES ('spring', $1)", person)
	for _, path := range []string{"K-1.jpg", "K-1_back.jpg", "DSC_0412.jpg", "r.jpg", "s.jpg", "t.jpg"} {
		h.exec("WITH a AS (INSERT INTO asset (sha256, bytes, format, width, height) VALUES (sha256($1::text::bytea), 1, 'JPEG', 9, 9) RETURNING id) INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) SELECT 1, $1, $1, 1, id FROM a", path)
	}
	return h
}

func (h house) exec(sql string, args ...any) {
	h.Helper()
	if _, err := h.Store.Pool.Exec(ctx, sql, args...); err != nil {
		h.Fatal(err)
	}
}

// said are all texts of pictures that stand: owner.asset field language text, with a star where it is by hand.
func (h house) said() string {
	h.Helper()
	var all *string
	if err := h.Store.Pool.QueryRow(ctx, `SELECT string_agg(w.owner_id || '.' || w.asset_id || ' ' || field || ' ' || language || ' ' || text || CASE WHEN by_hand THEN '*' ELSE '' END, '; '
		ORDER BY w.owner_id, w.asset_id, field, language) FROM wording w JOIN placement p ON p.owner_id = w.owner_id AND p.asset_id = w.asset_id`).Scan(&all); err != nil {
		h.Fatal(err)
	}
	if all == nil {
		return ""
	}
	return *all
}

// run applies a plan and tells how many lines were left alone.
func (h house) run(plan int64) (run int64, left int) {
	h.Helper()
	run, err := h.Ledger.Apply(ctx, plan, h.person)
	if err != nil {
		h.Fatal(err)
	}
	done, err := h.Ledger.Finish(ctx, run)
	if err != nil || done.State != "done" {
		h.Fatalf("%+v, %v", done, err)
	}
	return run, int(done.LeftAlone)
}

// put plans pictures on owners.
func (h house) put(on map[int64][]int64) int64 {
	h.Helper()
	var changes []change.Change
	for o := int64(1); o <= 10; o++ {
		if assets, is := on[o]; is {
			standing, err := pictures.Placed(ctx, h.Store.Queries, []int64{o})
			if err != nil {
				h.Fatal(err)
			}
			var after []placement.Picture
			for _, a := range assets {
				after = append(after, placement.Picture{Asset: a})
			}
			changes = append(changes, placement.Change(o, standing[o], after))
		}
	}
	plan, err := h.Ledger.Keep(ctx, ledger.Draft{Kind: "test", Person: h.person}, changes)
	if err != nil {
		h.Fatal(err)
	}
	return plan
}

func (h house) rule(r Rule) {
	h.Helper()
	if _, err := h.Save(ctx, h.person, r); err != nil {
		h.Fatalf("%+v: %v", r, err)
	}
}

func (h house) plan(act Act) int64 {
	h.Helper()
	id, err := h.Plan(ctx, h.person, "t", Scope{}, act)
	if err != nil {
		h.Fatalf("%+v: %v", act, err)
	}
	return id
}

// A plan that places pictures brings their texts, switched off and on again; what a person wrote stays; all of it is taken back.
func TestTextsOfPlans(t *testing.T) {
	h := newHouse(t)
	h.rule(Rule{Language: "de", Field: wording.Alt, Pattern: "{label}[, {role}]"})
	h.rule(Rule{Kind: "variant", Branch: 10, Language: "en", Field: wording.Alt, Pattern: "{product.title} in {variant.colour}[, {role}]"})
	h.rule(Rule{Language: "en", Field: wording.FileName, Pattern: "{alt}"})
	plan := h.put(map[int64][]int64{2: {1, 2}, 4: {4}})
	const full = "2.1 alt de Driftdrachen, amber; 2.1 alt en Drift Delta in amber; 2.1 file_name en drift-delta-in-amber; " +
		"2.2 alt de Driftdrachen, amber, Rückansicht; 2.2 alt en Drift Delta in amber, back view; 2.2 file_name en drift-delta-in-amber-back-view; " +
		"4.4 alt de Reel; 4.4 alt en Reel; 4.4 file_name en reel"
	if err := h.Fill(ctx, plan, false); err != nil {
		t.Fatal(err)
	}
	var counts json.RawMessage
	if err := h.Store.Pool.QueryRow(ctx, "SELECT counts FROM plan WHERE id = $1 AND NOT EXISTS (SELECT 1 FROM plan_change WHERE plan_id = $1 AND after::text LIKE '%text%')", plan).Scan(&counts); err != nil || strings.Contains(string(counts), `"texts"`) {
		t.Errorf("switched off: %s, %v", counts, err)
	}
	if err := h.Fill(ctx, plan, true); err != nil {
		t.Fatal(err)
	}
	run, _ := h.run(plan)
	if got := h.said(); got != full {
		t.Errorf("said is %s\nwant    %s", got, full)
	}
	if err := h.Fill(ctx, plan, false); !errors.Is(err, ledger.ErrApplied) {
		t.Errorf("texts of an applied plan are switched off: %v", err)
	}
	undo, err := h.Ledger.PlanUndo(ctx, run, h.person)
	if err != nil {
		t.Fatal(err)
	}
	h.run(undo)
	if got := h.said(); got != "" {
		t.Errorf("taken back: %s", got)
	}
	h.run(h.put(map[int64][]int64{2: {1}}))
	h.run(h.plan(Act{Kind: "texts", Field: wording.Alt, Language: "en", Texts: []WrittenText{{2, 1, "An amber kite"}}}))
	h.run(h.put(map[int64][]int64{2: {}}))
	h.run(h.put(map[int64][]int64{2: {1}}))
	if got := h.said(); !strings.Contains(got, "2.1 alt en An amber kite*") {
		t.Errorf("what a person wrote is gone: %s", got)
	}
	// A picture in the place of another takes its texts over, but not its published name.
	c := placement.Change(2, []placement.Picture{{Asset: 1}}, placement.Replace([]placement.Picture{{Asset: 1}}, map[int64]int64{1: 5}))
	renewed, err := h.Ledger.Keep(ctx, ledger.Draft{Kind: "test", Person: h.person}, []change.Change{c})
	if err != nil {
		t.Fatal(err)
	}
	h.run(renewed)
	if got := h.said(); !strings.Contains(got, "2.5 alt en An amber kite*") || !strings.Contains(got, "2.5 file_name en an-amber-kite") {
		t.Errorf("in the place of another: %s", got)
	}
}

// What a picture shows is read from its name, but not from the words that say which owner it is.
func TestRoles(t *testing.T) {
	h := newHouse(t)
	h.exec("UPDATE owner SET title = 'Lark Box', sku = 'PK-BOX-050', identity = 'pk-box-050' WHERE id = 4")
	for n, path := range []string{"tarn/pk box 050 01.jpg", "pk box 050 packed.jpg", "Lark Box back.jpg"} {
		h.exec("UPDATE arrival SET path = $2 WHERE asset_id = $1", n+1, path)
	}
	h.run(h.put(map[int64][]int64{4: {1, 2, 3}}))
	if got, want := h.said(), "4.1 alt en Lark Box; 4.2 alt en Lark Box, packed; 4.3 alt en Lark Box, back view"; got != want {
		t.Errorf("said is %s, want %s", got, want)
	}
}

// Every way to change texts is planned, made and taken back, and then all is as it was; by rules and patterns nothing that is written by
// hand changes unless one says so.
func TestActs(t *testing.T) {
	h := newHouse(t)
	h.run(h.put(map[int64][]int64{1: {3}, 2: {1, 2}, 3: {5}, 10: {6}}))
	h.run(h.plan(Act{Kind: "texts", Field: wording.Alt, Language: "en", Texts: []WrittenText{{2, 1, "  By hand "}, {4, 4, "nobody stands there"}}}))
	h.rule(Rule{Language: "en", Field: wording.Title, Pattern: "{label}"})
	before := h.said()
	for _, c := range []struct {
		act         Act
		has, hasNot string
	}{
		{Act{Kind: "rules"}, "1.3 title en Drift Delta", "nothing"},
		{Act{Kind: "pattern", Field: wording.Alt, Language: "en", Pattern: "{label} {number}"}, "3.5 alt en Drift Delta, teal 1", "amber 1"},
		{Act{Kind: "pattern", Field: wording.Alt, Language: "en", Pattern: "{label} {number}", Over: true}, "2.1 alt en Drift Delta, amber 1", "By hand"},
		{Act{Kind: "replace", Field: wording.Alt, Language: "en", Find: "amber", By: "gold"}, "2.2 alt en Drift Delta, gold, back view*", "amber"},
		{Act{Kind: "same", Field: wording.Caption, Language: "de", Text: "Drachen"}, "10.6 caption de Drachen*", "nothing"},
		{Act{Kind: "clear", Field: wording.Alt, Language: "en"}, "", "alt en"},
		{Act{Kind: "same", Field: wording.Caption, Language: "PT-br", Text: "Pipa"}, "10.6 caption pt-BR Pipa*", "PT-br"},
		{Act{Kind: "same", Field: wording.FileName, Language: "en", Text: "Große Drachen!"}, "grosse-drachen-2", "!"},
	} {
		run, left := h.run(h.plan(c.act))
		if got := h.said(); left > 0 || !strings.Contains(got, c.has) || strings.Contains(got, c.hasNot) {
			t.Errorf("%+v: %d left alone; %s", c.act, left, got)
		}
		undo, err := h.Ledger.PlanUndo(ctx, run, h.person)
		if err != nil {
			t.Fatal(err)
		}
		if _, left := h.run(undo); left > 0 || h.said() != before {
			t.Errorf("%+v taken back: %d left alone\n%s, was\n%s", c.act, left, h.said(), before)
		}
	}
	for _, wrong := range []struct {
		act  Act
		want error
	}{
		{Act{Kind: "nonsense"}, ErrAct}, {Act{Kind: "replace", Field: wording.Alt}, ErrAct}, {Act{Kind: "same", Field: "nope", Text: "x"}, wording.ErrField},
		{Act{Kind: "pattern", Field: wording.Alt, Pattern: "{"}, wording.ErrPattern}, {Act{Kind: "pattern", Field: wording.Alt, Pattern: "{alt}"}, wording.ErrLoop},
		{Act{Kind: "same", Field: wording.Alt, Text: strings.Repeat("x", 2001)}, ErrTooLong}, {Act{Kind: "clear", Field: wording.Alt, Language: "no language"}, wording.ErrLanguage},
		{Act{Kind: "replace", Field: wording.Alt, Language: "en", Find: "nowhere"}, ledger.ErrNothingToDo},
	} {
		if _, err := h.Plan(ctx, h.person, "t", Scope{}, wrong.act); !errors.Is(err, wrong.want) {
			t.Errorf("%+v: %v", wrong.act, err)
		}
	}
	if _, err := h.Plan(ctx, h.person, "t", Scope{Category: 1}, Act{Kind: "rules"}); !errors.Is(err, pgx.ErrNoRows) {
		t.Errorf("below a category that is none: %v", err)
	}
}

// Published file names are unique: within a plan, against those that stand, and where two plans want one; one that stands is not replaced.
func TestFileNames(t *testing.T) {
	h := newHouse(t)
	h.rule(Rule{Language: "en", Field: wording.FileName, Pattern: "{product.title}"})
	h.exec("UPDATE owner SET title = 'Drift  delta!' WHERE id = 4") // another title, the same name
	h.run(h.put(map[int64][]int64{2: {1, 2}, 4: {4}}))
	names := func() string {
		var all []string
		for _, one := range strings.Split(h.said(), "; ") {
			if strings.Contains(one, "file_name") {
				all = append(all, one)
			}
		}
		return strings.Join(all, "; ")
	}
	const want = "2.1 file_name en drift-delta; 2.2 file_name en drift-delta-2; 4.4 file_name en drift-delta-3"
	if got := names(); got != want {
		t.Errorf("names are %s", got)
	}
	if _, err := h.Plan(ctx, h.person, "t", Scope{}, Act{Kind: "pattern", Field: wording.FileName, Language: "en", Pattern: "{product.sku}"}); !errors.Is(err, ledger.ErrNothingToDo) {
		t.Errorf("published names are replaced: %v", err)
	}
	one := h.plan(Act{Kind: "texts", Field: wording.FileName, Language: "en", Texts: []WrittenText{{4, 4, "kite"}}})
	other := h.plan(Act{Kind: "texts", Field: wording.FileName, Language: "en", Texts: []WrittenText{{2, 1, "kite"}}})
	h.run(one)
	if _, left := h.run(other); left != 1 {
		t.Errorf("%d lines were left alone though the name was given meanwhile", left)
	}
	if got := names(); got != "2.1 file_name en drift-delta; 2.2 file_name en drift-delta-2; 4.4 file_name en kite*" {
		t.Errorf("names are %s", got)
	}
	h.run(h.plan(Act{Kind: "pattern", Field: wording.FileName, Language: "en", Pattern: "{product.sku}", Over: true}))
	if got := names(); got != "2.1 file_name en k-1; 2.2 file_name en k-1-2; 4.4 file_name en r-1" {
		t.Errorf("replaced as one said so: %s", got)
	}
}

// What no rule can be is refused, and what is wrong with texts is shown beside them, as they are and as they would be.
func TestRulesAndProblems(t *testing.T) {
	h := newHouse(t)
	h.rule(Rule{Language: "en", Field: wording.Title, Pattern: "{caption}"})
	for _, c := range []struct {
		rule Rule
		want error
	}{
		{Rule{Language: "en", Field: wording.Caption, Pattern: "{title}"}, wording.ErrLoop}, {Rule{Language: "en", Field: wording.Alt, Pattern: "x"}, ErrTwice},
		{Rule{Language: "en", Field: wording.Alt, Branch: 99, Pattern: "x"}, ErrBranch}, {Rule{Language: "e", Field: wording.Alt, Pattern: "x"}, wording.ErrLanguage},
		{Rule{Language: "de", Field: wording.Alt, Pattern: "x", Case: "loud"}, ErrCase}, {Rule{ID: 99, Language: "fr", Field: wording.Alt, Pattern: "x"}, pgx.ErrNoRows},
	} {
		if _, err := h.Save(ctx, h.person, c.rule); !errors.Is(err, c.want) {
			t.Errorf("%+v: %v", c.rule, err)
		}
	}
	h.run(h.put(map[int64][]int64{2: {1, 2}, 3: {3}}))
	h.exec("UPDATE wording SET text = 'K-1-A' WHERE owner_id = 2")
	shown := func(act *Act) (all []string) {
		owners, err := h.Show(ctx, []int64{3, 2, 99}, wording.Alt, "en", act)
		if err != nil {
			t.Fatal(err)
		}
		for _, o := range owners {
			for _, p := range o.Pictures {
				text := p.Text
				if p.Then != nil {
					text += " → " + *p.Then
				}
				for _, problem := range p.Problems {
					text += " " + string(problem)
				}
				all = append(all, text)
			}
		}
		return all
	}
	if got, want := strings.Join(shown(nil), "; "), "Drift Delta, teal; K-1-A same_on_owner only_key; K-1-A same_on_owner only_key"; got != want {
		t.Errorf("shown is %s\nwant %s", got, want)
	}
	act := &Act{Kind: "pattern", Field: wording.Alt, Language: "en", Pattern: "Image of {label} {nope}"}
	if got, want := strings.Join(shown(act), "; "), "Drift Delta, teal → Image of Drift Delta, teal says_image_of field_unknown; "+
		"K-1-A → Image of Drift Delta, amber says_image_of same_on_owner field_unknown; K-1-A → Image of Drift Delta, amber says_image_of same_on_owner field_unknown"; got != want {
		t.Errorf("would be %s\nwant %s", got, want)
	}
}

// A plan is kept with the one connection that its transaction holds: when everybody plans at once, nobody waits for another's.
func TestOneConnection(t *testing.T) {
	h := newHouse(t)
	for range h.Store.Pool.Config().MaxConns - 1 {
		c, err := h.Store.Pool.Acquire(ctx)
		if err != nil {
			t.Fatal(err)
		}
		defer c.Release()
	}
	soon, cancel := context.WithTimeout(ctx, 10*time.Second)
	defer cancel()
	placed := placement.Change(2, nil, []placement.Picture{{Asset: 1}})
	if _, err := h.Ledger.Keep(soon, ledger.Draft{Kind: "test", Person: h.person}, []change.Change{placed}); err != nil {
		t.Error(err)
	}
}
