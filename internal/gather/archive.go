package gather

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"strings"

	"ambrosa/core/message"
	"ambrosa/internal/assets"

	"github.com/klauspost/compress/zip"
	"github.com/mholt/archives"
)

// Limits bound what one archive or picture may ask for.
type Limits struct {
	Entries    int   // files in an archive
	Bytes      int64 // bytes of an archive, unpacked
	Ratio      int64 // bytes unpacked for each byte packed
	EntryBytes int64 // bytes of one file
	Pixels     int64 // width × height of a picture
	Upload     int64 // bytes of one upload
	Reserve    int64 // bytes of the disk that are kept free
}

// DefaultLimits leave room for any honest delivery.
var DefaultLimits = Limits{Entries: 500_000, Bytes: 256 << 30, Ratio: 200, EntryBytes: 2 << 30, Pixels: 300_000_000, Upload: 256 << 30, Reserve: 1 << 30}

// ratioFloor is how much may be unpacked before the ratio counts: small things pack well by chance.
const ratioFloor = 64 << 20

// A file with holes (sparse) may give much more than it takes in its archive: up to holesFloor, or so many times.
const (
	holesFloor = 1 << 20
	holesRatio = 10
)

// entry is one file in an upload.
type entry struct {
	index   int // its place in the upload; -1 for a word on the upload as a whole
	path    string
	raw     []byte // the name's bytes, where they were no UTF-8
	size    int64  // bytes, as claimed
	problem Problem
	says    message.Message
	open    func() (io.ReadCloser, error)
}

// refused stops an archive before it does harm.
func refused(code string, data ...any) *trouble {
	return &trouble{Refused, message.New(code, data...)}
}

// trouble is a problem with an archive as a whole.
type trouble struct {
	problem Problem
	says    message.Message
}

func (t *trouble) Error() string { return t.says.Text() }

// walk visits the files of an upload in a fixed order. expect is told how many there are where that is known
// before. A *trouble says what is wrong with the archive as a whole; what came before it has been visited.
// An upload that is no archive is one file, itself.
func walk(ctx context.Context, f *os.File, name string, limits Limits, expect func(int) error, visit func(entry) error) error {
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
		return &trouble{NotArchive, message.New("archive_kind", "kind", format.Name)}
	}
	if isArchiveName(name) {
		// A zip may begin with something else, such as a self-extracting program; its directory is at its end.
		return walkZip(f, info.Size(), limits, expect, visit)
	}
	if err := expect(1); err != nil {
		return err
	}
	return visit(entry{path: name, size: info.Size(), open: func() (io.ReadCloser, error) {
		return io.NopCloser(io.NewSectionReader(f, 0, info.Size())), nil
	}})
}

// archiveSuffixes are the names by which an upload is expected to be an archive.
var archiveSuffixes = []string{".zip", ".tar", ".tar.gz", ".tgz", ".tar.xz", ".txz", ".tar.zst", ".7z", ".rar"}

func isArchiveName(name string) bool {
	lower := strings.ToLower(name)
	for _, s := range archiveSuffixes {
		if strings.HasSuffix(lower, s) {
			return true
		}
	}
	return false
}

func walkZip(f *os.File, size int64, limits Limits, expect func(int) error, visit func(entry) error) error {
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
		e := entry{index: i, size: int64(file.UncompressedSize64)}
		e.path, e.raw = entryName(file.Name, file.Extra)
		e.open = func() (io.ReadCloser, error) {
			r, err := file.Open()
			if err != nil {
				return nil, err
			}
			return limited(r, r, min(int64(file.UncompressedSize64), limits.EntryBytes)), nil
		}
		switch {
		case file.Flags&1 != 0:
			e.problem, e.says = Encrypted, message.New("file_encrypted")
		case file.Mode()&fs.ModeSymlink != 0:
			e.problem, e.says = UnsafePath, message.New("entry_link")
		case e.size > limits.EntryBytes:
			e.problem, e.says = Refused, message.New("file_large", "size", e.size, "limit", limits.EntryBytes)
		}
		if err := visit(e); err != nil {
			return err
		}
	}
	return nil
}

func walkPacked(ctx context.Context, packing archives.Decompressor, f *os.File, size int64, limits Limits, visit func(entry) error) error {
	r, err := packing.OpenReader(io.NewSectionReader(f, 0, size))
	if err != nil {
		return &trouble{Damaged, message.New("archive_packing")}
	}
	defer r.Close()
	return walkTar(ctx, r, size, limits, visit)
}

// walkTar streams: the number of files is known only at the end. What counts is what the stream and its files give: a file
// with holes gives more than it takes.
func walkTar(ctx context.Context, r io.Reader, packed int64, limits Limits, visit func(entry) error) error {
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
		e := entry{index: index, size: file.Size()}
		index++
		e.path, e.raw = entryName(file.NameInArchive, nil)
		e.open = func() (io.ReadCloser, error) {
			r, err := file.Open()
			if err != nil {
				return nil, err
			}
			return limited(given.of(&holes{r: r, taken: counted, before: counted.read}), r, min(file.Size(), limits.EntryBytes)), nil
		}
		switch {
		case file.LinkTarget != "" || !file.Mode().IsRegular():
			e.problem, e.says = UnsafePath, message.New("entry_device")
		case e.size > limits.EntryBytes:
			e.problem, e.says = Refused, message.New("file_large", "size", e.size, "limit", limits.EntryBytes)
		}
		stop = visit(e)
		if stop == nil && given.over() {
			stop = errTooMuch
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
		return &trouble{NotArchive, message.New("archive_no_tar")}
	case err != nil:
		return &trouble{Damaged, message.New("archive_cut", "file", index)}
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
			return 0, errTooMuch
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
		return 0, errHoles
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
		return 0, errTooMuch
	}
	return n, err
}

var (
	errTooMuch = errors.New("more bytes than were claimed")
	errHoles   = errors.New("the file consists mostly of holes")
)

// limited fails a file that gives more bytes than its archive claimed.
func limited(r io.Reader, c io.Closer, most int64) io.ReadCloser {
	return struct {
		io.Reader
		io.Closer
	}{&meter{r: r, most: most}, c}
}
