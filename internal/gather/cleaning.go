package gather

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// CleanFolder removes what killed processes left: files half unpacked, and bytes of uploads that no delivery waits for any
// more. A day is longer than any file takes, so what another instance has in hand stays.
func (g *Gatherer) CleanFolder(ctx context.Context) error {
	entries, err := os.ReadDir(g.Folder)
	if err != nil {
		return err
	}
	old := map[string][]string{} // files by the upload they belong to; none for what is half unpacked
	var uploads []string
	for _, e := range entries {
		info, err := e.Info()
		if err != nil || time.Since(info.ModTime()) < 24*time.Hour {
			continue
		}
		name, _, _ := strings.Cut(e.Name(), ".")
		switch {
		case strings.HasPrefix(e.Name(), "spool-"):
			old[""] = append(old[""], e.Name())
		case IsUploadID(name):
			old[name] = append(old[name], e.Name())
			uploads = append(uploads, name)
		}
	}
	waiting, err := g.Store.KnownUploads(ctx, uploads)
	if err != nil {
		return err
	}
	for _, id := range waiting {
		delete(old, id)
	}
	for _, files := range old {
		for _, name := range files {
			if err := os.Remove(filepath.Join(g.Folder, name)); err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
		}
	}
	return nil
}
