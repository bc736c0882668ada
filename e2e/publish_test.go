package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"image/color"
	"io/fs"
	"maps"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/killpoint"

	"github.com/chromedp/chromedp"
)

// placed loads so many products, K-001 on, and places a picture of its own on each.
func (p *program) placed(count int) {
	p.t.Helper()
	var table strings.Builder
	table.WriteString("sku,title\n")
	files := map[string][]byte{}
	for i := 1; i <= count; i++ {
		fmt.Fprintf(&table, "K-%03d,Kite %d\n", i, i)
		files[fmt.Sprintf("K-%03d.jpg", i)] = jpegOf(color.RGBA{uint8(i * 7), uint8(i * 13), 90, 255}, 240)
	}
	p.me.load(table.String())
	d := p.me.deliver("kites", files)
	var plan id
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", d.ID), map[string]string{"rule": "only_where_empty"}, &plan)
	if r := p.me.apply(plan.ID); r.Applied != count {
		p.t.Fatalf("%d are placed", r.Applied)
	}
}

// channel adds a channel to a drive, or a package where there is none, and returns its number.
func (p *program) channel(name string, source int64) int64 {
	p.t.Helper()
	says := map[string]any{"path": "{sku}_{number:00}", "folder": "out", "removes": true, "source": source, "renditions": []map[string]any{{"name": "web", "size": "120", "fit": "inside", "format": "jpeg"}},
		"list": map[string]any{"name": "list.csv", "columns": []map[string]string{{"field": "sku", "header": "sku"}, {"field": "file", "header": "file"}, {"field": "position", "header": "position"},
			{"field": "main", "header": "main"}, {"field": "alt", "header": "alt"}}}}
	if source == 0 {
		delete(says, "source")
	}
	var made id
	p.me.do("POST", "/api/channels", map[string]any{"name": name, "says": says}, &made)
	return made.ID
}

type channel struct {
	Busy   bool
	State  string
	Plan   int64
	Run    int64
	Files  int
	Counts map[string]int
}

// looked has what would go looked at.
func (p *program) looked(id int64) (c channel) {
	p.t.Helper()
	p.me.do("POST", fmt.Sprintf("/api/channels/%d/plan", id), nil, nil)
	await(p.t, time.Minute, "what would go", func() bool {
		c = channel{}
		p.me.do("GET", fmt.Sprintf("/api/channels/%d", id), nil, &c)
		return !c.Busy
	})
	if c.State != "done" {
		p.t.Fatalf("looking ended as %s", c.State)
	}
	return c
}

// set changes something in the database.
func (p *program) set(sql string) {
	p.t.Helper()
	conn := p.database()
	defer conn.Close(context.Background())
	if _, err := conn.Exec(context.Background(), sql); err != nil {
		p.t.Fatal(sql, err)
	}
}

// laid are the files below a folder.
func laid(t testing.TB, folder string) (all []string) {
	t.Helper()
	err := filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			below, _ := filepath.Rel(folder, path)
			all = append(all, below)
		}
		return err
	})
	if err != nil && !os.IsNotExist(err) {
		t.Fatal(err)
	}
	return all
}

