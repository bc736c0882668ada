package sources

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"net/netip"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/rights"
	"ambrosa/internal/assets"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/seal"
	"ambrosa/internal/standin"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/wording"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// house is all that sources need, with a supplier's drive on loopback whose files are in folder.
type house struct {
	*Sources
	t      *testing.T
	person int64
	folder string
	at     string // of the drive
}

const host = "drive.tarn.example"

func newHouse(t *testing.T) *house {
	t.Helper()
	ctx := t.Context()
	s, person := storetest.New(t)
	vault, err := assets.OpenVault(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { vault.Close() })
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	keeper, err := seal.New("", filepath.Join(t.TempDir(), "key"))
	if err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	at, err := standin.WebDAV(ctx, folder, "mo", "hush-zzq")
	if err != nil {
		t.Fatal(err)
	}
	door := &fetch.Door{Hosts: map[string]string{host: at}}
	g := &gather.Gatherer{Store: s, Jobs: j, Vault: vault, Folder: t.TempDir(), Limits: source.DefaultLimits}
	g.Register()
	book := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	wording.New(s, book)
	all := &Sources{Store: s, Jobs: j, Gatherer: g, Ledger: book, Keeper: keeper, Door: door,
		Fetch: fetch.New(door, fetch.DefaultLimits), Drops: t.TempDir()}
	all.Register()
	g.Kinds, g.Finished = all.Openers(), all.Arrived
	h := &house{all, t, person, folder, at}
	h.must(s.AddDriveHost(ctx, query.AddDriveHostParams{Kind: "webdav", Host: host, AddedBy: person}))
	return h
}

func (h *house) must(err error) {
	h.t.Helper()
	if err != nil {
		h.t.Fatal(err)
	}
}

func (h *house) by() Asker { return Asker{Person: h.person} }

// drive names a source of the supplier's drive.
func (h *house) onDrive(change func(*Source)) int64 {
	h.t.Helper()
	of := Source{Name: fmt.Sprint("drive ", time.Now().UnixNano()), Kind: Drive, Supplier: "Tarn", Secrets: map[string]string{"pass": "hush-zzq"},
		Settings: Settings{Protocol: "webdav", Values: map[string]string{"url": "http://" + host + "/", "user": "mo"}}}
	if change != nil {
		change(&of)
	}
	id, err := h.Add(h.t.Context(), h.by(), of)
	h.must(err)
	return id
}

// put lays a picture on the drive; shade tells them apart.
func (h *house) put(path string, shade uint8, side int) {
	h.t.Helper()
	at := filepath.Join(h.folder, filepath.FromSlash(path))
	h.must(os.MkdirAll(filepath.Dir(at), 0o755))
	h.must(os.WriteFile(at, jpegOf(shade, side), 0o644))
}

func jpegOf(shade uint8, side int) []byte {
	m := image.NewGray(image.Rect(0, 0, side, side))
	for i := range m.Pix {
		m.Pix[i] = shade
	}
	m.Set(1, 1, color.White)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, m, nil); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// visit collects to the end, and returns what the visit found.
func (h *house) visit(id int64, chosen ...string) query.VisitsRow {
	h.t.Helper()
	ctx := h.t.Context()
	delivery, err := h.Collect(ctx, h.person, id, chosen)
	h.must(err)
	_, err = h.Jobs.Finished(ctx, gather.Work, delivery)
	h.must(err)
	return h.visited(id)
}

func (h *house) visited(id int64) query.VisitsRow {
	h.t.Helper()
	rows, err := h.Store.Visits(h.t.Context(), query.VisitsParams{Source: &id, Most: 1})
	h.must(err)
	return rows[0]
}

// files are what a visit says of files, as "what path".
func (h *house) files(delivery int64) (all []string) {
	h.t.Helper()
	rows, err := h.Store.VisitFiles(h.t.Context(), query.VisitFilesParams{Delivery: delivery, Most: 1000})
	h.must(err)
	for _, r := range rows {
		all = append(all, strings.TrimSpace(fmt.Sprint(r.What, " ", r.Path, " ", r.BeforePath)))
	}
	slices.Sort(all)
	return all
}

func same(t *testing.T, what string, got, want []string) {
	t.Helper()
	if !slices.Equal(got, want) {
		t.Errorf("%s: %q, want %q", what, got, want)
	}
}

