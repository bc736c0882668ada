package e2e

import (
	"fmt"
	"image/color"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// The command makes a picture or nothing, says what it made, and ends as it should.
func TestRenderCommand(t *testing.T) {
	folder := t.TempDir()
	from := filepath.Join(folder, "from.jpg")
	if err := os.WriteFile(from, jpegOf(color.RGBA{200, 120, 9, 255}, 300), 0o644); err != nil {
		t.Fatal(err)
	}
	for n, c := range []struct {
		args string
		code int
		out  string // how it begins
	}{
		{"--size 120 --format webp", 0, `{"width":120,"height":120,"bytes":`},
		{"--size 900 --format png", 0, `{"width":300,"height":300,"bytes":`},
		{"--size 200x100 --fit crop --format avif", 0, `{"width":200,"height":100,"bytes":`},
		{"--size 400x100 --fit pad --background #00ff00", 0, `{"width":400,"height":100,"bytes":`},
		{"--size 120 --most-bytes 20", 1, ""},
		{"--size 120 --fit stretch", 2, ""},
		{"--size 120 --quality 80 --most-bytes 1000", 2, ""},
		{"--size big", 2, ""},
		{"", 2, ""},
	} {
		to := filepath.Join(folder, fmt.Sprint("to", n))
		out, complaints, code := command(t, nil, "", append([]string{"render", from, "--to", to}, strings.Fields(c.args)...)...)
		_, err := os.Stat(to)
		if code != c.code || !strings.HasPrefix(out, c.out) || (err == nil) != (c.code == 0) || (complaints == "") != (c.code == 0) {
			t.Errorf("%s: %d %q %q, %v", c.args, code, out, complaints, err)
		}
		if c.code == 0 && !strings.HasSuffix(out, `,"enlarged":false}`+"\n") {
			t.Errorf("%s: %q", c.args, out)
		}
	}
	if _, _, code := command(t, nil, "", "render", filepath.Join(folder, "nothing.jpg"), "--size", "10", "--to", filepath.Join(folder, "x")); code != 2 {
		t.Errorf("no such file: %d", code)
	}
	left, err := os.ReadDir(folder)
	if err != nil || len(left) != 5 {
		t.Errorf("%v lie there, %v", left, err)
	}
}
