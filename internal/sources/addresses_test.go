package sources

import (
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"ambrosa/core/schedule"
	"ambrosa/internal/gather"
	"ambrosa/internal/store/query"
)

func TestReadAddresses(t *testing.T) {
	text := "\uFEFFSKU;Picture\nK-1;https://h.example/a.jpg\nhttps://h.example/b,c.jpg\tK-2\r\n\nK-3, http://h.example/d.jpg?x=1,2\n" +
		"https://h.example/e.jpg,K-5\nnothing here\nftp://h.example/x.jpg\nhttps://mo:pw@h.example/x.jpg\n\"K 6\",\"https://h.example/f.jpg\"\n"
	got, wrong := ReadAddresses(text)
	want := []Address{{"https://h.example/a.jpg", "K-1"}, {"https://h.example/b,c.jpg", "K-2"}, {"http://h.example/d.jpg?x=1,2", "K-3"}, {"https://h.example/e.jpg", "K-5"},
		{"https://h.example/f.jpg", "K 6"}}
	if !slices.Equal(got, want) || len(wrong) != 3 {
		t.Errorf("%q, wrong %q", got, wrong)
	}
}

// An address that has not changed is not fetched again: the server there says so by its ETag, or by when it changed (RFC 9110, section 13).
func TestAddressesAgain(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	sent, changed := map[string]int{}, false
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/tagged.jpg":
			w.Header().Set("ETag", fmt.Sprintf(`"%v"`, changed))
		case r.URL.Path == "/dated.jpg":
			at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).UTC().Format(http.TimeFormat)
			if r.Header.Get("If-Modified-Since") == at {
				w.WriteHeader(http.StatusNotModified)
				return
			}
			w.Header().Set("Last-Modified", at)
		case r.URL.Path == "/gone.jpg":
			http.NotFound(w, r)
			return
		}
		if tag := w.Header().Get("ETag"); tag != "" && r.Header.Get("If-None-Match") == tag {
			w.WriteHeader(http.StatusNotModified)
			return
		}
		sent[r.URL.Path]++
		shade := uint8(len(r.URL.Path))
		if changed && r.URL.Path == "/tagged.jpg" {
			shade = 99
		}
		w.Write(jpegOf(shade, 40))
	}))
	t.Cleanup(s.Close)
	h.Door.Hosts["pictures.example"] = strings.TrimPrefix(s.URL, "http://")
	id, err := h.Add(ctx, h.by(), Source{Name: "links", Kind: Addresses})
	h.must(err)
	h.must(h.SetAddresses(ctx, h.by(), id, []Address{{"http://pictures.example/tagged.jpg", "K-1"}, {"http://pictures.example/dated.jpg", ""},
		{"http://pictures.example/gone.jpg", ""}, {"http://192.168.7.7/inside.jpg", ""}, {"http://pictures.example/tagged.jpg", "K-1"}}))
	v := h.visit(id)
	if v.Pictures != 2 || v.Problems != 2 || v.Fresh != 4 {
		t.Errorf("first: %+v", v)
	}
	var said string
	h.must(h.Store.Pool.QueryRow(ctx, "SELECT said::text FROM arrival WHERE path LIKE '%tagged.jpg'").Scan(&said))
	if !strings.Contains(said, `"K-1"`) || !strings.Contains(said, "links") {
		t.Error("what the list says is not kept:", said)
	}
	v = h.visit(id)
	if v.Pictures != 0 || v.Problems != 2 || v.Changed != 0 || sent["/tagged.jpg"] != 1 || sent["/dated.jpg"] != 1 {
		t.Errorf("second: %+v, sent %v", v, sent)
	}
	changed = true
	if v = h.visit(id); v.Changed != 1 || v.Pictures != 1 {
		t.Errorf("changed: %+v", v)
	}
}

