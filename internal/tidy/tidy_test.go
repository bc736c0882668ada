package tidy

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/colour"
	"ambrosa/core/placement"
	core "ambrosa/core/tidy"
	"ambrosa/internal/assets"
	"ambrosa/internal/gallery"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/asset"
	"ambrosa/internal/subject/delivery"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
)

var ctx = context.Background()

func TestMain(m *testing.M) { storetest.Main(m) }

type house struct {
	testing.TB
	*Tidy
	person int64
	sha    map[int64]string
}

// newHouse has products K-1 (1) and K-2 (2) with a category (10), and so many pictures whose bytes are stored, a year old; none is placed.
func newHouse(t testing.TB, count int) *house {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	vault, err := assets.OpenVault(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { vault.Close() })
	book := ledger.New(s, j, owner.Subject{}, pictures.Subject{}, asset.Subject{Store: s, Vault: vault}, delivery.Subject{})
	book.Final = []string{Empty}
	h := &house{t, &Tidy{Store: s, Jobs: j, Ledger: book, Vault: vault, Gallery: &gallery.Gallery{Store: s}, MaxPixels: 1e8}, person, map[int64]string{}}
	h.Register()
	h.exec(`INSERT INTO owner (id, kind, category, sku, identity, title, ordinal) VALUES (10, 'category', NULL, '', NULL, 'Kites', 1),
		(1, 'product', 10, 'K-1', 'k-1', 'Drift Delta', 2), (2, 'product', 10, 'K-2', 'k-2', 'Moss Box', 3)`)
	for n := range count {
		h.bring(drawn(n, 400, 90), "JPEG", 400)
	}
	return h
}

// drawn is a picture of stripes of its own number.
func drawn(n, side, quality int) []byte {
	m := image.NewRGBA(image.Rect(0, 0, side, side))
	for y := range side {
		for x := range side {
			u, v := x*997/side, y*997/side
			c := color.RGBA{uint8(40 + n*37%200), uint8(200 - n*53%180), 90, 255}
			if (u+v*(n%5))/(37+n*11%80)%2 == 0 {
				c = color.RGBA{250, 246, 238, 255}
			}
			m.Set(x, y, c)
		}
	}
	var b bytes.Buffer
	_ = jpeg.Encode(&b, m, &jpeg.Options{Quality: quality})
	return b.Bytes()
}

// bring stores a picture and returns its number.
func (h *house) bring(b []byte, format string, side int) (id int64) {
	h.Helper()
	sum := sha256.Sum256(b)
	src := assets.Source{Bytes: b}
	p, err := assets.Probe(ctx, src, 1e8)
	if err == nil {
		err = h.Vault.Put(ctx, sum[:], assets.Detect(b), src, p)
	}
	if err == nil {
		err = h.Store.Pool.QueryRow(ctx, `INSERT INTO asset (sha256, bytes, format, width, height, likeness, palette, created_at) VALUES ($1, $2, $3, $4, $4, $5, $6, now() - interval '1 year') RETURNING id`,
			sum[:], len(b), format, side, int64(p.Likeness), colour.Pack(p.Palette)).Scan(&id)
	}
	if err != nil {
		h.Fatal(err)
	}
	h.sha[id] = hex.EncodeToString(sum[:])
	return id
}

func (h *house) exec(sql string, args ...any) {
	h.Helper()
	if _, err := h.Store.Pool.Exec(ctx, sql, args...); err != nil {
		h.Fatal(err)
	}
}

func (h *house) one(sql string, args ...any) (text string) {
	h.Helper()
	if err := h.Store.Pool.QueryRow(ctx, sql, args...).Scan(&text); err != nil {
		h.Fatalf("%s: %v", sql, err)
	}
	return text
}

// run applies a plan and returns its run.
func (h *house) run(plan int64, err error) int64 {
	h.Helper()
	if err != nil {
		h.Fatal(err)
	}
	run, err := h.Ledger.Apply(ctx, plan, h.person)
	if err == nil {
		_, err = h.Ledger.Finish(ctx, run)
	}
	if err != nil {
		h.Fatal(err)
	}
	return run
}

