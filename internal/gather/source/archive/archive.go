// Package archive reads zip and tar archives, packed or not, also damaged ones, as sources.
package archive

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"strconv"
	"strings"

	"ambrosa/internal/assets"
	"ambrosa/internal/gather/source"

	"github.com/klauspost/compress/zip"
	"github.com/mholt/archives"
)

// Source is an archive, or a file that is none: then it is the one item.
type Source struct {
	File   *os.File
	Name   string // by which it was sent
	Limits source.Limits
}

// Whole is the ID of the item that says what is wrong with an archive as a whole. Those of its files are their numbers.
const Whole = "whole"

// Check reads the beginning.
func (a *Source) Check(context.Context) error {
	_, err := a.File.ReadAt(make([]byte, 1), 0)
	if err == io.EOF {
		return nil // empty, which is said of it as an item
	}
	return err
}

// Walk shows the files of an archive in a fixed order, always from its beginning. What is wrong with it as a whole comes last, as
// an item of its own.
func (a *Source) Walk(ctx context.Context, from source.Cursor, tell func(source.Progress) error, visit func(source.Item) error) error {
	info, err := a.File.Stat()
	if err != nil {
		return err
	}
	err = walk(ctx, a.File, a.Name, a.Limits, func(files int) error {
		return tell(source.Progress{Items: int64(files)})
	}, func(it source.Item) error {
		it.Next = from
		return visit(it)
	})
	var whole *source.Problem
	if errors.As(err, &whole) {
		return visit(source.Item{ID: Whole, Path: a.Name, Bytes: info.Size(), Problem: whole, Next: from})
	}
	return err
}

// ratioFloor is how much may be unpacked before the ratio counts: small things pack well by chance.
const ratioFloor = 64 << 20

// A file with holes (sparse) may give much more than it takes in its archive: up to holesFloor, or so many times.
const (
	holesFloor = 1 << 20
	holesRatio = 10
)

// refused stops an archive before it does harm.
func refused(code string, data ...any) *source.Problem {
	return source.NewProblem(source.Refused, code, data...)
}

// walk visits the files of an archive in a fixed order. expect is told how many there are where that is known
// before. A *source.Problem says what is wrong with the archive as a whole; what came before it has been visited.
// A file that is no archive is itself the one.
func walk(ctx context.Context, f *os.File, name string, limits source.Limits, expect func(int) error, visit func(source.Item) error) error {
	info, err := f.Stat()
	if err != nil {
		return err
	}
	head := make([]byte, assets.HeadBytes)
	n, err := f.ReadAt(head, 0)
	if err != nil && err != io.EOF {
		return err
	}
	switch format := assets.Detect(head[:n]); format.Name {
	case "zip":
		return walkZip(f, info.Size(), limits, expect, visit)
	case "tar":
		return walkTar(ctx, io.NewSectionReader(f, 0, info.Size()), info.Size(), limits, visit)
	case "gzip":
		return walkPacked(ctx, archives.Gz{}, f, info.Size(), limits, visit)
	case "xz":
		return walkPacked(ctx, archives.Xz{}, f, info.Size(), limits, visit)
	case "Zstandard":
		return walkPacked(ctx, archives.Zstd{}, f, info.Size(), limits, visit)
	case "RAR", "7z":
		return source.NewProblem(source.NotArchive, "archive_kind", "kind", format.Name)
	}
	if IsName(name) {
		// A zip may begin with something else, such as a self-extracting program; its directory is at its end.
		return walkZip(f, info.Size(), limits, expect, visit)
	}
	if err := expect(1); err != nil {
		return err
	}
	return visit(source.Item{ID: "0", Path: name, Bytes: info.Size(), Open: func(context.Context) (io.ReadCloser, error) {
		return io.NopCloser(io.NewSectionReader(f, 0, info.Size())), nil
	}})
}

// archiveSuffixes are the names by which an upload is expected to be an archive.
var archiveSuffixes = []string{".zip", ".tar", ".tar.gz", ".tgz", ".tar.xz", ".txz", ".tar.zst", ".7z", ".rar"}

// IsName reports whether a file of a name is expected to be an archive.
func IsName(name string) bool {
	lower := strings.ToLower(name)
	for _, s := range archiveSuffixes {
		if strings.HasSuffix(lower, s) {
			return true
		}
	}
	return false
}

