package assets

import (
	"context"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ambrosa/core/checks"

	"golang.org/x/image/draw"
	"golang.org/x/image/vector"
)

// madePicture is a made-up picture with straight and round edges, text-like strokes and some grain.
func madePicture(r *rand.Rand, side int) *image.RGBA {
	m := image.NewRGBA(image.Rect(0, 0, side, side))
	tone := func() color.RGBA { return color.RGBA{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255} }
	draw.Draw(m, m.Bounds(), image.NewUniform(tone()), image.Point{}, draw.Src)
	fill := func(points [][2]float64) {
		x0, y0, x1, y1 := float64(side), float64(side), 0., 0.
		for _, p := range points {
			x0, y0, x1, y1 = min(x0, p[0]), min(y0, p[1]), max(x1, p[0]), max(y1, p[1])
		}
		box := image.Rect(int(x0), int(y0), int(x1)+1, int(y1)+1).Intersect(m.Bounds())
		if box.Empty() {
			return
		}
		raster := vector.NewRasterizer(box.Dx(), box.Dy())
		for i, p := range points {
			x, y := float32(p[0])-float32(box.Min.X), float32(p[1])-float32(box.Min.Y)
			if i == 0 {
				raster.MoveTo(x, y)
			} else {
				raster.LineTo(x, y)
			}
		}
		raster.ClosePath()
		raster.Draw(m, box, image.NewUniform(tone()), image.Point{})
	}
	at := func() float64 { return r.Float64() * float64(side) }
	for range 12 {
		fill([][2]float64{{at(), at()}, {at(), at()}, {at(), at()}, {at(), at()}})
	}
	for range 8 {
		x, y, radius := at(), at(), 20+r.Float64()*float64(side)/6
		var disc [][2]float64
		for i := range 90 {
			disc = append(disc, [2]float64{x + radius*math.Cos(float64(i)/90*2*math.Pi), y + radius*math.Sin(float64(i)/90*2*math.Pi)})
		}
		fill(disc)
	}
	for range 80 {
		x, y, turn, long := at(), at(), r.Float64()*math.Pi, 6+r.Float64()*40
		dx, dy := math.Cos(turn), math.Sin(turn)
		fill([][2]float64{{x, y}, {x + dx*long, y + dy*long}, {x + dx*long - dy*2.3, y + dy*long + dx*2.3}, {x - dy*2.3, y + dx*2.3}})
	}
	grain := r.IntN(8)
	for i := range m.Pix {
		if i%4 < 3 && grain > 0 {
			m.Pix[i] = uint8(max(0, min(255, int(m.Pix[i])+r.IntN(2*grain+1)-grain)))
		}
	}
	return m
}

func tool(t testing.TB, name string, args ...string) {
	t.Helper()
	if out, err := exec.Command(name, args...).CombinedOutput(); err != nil {
		t.Fatalf("%s %v: %v\n%s", name, args, err, out)
	}
}

// imageMagick is what Debian calls it; empty where it is not here.
func imageMagick() string {
	for _, name := range []string{"convert-im6.q16", "convert-im6"} {
		if _, err := exec.LookPath(name); err == nil {
			return name
		}
	}
	return ""
}

func lookedAt(t testing.TB, file string) checks.Facts {
	t.Helper()
	f, err := Look(context.Background(), Source{File: file}, 1e9)
	if err != nil {
		t.Fatalf("%s: %v", file, err)
	}
	return f
}

