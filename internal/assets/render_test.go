package assets

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ambrosa/core/rendition"

	_ "golang.org/x/image/webp"
)

func bigPNG(t testing.TB, m image.Image) Source {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, m); err != nil {
		t.Fatal(err)
	}
	return Source{Bytes: b.Bytes()}
}

// Each format is what it says, in size and pixels; many are made of one decoding, and none is enlarged.
func TestRender(t *testing.T) {
	src := bigPNG(t, madePicture(rand.New(rand.NewPCG(16, 16)), 900).SubImage(image.Rect(0, 0, 900, 600)))
	wish := func(w, h int, fit rendition.Fit, format rendition.Format) rendition.Wish {
		return rendition.Wish{Width: w, Height: h, Fit: fit, Format: format}
	}
	var wishes []rendition.Wish
	for _, format := range rendition.Formats {
		wishes = append(wishes, wish(300, 300, rendition.Inside, format), wish(200, 200, rendition.Crop, format), wish(400, 400, rendition.Pad, format), wish(5000, 5000, rendition.Inside, format))
	}
	made, err := Render(context.Background(), src, rendition.Size{}, wishes, 1e8)
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"300x200 false", "200x200 false", "400x400 false", "900x600 true"}
	for i, r := range made {
		name := fmt.Sprint(wishes[i].Format, " ", wishes[i].Fit)
		if got := fmt.Sprintf("%dx%d %v", r.Width, r.Height, r.Smaller); got != want[i%4] {
			t.Errorf("%s: %s, want %s", name, got, want[i%4])
		}
		p, err := Probe(context.Background(), Source{Bytes: r.Bytes}, 1e8)
		if err != nil || p.Width != r.Width || p.Height != r.Height || !strings.EqualFold(Detect(r.Bytes).Name, string(wishes[i].Format)) {
			t.Errorf("%s is read as %+v, %s, %v", name, p, Detect(r.Bytes).Name, err)
		}
	}
	// Alone or with others, of the same size it has the same bytes.
	from := rendition.Size{Width: 900, Height: 600}
	for i, w := range wishes {
		alone, err := Render(context.Background(), src, from, []rendition.Wish{w}, 1e8)
		if err != nil || !bytes.Equal(alone[0].Bytes, made[i].Bytes) {
			t.Errorf("%s %s %dx%d alone is another: %d and %d bytes, %v", w.Format, w.Fit, w.Width, w.Height, len(alone[0].Bytes), len(made[i].Bytes), err)
		}
	}
	// The border of a padded one is of the background's colour, and is found as such.
	w := wish(400, 400, rendition.Pad, rendition.PNG)
	w.Background = [3]uint8{10, 200, 30}
	one, err := Render(context.Background(), src, rendition.Size{}, []rendition.Wish{w}, 1e8)
	if err != nil {
		t.Fatal(err)
	}
	m, _, err := image.Decode(bytes.NewReader(one[0].Bytes))
	if err != nil || m.At(3, 3) != (color.RGBA{10, 200, 30, 255}) && color.RGBAModel.Convert(m.At(3, 3)) != (color.RGBA{10, 200, 30, 255}) {
		t.Errorf("the border is %v, %v", m.At(3, 3), err)
	}
	// The greatest bytes are kept to by the best quality that does; what can't be says so.
	for _, format := range []rendition.Format{rendition.JPEG, rendition.WebP, rendition.AVIF} {
		w := wish(600, 600, rendition.Inside, format)
		w.MostBytes = 30_000
		some, err := Render(context.Background(), src, rendition.Size{}, []rendition.Wish{w}, 1e8)
		if err != nil || int64(len(some[0].Bytes)) > w.MostBytes || some[0].Quality < rendition.LeastQuality {
			t.Errorf("%s of at most %d bytes: %v", format, w.MostBytes, err)
		}
		w.MostBytes = 300
		if _, err := Render(context.Background(), src, rendition.Size{}, []rendition.Wish{w}, 1e8); !errors.Is(err, ErrTooManyBytes) {
			t.Errorf("%s of 300 bytes: %v", format, err)
		}
	}
	for name, s := range map[string]Source{"cut": {Bytes: src.Bytes[:len(src.Bytes)/2]}, "no picture": {Bytes: []byte("no picture at all")}} {
		if _, err := Render(context.Background(), s, rendition.Size{}, wishes[:1], 1e8); !errors.Is(err, ErrDamaged) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := Render(context.Background(), src, rendition.Size{}, wishes[:1], 1000); !errors.Is(err, ErrTooLarge) {
		t.Errorf("too large: %v", err)
	}
}

