package assets

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	_ "image/gif"
	"image/jpeg"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"golang.org/x/image/webp"
)

func probeFile(t *testing.T, path string) (*Picture, Format, error) {
	t.Helper()
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	p, err := Probe(context.Background(), Source{Bytes: b}, 1e8)
	return p, Detect(b[:min(len(b), HeadBytes)]), err
}

// The pictures of Go's own image tests and of PngSuite, Willem van Schaik's set that Go carries. Checked
// against Go's decoders: the size, and what the picture looks like once both are shrunk.
func TestProbeGoPictures(t *testing.T) {
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		t.Fatal(err)
	}
	testdata := filepath.Join(strings.TrimSpace(string(root)), "src", "image")
	var paths []string
	for _, pattern := range []string{"testdata/video-*", "png/testdata/pngsuite/*.png"} {
		found, err := filepath.Glob(filepath.Join(testdata, pattern))
		if err != nil {
			t.Fatal(err)
		}
		paths = append(paths, found...)
	}
	if len(paths) < 70 {
		t.Fatalf("only %d pictures found under GOROOT", len(paths))
	}
	for _, path := range paths {
		name := filepath.Base(path)
		got, format, err := probeFile(t, path)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		f, err := os.Open(path)
		if err != nil {
			t.Fatal(err)
		}
		want, kind, err := image.Decode(f)
		f.Close()
		if err != nil {
			t.Fatalf("%s: Go can't read it: %v", name, err)
		}
		if size := want.Bounds().Size(); got.Width != size.X || got.Height != size.Y || !strings.EqualFold(format.Name, kind) {
			t.Errorf("%s: %s %d × %d, Go says %s %v", name, format.Name, got.Width, got.Height, kind, size)
		}
		// CMYK is converted by other rules on both sides; PngSuite's backgrounds and grey ramps are compared by size alone.
		if strings.HasPrefix(name, "video-001") && !strings.Contains(name, "cmyk") {
			if d := distance(t, got.Derivatives[480], want); d > 12 {
				t.Errorf("%s: the derivative is %.0f of 255 away from Go's decoding", name, d)
			}
		}
	}
}

// distance is the mean difference of the middles of a grid, per channel, of a WebP and a picture.
func distance(t *testing.T, derivative []byte, want image.Image) float64 {
	t.Helper()
	got, err := webp.Decode(bytes.NewReader(derivative))
	if err != nil {
		t.Fatal(err)
	}
	const grid = 8
	sum := 0.0
	for y := range grid {
		for x := range grid {
			a, b := mean(got, x, y, grid), mean(want, x, y, grid)
			for i := range 3 {
				sum += abs(a[i] - b[i])
			}
		}
	}
	return sum / (grid * grid * 3)
}

func mean(m image.Image, x, y, grid int) (c [3]float64) {
	b := m.Bounds()
	x0, x1 := b.Min.X+b.Dx()*x/grid, b.Min.X+b.Dx()*(x+1)/grid
	y0, y1 := b.Min.Y+b.Dy()*y/grid, b.Min.Y+b.Dy()*(y+1)/grid
	n := float64((x1 - x0) * (y1 - y0))
	for py := y0; py < y1; py++ {
		for px := x0; px < x1; px++ {
			p := color.RGBAModel.Convert(m.At(px, py)).(color.RGBA)
			c[0], c[1], c[2] = c[0]+float64(p.R)/n, c[1]+float64(p.G)/n, c[2]+float64(p.B)/n
		}
	}
	return c
}

func abs(x float64) float64 { return max(x, -x) }

// WebP, AVIF and HEIC from the resources of the govips module.
func TestProbeOtherFormats(t *testing.T) {
	out, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/davidbyttow/govips/v2").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ file, format string }{
		{"webp+alpha.webp", "WebP"}, {"webp-orientation-6.webp", "WebP"}, {"avif-8bit.avif", "AVIF"}, {"heic-24bit.heic", "HEIC"},
		{"heic-24bit-exif.heic", "HEIC"}, {"heic-orientation-6.heic", "HEIC"}, {"tif.tif", "TIFF"}, {"gif-animated.gif", "GIF"},
	} {
		p, format, err := probeFile(t, filepath.Join(strings.TrimSpace(string(out)), "resources", c.file))
		if err != nil || format.Name != c.format || !format.Picture {
			t.Errorf("%s: %v, %v", c.file, format, err)
			continue
		}
		small, err := webp.DecodeConfig(bytes.NewReader(p.Derivatives[96]))
		if err != nil || max(small.Width, small.Height) > 96 {
			t.Errorf("%s: the small derivative is %v, %v", c.file, small, err)
		}
		// Turned or not, the derivative has the proportions that the picture is said to have.
		large, err := webp.DecodeConfig(bytes.NewReader(p.Derivatives[480]))
		if err != nil || abs(float64(large.Width)/float64(large.Height)-float64(p.Width)/float64(p.Height)) > .02 {
			t.Errorf("%s is %d × %d, its derivative %d × %d", c.file, p.Width, p.Height, large.Width, large.Height)
		}
	}
}

