package sources

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"strings"

	"ambrosa/core/message"
	"ambrosa/internal/drive"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/store/query"
)

func newGlob(pattern string) drive.Glob { return drive.NewGlob(pattern) }

// drive opens the drive of a source. The key of an SFTP host that is met for the first time is kept: from then on it takes no other.
// ErrNotCollected where the source is none of a drive.
func (s *Sources) drive(ctx context.Context, of query.Source) (*drive.Drive, error) {
	if of.Kind != string(Drive) || of.RemovedAt != nil {
		return nil, ErrNotCollected
	}
	set, err := settingsOf(of)
	if err != nil {
		return nil, err
	}
	secrets, err := s.secrets(of)
	if err != nil {
		return nil, err
	}
	spec, err := specOf(set, secrets)
	if err != nil {
		return nil, err
	}
	door, err := s.door(ctx, spec)
	if err != nil {
		return nil, err
	}
	return drive.Open(ctx, spec, drive.Options{Door: door, Seen: func(fingerprint string) {
		set.HostKey = fingerprint
		if settings, err := json.Marshal(set); err == nil {
			_ = s.Store.SetSourceSettings(ctx, query.SetSourceSettingsParams{ID: of.ID, Settings: settings}) // else it is met for the first time again
		}
	}})
}

// OpenDrive opens the drive of a source, for who writes to it. Errors: ErrNotCollected where it is none, ErrHost, ErrFolder, those of drive.Open,
// pgx.ErrNoRows.
func (s *Sources) OpenDrive(ctx context.Context, id int64) (*drive.Drive, error) {
	of, err := s.Store.SourceByID(ctx, id)
	if err != nil {
		return nil, err
	}
	return s.drive(ctx, of)
}

// folder is a drive that is visited.
type folder struct {
	*drive.Drive
	name   string
	chosen []string
}

func (f *folder) close() { f.Drive.Close() }

func (*folder) ready(context.Context, []string) error { return nil }

func (f *folder) list(ctx context.Context, found func(listed) error) (failed []string, err error) {
	tell := func(file drive.File) error {
		return found(listed{path: file.Path, bytes: file.Bytes, modified: file.Modified, sum: file.Sum})
	}
	wrong := func(path string, _ error) { failed = append(failed, path) }
	if len(f.chosen) == 0 {
		return failed, trouble(f.Each(ctx, "", tell, wrong), f.name)
	}
	for _, c := range f.chosen {
		below, isFolder := strings.CutSuffix(c, "/")
		if isFolder {
			err = f.Each(ctx, below, tell, wrong)
		} else {
			var file drive.File
			if file, err = f.Find(ctx, c); err == nil {
				err = tell(file)
			}
		}
		if errors.Is(err, drive.ErrNoFolder) {
			failed, err = append(failed, below), nil // it went meanwhile; the others come
		}
		if err != nil {
			return failed, trouble(err, f.name)
		}
	}
	return failed, nil
}

func (f *folder) open(of query.VisitToFetchRow) source.Item {
	from, err := json.Marshal(cameFrom{Path: of.Path, Modified: of.Modified, Sum: of.Sum})
	if err != nil {
		from = nil // texts and times can be written
	}
	it := source.Item{Path: of.Path, Bytes: of.Bytes, Version: of.Sum, From: from}
	if of.Modified != nil {
		it.Modified = *of.Modified
	}
	if of.Bytes == 0 {
		it.Problem = source.NewProblem(source.Empty, "file_empty") // nothing is to be fetched
		return it
	}
	it.Open = func(ctx context.Context) (io.ReadCloser, error) {
		file, err := f.Find(ctx, of.Path)
		var in io.ReadCloser
		if err == nil {
			in, err = f.Drive.Open(ctx, file)
		}
		if err == nil {
			return &whole{ReadCloser: in, path: of.Path, bytes: of.Bytes}, nil
		}
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if _, lost := f.Look(ctx, ""); lost != nil { // it is not this file
			return nil, trouble(lost, f.name)
		}
		if errors.Is(err, drive.ErrNoFolder) {
			return nil, source.NewProblem(source.Unreachable, "drive_file_gone")
		}
		return nil, source.NewProblem(source.Unreachable, "drive_file_failed", "why", err.Error())
	}
	return it
}

// whole reads a file to its end, and says so where that is not where it was told to be.
type whole struct {
	io.ReadCloser
	path  string
	bytes int64 // -1 where nobody knows
	read  int64
}

func (w *whole) Read(p []byte) (int, error) {
	n, err := w.ReadCloser.Read(p)
	w.read += int64(n)
	switch {
	case w.bytes >= 0 && w.read > w.bytes:
		return n, source.NewProblem(source.Unreachable, "drive_file_longer", "told", w.bytes)
	case errors.Is(err, io.EOF):
		if w.bytes >= 0 && w.read < w.bytes {
			return n, source.NewProblem(source.Unreachable, "drive_file_cut", "came", w.read, "told", w.bytes)
		}
	case err != nil && !errors.Is(err, context.Canceled):
		return n, source.NewProblem(source.Unreachable, "drive_file_cut", "came", w.read, "told", w.bytes)
	}
	return n, err
}

// trouble is why a drive can't be read, for people. Where only somebody can help, trying again would not.
func trouble(err error, name string) error {
	if err == nil {
		return nil
	}
	for _, of := range []struct {
		err   error
		code  string
		final bool
	}{
		{ErrHost, "drive_host", true}, {ErrFolder, "drive_folder_refused", true}, {fetch.ErrRefused, "drive_refused", true}, {drive.ErrSignIn, "drive_sign_in", true},
		{drive.ErrHostKey, "drive_host_key", true}, {drive.ErrCertificate, "drive_certificate", true}, {drive.ErrNoFolder, "drive_no_folder", true},
		{drive.ErrNoAnswer, "drive_no_answer", false}, {drive.ErrDrive, "drive_answers", false},
	} {
		if errors.Is(err, of.err) {
			return &source.Trouble{Says: message.New(of.code, "source", name, "why", err.Error()), Final: of.final, Of: err}
		}
	}
	return err
}