// stands is what plans of Tidy change.
func (h *house) stands() string {
	return h.one(`SELECT coalesce((SELECT string_agg(p::text, ';' ORDER BY p) FROM placement p), '') || ' ' ||
		(SELECT string_agg(concat_ws(',', id, binned_at IS NOT NULL, placeholder, tags, note), ';' ORDER BY id) FROM asset)`)
}

// blobs are how many originals are stored.
func (h *house) blobs() (n int) {
	h.Helper()
	if err := h.Vault.Each(ctx, func(key string, _ int64) error {
		if strings.HasPrefix(key, "original/") {
			n++
		}
		return nil
	}); err != nil {
		h.Fatal(err)
	}
	return n
}

// left says why the lines of a run were left alone.
func (h *house) left(run int64) string {
	return h.one("SELECT coalesce(string_agg(code, ',' ORDER BY seq), '') FROM run_entry WHERE run_id = $1 AND code <> ''", run)
}

// Each picture that no owner shows says why, and what speaks for it; only that for which nothing does is proposed.
func TestOrphans(t *testing.T) {
	h := newHouse(t, 12)
	const (
		never, placed, replaced, better, withdrawn, aside, open, table, waiting, recent, young, kept = 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12
	)
	h.exec(`INSERT INTO delivery (id, title, open, created_by, closed_at) OVERRIDING SYSTEM VALUE VALUES (1, 'done', false, $1, now()), (2, 'open', false, $1, NULL), (3, 'of a table', false, $1, now())`, h.person)
	h.exec("INSERT INTO arrival (id, delivery_id, item, path, bytes, asset_id) OVERRIDING SYSTEM VALUE VALUES (1, 1, 'a', 'a.jpg', 1, 6), (2, 2, 'b', 'b.jpg', 1, 7), (3, 3, 'c', 'c.jpg', 1, 8)")
	h.exec("INSERT INTO decision (arrival_id, aside, person_id) VALUES (1, true, $1)", h.person)
	h.exec("INSERT INTO worksheet (id, name, created_by) OVERRIDING SYSTEM VALUE VALUES (1, 'list', $1)", h.person)
	h.exec("INSERT INTO worksheet_own VALUES (1, 3)")
	h.exec("UPDATE asset SET created_at = now() WHERE id = 11")
	place := func(owner int64, id ...int64) (int64, error) {
		return h.Place(ctx, h.person, "", []int64{owner}, id, placement.AddAfter)
	}
	old := h.run(place(1, placed))
	gone := h.run(place(1, replaced))
	swap := h.run(h.Replace(ctx, h.person, "", map[int64]int64{replaced: better}, false))
	first := h.run(place(2, withdrawn))
	away := h.run(h.Ledger.PlanUndo(ctx, first, h.person))
	h.exec("UPDATE run SET created_at = now() - interval '1 year'")
	h.run(h.Ledger.PlanUndo(ctx, h.run(place(1, recent)), h.person))
	if _, err := place(1, waiting); err != nil {
		t.Fatal(err)
	}
	h.run(h.Describe(ctx, h.person, "", []int64{kept}, func(a core.Asset) core.Asset { return a.Tagged(core.Keep, true) }))
	h.exec("DELETE FROM owner WHERE id = 2")
	want := map[int64]string{never: "never_placed []", replaced: fmt.Sprintf("replaced %d []", swap), withdrawn: fmt.Sprintf("product_removed %d []", away), aside: "set_aside []",
		open: "still_open [open_delivery]", table: "never_placed [table]", waiting: "never_placed [plan]", recent: "replaced [undo]", young: "never_placed [young]", kept: "never_placed [keep]"}
	found, err := h.Orphans(ctx, 0, 100)
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range found {
		says := string(o.Why())
		if o.Run != 0 && o.ID != recent {
			says += fmt.Sprint(" ", o.Run)
		}
		if says += fmt.Sprint(" ", o.SpeaksFor()); says != want[o.ID] {
			t.Errorf("picture %d: %s, want %s", o.ID, says, want[o.ID])
		}
		delete(want, o.ID)
	}
	if len(want) > 0 {
		t.Errorf("not found: %v (runs %d, %d)", want, old, gone)
	}
	// The plan bins what nothing speaks for; undo brings all back.
	was := h.stands()
	binning := h.run(h.BinOrphans(ctx, h.person, "", 0))
	if got := h.one("SELECT string_agg(id::text, ',' ORDER BY id) FROM asset WHERE binned_at IS NOT NULL"); got != "1,3,5,6" {
		t.Errorf("in the bin: %s", got)
	}
	if _, err := h.BinOrphans(ctx, h.person, "", 0); !errors.Is(err, ledger.ErrNothingToDo) {
		t.Errorf("again: %v", err)
	}
	h.run(h.Ledger.PlanUndo(ctx, binning, h.person))
	if now := h.stands(); now != was {
		t.Errorf("after undo\n%s\nwas\n%s", now, was)
	}
}

