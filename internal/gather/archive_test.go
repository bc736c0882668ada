package gather

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
)

var goRoot = sync.OnceValue(func() string {
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		panic(err)
	}
	return strings.TrimSpace(string(root))
})

func goTestdata(name string) string {
	return filepath.Join(goRoot(), "src", "archive", "zip", "testdata", name)
}

// read walks an upload and gives its files' contents by path, and the trouble with the whole.
func read(t *testing.T, path string, limits Limits) (map[string]string, []entry, *trouble) {
	t.Helper()
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	contents := map[string]string{}
	var entries []entry
	err = walk(context.Background(), f, filepath.Base(path), limits, func(int) error { return nil }, func(e entry) error {
		entries = append(entries, e)
		if e.open == nil || e.problem != "" {
			contents[e.path] = "!" + string(e.problem)
			return nil
		}
		r, err := e.open()
		if err != nil {
			contents[e.path] = "!" + err.Error()
			return nil
		}
		defer r.Close()
		b, err := io.ReadAll(r)
		if err != nil {
			contents[e.path] = "!" + err.Error()
			return nil
		}
		contents[e.path] = string(b)
		return nil
	})
	var whole *trouble
	if err != nil && !errors.As(err, &whole) {
		t.Fatal(err)
	}
	return contents, entries, whole
}

// The archives of Go's archive/zip tests, made by six archivers, and what those tests say is in them.
func TestGoArchives(t *testing.T) {
	for _, archiver := range []string{"7zip", "infozip", "osx", "winrar", "winzip"} {
		got, entries, whole := read(t, goTestdata("utf8-"+archiver+".zip"), DefaultLimits)
		if _, ok := got["世界"]; !ok || len(entries) != 1 || whole != nil {
			t.Errorf("%s: %v, %v", archiver, got, whole)
		}
		if got, _, whole := read(t, goTestdata("time-"+archiver+".zip"), DefaultLimits); len(got) != 1 || whole != nil {
			t.Errorf("time-%s: %v, %v", archiver, got, whole)
		}
	}
	const testTxt = "This is a test text file.\n"
	for _, c := range []struct {
		file    string
		want    map[string]string // "*" for any content
		problem Problem
	}{
		{"test.zip", map[string]string{"test.txt": testTxt, "gophercolor16x16.png": "*"}, ""},
		{"test-trailing-junk.zip", map[string]string{"test.txt": testTxt, "gophercolor16x16.png": "*"}, ""},
		{"test-prefix.zip", map[string]string{"test.txt": testTxt, "gophercolor16x16.png": "*"}, ""},
		{"unix.zip", map[string]string{"hello": "world \r\n", "dir/bar": "foo \r\n", "readonly": "important \r\n"}, ""},
		{"winxp.zip", map[string]string{"hello": "world \r\n", "dir/bar": "foo \r\n", "readonly": "important \r\n"}, ""},
		{"dd.zip", map[string]string{"filename": "This is a test textfile.\n"}, ""},
		{"crc32-not-streamed.zip", map[string]string{"foo.txt": "foo\n", "bar.txt": "bar\n"}, ""},
		{"zip64.zip", map[string]string{"README": "This small file is in ZIP64 format.\n"}, ""},
		{"zip64-2.zip", map[string]string{"README": "This small file is in ZIP64 format.\n"}, ""},
		{"symlink.zip", map[string]string{"symlink": "!unsafe_path"}, ""},
	} {
		got, _, whole := read(t, goTestdata(c.file), DefaultLimits)
		if (whole != nil) != (c.problem != "") {
			t.Errorf("%s: the whole is %v", c.file, whole)
		}
		for path, content := range c.want {
			if g, ok := got[path]; !ok || content != "*" && g != content {
				t.Errorf("%s: %s holds %q, want %q", c.file, path, g, content)
			}
		}
		if len(got) != len(c.want) && c.problem == "" {
			t.Errorf("%s holds %d files, want %d: %v", c.file, len(got), len(c.want), got)
		}
	}
	// The one that a program writes as a stream, in both spellings of its data descriptor, with its directory
	// cut off: each file must be found by its own header.
	for _, name := range []string{"go-no-datadesc-sig.zip.base64", "go-with-datadesc-sig.zip.base64"} {
		text, err := os.ReadFile(goTestdata(name))
		if err != nil {
			text, err = os.ReadFile(goTestdata(strings.TrimSuffix(name, ".base64")))
			if err != nil {
				t.Fatal(err)
			}
		}
		b, err := base64.StdEncoding.DecodeString(string(text))
		if err != nil {
			b = text
		}
		cut := bytes.Index(b, []byte("PK\x01\x02"))
		got, _, whole := read(t, write(t, "cut.zip", b[:cut]), DefaultLimits)
		if got["foo.txt"] != "foo\n" || got["bar.txt"] != "bar\n" || whole == nil || whole.problem != Damaged {
			t.Errorf("%s without its directory: %v, %v", name, got, whole)
		}
	}
}

