package tables

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Clear removes files that no table needs: of tables that were removed, and those that killed processes left half written. A day is
// longer than any takes to be sent.
func (t *Tables) Clear(ctx context.Context) error {
	names, err := filepath.Glob(filepath.Join(t.Folder, "sheet-*"))
	if err != nil {
		return err
	}
	of := map[int64]string{}
	var ids []int64
	var old []string
	for _, name := range names {
		info, err := os.Stat(name)
		if err != nil || time.Since(info.ModTime()) < 24*time.Hour {
			continue
		}
		id, err := strconv.ParseInt(strings.TrimPrefix(filepath.Base(name), "sheet-"), 10, 64)
		if err != nil {
			old = append(old, name)
			continue
		}
		of[id] = name
		ids = append(ids, id)
	}
	there, err := t.Store.WorksheetsThere(ctx, ids)
	if err != nil {
		return err
	}
	for id, name := range of {
		if !slices.Contains(there, id) {
			old = append(old, name)
		}
	}
	for _, name := range old {
		if err := os.Remove(name); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	return nil
}
