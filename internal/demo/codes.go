package demo

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"time"

	"ambrosa/internal/standin"
)

// The demo's barcode service, and what it asks of who asks.
const (
	LookupHost   = "codes.fellmap.example"
	LookupKey    = "fell-4711"
	LookupHeader = "X-Key"
	lookupADay   = 40
)

// lookup answers as a barcode service does: by a key, so often a day, and with gaps.
func (o *Outside) lookup(r *http.Request) *standin.Page {
	if name, ok := strings.CutPrefix(r.URL.Path, "/photo/"); ok {
		for _, a := range articles() {
			if name == a.barcode+".jpg" {
				return &standin.Page{Bytes: drawing(a, packed, shopLarge)}
			}
		}
		return nil
	}
	code, ok := strings.CutPrefix(r.URL.Path, "/v1/gtin/")
	if !ok {
		return nil
	}
	if r.Header.Get(LookupHeader) != LookupKey {
		return &standin.Page{Status: http.StatusUnauthorized, Bytes: []byte("<html><body>Sign in</body></html>")}
	}
	o.mu.Lock()
	today := "lookup " + time.Now().Format(time.DateOnly)
	o.busy[today]++
	over := o.busy[today] > lookupADay
	o.mu.Unlock()
	if over {
		return &standin.Page{Status: http.StatusTooManyRequests, Header: map[string]string{"Retry-After": "86400"}}
	}
	for i, a := range articles() {
		if strings.TrimLeft(a.barcode, "0") != strings.TrimLeft(code, "0") || i%3 == 2 { // a third is not known there
			continue
		}
		licence := ""
		if i%2 == 0 {
			licence = "CC BY 4.0"
		}
		b, err := json.Marshal(map[string]any{"items": []any{map[string]any{"name": shopTitle(a), "licence": licence, "photos": []any{map[string]any{"href": fmt.Sprintf("http://%s/photo/%s.jpg", LookupHost, a.barcode)}}}}})
		if err != nil {
			return nil
		}
		return &standin.Page{Bytes: b, Header: map[string]string{"Content-Type": "application/json"}}
	}
	return &standin.Page{Status: http.StatusNotFound, Bytes: []byte(`{"items":[]}`), Header: map[string]string{"Content-Type": "application/json"}}
}