// A channel to each kind of drive, written to servers that nobody here wrote: files come whole, again nothing is sent, a new name is a new name there,
// what is not wanted goes, and taken back all is as it was.
func TestPublishToDrives(t *testing.T) {
	folder := t.TempDir()
	addresses := servers(t, folder)
	addresses["local"] = addresses["file"]
	delete(addresses, "file")
	delete(addresses, "http") // it can't be written to
	if share := shared(t, folder); share != "" {
		addresses["smb"] = share
	}
	p := serve(t, onLoopback, "AMBROSA_FOLDERS="+folder)
	p.placed(6)
	for kind, address := range addresses {
		id := p.channel("to "+kind, p.source(kind, address))
		c := p.looked(id)
		if c.Counts["new"] != 7 {
			t.Fatalf("%s: %v", kind, c.Counts)
		}
		if r := p.me.apply(c.Plan); r.Applied != 7 {
			t.Fatalf("%s: %+v", kind, r)
		}
		if kind != "s3" {
			if got := laid(t, filepath.Join(folder, "out")); len(got) != 7 || got[0] != "K-001_01.jpg" || got[6] != "list.csv" {
				t.Errorf("%s: %q", kind, got)
			}
		}
		if c = p.looked(id); c.Counts["unchanged"] != 7 || c.Plan != 0 {
			t.Errorf("%s, again: %v", kind, c.Counts)
		}
		p.set("UPDATE owner SET sku = 'K-006b' WHERE sku = 'K-006'")
		p.set("UPDATE owner SET retired = true WHERE sku = 'K-005'")
		c = p.looked(id)
		if c.Counts["renamed"] != 1 || c.Counts["removed"] != 1 || c.Counts["changed"] != 1 {
			t.Errorf("%s, after changes: %v", kind, c.Counts)
		}
		r := p.me.apply(c.Plan)
		if again := p.looked(id); again.Plan != 0 || r.LeftAlone != 0 {
			t.Errorf("%s, after changes, again: %v, left %d", kind, again.Counts, r.LeftAlone)
		}
		var undo struct{ ID int64 }
		p.me.do("POST", fmt.Sprintf("/api/runs/%d/undo", r.ID), nil, &undo)
		if r := p.me.apply(undo.ID); r.LeftAlone != 0 {
			t.Errorf("%s: the undo left %d", kind, r.LeftAlone)
		}
		p.set("UPDATE owner SET sku = 'K-006' WHERE sku = 'K-006b'")
		p.set("UPDATE owner SET retired = false WHERE sku = 'K-005'")
		if again := p.looked(id); again.Plan != 0 {
			t.Errorf("%s, taken back: %v", kind, again.Counts)
		}
		if kind != "s3" {
			if err := os.RemoveAll(filepath.Join(folder, "out")); err != nil {
				t.Fatal(err)
			}
		}
	}
	t.Log("published over", slices.Sorted(maps.Keys(addresses)))
}

// The program is killed while it publishes: when pictures are made, when one was sent, and when some are in the ledger. It goes on by itself, and each
// file is there once and whole.
func TestPublishKilled(t *testing.T) {
	folder := t.TempDir()
	env := []string{onLoopback, "AMBROSA_FOLDERS=" + folder}
	p := serve(t, env...)
	p.placed(150)
	id := p.channel("killed", p.source("local", "file://"+folder))
	c := p.looked(id)
	for i, k := range []kill{{killpoint.RenditionsMade, 1}, {killpoint.FileSent, 40}, {killpoint.OutsideDone, 1}, {killpoint.ChunkWritten, 1}} {
		p.stop()
		p.env = append(slices.Clone(env), fmt.Sprintf("AMBROSA_KILL_AT=%s:%d", k.point, k.n))
		p.start("serve")
		if i == 0 {
			p.me.try("POST", fmt.Sprintf("/api/plans/%d/apply", c.Plan), nil, nil)
		}
		ended := make(chan error, 1)
		go func() { ended <- p.cmd.Wait() }()
		select {
		case <-ended:
		case <-time.After(time.Minute):
			t.Fatalf("it was never at %v", k)
		}
		for _, f := range laid(t, filepath.Join(folder, "out")) {
			if b, err := os.ReadFile(filepath.Join(folder, "out", f)); !strings.HasPrefix(f, ".ambrosa-") && (err != nil || !strings.HasSuffix(string(b), "\xff\xd9")) {
				t.Errorf("at %v half of %s stands there", k, f)
			}
		}
	}
	p.env = env
	p.start("serve")
	if r := p.me.finished(one[int64](p, "SELECT id FROM run WHERE plan_id = $1", c.Plan)); r.Applied != 151 || r.LeftAlone != 0 {
		t.Errorf("%+v", r)
	}
	if got := laid(t, filepath.Join(folder, "out")); len(got) != 151 {
		t.Errorf("%d files are there", len(got))
	}
	if c := p.looked(id); c.Plan != 0 {
		t.Errorf("again: %v", c.Counts)
	}
}

