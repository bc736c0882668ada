package symbols

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ambrosa/core/symbol"
	"ambrosa/internal/assets"
)

var ctx = context.Background()

func TestMain(m *testing.M) {
	if len(os.Args) > 1 && os.Args[1] == Command {
		if err := Serve(bufio.NewReader(os.Stdin), os.Stdout); err != nil {
			os.Exit(1)
		}
		return
	}
	os.Exit(m.Run())
}

// needs skips a test where a program of Debian's is missing.
func needs(t testing.TB, programs ...string) {
	t.Helper()
	for _, p := range programs {
		if _, err := exec.LookPath(p); err != nil {
			t.Skip(p, "is missing")
		}
	}
}

// Codes of all kinds, as zint draws them, are read as zbarimg reads them, and Data Matrix as dmtxread does (all Debian's).
func TestKinds(t *testing.T) {
	needs(t, "zint", "zbarimg", "dmtxread")
	reader := &Reader{}
	defer reader.Close()
	r := rand.New(rand.NewPCG(1, 2))
	for kind, k := range kindsOfLabel {
		l := newLabel(t, r, kind)
		g := newGrey(l.bars.width*6+80, l.bars.height*6+80)
		for i := range g.levels {
			g.levels[i] = 255
		}
		s := stuck{label: l, x: float64(g.width) / 2, y: float64(g.height) / 2, module: 6, contrast: .9}
		g.stick(s)
		file := filepath.Join(t.TempDir(), "code.png")
		writePNG(t, file, g)
		found, err := InPicture(ctx, reader, assets.Source{File: file}, 1e8)
		if err != nil || len(found) != 1 || found[0].Format != k.format || found[0].Text != l.Text || found[0].GS1 != l.GS1 {
			t.Errorf("%s %q: %+v, %v", k.zint, l.Text, found, err)
			continue
		}
		if b := found[0].Box; b.X < 10 || b.Y < 10 || b.X+b.Width > g.width-10 || b.Width < l.bars.width*4 || b.Height < l.bars.height*4 {
			t.Errorf("%s stands at %+v of %d × %d", k.zint, b, g.width, g.height)
		}
		theirs := zbarimg(t, file)
		if k.format == symbol.DataMatrix {
			out, _ := exec.Command("dmtxread", "-N1", "-G29", file).Output()
			theirs = []string{strings.TrimPrefix(string(out), symbol.FNC1)}
		}
		if len(theirs) != 1 || strings.TrimPrefix(theirs[0], symbol.FNC1) != l.Text {
			t.Errorf("%s: others read %q, we %q", k.zint, theirs, l.Text)
		}
	}
}

// On made photographs at least as much is read as by zbarimg, and nothing that is not there; codes stand where they were stuck. AMBROSA_PROVE
// makes 500 instead of 20.
func TestScenes(t *testing.T) {
	needs(t, "zint", "zbarimg")
	n := 20
	if os.Getenv("AMBROSA_PROVE") != "" {
		n = 500
	}
	photos := photographs(t)
	all, ours, theirs := 0, 0, 0
	for i := range n {
		s := newScene(t, photos, i)
		file := filepath.Join(t.TempDir(), "scene.jpg")
		s.jpeg(t, file)
		found := read(s.seen)
		var texts []string
		for _, f := range found {
			texts = append(texts, f.Text)
			for _, l := range s.labels {
				at := l.box()
				if of := (symbol.Box{X: at.Min.X, Y: at.Min.Y, Width: at.Dx(), Height: at.Dy()}); l.Text == f.Text && !of.Overlaps(f.Box) {
					t.Errorf("%d: %s stands at %+v, not %+v", i, s.note, of, f.Box)
				}
			}
		}
		right, wrong := s.tally(texts)
		if wrong > 0 {
			t.Errorf("%d: %s: read %q, which is not there", i, s.note, texts)
		}
		zbar, _ := s.tally(zbarimg(t, file))
		all, ours, theirs = all+len(s.labels), ours+right, theirs+zbar
	}
	t.Logf("of %d codes %d were read; by zbarimg %d", all, ours, theirs)
	if ours < theirs || ours < all*3/4 {
		t.Errorf("of %d codes %d were read, by zbarimg %d", all, ours, theirs)
	}
}

