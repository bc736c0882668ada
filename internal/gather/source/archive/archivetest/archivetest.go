// Package archivetest makes archives for tests.
package archivetest

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"io"
	"testing"
)

// Zip makes a zip of names and contents in turn, packed by a method.
func Zip(t testing.TB, method uint16, pairs ...string) []byte {
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

// Tar makes a tar of names and contents in turn.
func Tar(t testing.TB, pairs ...string) []byte {
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