// A package comes in again through Gather and Tables, and nothing would change: its renditions are known as what they were made of.
func TestPackageComesBack(t *testing.T) {
	p := serve(t)
	p.placed(5)
	id := p.channel("package", 0)
	if r := p.me.apply(p.looked(id).Plan); r.Applied != 6 {
		t.Fatalf("%+v", r)
	}
	status, zip := p.me.try("GET", fmt.Sprintf("/api/channels/%d/package", id), nil, nil)
	if status != http.StatusOK || !strings.HasPrefix(zip, "PK") {
		t.Fatal(status)
	}
	before := one[int](p, "SELECT count(*) FROM asset")
	d := p.me.deliver("the package", map[string][]byte{"package.zip": []byte(zip)})
	if after := one[int](p, "SELECT count(*) FROM asset"); after != before {
		t.Errorf("%d pictures became %d", before, after)
	}
	var tables []struct {
		ID   int64
		Name string
	}
	p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/tables", d.ID), nil, &tables)
	list := slices.IndexFunc(tables, func(t struct {
		ID   int64
		Name string
	}) bool {
		return strings.HasSuffix(t.Name, "list.csv")
	})
	if list < 0 {
		t.Fatalf("the list is not among %+v", tables)
	}
	at := tables[list].ID
	await(t, time.Minute, "the table to be checked", func() bool {
		var w struct{ Checked bool }
		p.me.do("GET", fmt.Sprintf("/api/tables/%d", at), nil, &w)
		return w.Checked
	})
	status, text := p.me.try("POST", fmt.Sprintf("/api/tables/%d/plans", at), map[string]string{"rule": "whole_set"}, nil)
	if status != http.StatusConflict || !strings.Contains(text, "nothing_to_do") {
		var made struct{ ID int64 }
		_ = json.Unmarshal([]byte(text), &made)
		_, plan := p.me.try("GET", fmt.Sprintf("/api/plans/%d", made.ID), nil, nil)
		_, changes := p.me.try("GET", fmt.Sprintf("/api/plans/%d/changes?after=0", made.ID), nil, nil)
		t.Errorf("a plan is made of it: %d %s\n%s\n%s", status, text, plan, changes)
	}
}

// The command: a line a file, 0 where all went, 1 where some did not, 2 for no channel, no person or no drive.
func TestPublishCommand(t *testing.T) {
	folder := t.TempDir()
	env := []string{onLoopback, "AMBROSA_FOLDERS=" + folder}
	p := serve(t, env...)
	p.placed(3)
	p.channel("Shop", p.source("local", "file://"+folder))
	run := func(args ...string) (lines []map[string]any, complaints string, code int) {
		t.Helper()
		out, complaints, code := command(t, env, "", append([]string{"publish", "--data", p.data, "--as", adminName}, args...)...)
		for line := range strings.Lines(out) {
			var l map[string]any
			if err := json.Unmarshal([]byte(line), &l); err != nil {
				t.Fatalf("%q: %v", line, err)
			}
			if len(l) != 4 {
				t.Errorf("%q has not path, state, bytes and problem alone", line)
			}
			lines = append(lines, l)
		}
		return lines, complaints, code
	}
	text := func(lines []map[string]any) (all []string) {
		for _, l := range lines {
			all = append(all, fmt.Sprint(l["path"], " ", l["state"]))
		}
		return all
	}
	fresh := []string{"K-001_01.jpg new", "K-002_01.jpg new", "K-003_01.jpg new", "list.csv new"}
	lines, complaints, code := run("shop", "--dry-run")
	if code != 0 || !slices.Equal(text(lines), fresh) || lines[0]["bytes"] != nil || complaints != "" || len(laid(t, folder)) != 0 {
		t.Errorf("dry: %d, %q, %v, %s", code, text(lines), lines, complaints)
	}
	if lines, complaints, code = run("Shop"); code != 0 || !slices.Equal(text(lines), fresh) || lines[0]["bytes"] == nil || len(laid(t, folder)) != 4 {
		t.Errorf("%d, %q, %s", code, text(lines), complaints)
	}
	if lines, _, code = run("Shop"); code != 0 || len(lines) != 4 || lines[0]["state"] != "unchanged" {
		t.Errorf("again: %d, %q", code, text(lines))
	}
	p.set("UPDATE owner SET retired = true WHERE sku = 'K-003'")
	if err := os.WriteFile(filepath.Join(folder, "out", "K-003_01.jpg"), []byte("theirs"), 0o644); err != nil {
		t.Fatal(err)
	}
	lines, complaints, code = run("Shop")
	if code != 1 || strings.Count(strings.TrimSpace(complaints), "\n") != 0 || !strings.Contains(complaints, "K-003_01.jpg") || !slices.Contains(text(lines), "K-003_01.jpg removed") {
		t.Errorf("one that somebody changed: %d, %q, %s", code, text(lines), complaints)
	}
	for _, args := range [][]string{{"Nowhere"}, {"Shop", "--as", "nobody"}, {}} {
		if lines, complaints, code := run(args...); code != 2 || len(lines) > 0 || strings.TrimSpace(complaints) == "" {
			t.Errorf("%q: %d, %q, %q", args, code, lines, complaints)
		}
	}
	if err := os.Chmod(folder, 0o755); err != nil || os.RemoveAll(folder) != nil {
		t.Fatal(err)
	}
}

