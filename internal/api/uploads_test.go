package api

import (
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/gather"
	"ambrosa/internal/people"
)

func (a *asker) begin(length int64, delivery int64) (status int, id string) {
	a.h.t.Helper()
	b64 := base64.StdEncoding.EncodeToString
	status, _, header := a.ask("POST", "/api/uploads/", "", "Upload-Length", fmt.Sprint(length), "X-Forwarded-Host", "evil.example", "X-Forwarded-Proto", "https",
		"Upload-Metadata", "delivery "+b64([]byte(fmt.Sprint(delivery)))+",path "+b64([]byte("a.jpg")))
	location := header.Get("Location")
	if status == 201 && (strings.Contains(location, "example") || !strings.HasPrefix(location, uploadsPath)) {
		a.h.t.Errorf("where it lies is told as %s", location)
	}
	return status, strings.TrimPrefix(location, uploadsPath)
}

func (a *asker) piece(id, bytes string, at int) int {
	status, _, _ := a.ask("PATCH", uploadsPath+id, bytes, "Upload-Offset", fmt.Sprint(at), "Content-Type", "application/offset+octet-stream")
	return status
}

// An upload's name is 32 hex digits and leads nowhere else; only who began it, and an admin, goes on with it, and only while
// its delivery is open.
func TestUploadDoors(t *testing.T) {
	h := newHouse(t)
	mo, ada, ines, vera := h.as("mo two", people.Editor), h.as("ada", people.Editor), h.as("ines", people.Admin), h.as("vera", people.Viewer)
	outside := filepath.Join(filepath.Dir(h.Gatherer.Folder), "postgres")
	for _, suffix := range []string{"", ".lock", ".info"} {
		if err := os.WriteFile(outside+suffix, []byte(`{"ID":"x"}`), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	for _, id := range []string{"../postgres", "..%2fpostgres", "%2e%2e/postgres", "%2e%2e%2fpostgres", "..", strings.Repeat("0", 31), strings.Repeat("0", 33), strings.Repeat("G", 32), strings.Repeat("A", 32), "x/../../postgres"} {
		for _, method := range []string{"HEAD", "PATCH", "DELETE", "POST", "GET"} {
			for _, who := range []*asker{mo, ines, vera} {
				if status, _, _ := who.ask(method, uploadsPath+id, "x", "Upload-Offset", "0", "Content-Type", "application/offset+octet-stream"); status < 400 {
					t.Errorf("%s %s: %d", method, id, status)
				}
			}
		}
	}
	for _, suffix := range []string{"", ".lock", ".info"} {
		if b, err := os.ReadFile(outside + suffix); err != nil || string(b) != `{"ID":"x"}` {
			t.Errorf("postgres%s is touched: %q, %v", suffix, b, err)
		}
	}

	var d struct{ ID int64 }
	mo.must("POST", "/api/deliveries", `{"title":"one"}`, &d)
	_, id := mo.begin(6, d.ID)
	if status := ada.piece(id, "abc", 0); status != 403 {
		t.Errorf("somebody else sends on: %d", status)
	}
	if status, _, _ := ada.ask("DELETE", uploadsPath+id, ""); status != 403 {
		t.Errorf("somebody else drops it: %d", status)
	}
	if status := mo.piece(id, "abc", 0); status != 204 {
		t.Errorf("who began it sends on: %d", status)
	}
	if status := ines.piece(id, "def", 3); status != 204 {
		t.Errorf("an admin sends on: %d", status)
	}
	if b, err := os.ReadFile(h.Gatherer.File(id)); err != nil || string(b) != "abcdef" {
		t.Errorf("%q has come, %v", b, err)
	}
	_, other := mo.begin(6, d.ID)
	if status, _, _ := mo.ask("DELETE", uploadsPath+other, ""); status != 204 {
		t.Errorf("dropping an upload: %d", status)
	}
	var rows []uploadBody
	mo.must("GET", fmt.Sprintf("/api/deliveries/%d/uploads", d.ID), "", &rows)
	if len(rows) != 1 || rows[0].ID != id {
		t.Errorf("a dropped upload keeps its row: %+v", rows)
	}
	mo.must("POST", fmt.Sprintf("/api/deliveries/%d/close", d.ID), "", nil)
	for _, who := range []*asker{mo, ines} {
		if status, _, _ := who.ask("DELETE", uploadsPath+id, ""); status != 409 {
			t.Errorf("dropping a file of a closed delivery: %d", status)
		}
	}
	if _, err := os.Stat(h.Gatherer.File(id)); err != nil {
		t.Errorf("the file of a closed delivery: %v", err)
	}
}

// Claimed sizes are bounded, and whatever stands in the database, the deliveries are listed.
func TestClaimedSizes(t *testing.T) {
	h := newHouse(t)
	mo := h.as("mo two", people.Editor)
	var d struct{ ID int64 }
	mo.must("POST", "/api/deliveries", `{"title":"one"}`, &d)
	for _, length := range []int64{1 << 62, h.Gatherer.Limits.Upload + 1} {
		if status, _ := mo.begin(length, d.ID); status != 413 {
			t.Errorf("an upload of %d bytes: %d", length, status)
		}
	}
	var all []deliveryBody
	mo.must("GET", "/api/deliveries", "", &all)
	if len(all) == 1 && (all[0].Bytes != 0 || all[0].UploadBytes != 0) {
		t.Errorf("nothing has come, and it has %d bytes", all[0].Bytes)
	}
	h.exec("INSERT INTO upload (id, delivery_id, path, bytes, created_by) SELECT n, $1, 'x', 4611686018427387904, created_by FROM delivery, generate_series(1, 3) n WHERE id = $1", d.ID)
	h.exec("INSERT INTO arrival (delivery_id, item, path, bytes) SELECT $1, n, 'x', 4611686018427387904 FROM generate_series(1, 3) n", d.ID)
	mo.must("GET", "/api/deliveries", "", &all)
	if len(all) != 1 || all[0].Bytes <= 0 || all[0].UploadBytes <= 0 {
		t.Errorf("%+v", all)
	}
	// A nearly full disk is told, not filled.
	h.Gatherer.Limits.Reserve = 1 << 60
	if status, _ := mo.begin(3, d.ID); status != 507 {
		t.Errorf("an upload onto a full disk: %d", status)
	}
}

// What serves an upload ends with it: nothing is left running, however it ended.
func TestUploadsLeaveNothing(t *testing.T) {
	h := newHouse(t)
	mo := h.as("mo two", people.Editor)
	var d struct{ ID int64 }
	mo.must("POST", "/api/deliveries", `{"title":"one"}`, &d)
	send := func() {
		_, id := mo.begin(3, d.ID)
		mo.ask("HEAD", uploadsPath+id, "")
		if status := mo.piece(id, "abc", 0); status != 204 {
			t.Fatal(status)
		}
	}
	send()
	before := runtime.NumGoroutine()
	for range 60 {
		send()
	}
	deadline := time.Now().Add(10 * time.Second)
	for after := runtime.NumGoroutine(); after > before+10; after = runtime.NumGoroutine() {
		if time.Now().After(deadline) {
			t.Fatalf("%d goroutines after 60 uploads, %d before", after, before)
		}
		runtime.Gosched()
	}
}

// What streams in is asked about again and again, and ends where there is no more room.
func TestBodyIsCheckedOnItsWay(t *testing.T) {
	asked := 0
	b := &checkedBody{r: io.LimitReader(zeros{}, 10*checkEvery), check: func() error {
		if asked++; asked == 3 {
			return gather.ErrNoRoom
		}
		return nil
	}}
	n, err := io.Copy(io.Discard, b)
	if !errors.Is(err, gather.ErrNoRoom) || n < 3*checkEvery || n > 4*checkEvery {
		t.Errorf("%d bytes came, %v", n, err)
	}
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { return len(p), nil }
