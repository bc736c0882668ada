package pages

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"ambrosa/core/page"
)

// Kept are pages that people look at, for a day: as they came, so that what is pointed at is what is shown. Folder is shared by instances that
// share a database.
type Kept struct {
	Folder string
}

// ErrForgotten is returned for a page that is not kept any more.
var ErrForgotten = errors.New("the page is not kept any more; read it again")

// keptFor is how long a page is kept.
const keptFor = 24 * time.Hour

type header struct {
	Address string `json:"address"`
	Type    string `json:"type"`
}

// Keep keeps a page and returns its name.
func (k Kept) Keep(raw Raw) (id string, err error) {
	var b [16]byte
	rand.Read(b[:])
	id = hex.EncodeToString(b[:])
	head, err := json.Marshal(header{raw.Address, raw.Type})
	if err != nil {
		return "", err
	}
	if err := os.MkdirAll(k.Folder, 0o755); err != nil {
		return "", err
	}
	return id, os.WriteFile(k.file(id), append(append(head, '\n'), raw.Bytes...), 0o600)
}

func (k Kept) file(id string) string { return filepath.Join(k.Folder, id+".page") }

// Page is a page that is kept. ErrForgotten.
func (k Kept) Page(id string) (*page.Page, error) {
	if raw, err := hex.DecodeString(id); err != nil || len(raw) != 16 {
		return nil, ErrForgotten
	}
	b, err := os.ReadFile(k.file(id))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrForgotten
	}
	if err != nil {
		return nil, err
	}
	first, rest, _ := bytes.Cut(b, []byte("\n"))
	var head header
	if err := json.Unmarshal(first, &head); err != nil {
		return nil, err
	}
	return page.Parse(rest, head.Type, head.Address)
}

// Clear removes pages that were kept long enough.
func (k Kept) Clear(context.Context) error {
	all, err := os.ReadDir(k.Folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	for _, e := range all {
		if info, gone := e.Info(); gone == nil && time.Since(info.ModTime()) > keptFor {
			err = errors.Join(err, os.Remove(filepath.Join(k.Folder, e.Name())))
		}
	}
	return err
}