// TestPublishStation publishes as a person does: sees what would go, lets a held line go, publishes, and sees what stands there and the folder beside it;
// a public address answers with ranges.
func TestPublishStation(t *testing.T) {
	folder := t.TempDir()
	p := serve(t, onLoopback, "AMBROSA_FOLDERS="+folder)
	p.placed(3)
	p.set("INSERT INTO rights (asset_id, may, holder) SELECT p.asset_id, 'not_cleared', 'Fellside' FROM placement p JOIN owner o ON o.id = p.owner_id WHERE o.sku = 'K-001'")
	id := p.channel("Shop floor", p.source("local", "file://"+folder))
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/publish"))
	s.sees("Nobody looked yet")
	s.click("See what would go")
	s.sees("1 held")
	s.sees("K-002_01.jpg")
	s.do(chromedp.Click(chromedp.Search("//*[contains(@class, 'line')]//*[.='K-001_01.jpg']")))
	s.do(chromedp.SendKeys(chromedp.CSS(".release input"), "Fellside said yes by phone"))
	s.click("Release")
	s.until(`!document.querySelector('.release')`, "the line to be let go")
	s.click("Publish 4 files")
	s.sees("4 changes made")
	if got := laid(t, filepath.Join(folder, "out")); len(got) != 4 {
		t.Errorf("%q", got)
	}
	s.do(chromedp.Navigate(fmt.Sprintf("%s/publish?in=%d&show=there", p.url(), id)))
	s.sees("missing there")
	s.click("Look again")
	s.sees("as it was sent")
	s.do(chromedp.Navigate(fmt.Sprintf("%s/publish?in=%d&show=stands", p.url(), id)))
	s.sees("K-003_01.jpg")

	// Public addresses: an admin allows them, the list says them, and anybody can read them.
	p.me.do("PUT", "/api/house", map[string]any{"site": p.url(), "addresses": true}, nil)
	p.me.do("POST", fmt.Sprintf("/api/channels/%d/addresses", id), nil, nil)
	at := one[string](p, "SELECT '/r/' || id FROM channel_file WHERE path = 'K-002_01.jpg'")
	if status := head(t, p.url()+at+".jpg", nil).StatusCode; status != http.StatusNotFound {
		t.Errorf("an address that is guessed: %d", status)
	}
	var says map[string]any
	p.me.do("GET", fmt.Sprintf("/api/channels/%d", id), nil, &says)
	kept := says["says"].(map[string]any)
	list := kept["list"].(map[string]any)
	list["columns"] = append(list["columns"].([]any), map[string]string{"field": "address", "header": "address"})
	p.me.do("PUT", fmt.Sprintf("/api/channels/%d", id), map[string]any{"name": "Shop floor", "says": kept}, nil)
	p.me.apply(p.looked(id).Plan)
	b, err := os.ReadFile(filepath.Join(folder, "out", "list.csv"))
	if err != nil {
		t.Fatal(err)
	}
	_, line, _ := strings.Cut(string(b), "K-002_01.jpg")
	_, rest, _ := strings.Cut(line, "http://")
	address, _, _ := strings.Cut("http://"+rest, "\r\n")
	whole := head(t, address, nil)
	etag := whole.Header.Get("ETag")
	if whole.StatusCode != http.StatusOK || whole.Header.Get("Content-Type") != "image/jpeg" || etag == "" || !strings.Contains(whole.Header.Get("Cache-Control"), "public") {
		t.Errorf("%s: %d %v", address, whole.StatusCode, whole.Header)
	}
	if part := head(t, address, map[string]string{"Range": "bytes=0-9"}); part.StatusCode != http.StatusPartialContent || part.ContentLength != 10 {
		t.Errorf("a range: %d, %d bytes", part.StatusCode, part.ContentLength)
	}
	if same := head(t, address, map[string]string{"If-None-Match": etag}); same.StatusCode != http.StatusNotModified {
		t.Errorf("unchanged: %d", same.StatusCode)
	}
	p.me.do("DELETE", fmt.Sprintf("/api/channels/%d/addresses", id), nil, nil)
	if gone := head(t, address, nil); gone.StatusCode != http.StatusNotFound {
		t.Errorf("taken back: %d", gone.StatusCode)
	}
}

// head asks for an address with headers.
func head(t testing.TB, address string, header map[string]string) *http.Response {
	t.Helper()
	r, err := http.NewRequest(http.MethodGet, address, nil)
	if err != nil {
		t.Fatal(err)
	}
	for name, value := range header {
		r.Header.Set(name, value)
	}
	got, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	got.Body.Close()
	return got
}
