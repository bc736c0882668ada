package publish

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"io/fs"
	"net/netip"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/channel"
	"ambrosa/core/rendition"
	"ambrosa/internal/assets"
	"ambrosa/internal/drive"
	"ambrosa/internal/fetch"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/asset"
	subject "ambrosa/internal/subject/channel"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/wording"
)

var ctx = context.Background()

func TestMain(m *testing.M) { storetest.Main(m) }

// house has products with pictures, and a drive.
type house struct {
	testing.TB
	*Publish
	person int64
	spec   drive.Spec // of the drive
	folder string     // where its files lie
	assets []int64
}

// OpenDrive opens the house's drive.
func (h *house) OpenDrive(ctx context.Context, _ int64) (*drive.Drive, error) {
	loopback := fetch.Door{Allow: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}}
	return drive.Open(ctx, h.spec, drive.Options{Door: &loopback})
}

// newHouse has so many products, K-1 on, in a category (1000), each with two pictures of its own.
func newHouse(t testing.TB, products int) *house {
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
	folder := t.TempDir()
	h := &house{TB: t, person: person, folder: folder, spec: drive.Spec{Kind: "local", Root: folder}}
	h.Publish = &Publish{Store: s, Jobs: j, Vault: vault, Drives: h, MaxPixels: 1e8, Usual: "http://here.example", Keeps: func(context.Context) (int, error) { return 30, nil }}
	h.Ledger = ledger.New(s, j, owner.Subject{}, pictures.Subject{}, asset.Subject{Store: s, Vault: vault}, subject.Subject{Sender: h.Publish}, subject.Subject{Sender: h.Publish, Lists: true})
	h.Wording = wording.New(s, h.Ledger)
	h.Register()
	h.exec(`INSERT INTO owner (id, kind, sku, identity, title, ordinal) VALUES (1000, 'category', '', NULL, 'Kites', 0)`)
	h.exec(`INSERT INTO source (name, kind, created_by) VALUES ('Shop', 'drive', $1)`, person)
	for i := 1; i <= products; i++ {
		h.exec(`INSERT INTO owner (id, kind, category, sku, identity, title, ordinal) VALUES ($1::int, 'product', 1000, $2::text, lower($2), 'Kite ' || $2, $1::int)`, i, fmt.Sprintf("K-%d", i))
		for n := range 2 {
			a := h.bring(i*10 + n)
			h.exec("INSERT INTO placement (owner_id, position, asset_id) VALUES ($1, $2, $3)", i, n+1, a)
		}
	}
	return h
}

// bring stores a made picture of 400 × 300 pixels.
func (h *house) bring(n int) (id int64) {
	h.Helper()
	m := image.NewRGBA(image.Rect(0, 0, 400, 300))
	for y := range 300 {
		for x := range 400 {
			m.Set(x, y, color.RGBA{uint8(n * 37), uint8(x * n / 7), uint8(y), 255})
		}
	}
	var b bytes.Buffer
	_ = jpeg.Encode(&b, m, nil)
	sum := sha256.Sum256(b.Bytes())
	src := assets.Source{Bytes: b.Bytes()}
	p, err := assets.Probe(ctx, src, 1e8)
	if err == nil {
		err = h.Vault.Put(ctx, sum[:], assets.Detect(b.Bytes()), src, p)
	}
	if err == nil {
		err = h.Store.Pool.QueryRow(ctx, `INSERT INTO asset (sha256, bytes, format, width, height) VALUES ($1, $2, 'JPEG', 400, 300) RETURNING id`, sum[:], b.Len()).Scan(&id)
	}
	if err != nil {
		h.Fatal(err)
	}
	h.assets = append(h.assets, id)
	return id
}

func (h *house) exec(sql string, args ...any) {
	h.Helper()
	if _, err := h.Store.Pool.Exec(ctx, sql, args...); err != nil {
		h.Fatalf("%s: %v", sql, err)
	}
}

func (h *house) one(sql string, args ...any) (text string) {
	h.Helper()
	if err := h.Store.Pool.QueryRow(ctx, sql, args...).Scan(&text); err != nil {
		h.Fatalf("%s: %v", sql, err)
	}
	return text
}

// shop is a channel of one size and a list.
func shop(source int64) channel.Channel {
	return channel.Channel{Source: source, Folder: "shop/pictures", Path: "{sku}_{number:00}", Removes: true, Renditions: []channel.Rendition{
		{Name: "large", Size: "200", Fit: rendition.Inside, Format: rendition.JPEG}},
		List: &channel.List{Name: "list.csv", Columns: []channel.Column{{Field: "sku", Header: "sku"}, {Field: "file", Header: "file"}, {Field: "position", Header: "position"}}}}
}

func (h *house) add(c channel.Channel) int64 {
	h.Helper()
	id, err := h.Add(ctx, h.person, Channel{Name: fmt.Sprint("Shop ", c.Source, c.Path), Channel: c})
	if err != nil {
		h.Fatal(err)
	}
	return id
}

// look makes a plan and returns it with what it counted; 0 where nothing would go.
func (h *house) look(id int64) (plan int64, counts string) {
	h.Helper()
	if err := h.Look(ctx, h.person, id, false); err != nil {
		h.Fatal(err)
	}
	job, err := h.Jobs.Finished(ctx, Work, id)
	if err != nil || job.State != string(jobs.Done) {
		h.Fatalf("%s %s: %v", job.State, job.Notes, err)
	}
	c, err := h.Store.ChannelByID(ctx, id)
	if err != nil {
		h.Fatal(err)
	}
	if c.PlanID != nil {
		plan = *c.PlanID
	}
	return plan, h.one("SELECT coalesce(string_agg(key || ' ' || value, ', ' ORDER BY key), '') FROM channel, jsonb_each_text(counts) WHERE id = $1", id)
}

// run applies a plan and returns its run, and why lines were left alone.
func (h *house) run(plan int64) (run int64, left string) {
	h.Helper()
	run, err := h.Ledger.Apply(ctx, plan, h.person)
	if err == nil {
		_, err = h.Ledger.Finish(ctx, run)
	}
	if err != nil {
		h.Fatal(err)
	}
	return run, h.left(run)
}

func (h *house) left(run int64) string {
	return h.one("SELECT coalesce(string_agg(code, ',' ORDER BY seq), '') FROM run_entry WHERE run_id = $1 AND code <> ''", run)
}

func (h *house) undo(run int64) (left string) {
	h.Helper()
	plan, err := h.Ledger.PlanUndo(ctx, run, h.person)
	if err != nil {
		h.Fatal(err)
	}
	_, left = h.run(plan)
	return left
}

// there are the files on the drive with what they hold.
func (h *house) there() string {
	h.Helper()
	var all []string
	err := filepath.WalkDir(h.folder, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(path)
		sum := sha256.Sum256(b)
		below, _ := filepath.Rel(h.folder, path)
		all = append(all, below+" "+hex.EncodeToString(sum[:4]))
		return err
	})
	if err != nil {
		h.Fatal(err)
	}
	slices.Sort(all)
	return strings.Join(all, "\n")
}

// names are the files without what they hold.
func names(there string) string {
	var all []string
	for line := range strings.Lines(there) {
		name, _, _ := strings.Cut(line, " ")
		all = append(all, name)
	}
	return strings.Join(all, " ")
}

func (h *house) file(name string) string {
	h.Helper()
	b, err := os.ReadFile(filepath.Join(h.folder, name))
	if err != nil {
		h.Fatal(err)
	}
	return string(b)
}
