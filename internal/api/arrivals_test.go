package api

import (
	"fmt"
	"testing"

	"ambrosa/internal/people"
)

// Whoever asks for what is behind the last line that is known gets each line once, also those that come in meanwhile, and no
// answer is large.
func TestArrivalsInPieces(t *testing.T) {
	h := newHouse(t)
	viewer := h.as("vera", people.Viewer)
	h.exec("INSERT INTO delivery (title, created_by) SELECT title, (SELECT min(id) FROM person) FROM unnest(ARRAY['one', 'other']) title")
	h.exec("INSERT INTO upload (id, delivery_id, path, bytes, created_by) SELECT title, id, 'a.zip', 1, created_by FROM delivery")
	come := func(from, to int) {
		h.exec(`INSERT INTO arrival (delivery_id, item, path, bytes) SELECT d.id, n, format('Spring collection, the second part/PK-%s_front_02.jpg', n), 1
			FROM delivery d, generate_series($1::int, $2::int) n ORDER BY n, d.id`, from, to)
	}
	come(1, 2500)
	var all []ArrivalBody
	for range 10 {
		var last int64
		if len(all) > 0 {
			last = all[len(all)-1].ID
		}
		status, text, _ := viewer.ask("GET", fmt.Sprintf("/api/deliveries/1/arrivals?after=%d", last), "")
		if status != 200 || len(text) > 200_000 {
			t.Fatalf("after %d: %d with %d bytes", last, status, len(text))
		}
		var more []ArrivalBody
		viewer.must("GET", fmt.Sprintf("/api/deliveries/1/arrivals?after=%d", last), "", &more)
		if len(all) == 1000 {
			come(2501, 2600)
		}
		if all = append(all, more...); len(more) < 1000 {
			break
		}
	}
	if len(all) != 2600 {
		t.Errorf("%d lines, want 2600", len(all))
	}
	for i, a := range all {
		if want := fmt.Sprintf("Spring collection, the second part/PK-%d_front_02.jpg", i+1); a.Path != want {
			t.Fatalf("line %d is %s", i, a.Path)
		}
	}
	if status, text, _ := viewer.ask("GET", "/api/deliveries/1/arrivals?most=1001", ""); status != 422 && status != 400 {
		t.Errorf("more than a piece: %d %s", status, text)
	}
}
