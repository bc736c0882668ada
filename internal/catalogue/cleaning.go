package catalogue

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"ambrosa/internal/jobs"
)

// clearing is the kind of work that removing tables is which nothing needs any more.
const clearing = "clear_tables"

func (im *Importer) registerClearing() {
	im.Jobs.Register(jobs.Kind{Name: clearing, Every: 24 * time.Hour, Work: func(ctx context.Context, _ int64) error { return im.clear(ctx) }})
}

// clear removes old lines of the log of owners, tables that killed processes left half written, and those whose plan is made. One that failed stays for a month, as
// it can be resumed. A day is longer than any takes to be sent.
func (im *Importer) clear(ctx context.Context) error {
	if err := im.Store.ClearOwnerLog(ctx, logDays); err != nil {
		return err
	}
	names, err := filepath.Glob(filepath.Join(im.Folder, "table-*"))
	if err != nil {
		return err
	}
	old := map[int64]string{}
	var ids []int64
	for _, name := range names {
		info, err := os.Stat(name)
		if err != nil || time.Since(info.ModTime()) < 24*time.Hour {
			continue
		}
		id, err := strconv.ParseInt(strings.TrimPrefix(filepath.Base(name), "table-"), 10, 64)
		if err != nil || time.Since(info.ModTime()) > 30*24*time.Hour {
			if err := remove(name); err != nil {
				return err
			}
			continue
		}
		old[id] = name
		ids = append(ids, id)
	}
	waiting, err := im.Store.WaitingImports(ctx, ids)
	if err != nil {
		return err
	}
	for _, id := range waiting {
		delete(old, id)
	}
	for _, name := range old {
		if err := remove(name); err != nil {
			return err
		}
	}
	return nil
}

func remove(name string) error {
	if err := os.Remove(name); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}
