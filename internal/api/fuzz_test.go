package api

import (
	"encoding/json"
	"strings"
	"testing"

	"ambrosa/internal/people"
)

// Bodies of changing operations as anybody may write them: each is answered, never with a 500, and what is kept can be
// read again.
func FuzzBodies(f *testing.F) {
	targets := []string{"POST /api/deliveries", "PUT /api/deliveries/1/decisions", "PUT /api/deliveries/1/ladder", "POST /api/deliveries/1/decisions/take-back",
		"POST /api/deliveries/1/plans", "POST /api/tokens", "POST /api/people", "POST /api/tables", "POST /api/session",
		"PUT /api/deliveries/1/order", "POST /api/deliveries/1/undo", "POST /api/deliveries/1/redo"}
	for i, seed := range []string{`{"title":"x"}`, `[{"arrival":1,"owner":1,"also":[{"owner":0},{"owner":1}],"rank":-1}]`, `{"cells":[{"key":"sku","fit":"whole"}],"off":["prefix"]}`, `{"arrivals":[1,1]}`,
		`{"rule":"whole_set"}`, `{"name":"robot"}`, `{"name":"ada","password":"long-enough-for-this","role":"viewer"}`, "sku,title\nK1,One\n", `{"name":"mo","password":"` + "\xff" + `"}`,
		`{"owner":1,"arrivals":[1]}`, "", ""} {
		f.Add(i, seed)
	}
	h := newHouse(f)
	ines := h.as("ines", people.Admin)
	ines.must("POST", "/api/deliveries", `{"title":"one"}`, nil)
	h.exec("INSERT INTO owner (id, kind, sku, identity, title) VALUES (1, 'product', 'K1', 'k1', 'One')")
	h.exec("INSERT INTO asset (sha256, bytes, format, width, height) VALUES ('\\x00', 1, 'JPEG', 1, 1)")
	h.exec("INSERT INTO upload (id, delivery_id, path, bytes, created_by) SELECT 'u', 1, 'x', 1, max(id) FROM person")
	h.exec("INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) VALUES (1, 'u/0', 'K1.jpg', 1, 1)")
	f.Fuzz(func(t *testing.T, target int, body string) {
		h.t = t
		h.paces = paces{} // who asks without end is held elsewhere
		method, address, _ := strings.Cut(targets[uint(target)%uint(len(targets))], " ")
		var headers []string
		if strings.HasSuffix(address, "imports") {
			headers = []string{"Content-Type", "text/csv"}
		}
		status, text, _ := ines.ask(method, address, body, headers...)
		if status >= 500 && status != 503 {
			t.Fatalf("%s %s with %q: %d %s", method, address, body, status, text)
		}
		if status, text, _ := ines.ask("GET", "/api/deliveries/1/pairing", ""); status != 200 || !json.Valid([]byte(text)) {
			t.Fatalf("after %s %s with %q the board answers %d %s", method, address, body, status, text)
		}
	})
}
