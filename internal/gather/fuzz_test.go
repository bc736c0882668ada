package gather

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// walkAll walks an archive as a taking in does, and checks what it may rely on: no file gives more than the limits, entries
// are numbered one after the other, and trouble has words.
func walkAll(t *testing.T, name string, b []byte) {
	limits := DefaultLimits
	limits.Entries, limits.Bytes, limits.EntryBytes = 200, 1<<20, 1<<19
	path := filepath.Join(t.TempDir(), "x")
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	last, total := -1, int64(0)
	err = walk(context.Background(), f, name, limits, func(int) error { return nil }, func(e entry) error {
		if e.index != last+1 {
			t.Fatalf("entry %d follows %d", e.index, last)
		}
		last = e.index
		if e.problem != "" || e.open == nil {
			if e.says.Code == "" {
				t.Fatalf("entry %d has the problem %q without a word", e.index, e.problem)
			}
			return nil
		}
		r, err := e.open()
		if err != nil {
			return nil
		}
		defer r.Close()
		n, _ := io.Copy(io.Discard, r) // what is damaged is found here
		if n > limits.EntryBytes {
			t.Fatalf("%q gives %d bytes", e.path, n)
		}
		total += n
		return nil
	})
	var whole *trouble
	if err != nil && (!errors.As(err, &whole) || whole.says.Code == "" || whole.problem == "") {
		t.Fatalf("an error without words: %v", err)
	}
	if last >= limits.Entries || total > max(limits.Bytes, int64(len(b)))+limits.EntryBytes {
		t.Fatalf("%d files gave %d bytes", last+1, total)
	}
}

func tarOf(t testing.TB, pairs ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for i := 0; i < len(pairs); i += 2 {
		if err := w.WriteHeader(&tar.Header{Name: pairs[i], Size: int64(len(pairs[i+1])), Mode: 0o600}); err != nil {
			t.Fatal(err)
		}
		io.WriteString(w, pairs[i+1])
	}
	w.Close()
	return b.Bytes()
}

func FuzzTar(f *testing.F) {
	f.Add(tarOf(f, "a.jpg", "abc", "../b", strings.Repeat("x", 2000)))
	f.Add(tarOf(f)[:600])
	f.Add([]byte("ustar"))
	f.Fuzz(func(t *testing.T, b []byte) { walkAll(t, "a.tar", b) })
}

func FuzzZip(f *testing.F) {
	f.Add(zipOf(f, zip.Store, "a.jpg", "abc", "dir/", "", "b", strings.Repeat("y", 3000)))
	f.Add(zipOf(f, zip.Deflate, "a.jpg", strings.Repeat("a", 5000), "ü.png", ""))
	f.Fuzz(func(t *testing.T, b []byte) { walkAll(t, "a.zip", b) })
}

// Salvage is what a zip goes through whose directory is lost: the fuzzer's bytes have none.
func FuzzSalvage(f *testing.F) {
	for _, method := range []uint16{zip.Store, zip.Deflate} {
		b := zipOf(f, method, "a.jpg", strings.Repeat("abc", 100), "b.jpg", "b")
		f.Add(b[:bytes.Index(b, []byte("PK\x01\x02"))])
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		walkAll(t, "a.zip", bytes.ReplaceAll(append([]byte("PK\x03\x04"), b...), []byte("PK\x05\x06"), []byte("PK\x05\x07")))
	})
}

func FuzzEntryName(f *testing.F) {
	for _, seed := range []string{"a/b.jpg", `..\x`, "\xff\xfe", "./././", "nul\x00"} {
		f.Add(seed, []byte("up\x08\x00\x01"))
	}
	f.Fuzz(func(t *testing.T, name string, extra []byte) {
		if path, _ := entryName(name, extra); strings.ContainsAny(path, "\x00\\") || strings.HasPrefix(path, "./") {
			t.Fatalf("%q is read as %q", name, path)
		}
	})
}