// What shows through is seen before the background where the format is not transparent, and stays where it is.
func TestRenderTransparent(t *testing.T) {
	m := image.NewNRGBA(image.Rect(0, 0, 100, 100))
	for i := range 50 * 100 {
		m.SetNRGBA(i%100, i/100, color.NRGBA{200, 10, 10, 255})
	}
	wishes := []rendition.Wish{{Width: 50, Height: 50, Fit: rendition.Inside, Format: rendition.JPEG, Quality: 95, Background: [3]uint8{0, 0, 250}}, {Width: 50, Height: 50, Fit: rendition.Inside, Format: rendition.PNG}}
	made, err := Render(context.Background(), bigPNG(t, m), rendition.Size{}, wishes, 1e8)
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []color.NRGBA{{0, 0, 250, 255}, {0, 0, 0, 0}} {
		seen, _, err := image.Decode(bytes.NewReader(made[i].Bytes))
		if err != nil {
			t.Fatal(err)
		}
		got := color.NRGBAModel.Convert(seen.At(25, 45)).(color.NRGBA)
		if far := math.Abs(float64(got.R)-float64(want.R)) + math.Abs(float64(got.B)-float64(want.B)) + math.Abs(float64(got.A)-float64(want.A)); far > 12 {
			t.Errorf("%s: %v, want %v", wishes[i].Format, got, want)
		}
	}
}

// Renditions beside ImageMagick's (Debian) of the same sizes: both shrink the same picture, so they are near to one another, by PSNR.
func TestRenderPSNR(t *testing.T) {
	magick := imageMagick()
	if magick == "" {
		t.Skip("ImageMagick is not here")
	}
	folder := t.TempDir()
	r := rand.New(rand.NewPCG(1, 16))
	for n := range 4 {
		src := bigPNG(t, madePicture(r, 1200))
		from, ours, theirs := filepath.Join(folder, "from.png"), filepath.Join(folder, "ours.png"), filepath.Join(folder, "theirs.png")
		made, err := Render(context.Background(), src, rendition.Size{}, []rendition.Wish{{Width: 480, Height: 480, Fit: rendition.Inside, Format: rendition.PNG}}, 1e8)
		if err != nil {
			t.Fatal(err)
		}
		for path, b := range map[string][]byte{from: src.Bytes, ours: made[0].Bytes} {
			if err := os.WriteFile(path, b, 0o644); err != nil {
				t.Fatal(err)
			}
		}
		tool(t, magick, from, "-filter", "Lanczos", "-resize", "480x480", theirs)
		a, b := decodedFile(t, ours), decodedFile(t, theirs)
		if db := psnr(a, b); db < 34 {
			t.Errorf("picture %d: %.1f dB between ours and ImageMagick's", n, db)
		} else {
			t.Logf("picture %d: %.1f dB", n, db)
		}
	}
	// Their own reader takes every format.
	for _, format := range rendition.Formats {
		made, err := Render(context.Background(), bigPNG(t, madePicture(r, 300)), rendition.Size{}, []rendition.Wish{{Width: 200, Height: 200, Fit: rendition.Inside, Format: format}}, 1e8)
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(folder, "r."+string(format))
		if err := os.WriteFile(path, made[0].Bytes, 0o644); err != nil {
			t.Fatal(err)
		}
		if out, err := exec.Command(magick, path, "-format", "%wx%h", "info:").CombinedOutput(); err != nil || !strings.Contains(string(out), "200x200") {
			t.Errorf("%s: %s, %v", format, out, err)
		}
	}
}

func decodedFile(t testing.TB, path string) image.Image {
	t.Helper()
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	m, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// psnr is the peak signal-to-noise ratio of two pictures of one size, in decibels. Source: ITU-T J.340, from memory.
func psnr(a, b image.Image) float64 {
	sum, n := 0., 0.
	for y := a.Bounds().Min.Y; y < a.Bounds().Max.Y; y++ {
		for x := a.Bounds().Min.X; x < a.Bounds().Max.X; x++ {
			ar, ag, ab, _ := a.At(x, y).RGBA()
			br, bg, bb, _ := b.At(x, y).RGBA()
			for _, d := range []float64{float64(ar>>8) - float64(br>>8), float64(ag>>8) - float64(bg>>8), float64(ab>>8) - float64(bb>>8)} {
				sum, n = sum+d*d, n+1
			}
		}
	}
	return 10 * math.Log10(255*255*n/max(sum, 1e-9))
}