// A placement wins over the bin, whichever comes first; undo of an older run reaches into the bin; two plans over the same pictures do not meet.
func TestBin(t *testing.T) {
	h := newHouse(t, 4)
	binning, err := h.Bin(ctx, h.person, "", []int64{1, 2, 3})
	if err != nil {
		t.Fatal(err)
	}
	other, err := h.Bin(ctx, h.person, "", []int64{2, 3})
	if err != nil {
		t.Fatal(err)
	}
	placing := h.run(h.Place(ctx, h.person, "", []int64{1}, []int64{1}, placement.AddAfter))
	if why := h.left(h.run(binning, nil)); why != "asset_shown" {
		t.Errorf("binning a picture that was placed meanwhile: %s", why)
	}
	if why := h.left(h.run(other, nil)); why != "changed_since,changed_since" {
		t.Errorf("the second of two plans: %s", why)
	}
	h.run(h.Place(ctx, h.person, "", []int64{2}, []int64{2}, placement.AddAfter))
	if got := h.one("SELECT string_agg(id::text, ',' ORDER BY id) FROM asset WHERE binned_at IS NOT NULL"); got != "3" {
		t.Errorf("in the bin after placing: %s", got)
	}
	undo := h.run(h.Ledger.PlanUndo(ctx, placing, h.person))
	h.run(h.Bin(ctx, h.person, "", []int64{1}))
	h.run(h.Ledger.PlanUndo(ctx, undo, h.person))
	if got := h.one("SELECT (SELECT asset_id FROM placement WHERE owner_id = 1)::text || (SELECT binned_at IS NULL FROM asset WHERE id = 1)"); got != "1true" {
		t.Errorf("undo of the older run: %s", got)
	}
	// One picture on very many owners.
	h.exec("INSERT INTO owner (id, kind, sku, identity, title) SELECT n, 'product', 'M-' || n, 'm-' || n, 'Many' FROM generate_series(1000, 10999) n")
	h.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT n, 1, 1 FROM generate_series(1000, 10999) n")
	was := h.stands()
	swap := h.run(h.Replace(ctx, h.person, "", map[int64]int64{1: 4}, true))
	if got := h.one("SELECT count(*) || ' ' || (SELECT count(*) FROM asset WHERE binned_at IS NOT NULL) FROM placement WHERE asset_id = 4"); got != "10001 2" {
		t.Errorf("replaced on, in the bin: %s", got)
	}
	h.run(h.Ledger.PlanUndo(ctx, swap, h.person))
	if now := h.stands(); now != was {
		t.Error("undo of the replacement does not bring back what was")
	}
}