// A second visit takes what is new or changed; what is gone and what has another name is told. A picture that was replaced at the source is put
// in the place of the former one by a plan.
func TestVisits(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	h.put("a/one.jpg", 10, 40)
	h.put("a/b/two.jpg", 20, 40)
	h.put("three.jpg", 30, 40)
	h.put("four.jpg", 40, 40)
	h.must(os.WriteFile(filepath.Join(h.folder, "read me.txt"), []byte("hello"), 0o644))
	id := h.onDrive(nil)

	v := h.visit(id)
	if v.State != "ready" || v.Found != 5 || v.Fresh != 5 || v.Pictures != 4 || v.Lines != 5 {
		t.Fatalf("first visit: %+v", v)
	}
	v = h.visit(id)
	if v.State != "ready" || v.Found != 5 || v.Same != 5 || v.Lines != 0 || v.Fresh+v.Changed+v.Gone+v.Renamed != 0 {
		t.Errorf("nothing is new, but: %+v", v)
	}

	asset := func(shade uint8, side int) (id int64) {
		t.Helper()
		h.must(h.Store.Pool.QueryRow(ctx, "SELECT s.id FROM asset s JOIN arrival a ON a.asset_id = s.id WHERE s.width = $1 AND a.bytes = $2 LIMIT 1", side, len(jpegOf(shade, side))).Scan(&id))
		return id
	}
	old := asset(10, 40)
	_, err := h.Store.Pool.Exec(ctx, "INSERT INTO owner (id, kind, sku, title, identity) VALUES (1, 'product', 'K1', 'Kite', 'sku:K1')")
	h.must(err)
	_, err = h.Store.Pool.Exec(ctx, "INSERT INTO placement (owner_id, position, asset_id) SELECT 1, 1, s.id FROM asset s JOIN arrival a ON a.asset_id = s.id WHERE a.path = 'a/one.jpg'")
	h.must(err)
	h.must(h.Store.Pool.QueryRow(ctx, "SELECT asset_id FROM placement WHERE owner_id = 1").Scan(&old))

	h.put("a/one.jpg", 11, 80)
	h.must(os.Remove(filepath.Join(h.folder, "four.jpg")))
	h.must(os.Rename(filepath.Join(h.folder, "three.jpg"), filepath.Join(h.folder, "a", "drei.jpg")))
	h.put("five.jpg", 50, 40)
	h.must(os.Chtimes(filepath.Join(h.folder, "a", "b", "two.jpg"), time.Now(), time.Now().Add(time.Hour))) // touched, and the same
	v = h.visit(id)
	same(t, "third visit", h.files(v.ID), []string{"changed a/one.jpg", "gone four.jpg", "new five.jpg", "renamed a/drei.jpg three.jpg"})
	if v.Fresh != 1 || v.Changed != 1 || v.Renamed != 1 || v.Gone != 1 || v.Same != 2 || v.Found != 5 {
		t.Errorf("third visit: %+v", v)
	}

	plan, err := h.Renew(ctx, h.person, v.ID, nil)
	h.must(err)
	run, err := h.Ledger.Apply(ctx, plan, h.person)
	h.must(err)
	_, err = h.Ledger.Finish(ctx, run)
	h.must(err)
	var now int64
	h.must(h.Store.Pool.QueryRow(ctx, "SELECT asset_id FROM placement WHERE owner_id = 1").Scan(&now))
	if now == old {
		t.Error("the owner shows the former picture still")
	}
	if _, err := h.Renew(ctx, h.person, v.ID, nil); !errors.Is(err, ledger.ErrNothingToDo) {
		t.Error("renewed twice:", err)
	}
	if v = h.visit(id); v.Lines != 0 || v.Same != 5 {
		t.Errorf("fourth visit: %+v", v)
	}
}

// Of a drive only some folders and files may be collected, filters leave files where they are, and what was not looked at is not gone.
func TestChosen(t *testing.T) {
	h := newHouse(t)
	for i, path := range []string{"a/1.jpg", "a/deep/2.jpg", "b/3.jpg", "b/4.png", "5.jpg", "b/small.jpg"} {
		h.put(path, uint8(i*20), 40+i)
	}
	h.put("b/small.jpg", 200, 12)
	id := h.onDrive(func(s *Source) { s.Filters = Filters{Types: []string{"jpg"}, Least: 20} })
	same(t, "a folder and a file", h.files(h.visit(id, "a/", "5.jpg").ID), []string{"new 5.jpg", "new a/1.jpg", "new a/deep/2.jpg"})
	v := h.visit(id)
	same(t, "the rest", h.files(v.ID), []string{"new b/3.jpg", "new b/small.jpg"})
	if v.Pictures != 1 || v.Problems != 1 {
		t.Errorf("a picture that is too small came: %+v", v)
	}
	h.must(os.RemoveAll(filepath.Join(h.folder, "a")))
	same(t, "another folder", h.files(h.visit(id, "b/").ID), nil)
	same(t, "a folder that went", h.files(h.visit(id, "a/").ID), nil)
	same(t, "all", h.files(h.visit(id).ID), []string{"gone a/1.jpg", "gone a/deep/2.jpg"})
}

