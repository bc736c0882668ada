package assets

import (
	"bytes"
	"image"
	"image/jpeg"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"
)

// When a photo was taken, and by which camera, as exiftool (Debian) writes it.
func TestTaking(t *testing.T) {
	if _, err := exec.LookPath("exiftool"); err != nil {
		t.Skip("exiftool is missing")
	}
	var picture bytes.Buffer
	if err := jpeg.Encode(&picture, image.NewGray(image.Rect(0, 0, 8, 8)), nil); err != nil {
		t.Fatal(err)
	}
	at := time.Date(2026, 11, 19, 9, 12, 4, 0, time.UTC)
	for _, c := range []struct {
		args []string
		want Taking
	}{
		{nil, Taking{}},
		{[]string{"-DateTimeOriginal=2026:11:19 09:12:04", "-SubSecTimeOriginal=31", "-SerialNumber=2041885", "-Make=Fell", "-Model=One"}, Taking{at.Add(310 * time.Millisecond), "2041885"}},
		{[]string{"-DateTimeOriginal=2026:11:19 09:12:04", "-Make=Fell", "-Model=One"}, Taking{at, "Fell One"}},
		{[]string{"-CreateDate=2026:11:19 09:12:04", "-SubSecTimeDigitized=5"}, Taking{at.Add(500 * time.Millisecond), ""}},
		{[]string{"-DateTimeOriginal=1970:01:01 00:00:00"}, Taking{}}, // a clock that was never set
		{[]string{"-ModifyDate=2026:11:19 09:12:04"}, Taking{}},       // when it was edited says nothing of when it was taken
	} {
		file := filepath.Join(t.TempDir(), "photo.jpg")
		if err := os.WriteFile(file, picture.Bytes(), 0o644); err != nil {
			t.Fatal(err)
		}
		if len(c.args) > 0 {
			if out, err := exec.Command("exiftool", append(c.args, "-q", "-overwrite_original", file)...).CombinedOutput(); err != nil {
				t.Fatalf("exiftool: %v: %s", err, out)
			}
		}
		if got := ReadMetadata(Source{File: file}).Taking(); !got.At.Equal(c.want.At) || got.Camera != c.want.Camera {
			t.Errorf("%v: %+v, want %+v", c.args, got, c.want)
		}
	}
}