// Emptying deletes bytes and rows for good, says before which runs will not be whole, and is final.
func TestEmpty(t *testing.T) {
	h := newHouse(t, 3)
	h.exec("INSERT INTO delivery (id, title, open, created_by) OVERRIDING SYSTEM VALUE VALUES (1, 'spring', false, $1)", h.person)
	h.exec("INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) VALUES (1, 'a', 'a.jpg', 1, 1)")
	h.run(h.Place(ctx, h.person, "", []int64{1}, []int64{1}, placement.AddAfter))
	swap := h.run(h.Replace(ctx, h.person, "swap", map[int64]int64{1: 2}, true))
	broken, err := h.Breaks(ctx, 10)
	if err != nil || len(broken) != 1 || broken[0].ID != swap || broken[0].Lines != 1 {
		t.Errorf("what breaks: %+v, %v", broken, err)
	}
	if _, err := h.EmptyBin(ctx, h.person, "", nil, 2); !errors.Is(err, ErrCount) {
		t.Errorf("emptied with another number: %v", err)
	}
	run, err := h.EmptyBin(ctx, h.person, "", nil, 1)
	if err == nil {
		_, err = h.Ledger.Finish(ctx, run)
	}
	if err != nil {
		t.Fatal(err)
	}
	if got := h.one("SELECT (SELECT count(*) FROM asset) || ' ' || (SELECT problem FROM arrival)"); got != "2 deleted" || h.blobs() != 2 {
		t.Errorf("rows and line: %s; %d blobs", got, h.blobs())
	}
	if _, err := h.Ledger.PlanUndo(ctx, run, h.person); !errors.Is(err, ledger.ErrFinal) {
		t.Errorf("undo of emptying: %v", err)
	}
	if why := h.left(h.run(h.Ledger.PlanUndo(ctx, swap, h.person))); why != "asset_gone,gone_since" && why != "gone_since,asset_gone" {
		t.Errorf("undo of what needed it: %s", why)
	}
}

// What is there twice in other bytes is found, and the best of it goes into the places of the others; what is judged and missing is kept.
func TestFind(t *testing.T) {
	h := newHouse(t, 3)
	small, large := h.bring(drawn(0, 200, 75), "JPEG", 200), h.bring(drawn(0, 900, 92), "JPEG", 900)
	h.run(h.Place(ctx, h.person, "", []int64{1}, []int64{small}, placement.AddAfter))
	if err := h.look(); err != nil {
		t.Fatal(err)
	}
	if err := h.Find(ctx); err != nil {
		t.Fatal(err)
	}
	if got := h.one("SELECT string_agg(asset_id || '>' || best_id, ' ' ORDER BY asset_id) FROM twice"); got != fmt.Sprintf("1>%d %d>%d %d>%d", large, small, large, large, large) {
		t.Fatalf("there twice: %s", got)
	}
	if got := h.one("SELECT string_agg(owner_id || ':' || gaps, ' ' ORDER BY owner_id) FROM owner_gap"); got != fmt.Sprintf("1:%d 2:%d 10:%d", core.GapMask([]core.Gap{core.TooFew, core.NoText}), core.GapMask([]core.Gap{core.NoMain}), core.GapMask([]core.Gap{core.NoMain})) {
		t.Errorf("missing: %s", got)
	}
	if got := h.one("SELECT unfit::text FROM asset_fact WHERE asset_id = $1", small); got != fmt.Sprint(core.FaultMask([]core.Finding{{Fault: core.TooSmall}})) {
		t.Errorf("unfit: %s", got)
	}
	was := h.stands()
	best := h.run(h.KeepBest(ctx, h.person, "", nil))
	if got := h.one("SELECT asset_id || ' ' || (SELECT string_agg(id::text, ',' ORDER BY id) FROM asset WHERE binned_at IS NOT NULL) FROM placement"); got != fmt.Sprintf("%d 1,%d", large, small) {
		t.Errorf("after the plan: %s", got)
	}
	h.run(h.Ledger.PlanUndo(ctx, best, h.person))
	if now := h.stands(); now != was {
		t.Errorf("after undo %s, was %s", now, was)
	}
	// Lists of the command line say the same.
	var lines []string
	for _, listing := range []string{"twice", "missing"} {
		if err := h.List(ctx, listing, func(f Found) error { lines = append(lines, f.Owner+f.Why[:min(11, len(f.Why))]); return nil }); err != nil {
			t.Fatal(err)
		}
	}
	if want := []string{"most_pixels", "most_pixels", "K-1too_few", "K-1no_text", "K-2no_main", "Kitesno_main"}; !slices.Equal(lines, want) {
		t.Errorf("listed %v, want %v", lines, want)
	}
	// A placeholder counts as none.
	h.run(h.Describe(ctx, h.person, "", []int64{small}, func(a core.Asset) core.Asset { a.Placeholder = true; return a }))
	if err := h.Find(ctx); err != nil {
		t.Fatal(err)
	}
	if got := h.one("SELECT gaps::text FROM owner_gap WHERE owner_id = 1"); got != fmt.Sprint(core.GapMask([]core.Gap{core.NoMain})) {
		t.Errorf("an owner with a placeholder misses %s", got)
	}
	// A group all of which lies in the bin takes no place in a page.
	other := h.bring(drawn(1, 900, 92), "JPEG", 900)
	if err := errors.Join(h.look(), h.Find(ctx)); err != nil {
		t.Fatal(err)
	}
	h.exec("UPDATE asset SET binned_at = now() WHERE id = ANY ($1)", []int64{1, small, large})
	page, err := h.Store.TwicePage(ctx, query.TwicePageParams{Most: 1})
	if err != nil || len(page) != 2 || page[0].AssetID != other || page[1].AssetID != 2 {
		t.Errorf("a page behind a group in the bin: %v, %v", page, err)
	}
}

