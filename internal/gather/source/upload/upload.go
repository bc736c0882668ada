// Package upload is the source of files that were sent to the server: each an archive or a file by itself.
package upload

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"

	"ambrosa/core/message"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// Source is what was sent into one delivery. Folder is where the bytes lie, each under its upload's name.
type Source struct {
	Store    *store.Store
	Folder   string
	Delivery int64
	Limits   source.Limits
}

var _ source.Source = (*Source)(nil)

// Check tells whether the bytes of all that is not taken in yet are there.
func (s *Source) Check(ctx context.Context) error {
	uploads, err := s.Store.Uploads(ctx, s.Delivery)
	for _, u := range uploads {
		if _, gone := os.Stat(filepath.Join(s.Folder, u.ID)); !u.Done && gone != nil {
			return lost(u)
		}
	}
	return err
}

func lost(u query.Upload) error {
	return &message.Error{Message: message.New("bytes_gone", "path", u.Path), Of: source.ErrGone}
}

// Walk shows what was sent, upload by upload, in the order of the sending; an item is named after its upload and its place in it.
// A cursor is an upload: all before it are taken in, and their bytes are not looked for any more.
func (s *Source) Walk(ctx context.Context, from source.Cursor, tell func(source.Progress) error, visit func(source.Item) error) error {
	uploads, err := s.Store.Uploads(ctx, s.Delivery)
	if err != nil {
		return err
	}
	at := max(0, slices.IndexFunc(uploads, func(u query.Upload) bool { return u.ID == string(from) }))
	over := make([]string, at)
	total := int64(0) // files in all uploads, as far as that is known
	for i, u := range uploads {
		if i < at {
			over[i] = u.ID
		}
		total += known(u)
	}
	if err := s.Store.FinishUploads(ctx, over); err != nil {
		return err
	}
	if err := tell(source.Progress{Items: total}); err != nil {
		return err
	}
	for _, u := range uploads[at:] {
		if u.Done {
			continue
		}
		others := total - known(u)
		n, err := s.upload(ctx, u, func(p source.Progress) error { return tell(source.Progress{Items: others + p.Items}) }, visit)
		if err != nil {
			return err
		}
		total = others + n
		if err := tell(source.Progress{Items: total}); err != nil {
			return err
		}
	}
	return nil
}

// known is how many files an upload holds, 0 where that is not known yet.
func known(u query.Upload) int64 {
	if u.Entries == nil {
		return 0
	}
	return int64(*u.Entries)
}

// upload shows what one upload holds, keeps how many files that are and the hash of the whole, and returns their number.
func (s *Source) upload(ctx context.Context, u query.Upload, tell func(source.Progress) error, visit func(source.Item) error) (n int64, err error) {
	f, err := os.Open(filepath.Join(s.Folder, u.ID))
	if errors.Is(err, fs.ErrNotExist) {
		return 0, lost(u)
	}
	if err != nil {
		return 0, err
	}
	defer f.Close()
	kept := func(files int64, sha []byte) error {
		return s.Store.SetUploadEntries(ctx, query.SetUploadEntriesParams{ID: u.ID, Entries: int32(files), Sha256: sha})
	}
	err = (&archive.Source{File: f, Name: u.Path, Limits: s.Limits}).Walk(ctx, source.Cursor(u.ID), func(p source.Progress) error {
		if p.Items != known(u) {
			if err := kept(p.Items, nil); err != nil {
				return err
			}
		}
		return tell(p)
	}, func(it source.Item) error {
		n++
		it.ID = u.ID + "/" + it.ID
		return visit(it)
	})
	if err != nil {
		return n, err
	}
	if n == 1 && known(u) == 1 {
		return n, nil // a file by itself: all is known of it, and only archives are compared as a whole
	}
	sha, err := hash(ctx, f)
	if err != nil {
		return n, err
	}
	return n, kept(n, sha)
}