// What is due is collected once, in the name of who made the source, and comes again at its time; what was missed while nobody was there
// comes once, too.
func TestDue(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	h.put("one.jpg", 10, 40)
	id := h.onDrive(nil)
	if err := h.Schedule(ctx, h.by(), id, schedule.Schedule{Each: "month", Zone: time.UTC}); !errors.Is(err, schedule.ErrSchedule) {
		t.Error(err)
	}
	h.must(h.Schedule(ctx, h.by(), id, schedule.Schedule{Each: schedule.Day, Minute: 420, Zone: time.UTC}))
	h.must(h.Due(ctx))
	count := func() (n int) {
		t.Helper()
		h.must(h.Store.Pool.QueryRow(ctx, "SELECT count(*) FROM visit WHERE source_id = $1", id).Scan(&n))
		return n
	}
	if n := count(); n != 0 {
		t.Fatalf("%d visits before it is due", n)
	}
	_, err := h.Store.Pool.Exec(ctx, "UPDATE schedule SET next_at = now() - interval '3 days'")
	h.must(err)
	h.must(h.Due(ctx))
	h.must(h.Due(ctx))
	if n := count(); n != 1 {
		t.Fatalf("%d visits, want 1", n)
	}
	var next time.Time
	h.must(h.Store.Pool.QueryRow(ctx, "SELECT next_at FROM schedule").Scan(&next))
	if !next.After(time.Now()) || next.UTC().Hour() != 7 {
		t.Error("next at", next)
	}
	_, err = h.Jobs.Finished(ctx, gather.Work, h.visited(id).ID)
	h.must(err)
	h.must(h.Schedule(ctx, h.by(), id, schedule.Schedule{}))
	if rows, err := h.Store.Sources(ctx, query.SourcesParams{ID: &id, Most: 1}); err != nil || rows[0].NextAt != nil {
		t.Errorf("%v, %v", rows, err)
	}
}

// A source's cross-reference is brought in, and learns from what people paired by hand.
func TestCrossReference(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	for i, path := range []string{"FR-100_1.jpg", "FR-100_2.jpg", "FR-200 front.jpg", "K-3.jpg", "DSC_1.jpg"} {
		h.put(path, uint8(i*40), 40)
	}
	_, err := h.Store.Pool.Exec(ctx, `INSERT INTO owner (id, kind, sku, title, identity) SELECT i, 'product', 'K-' || i, 'Kite', 'sku:K-' || i FROM generate_series(1, 3) i`)
	h.must(err)
	id := h.onDrive(nil)
	v := h.visit(id)
	_, err = h.Store.Pool.Exec(ctx, `INSERT INTO decision (arrival_id, owner_id, person_id) SELECT id, CASE WHEN path LIKE 'FR-100%' THEN 1 WHEN path LIKE 'FR-2%' THEN 2 ELSE 3 END, $1 FROM arrival WHERE path <> 'DSC_1.jpg'`, h.person)
	h.must(err)
	learnt, err := h.Learnt(ctx, id)
	h.must(err)
	if len(learnt) != 2 || learnt[0].SKU != "K-1" || learnt[0].Confirmed != 2 || learnt[1].SKU != "K-2" {
		t.Fatalf("%+v", learnt)
	}
	n, unknown, err := h.AddEntries(ctx, h.person, id, append(learnt[:1], ReadEntries("FR-9;K-3\nFR-8,K-77\nnothing\n")...))
	if err != nil || n != 2 || !slices.Equal(unknown, []string{"K-77"}) {
		t.Errorf("%d, %q, %v", n, unknown, err)
	}
	if learnt, err = h.Learnt(ctx, id); err != nil || len(learnt) != 1 || learnt[0].SKU != "K-2" {
		t.Errorf("what is kept is offered still: %+v, %v", learnt, err)
	}
	state, err := h.Store.BenchState(ctx, v.ID)
	if err != nil || state.Crossed != 1 {
		t.Errorf("the bench is not told: %+v, %v", state, err)
	}
	if n, err := h.RemoveEntries(ctx, id, nil); err != nil || n != 2 {
		t.Errorf("%d removed, %v", n, err)
	}
}
