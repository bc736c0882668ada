package assets

import (
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"ambrosa/core/rendition"
)

// What stays of metadata in renditions, as exiftool (Debian) reads it: nothing, whose the picture is, or place and device too.
func TestKeptMetadata(t *testing.T) {
	if _, err := exec.LookPath("exiftool"); err != nil {
		t.Skip("exiftool is not here")
	}
	file := filepath.Join(t.TempDir(), "a.jpg")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := jpeg.Encode(f, madePicture(rand.New(rand.NewPCG(1, 2)), 300).SubImage(image.Rect(0, 0, 300, 200)), nil); err != nil || f.Close() != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("exiftool", "-q", "-overwrite_original", "-EXIF:Copyright=© Pellmoor Kites (all rights)", "-XMP-dc:Creator=Ada & <Fell>", "-EXIF:Model=Box 1",
		"-EXIF:GPSLatitude=52.5", "-EXIF:GPSLatitudeRef=N", "-EXIF:Orientation#=6", "-IPTC:City=Pellmoor", file).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	var wishes []rendition.Wish
	for _, format := range rendition.Formats {
		for _, keep := range rendition.Keeps {
			wishes = append(wishes, rendition.Wish{Width: 100, Height: 100, Fit: rendition.Inside, Format: format, Keep: keep})
		}
	}
	made, err := Render(context.Background(), Source{File: file}, rendition.Size{}, wishes, 1e8)
	if err != nil {
		t.Fatal(err)
	}
	for i, r := range made {
		w := wishes[i]
		name := filepath.Join(t.TempDir(), "r."+string(w.Format))
		if err := os.WriteFile(name, r.Bytes, 0o644); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command("exiftool", "-j", "-G0", "-n", name).Output()
		var read []map[string]any
		if err != nil || json.Unmarshal(out, &read) != nil {
			t.Fatalf("%s %q: %v", w.Format, w.Keep, err)
		}
		said := []string{}
		for _, of := range []string{"EXIF:Copyright", "EXIF:Artist", "EXIF:Model", "EXIF:GPSLatitude", "EXIF:Orientation", "IPTC:City", "XMP:Creator", "PNG:Author", "PNG:Copyright"} {
			if v := read[0][of]; v != nil {
				said = append(said, fmt.Sprintf("%s=%#v", of, v))
			}
		}
		want := []string{}
		exif := w.Format != rendition.PNG // libvips writes none into PNG
		if exif && w.Keep != rendition.KeepNone {
			want = append(want, `EXIF:Copyright="(C) Pellmoor Kites (all rights)"`, `EXIF:Artist="Ada & <Fell>"`) // EXIF has ASCII alone
		}
		if exif && w.Keep == rendition.KeepAll {
			want = append(want, `EXIF:Model="Box 1"`, "EXIF:GPSLatitude=52.5")
		}
		if !exif && w.Keep != rendition.KeepNone {
			want = append(want, `PNG:Author="Ada & <Fell>"`, `PNG:Copyright="(C) Pellmoor Kites (all rights)"`)
		}
		if said = slices.DeleteFunc(said, func(s string) bool { return s == "EXIF:Orientation=1" }); !slices.Equal(said, want) {
			t.Errorf("%s, kept %q: %q, want %q", w.Format, w.Keep, said, want)
		}
		if r.Width != 67 || r.Height != 100 {
			t.Errorf("%s: %d × %d: it is seen after its orientation", w.Format, r.Width, r.Height)
		}
	}
}
