package archive

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

	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive/archivetest"

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

// fault is what is wrong with an item that can't be read.
func fault(e source.Item) string {
	if e.Problem == nil {
		return ""
	}
	return string(e.Problem.Fault)
}

// read walks an upload and returns its files' contents by path, and the trouble with the whole.
func read(t *testing.T, path string, limits source.Limits) (map[string]string, []source.Item, *source.Problem) {
	t.Helper()
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	contents := map[string]string{}
	var entries []source.Item
	err = walk(context.Background(), f, filepath.Base(path), limits, func(int) error { return nil }, func(e source.Item) error {
		entries = append(entries, e)
		if e.Open == nil || e.Problem != nil {
			contents[e.Path] = "!" + fault(e)
			return nil
		}
		r, err := e.Open(context.Background())
		if err != nil {
			contents[e.Path] = "!" + err.Error()
			return nil
		}
		defer r.Close()
		b, err := io.ReadAll(r)
		if err != nil {
			contents[e.Path] = "!" + err.Error()
			return nil
		}
		contents[e.Path] = string(b)
		return nil
	})
	var whole *source.Problem
	if err != nil && !errors.As(err, &whole) {
		t.Fatal(err)
	}
	return contents, entries, whole
}

// The archives of Go's archive/zip tests, made by six archivers, and what those tests say is in them.
func TestGoArchives(t *testing.T) {
	for _, archiver := range []string{"7zip", "infozip", "osx", "winrar", "winzip"} {
		got, entries, whole := read(t, goTestdata("utf8-"+archiver+".zip"), source.DefaultLimits)
		if _, ok := got["世界"]; !ok || len(entries) != 1 || whole != nil {
			t.Errorf("%s: %v, %v", archiver, got, whole)
		}
		if got, _, whole := read(t, goTestdata("time-"+archiver+".zip"), source.DefaultLimits); len(got) != 1 || whole != nil {
			t.Errorf("time-%s: %v, %v", archiver, got, whole)
		}
	}
	const testTxt = "This is a test text file.\n"
	for _, c := range []struct {
		file    string
		want    map[string]string // "*" for any content
		problem source.Fault
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
		got, _, whole := read(t, goTestdata(c.file), source.DefaultLimits)
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
		got, _, whole := read(t, write(t, "cut.zip", b[:cut]), source.DefaultLimits)
		if got["foo.txt"] != "foo\n" || got["bar.txt"] != "bar\n" || whole == nil || whole.Fault != source.Damaged {
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

func TestHostileArchives(t *testing.T) {
	zeros := strings.Repeat("\x00", 80<<20)
	many := make([]string, 0, 40)
	for i := range 20 {
		many = append(many, fmt.Sprint(i), "x")
	}
	honest := archivetest.Zip(t, zip.Store, "one.txt", strings.Repeat("1", 500), "two.txt", strings.Repeat("2", 500))
	encrypted := bytes.Clone(archivetest.Zip(t, zip.Store, "secret.jpg", "abc"))
	encrypted[6] |= 1
	encrypted[bytes.Index(encrypted, []byte("PK\x01\x02"))+8] |= 1
	flipped := bytes.Clone(honest)
	flipped[bytes.Index(flipped, []byte("222"))] = '3'
	small := source.DefaultLimits
	small.Entries, small.Bytes = 10, 900
	// Packed and streamed, each file's length stands behind it: without the directory it is found by unpacking.
	text := strings.Repeat("a kite's tail, ", 60)
	packed := archivetest.Zip(t, zip.Deflate, "one.txt", text, "folder/", "", "two.txt", text+"!", "three.txt", "3")
	directory := bytes.Index(packed, []byte("PK\x01\x02"))
	third := bytes.LastIndex(packed[:directory], []byte("PK\x03\x04"))
	bombed := archivetest.Zip(t, zip.Deflate, "zeros.png", zeros, "one.txt", text)
	tight := source.DefaultLimits
	tight.EntryBytes = 1000
	between := slices.Concat(packed[:third], []byte("nothing that an archive has"), packed[third:directory])
	mangled := bytes.Clone(packed[:directory])
	mangled[bytes.Index(mangled, []byte("one.txt"))+len("one.txt")+1] ^= 0xff
	for _, c := range []struct {
		name   string
		bytes  []byte
		limits source.Limits
		whole  source.Fault
		words  string
		want   map[string]string
	}{
		{"a bomb", archivetest.Zip(t, zip.Deflate, "zeros.png", zeros), source.DefaultLimits, source.Refused, "times", map[string]string{}},
		{"too many", archivetest.Zip(t, zip.Store, many...), small, source.Refused, "20 files; the limit is 10", map[string]string{}},
		{"too large", honest, small, source.Refused, "1.0 kB; the limit is 900 B", map[string]string{}},
		{"cut off", honest[:700], source.DefaultLimits, source.Damaged, "cut off", map[string]string{"one.txt": strings.Repeat("1", 500), "two.txt": "!damaged"}},
		{"without its directory", honest[:bytes.Index(honest, []byte("PK\x01\x02"))], source.DefaultLimits, source.Damaged, "2 files", map[string]string{"one.txt": strings.Repeat("1", 500), "two.txt": strings.Repeat("2", 500)}},
		{"packed, without its directory", packed[:directory], source.DefaultLimits, source.Damaged, "3 files", map[string]string{"one.txt": text, "two.txt": text + "!", "three.txt": "3"}},
		{"packed, cut off within the last", packed[:third+40], source.DefaultLimits, source.Damaged, "3 files", map[string]string{"one.txt": text, "two.txt": text + "!", "three.txt": "!damaged"}},
		{"packed, with litter between", between, source.DefaultLimits, source.Damaged, "3 files", map[string]string{"one.txt": text, "two.txt": text + "!", "three.txt": "3"}},
		{"packed, a flipped bit in the first", mangled, source.DefaultLimits, source.Damaged, "3 files", map[string]string{"one.txt": "!" + errChecksum.Error(), "two.txt": text + "!", "three.txt": "3"}},
		{"packed, a file beyond the limit", bombed[:bytes.Index(bombed, []byte("PK\x01\x02"))], tight, source.Damaged, "file", map[string]string{"zeros.png": "!damaged"}},
		{"a flipped bit", flipped, source.DefaultLimits, "", "", map[string]string{"one.txt": strings.Repeat("1", 500), "two.txt": "!zip: checksum error"}},
		{"encrypted", encrypted, source.DefaultLimits, "", "", map[string]string{"secret.jpg": "!encrypted"}},
		{"no archive", []byte("not an archive at all"), source.DefaultLimits, source.NotArchive, "archive", map[string]string{}},
		{"another archiver", []byte("7z\xbc\xaf\x27\x1c....."), source.DefaultLimits, source.NotArchive, "7z archives are not read", map[string]string{}},
	} {
		got, _, whole := read(t, write(t, "x.zip", c.bytes), c.limits)
		switch {
		case c.whole == "" && whole != nil, c.whole != "" && (whole == nil || whole.Fault != c.whole || !strings.Contains(whole.Error(), c.words)):
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
		if got, _ := EntryName(c.raw, nil); got != c.want {
			t.Errorf("%q is read as %q, want %q", c.raw, got, c.want)
		}
	}
}
