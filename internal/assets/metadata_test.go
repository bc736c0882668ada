package assets

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

// Checked beside exiftool (Debian, libimage-exiftool-perl), on pictures that it wrote.
func TestMetadata(t *testing.T) {
	if _, err := exec.LookPath("exiftool"); err != nil {
		t.Skip("exiftool is not here")
	}
	start()
	for _, c := range []struct {
		format, extension string
		write             []string
		want              Metadata
	}{
		{"JPEG", ".jpg", []string{"-IPTC:By-line=Ada Wren", "-IPTC:CopyrightNotice=© Wren", "-IPTC:CodedCharacterSet=UTF8", "-IPTC:Credit=Wren Studio", "-IPTC:Caption-Abstract=A kite", "-EXIF:Artist=other", "-XMP-dc:Creator=other"},
			Metadata{Creator: "Ada Wren", Copyright: "© Wren", Credit: "Wren Studio", Description: "A kite"}},
		{"JPEG", ".jpg", []string{"-XMP-dc:Creator=Bo Finch", "-XMP-dc:Rights=Finch 2026", "-XMP-photoshop:Credit=Finch", "-XMP-dc:Description=Größe L", "-EXIF:Artist=other"},
			Metadata{Creator: "Bo Finch", Copyright: "Finch 2026", Credit: "Finch", Description: "Größe L"}},
		{"JPEG", ".jpg", []string{"-EXIF:Artist=Cy Rook", "-EXIF:Copyright=Rook", "-EXIF:ImageDescription=Reel", "-EXIF:DateTimeOriginal=2026:03:04 05:06:07"},
			Metadata{Creator: "Cy Rook", Copyright: "Rook", Description: "Reel", Taken: "2026:03:04 05:06:07"}},
		{"PNG", ".png", []string{"-XMP-dc:Creator=Di Swift", "-XMP-dc:Rights=Swift"}, Metadata{Creator: "Di Swift", Copyright: "Swift"}},
		{"WebP", ".webp", []string{"-XMP-dc:Creator=Ed Gull", "-EXIF:Copyright=Gull"}, Metadata{Creator: "Ed Gull", Copyright: "Gull"}},
		{"TIFF", ".tif", []string{"-EXIF:Artist=Fy Lark", "-XMP-photoshop:Credit=Lark"}, Metadata{Creator: "Fy Lark", Credit: "Lark"}},
	} {
		file := filepath.Join(t.TempDir(), "picture"+c.extension)
		if out, err := exec.Command("vips", "black", file, "40", "30", "--bands", "3").CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		if out, err := exec.Command("exiftool", append(append([]string{"-q", "-overwrite_original"}, c.write...), file)...).CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		b, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		got := ReadMetadata(Source{Bytes: b})
		got.Tags = nil
		if got.Creator != c.want.Creator || got.Copyright != c.want.Copyright || got.Credit != c.want.Credit || got.Description != c.want.Description || got.Taken != c.want.Taken {
			t.Errorf("%s %v:\n%+v, want\n%+v", c.format, c.write, got, c.want)
		}
	}
	if m := ReadMetadata(Source{Bytes: []byte("\xff\xd8\xff\xe1\xff\xff damaged")}); m.Creator != "" {
		t.Error("metadata of a damaged picture")
	}
}