// EXIF orientation 1 to 8: the corner that row 0 and column 0 of the stored pixels are seen at. Source: CIPA
// DC-008 (Exif 2.32), tag 0x0112.
func TestOrientation(t *testing.T) {
	// In the stored picture the top left quarter is red, the top right blue, all below white.
	stored := image.NewRGBA(image.Rect(0, 0, 60, 40))
	for y := range 40 {
		for x := range 60 {
			c := color.RGBA{255, 255, 255, 255}
			if y < 20 && x < 30 {
				c = color.RGBA{255, 0, 0, 255}
			} else if y < 20 {
				c = color.RGBA{0, 0, 255, 255}
			}
			stored.SetRGBA(x, y, c)
		}
	}
	var encoded bytes.Buffer
	if err := jpeg.Encode(&encoded, stored, &jpeg.Options{Quality: 95}); err != nil {
		t.Fatal(err)
	}
	// seen[o] are the quarters as seen, row by row: red, blue, white, white in the stored order for 1.
	seen := map[int]string{1: "rbww", 2: "brww", 3: "wwbr", 4: "wwrb", 5: "rwbw", 6: "wrwb", 7: "wbwr", 8: "bwrw"}
	for orientation, want := range seen {
		p, err := Probe(context.Background(), Source{Bytes: withOrientation(encoded.Bytes(), orientation)}, 1e6)
		if err != nil {
			t.Fatal(err)
		}
		if turned := orientation >= 5; (p.Width == 40) != turned || (p.Height == 60) != turned {
			t.Errorf("orientation %d: %d × %d", orientation, p.Width, p.Height)
		}
		m, err := webp.Decode(bytes.NewReader(p.Derivatives[480]))
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		for y := range 2 {
			for x := range 2 {
				c := mean(m, x, y, 2)
				switch {
				case c[1] > 200:
					got += "w"
				case c[0] > c[2]:
					got += "r"
				default:
					got += "b"
				}
			}
		}
		if got != want {
			t.Errorf("orientation %d is seen as %s, want %s", orientation, got, want)
		}
	}
}

func withOrientation(jpeg []byte, orientation int) []byte {
	exif := "\xff\xe1\x00\x22Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00" + string(rune(orientation)) + "\x00\x00\x00\x00\x00\x00"
	return append(append(append([]byte(nil), jpeg[:2]...), exif...), jpeg[2:]...)
}

// hollow is a PNG whose header promises side × side pixels that are not there.
func hollow(honest []byte, side uint32) []byte {
	b := bytes.Clone(honest)
	binary.BigEndian.PutUint32(b[16:], side)
	binary.BigEndian.PutUint32(b[20:], side)
	binary.BigEndian.PutUint32(b[29:], crc32.ChecksumIEEE(b[12:29]))
	return b
}

func TestHostile(t *testing.T) {
	var small bytes.Buffer
	if err := png.Encode(&small, image.NewGray(image.Rect(0, 0, 8, 8))); err != nil {
		t.Fatal(err)
	}
	if _, err := Probe(context.Background(), Source{Bytes: hollow(small.Bytes(), 50_000)}, 300_000_000); !errors.Is(err, ErrTooLarge) || !strings.Contains(err.Error(), "2500 million") {
		t.Errorf("a header that promises 50,000 × 50,000: %v", err)
	}
	for name, b := range map[string][]byte{"cut off": small.Bytes()[:40], "only its first bytes": small.Bytes()[:9], "nothing": {}} {
		if _, err := Probe(context.Background(), Source{Bytes: b}, 1e6); !errors.Is(err, ErrDamaged) {
			t.Errorf("%s: %v", name, err)
		}
	}
	for text, want := range map[string]string{"plain words": "text", "<svg onload=x>": "SVG drawing", "<!DOCTYPE html>": "HTML", "\x00\x01\x02": "unknown", "%PDF-1.7": "PDF"} {
		if f := Detect([]byte(text)); f.Name != want || f.Picture {
			t.Errorf("Detect(%q) = %v", text, f)
		}
	}
}