// A process that dies of a picture costs that picture, and no other; one that is not what it says is refused.
func TestReaderDies(t *testing.T) {
	reader := &Reader{}
	defer reader.Close()
	blank := bytes.Repeat([]byte{200}, 100*100)
	if some, err := reader.Read(ctx, blank, 100, 100); err != nil || len(some) != 0 {
		t.Fatal(some, err)
	}
	if err := reader.idle[0].cmd.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	_, _ = reader.idle[0].cmd.Process.Wait()
	if _, err := reader.Read(ctx, blank, 100, 100); !errors.Is(err, ErrReader) {
		t.Errorf("read by a dead process: %v", err)
	}
	if some, err := reader.Read(ctx, blank, 100, 100); err != nil || len(some) != 0 {
		t.Errorf("after that: %v, %v", some, err)
	}
	if _, err := reader.Read(ctx, blank, 100, 99); !errors.Is(err, ErrReader) {
		t.Errorf("of another size: %v", err)
	}
	over, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := reader.Read(over, blank, 100, 100); !errors.Is(err, context.Canceled) {
		t.Errorf("stopped: %v", err)
	}
	for _, size := range []string{"\x00\x00\x00\x00\x00\x00\x00\x01", "\xff\xff\xff\xff\xff\xff\xff\xff"} {
		if err := Serve(strings.NewReader(size), &bytes.Buffer{}); !errors.Is(err, errSize) {
			t.Errorf("%q: %v", size, err)
		}
	}
}

// Tiny, striped and chequered pictures, of which much looks like bars, end soon and hold no code.
func TestNoCodes(t *testing.T) {
	for _, size := range [][2]int{{1, 1}, {7, 900}, {900, 7}, {9, 9}, {13, 40}, {1200, 900}} {
		for name, level := range map[string]func(x, y int) int{"stripes": func(x, _ int) int { return x / 3 % 2 }, "chequers": func(x, y int) int { return (x/4 + y/4) % 2 },
			"slanted": func(x, y int) int { return (x + y) / 5 % 2 }} {
			g := newGrey(size[0], size[1])
			for y := range g.height {
				for x := range g.width {
					g.row(y)[x] = byte(30 + 190*level(x, y))
				}
			}
			if found := read(g); len(found) > 0 {
				t.Errorf("%s of %v: %+v", name, size, found)
			}
		}
	}
}

// BenchmarkScenes reads 500 made photographs with 562 codes, and divides what is read by what zbarimg reads.
func BenchmarkScenes(b *testing.B) {
	needs(b, "zint", "zbarimg")
	photos := photographs(b)
	for b.Loop() {
		all, ours, wrong, theirs := 0, 0, 0, 0
		for i := range 500 {
			s := newScene(b, photos, i)
			file := filepath.Join(b.TempDir(), "scene.jpg")
			s.jpeg(b, file)
			var texts []string
			for _, f := range read(s.seen) {
				texts = append(texts, f.Text)
			}
			r, w := s.tally(texts)
			z, _ := s.tally(zbarimg(b, file))
			all, ours, wrong, theirs = all+len(s.labels), ours+r, wrong+w, theirs+z
		}
		b.ReportMetric(float64(all), "codes")
		b.ReportMetric(float64(ours), "read")
		b.ReportMetric(float64(wrong), "wrong")
		b.ReportMetric(float64(theirs), "zbarimg-read")
	}
}

// BenchmarkPicture reads photographs of four million pixels, decoding and all, one after the other.
func BenchmarkPicture(b *testing.B) {
	needs(b, "zint")
	reader := &Reader{}
	defer reader.Close()
	photos := photographs(b)
	var files []string
	for i := range 12 {
		s := newScene(b, photos, i)
		wide := newGrey(2312, 1734)
		for y := range wide.height {
			s.seen.sample(wide.row(y), 0, float64(y)*1199/1734, 1599./2312, 0)
		}
		s.seen = wide
		files = append(files, filepath.Join(b.TempDir(), fmt.Sprint(i, ".jpg")))
		s.jpeg(b, files[i])
	}
	n := 0
	for b.Loop() {
		for _, f := range files {
			if _, err := InPicture(ctx, reader, assets.Source{File: f}, 1e8); err != nil {
				b.Fatal(err)
			}
		}
		n += len(files)
	}
	b.ReportMetric(b.Elapsed().Seconds()/float64(n), "s/picture")
}
