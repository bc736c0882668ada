package demo

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// The drawn labels are read by zbarimg (Debian), but for the smeared one; when a photo was taken, and by which camera, by exiftool (Debian).
func TestSession(t *testing.T) {
	for _, program := range []string{"zbarimg", "exiftool"} {
		if _, err := exec.LookPath(program); err != nil {
			t.Skip(program, "is missing")
		}
	}
	place := t.TempDir()
	said := func(name string, args ...string) string {
		out, _ := exec.Command(name, args...).Output() // zbarimg fails where it reads none
		return strings.TrimSpace(string(out))
	}
	for i, a := range sessionArticles() {
		file := filepath.Join(place, a.sku+".jpg")
		if err := os.WriteFile(file, slate(a.barcode, i == smearedSlate), 0o644); err != nil {
			t.Fatal(err)
		}
		want := a.barcode
		if i == smearedSlate {
			want = ""
		}
		if got := said("zbarimg", "-q", "--raw", file); got != want {
			t.Errorf("slate %d: %q, want %q", i, got, want)
		}
	}
	files := session()
	slates, packs := 0, 0
	for i, f := range files {
		file := filepath.Join(place, f.path)
		if strings.HasSuffix(f.path, "_pack.jpg") {
			packs++
			if err := os.WriteFile(file, f.make(), 0o644); err != nil {
				t.Fatal(err)
			}
			if got := said("zbarimg", "-q", "--raw", file); len(got) != 13 {
				t.Errorf("%s: %q", f.path, got)
			}
			continue
		}
		if i > 0 && i < 8 {
			if err := os.WriteFile(file, f.make(), 0o644); err != nil {
				t.Fatal(err)
			}
			if got := said("exiftool", "-s3", "-SubSecDateTimeOriginal", "-SerialNumber", file); !strings.HasPrefix(got, "2026:11:19 09:1") || !strings.HasSuffix(got, "\n"+sessionCamera) || !strings.Contains(got, ".") {
				t.Errorf("%s: %q", f.path, got)
			}
		}
		slates++
	}
	if slates < 9*4 || packs != 3 {
		t.Errorf("%d pictures of the session, %d packs", slates, packs)
	}
}