// A visit that is ended at any file goes on there; no file is fetched twice but those in hand, and a source that is being visited is not
// visited twice.
func TestVisitStops(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	for i := range 120 {
		h.put(fmt.Sprintf("%03d.jpg", i), uint8(i*2), 30)
	}
	id := h.onDrive(nil)
	delivery, err := h.Collect(ctx, h.person, id, nil)
	h.must(err)
	if _, err := h.Collect(ctx, h.person, id, nil); !errors.Is(err, ErrBusy) {
		t.Error("visited twice at once:", err)
	}
	short, cancel := context.WithCancel(ctx)
	go func() { // as a kill would, in the middle
		defer cancel()
		for short.Err() == nil {
			if n, err := h.Store.CountArrivals(ctx, delivery); err != nil || n > 0 {
				return
			}
			time.Sleep(time.Millisecond)
		}
	}()
	_ = h.Jobs.Do(short, gather.Work, delivery)
	n, err := h.Store.CountArrivals(ctx, delivery)
	h.must(err)
	if n == 0 || n == 120 {
		t.Logf("ended with %d lines, which proves less", n)
	}
	_, err = h.Jobs.Finished(ctx, gather.Work, delivery)
	h.must(err)
	if v := h.visited(id); v.Lines != 120 || v.Fresh != 120 || v.State != "ready" {
		t.Errorf("went on: %+v", v)
	}

	h.put("000.jpg", 255, 31)
	delivery, err = h.Collect(ctx, h.person, id, nil)
	h.must(err)
	h.must(h.Remove(ctx, h.by(), id))
	job, err := h.Jobs.Finished(ctx, gather.Work, delivery)
	if err == nil && job.State != "failed" && job.State != "stopped" {
		t.Error("a source that was removed is visited:", job.State)
	}
}

// Secrets are kept sealed, and no error tells them; a drive at a host that nobody allowed is refused, and a folder of the server too.
func TestRefused(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	id := h.onDrive(func(s *Source) { s.Secrets = map[string]string{"pass": "wrong-zzq"} })
	var kept []byte
	h.must(h.Store.Pool.QueryRow(ctx, "SELECT secrets FROM source WHERE id = $1", id).Scan(&kept))
	if bytes.Contains(kept, []byte("zzq")) {
		t.Error("the secret lies in the database as it is")
	}
	tried, err := h.Try(ctx, id)
	if err != nil || len(tried.Missing) != 1 || tried.Missing[0].Code != "drive_sign_in" || strings.Contains(tried.Missing[0].Text(), "zzq") {
		t.Errorf("%+v, %v", tried, err)
	}
	h.must(h.Set(ctx, h.by(), id, Source{Name: "drive", Kind: Drive, Secrets: map[string]string{"pass": "hush-zzq"},
		Settings: Settings{Protocol: "webdav", Values: map[string]string{"url": "http://" + host + "/", "user": "mo"}}}))
	h.put("a/1.jpg", 1, 30)
	if tried, err = h.Try(ctx, id); err != nil || len(tried.Missing) != 0 || tried.Files != 1 || tried.Pictures != 1 || !tried.Whole {
		t.Errorf("%+v, %v", tried, err)
	}
	for name, c := range map[string]struct {
		of   Source
		want error
	}{
		"another host":     {Source{Settings: Settings{Protocol: "webdav", Values: map[string]string{"url": "http://" + h.at + "/"}}}, ErrHost},
		"another protocol": {Source{Settings: Settings{Protocol: "sftp", Values: map[string]string{"host": host}}}, ErrHost},
		"a folder":         {Source{Settings: Settings{Protocol: "local", Folder: "/etc"}}, ErrFolder},
		"an unsafe field":  {Source{Settings: Settings{Protocol: "webdav", Values: map[string]string{"url": "http://" + host, "bearer_token_command": "id"}}}, ErrSettings},
		"a missing field":  {Source{Settings: Settings{Protocol: "webdav"}}, ErrSettings},
		"no protocol":      {Source{Settings: Settings{Protocol: "gopher"}}, ErrSettings},
		"no rights":        {Source{Kind: Upload, Rights: rights.Rights{May: "maybe"}}, ErrSettings},
		"no day":           {Source{Kind: Upload, Rights: rights.Rights{May: rights.Cleared, Until: "soon"}}, ErrSettings},
		"no name":          {Source{Kind: Upload, Name: " "}, ErrSettings},
		"a taken name":     {Source{Kind: Upload, Name: "DRIVE"}, ErrName},
	} {
		if c.of.Name == "" {
			c.of.Name = name
		}
		if c.of.Kind == "" {
			c.of.Kind = Drive
		}
		if _, err := h.Add(ctx, h.by(), c.of); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
	}
	if err := h.Remove(ctx, Asker{Person: h.person + 1}, id); !errors.Is(err, ErrNotMine) {
		t.Error("somebody else removed it:", err)
	}
	// Loopback needs the operator's leave, even at a host that an admin named.
	h.must(h.Store.AddDriveHost(ctx, query.AddDriveHostParams{Kind: "webdav", Host: "127.0.0.1", AddedBy: h.person}))
	local, err := h.Add(ctx, h.by(), Source{Name: "loopback", Kind: Drive, Secrets: map[string]string{"pass": "hush-zzq"},
		Settings: Settings{Protocol: "webdav", Values: map[string]string{"url": "http://" + h.at + "/", "user": "mo"}}})
	h.must(err)
	if tried, err = h.Try(ctx, local); err != nil || len(tried.Missing) != 1 || tried.Missing[0].Code != "drive_refused" {
		t.Errorf("%+v, %v", tried, err)
	}
	h.Door.Allow = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
	if tried, err = h.Try(ctx, local); err != nil || tried.Files != 1 {
		t.Errorf("with leave: %+v, %v", tried, err)
	}
}

