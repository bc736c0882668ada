package assets

import (
	"context"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ambrosa/core/rendition"
)

// What file, djpeg (libjpeg-turbo) and dwebp (libwebp) say of renditions, all of Debian. ImageMagick reads all four in TestRenderPSNR.
func TestReaders(t *testing.T) {
	src := bigPNG(t, madePicture(rand.New(rand.NewPCG(7, 7)), 300))
	mime := map[rendition.Format]string{rendition.JPEG: "image/jpeg", rendition.WebP: "image/webp", rendition.AVIF: "image/avif", rendition.PNG: "image/png"}
	for _, format := range rendition.Formats {
		made, err := Render(context.Background(), src, rendition.Size{}, []rendition.Wish{{Width: 200, Height: 200, Fit: rendition.Inside, Format: format}}, 1e8)
		if err != nil {
			t.Fatal(err)
		}
		name := filepath.Join(t.TempDir(), "picture"+string(format))
		if err := os.WriteFile(name, made[0].Bytes, 0o644); err != nil {
			t.Fatal(err)
		}
		said := func(args ...string) string {
			if _, err := exec.LookPath(args[0]); err != nil {
				t.Logf("%s is not here", args[0])
				return ""
			}
			out, err := exec.Command(args[0], args[1:]...).CombinedOutput()
			if err != nil {
				t.Errorf("%s: %s: %v: %s", format, args[0], err, out)
			}
			return strings.TrimSpace(string(out))
		}
		if got := said("file", "--brief", "--mime-type", name); got != "" && got != mime[format] {
			t.Errorf("file says %s of a %s", got, format)
		}
		switch format {
		case rendition.JPEG:
			said("djpeg", "-outfile", os.DevNull, name)
		case rendition.WebP:
			said("dwebp", "-quiet", name, "-o", os.DevNull)
		}
	}
}
