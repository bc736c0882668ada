package tablefiles

import (
	"context"
	"io/fs"
	"os"
	"path/filepath"

	"ambrosa/core/names"
	"ambrosa/core/table"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive"
)

// ReadPictures lists the files of folders and archives, without those that a desktop leaves behind.
func ReadPictures(ctx context.Context, places []string) (*table.Files, error) {
	var paths []string
	add := func(path string) {
		if names.Read(path).Litter == "" {
			paths = append(paths, path)
		}
	}
	for _, place := range places {
		info, err := os.Stat(place)
		if err != nil {
			return nil, err
		}
		if !info.IsDir() {
			if err := listArchive(ctx, place, add); err != nil {
				return nil, err
			}
			continue
		}
		err = filepath.WalkDir(place, func(path string, entry fs.DirEntry, err error) error {
			if err == nil && entry.Type().IsRegular() {
				path, err = filepath.Rel(place, path)
				add(filepath.ToSlash(path))
			}
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	return table.NewFiles(paths), nil
}

// listArchive tells the names of an archive's files.
func listArchive(ctx context.Context, path string, add func(string)) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	a := &archive.Source{File: f, Name: filepath.Base(path), Limits: source.DefaultLimits}
	return a.Walk(ctx, "", func(source.Progress) error { return nil }, func(it source.Item) error {
		if it.ID == archive.Whole {
			return it.Problem
		}
		add(it.Path)
		return nil
	})
}