func write(t *testing.T, name string, b []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// zipOf packs files in order: path, content, path, content …
func zipOf(t testing.TB, method uint16, pairs ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for i := 0; i < len(pairs); i += 2 {
		f, err := w.CreateHeader(&zip.FileHeader{Name: pairs[i], Method: method})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := io.WriteString(f, pairs[i+1]); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestHostileArchives(t *testing.T) {
	zeros := strings.Repeat("\x00", 80<<20)
	many := make([]string, 0, 40)
	for i := range 20 {
		many = append(many, fmt.Sprint(i), "x")
	}
	honest := zipOf(t, zip.Store, "one.txt", strings.Repeat("1", 500), "two.txt", strings.Repeat("2", 500))
	encrypted := bytes.Clone(zipOf(t, zip.Store, "secret.jpg", "abc"))
	encrypted[6] |= 1
	encrypted[bytes.Index(encrypted, []byte("PK\x01\x02"))+8] |= 1
	flipped := bytes.Clone(honest)
	flipped[bytes.Index(flipped, []byte("222"))] = '3'
	small := DefaultLimits
	small.Entries, small.Bytes = 10, 900
	// Packed and streamed, each file's length stands behind it: without the directory it is found by unpacking.
	text := strings.Repeat("a kite's tail, ", 60)
	packed := zipOf(t, zip.Deflate, "one.txt", text, "folder/", "", "two.txt", text+"!", "three.txt", "3")
	directory := bytes.Index(packed, []byte("PK\x01\x02"))
	third := bytes.LastIndex(packed[:directory], []byte("PK\x03\x04"))
	bombed := zipOf(t, zip.Deflate, "zeros.png", zeros, "one.txt", text)
	tight := DefaultLimits
	tight.EntryBytes = 1000
	between := slices.Concat(packed[:third], []byte("nothing that an archive has"), packed[third:directory])
	mangled := bytes.Clone(packed[:directory])
	mangled[bytes.Index(mangled, []byte("one.txt"))+len("one.txt")+1] ^= 0xff
	for _, c := range []struct {
		name   string
		bytes  []byte
		limits Limits
		whole  Problem
		words  string
		want   map[string]string
	}{
		{"a bomb", zipOf(t, zip.Deflate, "zeros.png", zeros), DefaultLimits, Refused, "times", map[string]string{}},
		{"too many", zipOf(t, zip.Store, many...), small, Refused, "20 files; the limit is 10", map[string]string{}},
		{"too large", honest, small, Refused, "1.0 kB; the limit is 900 B", map[string]string{}},
		{"cut off", honest[:700], DefaultLimits, Damaged, "cut off", map[string]string{"one.txt": strings.Repeat("1", 500), "two.txt": "!damaged"}},
		{"without its directory", honest[:bytes.Index(honest, []byte("PK\x01\x02"))], DefaultLimits, Damaged, "2 files", map[string]string{"one.txt": strings.Repeat("1", 500), "two.txt": strings.Repeat("2", 500)}},
		{"packed, without its directory", packed[:directory], DefaultLimits, Damaged, "3 files", map[string]string{"one.txt": text, "two.txt": text + "!", "three.txt": "3"}},
		{"packed, cut off within the last", packed[:third+40], DefaultLimits, Damaged, "3 files", map[string]string{"one.txt": text, "two.txt": text + "!", "three.txt": "!damaged"}},
		{"packed, with litter between", between, DefaultLimits, Damaged, "3 files", map[string]string{"one.txt": text, "two.txt": text + "!", "three.txt": "3"}},
		{"packed, a flipped bit in the first", mangled, DefaultLimits, Damaged, "3 files", map[string]string{"one.txt": "!" + errChecksum.Error(), "two.txt": text + "!", "three.txt": "3"}},
		{"packed, a file beyond the limit", bombed[:bytes.Index(bombed, []byte("PK\x01\x02"))], tight, Damaged, "file", map[string]string{"zeros.png": "!damaged"}},
		{"a flipped bit", flipped, DefaultLimits, "", "", map[string]string{"one.txt": strings.Repeat("1", 500), "two.txt": "!zip: checksum error"}},
		{"encrypted", encrypted, DefaultLimits, "", "", map[string]string{"secret.jpg": "!encrypted"}},
		{"no archive", []byte("not an archive at all"), DefaultLimits, NotArchive, "archive", map[string]string{}},
		{"another archiver", []byte("7z\xbc\xaf\x27\x1c....."), DefaultLimits, NotArchive, "7z archives are not read", map[string]string{}},
	} {
		got, _, whole := read(t, write(t, "x.zip", c.bytes), c.limits)
		switch {
		case c.whole == "" && whole != nil, c.whole != "" && (whole == nil || whole.problem != c.whole || !strings.Contains(whole.Error(), c.words)):
			t.Errorf("%s: the whole is %v, want %q that speaks of %q", c.name, whole, c.whole, c.words)
		}
		if fmt.Sprint(got) != fmt.Sprint(c.want) {
			t.Errorf("%s: %.200v, want %.200v", c.name, got, c.want)
		}
	}
}

func TestEntryName(t *testing.T) {
	old := func(e interface{ String(string) (string, error) }, s string) string {
		b, err := e.String(s)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	for _, c := range []struct{ raw, want string }{
		{"plain/K7.jpg", "plain/K7.jpg"},
		{`a\b.jpg`, "a/b.jpg"},
		{"./a.jpg", "a.jpg"},
		{"Dra\u0308hte.jpg", "Dra\u0308hte.jpg"}, // decomposed: kept as given, read as what it means
		{old(charmap.CodePage437.NewEncoder(), "grün Ä.jpg"), "grün Ä.jpg"},
		{old(charmap.Windows1252.NewEncoder(), "größer.jpg"), "größer.jpg"},
		{old(japanese.ShiftJIS.NewEncoder(), "凧と糸.jpg"), "凧と糸.jpg"},
		{"nul\x00.jpg", "nul\ufffd.jpg"},
	} {
		if got, _ := entryName(c.raw, nil); got != c.want {
			t.Errorf("%q is read as %q, want %q", c.raw, got, c.want)
		}
	}
	for path, out := range map[string]bool{"../x": true, "a/../../x": true, "/etc/x": true, "C:/x": true, "a/b..c": false, "a/..b": false} {
		if climbsOut(path) != out {
			t.Errorf("climbsOut(%q) is not %v", path, out)
		}
	}
}
