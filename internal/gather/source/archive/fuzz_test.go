package archive

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive/archivetest"
)

// walkAll walks an archive as a taking in does, and checks what it may rely on: no file gives more than the limits, entries
// are numbered one after the other, and trouble has words.
func walkAll(t *testing.T, name string, b []byte) {
	limits := source.DefaultLimits
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
	err = walk(context.Background(), f, name, limits, func(int) error { return nil }, func(e source.Item) error {
		if last++; e.ID != strconv.Itoa(last) {
			t.Fatalf("item %s follows %d", e.ID, last-1)
		}
		if e.Problem != nil || e.Open == nil {
			if e.Problem == nil || e.Problem.Says.Code == "" {
				t.Fatalf("item %s has the problem %v without a word", e.ID, e.Problem)
			}
			return nil
		}
		r, err := e.Open(context.Background())
		if err != nil {
			return nil
		}
		defer r.Close()
		n, _ := io.Copy(io.Discard, r) // what is damaged is found here
		if n > limits.EntryBytes {
			t.Fatalf("%q gives %d bytes", e.Path, n)
		}
		total += n
		return nil
	})
	var whole *source.Problem
	if err != nil && (!errors.As(err, &whole) || whole.Says.Code == "" || whole.Fault == "") {
		t.Fatalf("an error without words: %v", err)
	}
	if last >= limits.Entries || total > max(limits.Bytes, int64(len(b)))+limits.EntryBytes {
		t.Fatalf("%d files gave %d bytes", last+1, total)
	}
}

func FuzzTar(f *testing.F) {
	f.Add(archivetest.Tar(f, "a.jpg", "abc", "../b", strings.Repeat("x", 2000)))
	f.Add(archivetest.Tar(f)[:600])
	f.Add([]byte("ustar"))
	f.Fuzz(func(t *testing.T, b []byte) { walkAll(t, "a.tar", b) })
}

func FuzzZip(f *testing.F) {
	f.Add(archivetest.Zip(f, zip.Store, "a.jpg", "abc", "dir/", "", "b", strings.Repeat("y", 3000)))
	f.Add(archivetest.Zip(f, zip.Deflate, "a.jpg", strings.Repeat("a", 5000), "ü.png", ""))
	f.Fuzz(func(t *testing.T, b []byte) { walkAll(t, "a.zip", b) })
}

// Salvage is what a zip goes through whose directory is lost: the fuzzer's bytes have none.
func FuzzSalvage(f *testing.F) {
	for _, method := range []uint16{zip.Store, zip.Deflate} {
		b := archivetest.Zip(f, method, "a.jpg", strings.Repeat("abc", 100), "b.jpg", "b")
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
		if path, _ := EntryName(name, extra); strings.ContainsAny(path, "\x00\\") || strings.HasPrefix(path, "./") {
			t.Fatalf("%q is read as %q", name, path)
		}
	})
}