func walkZip(f *os.File, size int64, limits source.Limits, expect func(int) error, visit func(source.Item) error) error {
	// The directory is read with the zip package itself: the archives package's own walk hides which entries
	// are encrypted and ends at the first that fails. Its import registers the packings beyond deflate.
	r, err := zip.NewReader(f, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return salvageZip(f, size, limits, visit)
	}
	var files []*zip.File
	var total int64
	for _, file := range r.File {
		if file.FileInfo().IsDir() {
			continue
		}
		files = append(files, file)
		if claimed := int64(file.UncompressedSize64); claimed < 0 || total+claimed < total {
			return refused("archive_boundless")
		} else {
			total += claimed
		}
	}
	if len(files) > limits.Entries {
		return refused("archive_files_claimed", "files", len(files), "most", limits.Entries)
	}
	if total > limits.Bytes {
		return refused("archive_large", "size", total, "limit", limits.Bytes)
	}
	if total > ratioFloor && total/max(size, 1) > limits.Ratio {
		return refused("archive_ratio", "size", total, "times", total/max(size, 1), "limit", limits.Ratio)
	}
	if err := expect(len(files)); err != nil {
		return err
	}
	for i, file := range files {
		e := source.Item{ID: strconv.Itoa(i), Bytes: int64(file.UncompressedSize64)}
		e.Path, e.Raw = EntryName(file.Name, file.Extra)
		e.Open = func(context.Context) (io.ReadCloser, error) {
			r, err := file.Open()
			if err != nil {
				return nil, err
			}
			return Limited(r, r, min(int64(file.UncompressedSize64), limits.EntryBytes)), nil
		}
		switch {
		case file.Flags&1 != 0:
			e.Problem = source.NewProblem(source.Encrypted, "file_encrypted")
		case file.Mode()&fs.ModeSymlink != 0:
			e.Problem = source.NewProblem(source.UnsafePath, "entry_link")
		case e.Bytes > limits.EntryBytes:
			e.Problem = source.NewProblem(source.Refused, "file_large", "size", e.Bytes, "limit", limits.EntryBytes)
		}
		if err := visit(e); err != nil {
			return err
		}
	}
	return nil
}

func walkPacked(ctx context.Context, packing archives.Decompressor, f *os.File, size int64, limits source.Limits, visit func(source.Item) error) error {
	r, err := packing.OpenReader(io.NewSectionReader(f, 0, size))
	if err != nil {
		return source.NewProblem(source.Damaged, "archive_packing")
	}
	defer r.Close()
	return walkTar(ctx, r, size, limits, visit)
}

// walkTar streams: the number of files is known only at the end. What counts is what the stream and its files give: a file
// with holes gives more than it takes.
func walkTar(ctx context.Context, r io.Reader, packed int64, limits source.Limits, visit func(source.Item) error) error {
	most := min(limits.Bytes, max(ratioFloor, packed*limits.Ratio))
	counted, given := &meter{r: r, most: most}, &budget{most: most}
	index := 0
	var stop error
	err := archives.Tar{}.Extract(ctx, counted, func(ctx context.Context, file archives.FileInfo) error {
		if file.IsDir() {
			return nil
		}
		if index >= limits.Entries {
			stop = refused("archive_files", "most", limits.Entries)
			return stop
		}
		e := source.Item{ID: strconv.Itoa(index), Bytes: file.Size()}
		index++
		e.Path, e.Raw = EntryName(file.NameInArchive, nil)
		e.Open = func(context.Context) (io.ReadCloser, error) {
			r, err := file.Open()
			if err != nil {
				return nil, err
			}
			return Limited(given.of(&holes{r: r, taken: counted, before: counted.read}), r, min(file.Size(), limits.EntryBytes)), nil
		}
		switch {
		case file.LinkTarget != "" || !file.Mode().IsRegular():
			e.Problem = source.NewProblem(source.UnsafePath, "entry_device")
		case e.Bytes > limits.EntryBytes:
			e.Problem = source.NewProblem(source.Refused, "file_large", "size", e.Bytes, "limit", limits.EntryBytes)
		}
		stop = visit(e)
		if stop == nil && given.over() {
			stop = ErrTooMuch
		}
		return stop
	})
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case counted.over || given.over():
		return refused("archive_unpacks_over", "limit", most, "times", limits.Ratio)
	case stop != nil:
		return stop
	case err != nil && index == 0:
		return source.NewProblem(source.NotArchive, "archive_no_tar")
	case err != nil:
		return source.NewProblem(source.Damaged, "archive_cut", "file", index)
	}
	return nil
}

// budget is what all files of an archive may give together.
type budget struct{ given, most int64 }

func (b *budget) over() bool { return b.given > b.most }

// of counts what a file gives, and ends it where that is too much.
func (b *budget) of(r io.Reader) io.Reader {
	return readerFunc(func(p []byte) (int, error) {
		n, err := r.Read(p)
		if b.given += int64(n); b.over() {
			return 0, ErrTooMuch
		}
		return n, err
	})
}

type readerFunc func([]byte) (int, error)

func (f readerFunc) Read(p []byte) (int, error) { return f(p) }

// holes ends a file that gives far more than it takes in the archive's stream.
type holes struct {
	r             io.Reader
	taken         *meter
	before, given int64
}

func (h *holes) Read(p []byte) (int, error) {
	n, err := h.r.Read(p)
	if h.given += int64(n); h.given > holesFloor && h.given > holesRatio*(h.taken.read-h.before) {
		return 0, ErrHoles
	}
	return n, err
}

// meter ends a stream that gives more than it may.
type meter struct {
	r    io.Reader
	read int64
	most int64
	over bool
}

func (m *meter) Read(p []byte) (int, error) {
	n, err := m.r.Read(p)
	m.read += int64(n)
	if m.read > m.most {
		m.over = true
		return 0, ErrTooMuch
	}
	return n, err
}

var (
	// ErrTooMuch is returned by a file that gives more bytes than its archive claims, ErrHoles by one that consists mostly of holes.
	ErrTooMuch = errors.New("more bytes than were claimed")
	ErrHoles   = errors.New("the file consists mostly of holes")
)

// Limited fails a file that gives more bytes than it may, with ErrTooMuch.
func Limited(r io.Reader, c io.Closer, most int64) io.ReadCloser {
	return struct {
		io.Reader
		io.Closer
	}{&meter{r: r, most: most}, c}
}
