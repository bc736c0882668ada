package publish

import (
	"bytes"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"ambrosa/core/channel"
	"ambrosa/core/message"
	"ambrosa/core/rendition"
	"ambrosa/internal/drive"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"

	"golang.org/x/net/webdav"
)

// A drive that fills up, takes leave to write away, or is gone in the middle stops the run and says why; once it is well again the run goes on, and
// everything is there once and whole.
func TestDriveInTrouble(t *testing.T) {
	for _, c := range []struct {
		status int
		code   string
	}{{http.StatusInsufficientStorage, "publish_full"}, {http.StatusForbidden, "publish_denied"}, {0, "drive_no_answer"}} {
		t.Run(c.code, func(t *testing.T) {
			h := newHouse(t, 40)
			var puts, well atomic.Int64
			files := &webdav.Handler{FileSystem: webdav.Dir(h.folder), LockSystem: webdav.NewMemLS()}
			server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				if r.Method == http.MethodPut && puts.Add(1) > 30 && well.Load() == 0 {
					if c.status == 0 {
						panic(http.ErrAbortHandler)
					}
					http.Error(w, "no", c.status)
					return
				}
				files.ServeHTTP(w, r)
			}))
			defer server.Close()
			h.spec = drive.Spec{Kind: "webdav", Values: map[string]string{"url": server.URL, "user": "mo"}, Secrets: map[string]string{"pass": "x"}}
			id := h.add(shop(1))
			plan, _ := h.look(id)
			run, err := h.Ledger.Apply(ctx, plan, h.person)
			if err != nil {
				t.Fatal(err)
			}
			err = h.Jobs.Do(ctx, ledger.Work, run)
			if says, ok := message.Of(err); !ok || says.Code != c.code {
				t.Fatalf("it said %v", err)
			}
			for line := range strings.Lines(h.there()) {
				if strings.Contains(line, ".jpg") && len(h.file(strings.Fields(line)[0])) < 500 {
					t.Errorf("half of a file stands there: %s", line)
				}
			}
			well.Store(1)
			if job, err := h.Jobs.Finished(ctx, ledger.Work, run); err != nil || job.State != string(jobs.Done) {
				t.Fatalf("%s: %v", job.State, err)
			}
			if left := h.left(run); left != "" {
				t.Errorf("it left %s", left)
			}
			if n := len(strings.Split(h.there(), "\n")); n != 81 {
				t.Errorf("%d files are there:\n%s", n, names(h.there()))
			}
			if again, counts := h.look(id); again != 0 {
				t.Errorf("a second look finds %s", counts)
			}
		})
	}
}

