package assets

import (
	"bytes"
	"strings"
)

// Format is what a file's bytes say it is.
type Format struct {
	Name       string   // "JPEG"
	Picture    bool     // pictures that are taken in
	Extensions []string // the extensions that agree with it
	MIME       string
}

// formats are told by their first bytes. Sources: the signatures that ISO/IEC 10918-1 (JPEG), the PNG and
// GIF89a specifications, TIFF 6.0, RFC 9649 (WebP), ISO/IEC 14496-12 and 23008-12 (the ftyp brands of AVIF
// and HEIC), RFC 1952, RFC 8878, APPNOTE.TXT 6.3 and the xz file format give.
var formats = []struct {
	Format
	match func(head []byte) bool
}{
	{Format{"JPEG", true, []string{".jpg", ".jpeg", ".jpe", ".jfif"}, "image/jpeg"}, prefix("\xff\xd8\xff")},
	{Format{"PNG", true, []string{".png"}, "image/png"}, prefix("\x89PNG\r\n\x1a\n")},
	{Format{"GIF", true, []string{".gif"}, "image/gif"}, func(h []byte) bool {
		return bytes.HasPrefix(h, []byte("GIF87a")) || bytes.HasPrefix(h, []byte("GIF89a"))
	}},
	{Format{"WebP", true, []string{".webp"}, "image/webp"}, func(h []byte) bool {
		return len(h) >= 12 && string(h[:4]) == "RIFF" && string(h[8:12]) == "WEBP"
	}},
	{Format{"TIFF", true, []string{".tif", ".tiff"}, "image/tiff"}, func(h []byte) bool {
		return bytes.HasPrefix(h, []byte("II*\x00")) || bytes.HasPrefix(h, []byte("MM\x00*"))
	}},
	{Format{"AVIF", true, []string{".avif"}, "image/avif"}, brand("avif", "avis")},
	{Format{"HEIC", true, []string{".heic", ".heif"}, "image/heic"}, brand("heic", "heix", "heim", "heis", "hevc", "mif1", "msf1")},
	{Format{"SVG drawing", false, []string{".svg"}, "image/svg+xml"}, func(h []byte) bool {
		return bytes.Contains(bytes.ToLower(h), []byte("<svg"))
	}},
	{Format{"BMP", false, []string{".bmp"}, "image/bmp"}, func(h []byte) bool {
		return len(h) >= 14 && string(h[:2]) == "BM" && h[6] == 0 && h[7] == 0
	}},
	{Format{"PDF", false, []string{".pdf"}, "application/pdf"}, prefix("%PDF-")},
	{Format{"zip", false, []string{".zip"}, "application/zip"}, func(h []byte) bool {
		return bytes.HasPrefix(h, []byte("PK\x03\x04")) || bytes.HasPrefix(h, []byte("PK\x05\x06"))
	}},
	{Format{"gzip", false, []string{".gz", ".tgz"}, "application/gzip"}, prefix("\x1f\x8b")},
	{Format{"xz", false, []string{".xz", ".txz"}, "application/x-xz"}, prefix("\xfd7zXZ\x00")},
	{Format{"Zstandard", false, []string{".zst"}, "application/zstd"}, prefix("\x28\xb5\x2f\xfd")},
	{Format{"RAR", false, []string{".rar"}, "application/vnd.rar"}, prefix("Rar!\x1a\x07")},
	{Format{"7z", false, []string{".7z"}, "application/x-7z-compressed"}, prefix("7z\xbc\xaf\x27\x1c")},
	{Format{"tar", false, []string{".tar"}, "application/x-tar"}, func(h []byte) bool {
		return len(h) >= 263 && string(h[257:262]) == "ustar"
	}},
	{Format{"HTML", false, []string{".html", ".htm"}, "text/html"}, func(h []byte) bool {
		l := bytes.ToLower(bytes.TrimSpace(h))
		return bytes.HasPrefix(l, []byte("<!doctype html")) || bytes.HasPrefix(l, []byte("<html"))
	}},
}

// HeadBytes is how much of a file's beginning Detect wants to see.
const HeadBytes = 512

// Detect tells the format by a file's first bytes. Text and what it doesn't know have no Extensions.
func Detect(head []byte) Format {
	for _, f := range formats {
		if f.match(head) {
			return f.Format
		}
	}
	if isText(head) {
		return Format{Name: "text", MIME: "text/plain"}
	}
	return Format{Name: "unknown", MIME: "application/octet-stream"}
}

// Agrees reports whether an extension (with its dot, in lower case; doubled ones by their last part) is one
// of the format's.
func (f Format) Agrees(extension string) bool {
	if i := strings.LastIndexByte(extension, '.'); i > 0 {
		extension = extension[i:]
	}
	for _, e := range f.Extensions {
		if e == extension {
			return true
		}
	}
	return false
}

func prefix(p string) func([]byte) bool {
	return func(head []byte) bool { return bytes.HasPrefix(head, []byte(p)) }
}

func brand(names ...string) func([]byte) bool {
	return func(h []byte) bool {
		if len(h) < 12 || string(h[4:8]) != "ftyp" {
			return false
		}
		for _, n := range names {
			if string(h[8:12]) == n {
				return true
			}
		}
		return false
	}
}

func isText(head []byte) bool {
	if len(head) == 0 {
		return false
	}
	for _, c := range head {
		if c < 0x20 && c != '\n' && c != '\r' && c != '\t' && c != '\f' {
			return false
		}
	}
	return true
}

// MIME returns the type of a format by its name.
func MIME(format string) string {
	for _, f := range formats {
		if f.Name == format {
			return f.MIME
		}
	}
	return "application/octet-stream"
}

// Extension is the usual extension of a format by its name, without its dot; bin where the name is unknown.
func Extension(name string) string {
	for _, f := range formats {
		if f.Name == name {
			return f.Extensions[0][1:]
		}
	}
	return "bin"
}