// The strictest rights of all that a picture came by hold, until an admin says otherwise: a plan that would place a picture that may not be
// used holds that line.
func TestRights(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	h.put("one.jpg", 10, 40)
	cleared := h.onDrive(func(s *Source) { s.Rights = rights.Rights{May: rights.Cleared, Holder: "Tarn"} })
	not := h.onDrive(func(s *Source) { s.Rights = rights.Rights{May: rights.NotCleared, Holder: "Fellside"} })
	h.visit(cleared)
	var asset int64
	var sha []byte
	h.must(h.Store.Pool.QueryRow(ctx, "SELECT id, sha256 FROM asset").Scan(&asset, &sha))
	_, err := h.Store.Pool.Exec(ctx, "INSERT INTO owner (id, kind, sku, title, identity) VALUES (1, 'product', 'K1', 'Kite', 'sku:K1')")
	h.must(err)
	held := func() (code string) {
		t.Helper()
		plan, err := h.Ledger.Keep(ctx, ledger.Draft{Kind: "order", Title: "t", Person: h.person},
			[]change.Change{placement.Change(1, nil, []placement.Picture{{Asset: asset}})})
		h.must(err)
		rows, err := h.Store.PlanChanges(ctx, query.PlanChangesParams{PlanID: plan, Most: 10})
		h.must(err)
		return rows[0].Held
	}
	if code := held(); code != "" {
		t.Error("cleared, and held by", code)
	}
	h.visit(not)
	if code := held(); code != "rights_not_cleared" {
		t.Error("not cleared by the second source:", code)
	}
	h.must(h.SetRights(ctx, h.person, sha, rights.Rights{May: rights.Cleared, Until: "2020-01-01"}))
	if code := held(); code != "rights_ended" {
		t.Error("ended:", code)
	}
	h.must(h.SetRights(ctx, h.person, sha, rights.Rights{May: rights.Internal}))
	if code := held(); code != "" {
		t.Error("internal pictures may be placed:", code)
	}
}

// A drive beside all pictures: what is the same, what differs, what is here under another name, and what is only there or only here.
func TestReconcile(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	h.put("same.jpg", 10, 40)
	h.put("old/differs.jpg", 20, 41)
	h.put("gone.jpg", 30, 42)
	h.put("named.jpg", 50, 77)
	id := h.onDrive(nil)
	h.visit(id)
	h.must(os.Remove(filepath.Join(h.folder, "gone.jpg")))
	h.put("old/differs.jpg", 21, 90)
	h.put("new.jpg", 60, 123)
	h.must(os.Rename(filepath.Join(h.folder, "named.jpg"), filepath.Join(h.folder, "another.jpg")))
	h.must(os.WriteFile(filepath.Join(h.folder, "list.txt"), []byte("no picture"), 0o644))
	reconciled := func() (all []string) {
		t.Helper()
		h.must(h.Reconcile(ctx, h.person, id))
		_, err := h.Jobs.Finished(ctx, Reconciling, id)
		h.must(err)
		rows, err := h.Store.Reconciled(ctx, query.ReconciledParams{Source: id, Most: 100})
		h.must(err)
		for _, r := range rows {
			all = append(all, r.What+" "+r.Path)
		}
		slices.Sort(all)
		return all
	}
	want := []string{"differs old/differs.jpg", "elsewhere another.jpg", "only_here gone.jpg", "only_there new.jpg", "same same.jpg"}
	same(t, "beside", reconciled(), want)
	same(t, "again", reconciled(), want)
	h.must(h.Ignore(ctx, id, []string{itemOf("new.jpg")}, true))
	v := h.visit(id)
	same(t, "but what is ignored", h.files(v.ID), []string{"changed old/differs.jpg", "gone gone.jpg", "new list.txt", "renamed another.jpg named.jpg"})
	h.must(h.Ignore(ctx, id, []string{itemOf("new.jpg")}, false))
	same(t, "and again", h.files(h.visit(id).ID), []string{"new new.jpg"})
}