// The package as programs of others read it: Info-ZIP's unzip, libarchive's bsdtar (both Debian) and Python's zipfile. Source of the format:
// APPNOTE.TXT 6.3.10 (PKWARE).
func TestPackage(t *testing.T) {
	h := newHouse(t, 3)
	h.exec("UPDATE owner SET sku = 'Ö-2 ✂' WHERE id = 2")
	c := shop(0)
	c.Path = "bilder/{sku}_{number:00}_{size}"
	c.Renditions = append(c.Renditions, channel.Rendition{Name: "small", Size: "60x60", Fit: rendition.Pad, Format: rendition.PNG})
	id := h.add(c)
	if err := h.Package(ctx, id, &bytes.Buffer{}); err == nil {
		t.Error("a package of nothing")
	}
	plan, _ := h.look(id)
	first, _ := h.run(plan)
	file := filepath.Join(t.TempDir(), "a.zip")
	write := func() []byte {
		t.Helper()
		var b bytes.Buffer
		if err := h.Package(ctx, id, &b); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	b := write()
	if err := os.WriteFile(file, b, 0o644); err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(b, write()) {
		t.Error("the same state made other bytes")
	}
	want := "README.txt bilder/K-1_01_large.jpg bilder/K-1_01_small.png bilder/K-1_02_large.jpg bilder/K-1_02_small.png bilder/K-3_01_large.jpg bilder/K-3_01_small.png " +
		"bilder/K-3_02_large.jpg bilder/K-3_02_small.png bilder/Ö-2 ✂_01_large.jpg bilder/Ö-2 ✂_01_small.png bilder/Ö-2 ✂_02_large.jpg bilder/Ö-2 ✂_02_small.png list.csv"
	for name, args := range map[string][]string{
		"unzip":   {"unzip", "-tq", file},
		"bsdtar":  {"bsdtar", "-tf", file},
		"zipfile": {"python3", "-c", "import sys,zipfile\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\nprint('\\n'.join(z.namelist()))", file},
	} {
		if _, err := exec.LookPath(args[0]); err != nil {
			t.Logf("%s is not here", args[0])
			continue
		}
		run := exec.Command(args[0], args[1:]...)
		run.Env = append(os.Environ(), "LC_ALL=C.UTF-8", "PYTHONIOENCODING=utf-8")
		out, err := run.CombinedOutput()
		if err != nil {
			t.Errorf("%s: %v: %s", name, err, out)
		}
		if got := strings.ReplaceAll(strings.TrimSpace(string(out)), "\n", " "); name != "unzip" && got != want {
			t.Errorf("%s reads\n%s", name, got)
		}
	}
	// What was made and is lost is made again, and the package is the same.
	if err := h.Vault.DeleteKey(ctx, "rendition/"+h.one("SELECT left(encode(key, 'hex'), 2) || '/' || encode(key, 'hex') FROM channel_file WHERE path LIKE '%K-3_01_small.png'")); err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(b, write()) {
		t.Error("after a loss it is another")
	}
	// Another state and back again makes the first package again.
	h.exec("UPDATE owner SET sku = 'K-9' WHERE id = 3")
	plan, _ = h.look(id)
	second, _ := h.run(plan)
	if bytes.Equal(b, write()) {
		t.Error("another state made the same package")
	}
	if left := h.undo(second); left != "" || !bytes.Equal(b, write()) {
		t.Errorf("taken back, it is another; left %s", left)
	}
	_ = first
}

// What nothing shows any more is cleared when its days are over, and then undo says that it is not kept.
func TestClear(t *testing.T) {
	h := newHouse(t, 1)
	id := h.add(shop(0))
	plan, _ := h.look(id)
	h.run(plan)
	h.exec("DELETE FROM placement WHERE position = 2")
	plan, _ = h.look(id)
	run, _ := h.run(plan)
	h.exec("UPDATE rendition SET used_at = now() - interval '31 days'")
	if err := h.Clear(ctx); err != nil {
		t.Fatal(err)
	}
	if n := h.one("SELECT count(*)::text FROM rendition"); n != "2" {
		t.Errorf("%s are kept: the picture and the list stand", n)
	}
	if left := h.undo(run); left != "publish_gone,publish_gone" {
		t.Errorf("undone, left %s", left)
	}
}

// Public addresses are given by channel, where an admin allows them, and taken back.
func TestAddresses(t *testing.T) {
	h := newHouse(t, 1)
	c := shop(0)
	c.List.Columns = append(c.List.Columns, channel.Column{Field: "address", Header: "address"})
	id := h.add(c)
	if err := h.OpenAddresses(ctx, id); err == nil {
		t.Fatal("no admin allowed them")
	}
	if err := h.SetHouse(ctx, h.person, House{Site: "https://pictures.example/", Addresses: true}); err != nil {
		t.Fatal(err)
	}
	address := func() string {
		t.Helper()
		if err := h.OpenAddresses(ctx, id); err != nil {
			t.Fatal(err)
		}
		if plan, _ := h.look(id); plan != 0 {
			h.run(plan)
		}
		var b bytes.Buffer
		if err := h.Package(ctx, id, &b); err != nil {
			t.Fatal(err)
		}
		_, line, _ := strings.Cut(b.String(), "https://pictures.example/r/")
		at, _, _ := strings.Cut(line, "\r\n")
		return at
	}
	first := address()
	if f, err := h.At(ctx, first); err != nil || f.Path != "K-1_01.jpg" || f.Bytes == 0 {
		t.Fatalf("at %q: %+v, %v", first, f, err)
	}
	second := address()
	other := []byte(second)
	other[len(other)-5] ^= 1
	for _, gone := range []string{first, string(other), "1", "", "1-", "x-y.jpg", "-1-abc", strings.Replace(second, "1", "2", 1)} {
		if f, err := h.At(ctx, gone); err == nil {
			t.Errorf("at %q is %+v", gone, f)
		}
	}
	if _, err := h.At(ctx, second); err != nil {
		t.Error(err)
	}
	if err := h.SetHouse(ctx, h.person, House{Addresses: false}); err != nil {
		t.Fatal(err)
	}
	if _, err := h.At(ctx, second); err == nil {
		t.Error("no admin allows them any more")
	}
	for _, bad := range []string{"javascript:alert(1)", "//x", "https://a:b@x.example", "pictures"} {
		if err := h.SetHouse(ctx, h.person, House{Site: bad}); err == nil {
			t.Errorf("%s was taken", bad)
		}
	}
}

// By the clock a channel is published to at once; what is held stays held.
func TestByTheClock(t *testing.T) {
	h := newHouse(t, 1)
	id := h.add(shop(0))
	h.exec("INSERT INTO rights (asset_id, may) VALUES ($1, 'internal')", h.assets[1])
	h.exec(`INSERT INTO schedule (what, subject, next_at, time_zone, each, minute, weekday) VALUES ('channel', $1, $2, 'UTC', 'day', 0, 0)`, id, time.Now().Add(-time.Hour))
	if err := h.due(ctx); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Jobs.Finished(ctx, Work, id); err != nil {
		t.Fatal(err)
	}
	var run int64
	if err := h.Store.Pool.QueryRow(ctx, "SELECT r.id FROM run r JOIN channel c ON c.plan_id = r.plan_id WHERE c.id = $1", id).Scan(&run); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Ledger.Finish(ctx, run); err != nil || h.left(run) != "rights_internal" {
		t.Errorf("left %s, %v", h.left(run), err)
	}
	var counts map[string]int
	if err := json.Unmarshal([]byte(h.one("SELECT counts::text FROM channel WHERE id = $1", id)), &counts); err != nil || counts["new"] != 3 || counts["held"] != 1 {
		t.Errorf("%v, %v", counts, err)
	}
}
