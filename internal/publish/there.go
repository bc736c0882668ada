package publish

import (
	"context"
	"errors"
	"path"
	"strings"
	"time"

	"ambrosa/core/channel"
	"ambrosa/internal/drive"
	"ambrosa/internal/store/query"
)

// at is where a file of the channel lies on its drive.
func (c Channel) at(file string) string { return path.Join(c.folder(), file) }

func (c Channel) folder() string { return strings.Trim(path.Clean("/"+c.Folder), "/") }

// lookThere lists the channel's folder, as it is now. A folder that is not there yet is empty: it is made.
func (pl *planning) lookThere(ctx context.Context) error {
	c := pl.channel
	if c.IsPackage() {
		return nil
	}
	d, err := pl.open(ctx, c)
	if err != nil {
		return err
	}
	defer d.Close()
	if err := pl.Store.ClearThere(ctx, c.ID); err != nil {
		return err
	}
	var rows []query.AddThereParams
	put := func() error {
		_, err := pl.Store.AddThere(ctx, rows)
		if err == nil {
			err = pl.step(ctx, int64(len(rows)))
		}
		rows = rows[:0]
		return err
	}
	below := c.folder()
	err = d.Each(ctx, below, func(f drive.File) error {
		name := strings.TrimPrefix(strings.TrimPrefix(f.Path, below), "/")
		if drive.IsBeside(name) || strings.ContainsRune(name, 0) {
			return nil
		}
		row := query.AddThereParams{ChannelID: c.ID, Path: strings.ToValidUTF8(name, "\ufffd"), Bytes: f.Bytes}
		if !f.Modified.IsZero() && f.Modified.Year() > 0 && f.Modified.Year() < 9999 {
			row.Modified = new(f.Modified.Truncate(time.Microsecond))
		}
		if rows = append(rows, row); len(rows) == page {
			return put()
		}
		return nil
	}, func(string, error) {})
	if errors.Is(err, drive.ErrNoFolder) && below != "" {
		err = nil
	}
	if err != nil {
		return told(err, c.Name)
	}
	return put()
}

// thereAt is what lies where some files stand or shall stand, by path; nil for a package. It notes which of the paths this channel has.
func (pl *planning) thereAt(ctx context.Context, all wants) (map[string]int64, error) {
	if pl.channel.IsPackage() {
		return nil, nil
	}
	var paths []string
	for _, some := range all {
		for _, w := range some {
			paths = append(paths, w.file.Path)
			if w.stands.Path != "" && w.stands.Path != w.file.Path {
				paths = append(paths, w.stands.Path)
			}
		}
	}
	rows, err := pl.Store.ThereAt(ctx, query.ThereAtParams{Channel: pl.channel.ID, Paths: paths})
	if err != nil {
		return nil, err
	}
	there := make(map[string]int64, len(rows))
	for _, r := range rows {
		there[r.Path] = r.Bytes
	}
	stand, err := pl.Store.StandAt(ctx, query.StandAtParams{Channel: pl.channel.ID, Paths: paths})
	if err != nil {
		return nil, err
	}
	ours := make(map[string]bool, len(stand))
	for _, s := range stand {
		ours[s.Path] = true
	}
	for i := range all {
		for n := range all[i] {
			all[i][n].ours = ours[all[i][n].file.Path]
		}
	}
	return there, nil
}

// thereOf is what the drive says of what stands.
func (pl *planning) thereOf(stands channel.Stands, there map[string]int64) channel.There {
	if pl.channel.IsPackage() || stands.Path == "" {
		return channel.AsSent
	}
	bytes, is := there[stands.Path]
	switch {
	case !is:
		return channel.Missing
	case bytes >= 0 && bytes != stands.Bytes:
		return channel.Differs
	}
	return channel.AsSent
}
