package gather

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"os"
	"testing"

	"ambrosa/core/message"
	"ambrosa/internal/assets"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive/archivetest"
	"ambrosa/internal/jobs"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

func jpegOf(shade uint8, side int) string {
	m := image.NewGray(image.Rect(0, 0, side, side))
	for i := range m.Pix {
		m.Pix[i] = shade
	}
	m.Set(1, 1, color.White)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, m, nil); err != nil {
		panic(err)
	}
	return b.String()
}

// house is a gatherer with its own database and folders; asked counts what was asked of the queue.
func house(t *testing.T, limits source.Limits) (g *Gatherer, person int64, asked func() int) {
	t.Helper()
	s, person := storetest.New(t)
	v, err := assets.OpenVault(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { v.Close() })
	j, err := jobs.New(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	g = &Gatherer{Store: s, Jobs: j, Vault: v, Folder: t.TempDir(), Limits: limits}
	g.Register()
	return g, person, func() (n int) {
		if err := s.Pool.QueryRow(context.Background(), "SELECT count(*) FROM river_job").Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
}

// send puts files into a new delivery and closes it.
func send(t *testing.T, g *Gatherer, person int64, pairs ...string) int64 {
	t.Helper()
	ctx := context.Background()
	d, err := g.Begin(ctx, "test", person)
	if err != nil {
		t.Fatal(err)
	}
	for i := 0; i < len(pairs); i += 2 {
		id, err := g.Announce(ctx, d, person, pairs[i], int64(len(pairs[i+1])))
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(g.File(id), []byte(pairs[i+1]), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	if err := g.Close(ctx, d, false); err != nil {
		t.Fatal(err)
	}
	return d
}

func arrivals(t *testing.T, g *Gatherer, delivery int64) (lines map[string]query.ArrivalsRow, count int) {
	t.Helper()
	rows, err := g.Store.Arrivals(context.Background(), query.ArrivalsParams{Delivery: delivery})
	if err != nil {
		t.Fatal(err)
	}
	lines = map[string]query.ArrivalsRow{}
	for _, r := range rows {
		lines[r.Path] = r
	}
	return lines, len(rows)
}

func TestTakeIn(t *testing.T) {
	limits := source.DefaultLimits
	limits.Pixels = 400 * 400
	g, person, asked := house(t, limits)
	whole := jpegOf(90, 300)
	archive := string(archivetest.Zip(t, zip.Store,
		"K7-1.jpg", whole, "deep/K7-2.jpg", jpegOf(10, 300), "K7-3.png", jpegOf(11, 300), "twin.jpg", whole,
		"cut.jpg", whole[:len(whole)/2], "words.jpg", "these are words", "none.jpg", "", "../climb.jpg", whole,
		"__MACOSX/._K7-1.jpg", "\x00\x05", "vast.jpg", jpegOf(3, 500), "inner.zip", string(archivetest.Zip(t, zip.Store, "x", "y")), "nameless", jpegOf(12, 50)))
	d := send(t, g, person, "a.zip", archive, "loose/K8.jpg", jpegOf(200, 40))
	if asked() != 1 {
		t.Fatalf("closing asked the queue %d times", asked())
	}
	if err := g.TakeIn(context.Background(), d); err != nil {
		t.Fatal(err)
	}
	lines, count := arrivals(t, g, d)
	for path, want := range map[string]source.Fault{
		"K7-1.jpg": "", "deep/K7-2.jpg": "", "K7-3.png": source.TypeDiffers, "twin.jpg": "", "cut.jpg": source.Damaged, "words.jpg": source.NotPicture,
		"none.jpg": source.Empty, "../climb.jpg": source.UnsafePath, "__MACOSX/._K7-1.jpg": source.Litter, "vast.jpg": source.TooLarge, "inner.zip": source.NotPicture,
		"nameless": source.TypeDiffers, "loose/K8.jpg": "",
	} {
		l, ok := lines[path]
		if !ok || source.Fault(l.Problem) != want || (want != "") != (text(l.Message) != "") {
			t.Errorf("%s: %q (%s), want %q", path, l.Problem, text(l.Message), want)
		}
		if usable := want == "" || want == source.TypeDiffers; usable != (l.AssetID != nil) {
			t.Errorf("%s: its picture is %v", path, l.AssetID)
		}
	}
	if count != 13 {
		t.Errorf("%d lines, want 13", count)
	}
	if a, b := lines["K7-1.jpg"], lines["twin.jpg"]; *a.AssetID != *b.AssetID || a.SeenBefore || !b.SeenBefore {
		t.Errorf("the twin is not known for one: %+v %+v", a, b)
	}
	left, err := os.ReadDir(g.Folder)
	if err != nil || len(left) != 0 {
		t.Errorf("uploads left behind: %v, %v", left, err)
	}
	// The same again, as another kind of archive: stored once, said so.
	again := send(t, g, person, "a.zip", archive)
	if err := g.TakeIn(context.Background(), again); err != nil {
		t.Fatal(err)
	}
	if lines, _ := arrivals(t, g, again); !lines["deep/K7-2.jpg"].SeenBefore {
		t.Error("a picture that came a second time is not said to be seen before")
	}
	rows, err := g.Store.Deliveries(context.Background(), query.DeliveriesParams{ID: &again})
	if err != nil || rows[0].State != "ready" || len(texts(rows[0].Notes)) == 0 {
		t.Errorf("the same archive again: %+v, %v", rows, err)
	}
}

func TestTakeInTar(t *testing.T) {
	g, person, _ := house(t, source.DefaultLimits)
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	w := tar.NewWriter(z)
	for i := range 130 { // more than two batches
		content := jpegOf(uint8(i), 64)
		if err := w.WriteHeader(&tar.Header{Name: fmt.Sprintf("d/K-%d.jpg", i), Size: int64(len(content)), Mode: 0o600}); err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(content)); err != nil {
			t.Fatal(err)
		}
	}
	if err := errors.Join(w.WriteHeader(&tar.Header{Name: "link", Linkname: "/etc/passwd", Typeflag: tar.TypeSymlink}), w.Close(), z.Close()); err != nil {
		t.Fatal(err)
	}
	whole := send(t, g, person, "all.tar.gz", b.String())
	cut := send(t, g, person, "cut.tgz", b.String()[:b.Len()/2])
	for _, d := range []int64{whole, cut} {
		if err := g.TakeIn(context.Background(), d); err != nil {
			t.Fatal(err)
		}
	}
	if lines, n := arrivals(t, g, whole); n != 131 || source.Fault(lines["link"].Problem) != source.UnsafePath || lines["d/K-129.jpg"].AssetID == nil {
		t.Errorf("%d lines, the link is %q", n, lines["link"].Problem)
	}
	if lines, n := arrivals(t, g, cut); n < 30 || n > 129 || source.Fault(lines["cut.tgz"].Problem) != source.Damaged {
		t.Errorf("cut off: %d lines, the archive is %q", n, lines["cut.tgz"].Problem)
	}
}

// A taking in that is ended after any batch goes on where it was, and nothing comes twice.
func TestTakeInGoesOn(t *testing.T) {
	g, person, _ := house(t, source.DefaultLimits)
	pairs := []string{}
	for i := range 200 {
		pairs = append(pairs, fmt.Sprintf("K-%03d.jpg", i), jpegOf(uint8(i), 33))
	}
	d := send(t, g, person, "a.zip", string(archivetest.Zip(t, zip.Store, pairs...)))
	last := -1
	for range 50 {
		ctx, cancel := context.WithCancel(context.Background())
		follower, leave := g.Store.Follow()
		go func() {
			for words := 0; words < 2; { // the word at its beginning, and that of one batch
				select {
				case <-follower.Wake:
					for _, n := range follower.Take() {
						if n.Kind() == "delivery" {
							words++
						}
					}
				case <-ctx.Done():
					return
				}
			}
			cancel()
		}()
		err := g.TakeIn(ctx, d)
		cancel()
		leave()
		_, count := arrivals(t, g, d)
		if count < last {
			t.Fatalf("%d lines after %d", count, last)
		}
		if last = count; err == nil {
			break
		}
	}
	lines, count := arrivals(t, g, d)
	if count != 200 || len(lines) != 200 {
		t.Fatalf("%d lines with %d names", count, len(lines))
	}
	for path, l := range lines {
		if l.AssetID == nil || l.SeenBefore {
			t.Errorf("%s: %+v", path, l)
		}
	}
}

func TestClose(t *testing.T) {
	ctx := context.Background()
	g, person, _ := house(t, source.DefaultLimits)
	d, err := g.Begin(ctx, "half", person)
	if err != nil {
		t.Fatal(err)
	}
	if err := g.Close(ctx, d, true); !errors.Is(err, ErrNothing) {
		t.Errorf("closing an empty delivery: %v", err)
	}
	a, _ := g.Announce(ctx, d, person, "a.jpg", 3)
	if _, err := g.Announce(ctx, d, person, "b.jpg", 5); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(g.File(a), []byte("abc"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := g.Close(ctx, d, false); !errors.Is(err, ErrMissing) {
		t.Errorf("closing with a file on its way: %v", err)
	}
	if err := g.Close(ctx, d, true); err != nil {
		t.Error(err)
	}
	if _, err := g.Announce(ctx, d, person, "late.jpg", 1); !errors.Is(err, ErrNotOpen) {
		t.Errorf("a file for a closed delivery: %v", err)
	}
	if uploads, _ := g.Store.Uploads(ctx, d); len(uploads) != 1 {
		t.Errorf("%d uploads are left, want the one that came in full", len(uploads))
	}
}

// text is what an arrival's message says; empty where it has none.
func text(kept json.RawMessage) string {
	var m message.Message
	_ = json.Unmarshal(kept, &m)
	return m.Text()
}

// texts is what a delivery's notes say.
func texts(kept json.RawMessage) string {
	var notes []message.Message
	_ = json.Unmarshal(kept, &notes)
	return message.Texts(notes)
}
