package tidy

import (
	"errors"
	"testing"

	"ambrosa/core/placement"
	core "ambrosa/core/tidy"

	"github.com/jackc/pgx/v5"
)

// A delivery that is removed takes those pictures along that nothing else has; undo brings all back. The clock deletes it for good, and what it said
// of rights stays.
func TestRemoveDelivery(t *testing.T) {
	h := newHouse(t, 7)
	const (
		only, both, placed, kept, young, waiting, later = 1, 2, 3, 4, 5, 6, 7
	)
	h.exec(`INSERT INTO delivery (id, title, open, created_by, closed_at, may) OVERRIDING SYSTEM VALUE VALUES (1, 'spring', false, $1, NULL, 'internal'), (2, 'summer', false, $1, now(), ''), (3, 'autumn', false, $1, now(), 'cleared')`, h.person)
	h.exec(`INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) SELECT 1, n::text, n || '.jpg', 1, n FROM generate_series(1, 6) n
		UNION ALL VALUES (2, 'b', 'b.jpg', 1, 2), (3, 'c', 'c.jpg', 1, 7), (3, 'd', 'd.jpg', 1, 1)`)
	h.exec("UPDATE asset SET created_at = now() WHERE id = $1", young)
	h.run(h.Place(ctx, h.person, "", []int64{1}, []int64{placed}, placement.AddAfter))
	h.run(h.Describe(ctx, h.person, "", []int64{kept}, func(a core.Asset) core.Asset { return a.Tagged(core.Keep, true) }))
	if _, err := h.Place(ctx, h.person, "", []int64{2}, []int64{waiting}, placement.AddAfter); err != nil {
		t.Fatal(err)
	}
	binned := func() string {
		return h.one("SELECT coalesce(string_agg(id::text, ',' ORDER BY id), '') FROM asset WHERE binned_at IS NOT NULL")
	}
	if _, err := h.RemoveDelivery(ctx, h.person, "", 1); !errors.Is(err, ErrDeliveryOpen) {
		t.Errorf("an open delivery: %v", err)
	}
	h.exec("UPDATE delivery SET closed_at = now() WHERE id = 1")
	was := h.stands()
	autumn := h.run(h.RemoveDelivery(ctx, h.person, "", 3))
	if got := binned(); got != "7" { // the first came with delivery 1, too
		t.Errorf("with autumn into the bin: %s", got)
	}
	spring := h.run(h.RemoveDelivery(ctx, h.person, "", 1))
	if got := binned(); got != "1,5,7" {
		t.Errorf("with spring into the bin: %s", got)
	}
	if _, err := h.RemoveDelivery(ctx, h.person, "", 1); !errors.Is(err, pgx.ErrNoRows) {
		t.Errorf("removed twice: %v", err)
	}
	for _, run := range []int64{spring, autumn} {
		h.run(h.Ledger.PlanUndo(ctx, run, h.person))
	}
	if now := h.stands(); now != was || h.one("SELECT count(*)::text FROM delivery WHERE removed_at IS NOT NULL") != "0" {
		t.Errorf("after undo\n%s\nwas\n%s", now, was)
	}
	h.run(h.RemoveDelivery(ctx, h.person, "", 1))
	h.exec("UPDATE delivery SET removed_at = now() - interval '29 days' WHERE id = 1")
	for _, want := range []string{"3 9 ", "2 3 2=internal 3=internal 4=internal 5=internal 6=internal"} {
		if err := h.ClearStale(ctx); err != nil {
			t.Fatal(err)
		}
		if got := h.one("SELECT (SELECT count(*) FROM delivery) || ' ' || (SELECT count(*) FROM arrival) || ' ' || coalesce((SELECT string_agg(asset_id || '=' || may, ' ' ORDER BY asset_id) FROM rights), '')"); got != want {
			t.Errorf("by the clock: %s, want %s", got, want)
		}
		h.exec("UPDATE delivery SET removed_at = now() - interval '31 days' WHERE id = 1")
	}
}
