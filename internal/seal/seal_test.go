package seal

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"testing"
)

func TestKeeper(t *testing.T) {
	file := filepath.Join(t.TempDir(), "key")
	first, err := New("", file)
	if err != nil {
		t.Fatal(err)
	}
	if info, err := os.Stat(file); err != nil || info.Mode().Perm() != 0o600 {
		t.Error("others may read the key:", info.Mode(), err)
	}
	again, err := New("", file)
	if err != nil {
		t.Fatal(err)
	}
	other, err := New("passphrase", file)
	if err != nil {
		t.Fatal(err)
	}
	sealed := first.Seal([]byte("hush"), "source 1")
	if bytes.Contains(sealed, []byte("hush")) || bytes.Equal(sealed, first.Seal([]byte("hush"), "source 1")) {
		t.Error("a secret shows")
	}
	if got, err := again.Open(sealed, "source 1"); string(got) != "hush" || err != nil {
		t.Errorf("%q, %v", got, err)
	}
	sealed2 := bytes.Clone(sealed)
	sealed2[len(sealed2)-1] ^= 1
	for name, f := range map[string]func() ([]byte, error){
		"another key":  func() ([]byte, error) { return other.Open(sealed, "source 1") },
		"another name": func() ([]byte, error) { return first.Open(sealed, "source 2") },
		"changed":      func() ([]byte, error) { return first.Open(sealed2, "source 1") },
		"nothing":      func() ([]byte, error) { return first.Open(nil, "source 1") },
	} {
		if got, err := f(); !errors.Is(err, ErrKey) {
			t.Errorf("%s: %q, %v", name, got, err)
		}
	}
}