// Checked against enlargements by vips and ImageMagick with known factors, by four kernels each, saved as JPEG of 75 to 95; and against borders
// that were put around pictures. AMBROSA_PROVE makes 1,000 of each instead of 40, and says how many of Debian's wallpapers are taken for enlarged
// or padded.
func TestChecksTruth(t *testing.T) {
	many := 40
	if os.Getenv("AMBROSA_PROVE") != "" {
		many = 1000
	}
	magick := imageMagick()
	folder := t.TempDir()
	r := rand.New(rand.NewPCG(15, 15))
	start()
	enlarged, found, falseAlarms, near, asTheyAre := 0, 0, 0, 0, 0
	for n := range many {
		from, to := filepath.Join(folder, "from.png"), filepath.Join(folder, fmt.Sprintf("%d.jpg", n))
		quality := 75 + r.IntN(21)
		if n%2 == 0 {
			asTheyAre++
			writeJPEG(t, to, madePicture(r, 900), quality)
			if lookedAt(t, to).IsEnlarged() {
				falseAlarms++
			}
			continue
		}
		enlarged++
		scale := 1.5 + 2.5*r.Float64()
		writePNG(t, from, madePicture(r, int(900/scale)))
		kernel := r.IntN(4)
		if magick != "" && r.IntN(2) == 0 {
			tool(t, magick, from, "-filter", []string{"Triangle", "Catrom", "Mitchell", "Lanczos"}[kernel], "-resize", fmt.Sprintf("%.2f%%", scale*100), "-quality", fmt.Sprint(quality), to)
		} else {
			tool(t, "vips", "resize", from, fmt.Sprintf("%s[Q=%d]", to, quality), fmt.Sprint(scale), "--kernel", []string{"linear", "cubic", "mitchell", "lanczos3"}[kernel])
		}
		if f := lookedAt(t, to); f.IsEnlarged() {
			found++
			if ratio := float64(f.Width) / float64(f.TrueWidth) / scale; ratio > .75 && ratio < 1.33 {
				near++
			}
		}
	}
	share := func(n, of int) float64 { return 100 * float64(n) / float64(max(1, of)) }
	t.Logf("enlarged: %.1f %% of %d found, %.2f %% of %d false; factor within a third of the true one: %.0f %%", share(found, enlarged), enlarged, share(falseAlarms, asTheyAre), asTheyAre, share(near, found))
	if share(found, enlarged) < 95 || share(falseAlarms, asTheyAre) > 1 {
		t.Error("goals: 95 % found, 1 % false")
	}
	padded, right, wrong := 0, 0, 0
	for n := range many {
		file := filepath.Join(folder, "padded.jpg")
		inner, wide := madePicture(r, 500), 0
		if n%2 == 1 {
			padded++
			wide = 40 + r.IntN(200)
		}
		m := image.NewRGBA(image.Rect(0, 0, 500+2*wide, 500+2*wide))
		draw.Draw(m, m.Bounds(), image.NewUniform(color.RGBA{uint8(r.IntN(2) * 255), uint8(r.IntN(256)), 255, 255}), image.Point{}, draw.Src)
		draw.Draw(m, inner.Bounds().Add(image.Pt(wide, wide)), inner, image.Point{}, draw.Src)
		writeJPEG(t, file, m, 75+r.IntN(21))
		got := lookedAt(t, file).Padding
		switch {
		case wide == 0 && got.Widest() > 0:
			wrong++
		case wide > 0 && min(got.Left, got.Top, got.Right, got.Bottom) >= wide-2 && got.Widest() <= wide+2:
			right++
		}
	}
	t.Logf("padded: %.1f %% of %d found to 2 pixels, %.2f %% of %d false", share(right, padded), padded, share(wrong, many-padded), many-padded)
	if share(right, padded) < 97 || share(wrong, many-padded) > .5 {
		t.Error("goals: 99 % found, 0.5 % false")
	}
	if many == 1000 {
		wallpapers(t)
	}
}

// wallpapers says how many of the photographs and drawings that Debian's packages hold are called enlarged or padded. Nobody knows how they were
// made, so it is a figure and no test.
func wallpapers(t *testing.T) {
	all, enlarged, padded := 0, 0, 0
	known := map[string]bool{}
	for _, folder := range []string{"/usr/share/backgrounds", "/usr/share/wallpapers"} {
		_ = filepath.WalkDir(folder, func(file string, e os.DirEntry, err error) error {
			real, linkErr := filepath.EvalSymlinks(file)
			if err != nil || linkErr != nil || e.IsDir() || known[real] || !strings.Contains(".jpg.png.webp", strings.ToLower(filepath.Ext(real))) || filepath.Ext(real) == "" {
				return nil
			}
			known[real] = true
			f, err := Look(context.Background(), Source{File: real}, 1e9)
			if err != nil || f.Width < 1000 {
				return nil
			}
			all++
			if f.IsEnlarged() {
				enlarged++
			}
			if f.PaddedShare() > .1 {
				padded++
			}
			return nil
		})
	}
	t.Logf("of %d wallpapers %d are called enlarged, %d padded", all, enlarged, padded)
}

func writeJPEG(t testing.TB, file string, m image.Image, quality int) {
	t.Helper()
	f, err := os.Create(file)
	if err == nil {
		err = jpeg.Encode(f, m, &jpeg.Options{Quality: quality})
		f.Close()
	}
	if err != nil {
		t.Fatal(err)
	}
}

func writePNG(t testing.TB, file string, m image.Image) {
	t.Helper()
	f, err := os.Create(file)
	if err == nil {
		err = png.Encode(f, m)
		f.Close()
	}
	if err != nil {
		t.Fatal(err)
	}
}

// The names of profiles beside exiftool (Debian), on profiles of icc-profiles-free (Debian).
func TestProfileNames(t *testing.T) {
	files, _ := filepath.Glob("/usr/share/color/icc/*.icc")
	more, _ := filepath.Glob("/usr/share/color/icc/*/*.icc")
	files = append(files, more...)
	if _, err := exec.LookPath("exiftool"); err != nil || len(files) == 0 {
		t.Skip("exiftool or icc-profiles-free is not here")
	}
	for _, file := range files {
		icc, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command("exiftool", "-s3", "-ICC_Profile:ProfileDescription", file).Output()
		if err != nil {
			t.Fatal(err)
		}
		if want := strings.TrimSpace(string(out)); checks.ProfileName(icc) != want {
			t.Errorf("%s: %q, exiftool says %q", file, checks.ProfileName(icc), want)
		}
	}
	t.Logf("%d profiles", len(files))
}

// BenchmarkLook looks at a JPEG of four megapixels, on one core, with all that is read of it.
func BenchmarkLook(b *testing.B) {
	file := filepath.Join(b.TempDir(), "four.jpg")
	writeJPEG(b, file, madePicture(rand.New(rand.NewPCG(2, 2)), 2000), 88)
	bytes, err := os.ReadFile(file)
	if err != nil {
		b.Fatal(err)
	}
	start()
	for b.Loop() {
		begun := time.Now()
		for range 10 {
			if _, err := Look(context.Background(), Source{Bytes: bytes}, 1e9); err != nil {
				b.Fatal(err)
			}
		}
		b.ReportMetric(time.Since(begun).Seconds()/10, "s-a-picture")
	}
}