// look has all pictures looked at, without a clock.
func (h *house) look() error {
	h.exec("INSERT INTO job (kind, subject) VALUES ('look', 0) ON CONFLICT DO NOTHING")
	return h.Look(ctx)
}

// Bytes that are missing or differ are told, small pictures are made again, and blobs that no picture knows are found and deleted.
func TestScrub(t *testing.T) {
	h := newHouse(t, 4)
	for _, key := range []string{assets.OriginalKey(h.sha[1]), assets.DerivativeKey(h.sha[3], 96)} {
		if err := h.Vault.DeleteKey(ctx, key); err != nil {
			t.Fatal(err)
		}
	}
	h.damage(h.sha[2])
	stray := drawn(77, 100, 80)
	sum := sha256.Sum256(stray)
	p, err := assets.Probe(ctx, assets.Source{Bytes: stray}, 1e8)
	if err == nil {
		err = h.Vault.Put(ctx, sum[:], assets.Detect(stray), assets.Source{Bytes: stray}, p)
	}
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Scrub(ctx); err != nil {
		t.Fatal(err)
	}
	if got := h.one("SELECT string_agg(id || ' ' || broken, ',' ORDER BY id) FROM asset WHERE broken <> ''"); got != "1 missing,2 differs" {
		t.Errorf("broken: %s", got)
	}
	if has, err := h.Vault.HasDerivatives(ctx, h.sha[3]); err != nil || !has {
		t.Errorf("a small picture was not made again: %v", err)
	}
	if got := h.one("SELECT looked || ' ' || missing || ' ' || differing || ' ' || remade FROM scrub WHERE ended_at IS NOT NULL"); got != "4 1 1 1" {
		t.Errorf("figures: %s", got)
	}
	// What was stored just now may be of work that is not committed yet; later it is a stray.
	if got := h.one("SELECT count(*)::text FROM stray_blob"); got != "0" {
		t.Errorf("%s young blobs are called strays", got)
	}
	h.exec("INSERT INTO stray_blob (key, bytes) VALUES ($1, 1), ($2, 1)", assets.OriginalKey(hex.EncodeToString(sum[:])), assets.OriginalKey(h.sha[4]))
	if n, err := h.DeleteStrays(ctx); err != nil || n != 1 || h.blobs() != 3 {
		t.Errorf("%d deleted, %d blobs left, %v", n, h.blobs(), err)
	}
}

// damage stores other bytes under a picture's name.
func (h *house) damage(sha string) {
	h.Helper()
	raw, err := hex.DecodeString(sha)
	if err == nil {
		err = h.Vault.Put(ctx, raw, assets.Format{MIME: "image/jpeg"}, assets.Source{Bytes: []byte("other bytes")}, &assets.Picture{})
	}
	if err != nil {
		h.Fatal(err)
	}
}
