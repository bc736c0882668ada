package gather

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/internal/assets"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/store/query"
)

// reader fills batches in the order of uploads and entries.
type reader struct {
	g     *Gatherer
	ctx   context.Context
	out   chan<- *batch
	taken map[string]map[int32]bool
	batch *batch
}

func (r *reader) uploads(uploads []query.Upload) error {
	for _, u := range uploads {
		if u.Done {
			continue
		}
		if err := r.upload(u); err != nil {
			return err
		}
		if err := r.sendIfFull(); err != nil {
			return err
		}
	}
	return r.send()
}

func (r *reader) upload(u query.Upload) error {
	f, err := os.Open(r.g.File(u.ID))
	if errors.Is(err, fs.ErrNotExist) {
		return &message.Error{Message: message.New("bytes_gone", "path", u.Path), Of: ErrBytesGone}
	}
	if err != nil {
		return err
	}
	defer f.Close()
	var count int32
	err = walk(r.ctx, f, u.Path, r.g.Limits, func(n int) error {
		if u.Entries != nil && *u.Entries == int32(n) {
			return nil
		}
		n32 := int32(n)
		return r.g.Store.SetUploadEntries(r.ctx, query.SetUploadEntriesParams{ID: u.ID, Entries: &n32})
	}, func(e entry) error {
		count++
		if r.taken[u.ID][int32(e.index)] {
			return nil
		}
		return r.add(u.ID, e)
	})
	var whole *trouble
	if errors.As(err, &whole) {
		count++
		if !r.taken[u.ID][-1] {
			err = r.add(u.ID, entry{index: -1, path: u.Path, size: u.Bytes, problem: whole.problem, says: whole.says})
		} else {
			err = nil
		}
	}
	if err != nil {
		return err
	}
	sha, err := hashFile(r.ctx, f)
	if err != nil {
		return err
	}
	r.batch.finished = append(r.batch.finished, finished{u.ID, count, sha})
	return nil
}

func (r *reader) add(upload string, e entry) error {
	it := &item{upload: upload, entry: e, problem: e.problem, says: e.says, bytes: min(e.size, r.g.Limits.Bytes)}
	if err := r.g.Room(); err != nil {
		return err
	}
	if err := r.check(it); err != nil {
		return err
	}
	r.batch.items = append(r.batch.items, it)
	r.batch.held += int64(len(it.src.Bytes))
	if it.src.File != "" {
		r.batch.spooled += it.bytes
	}
	return r.sendIfFull()
}

// check decides what can be decided without pixels, and reads the bytes of what may be a picture. An error is the
// server's, not the file's.
func (r *reader) check(it *item) error {
	if it.problem != "" {
		return nil
	}
	e := it.entry
	if climbsOut(e.path) {
		it.problem, it.says = UnsafePath, message.New("path_leads_out")
		return nil
	}
	if litter := names.Read(e.path).Litter; litter != "" {
		it.problem, it.says = Litter, message.New(litter)
		return nil
	}
	if err := r.readBytes(it); err != nil {
		discard(&it.src)
		if errors.Is(err, ErrNoRoom) || errors.Is(err, errSpool) {
			return err
		}
		it.problem, it.says = Damaged, readFailure(err)
		return nil
	}
	if it.bytes == 0 {
		it.problem, it.says = Empty, message.New("file_empty")
	}
	return nil
}

func readFailure(err error) message.Message {
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return message.New("archive_ends")
	case errors.Is(err, errHoles):
		return message.New("file_holes")
	case errors.Is(err, errTooMuch):
		return message.New("file_unpacks_over")
	case strings.Contains(err.Error(), "checksum"):
		return message.New("file_checksum")
	}
	return message.New("file_unreadable", "why", err.Error())
}

// readBytes takes the entry's bytes into memory, or into a file where they are many, hashing on the way. A
// file that is no picture is read no further than its head.
func (r *reader) readBytes(it *item) error {
	in, err := it.entry.open()
	if err != nil {
		return err
	}
	defer in.Close()
	head := make([]byte, assets.HeadBytes)
	n, err := io.ReadFull(in, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return err
	}
	if n < len(head) && int64(n) < it.entry.size {
		return io.ErrUnexpectedEOF
	}
	head = head[:n]
	it.format = assets.Detect(head)
	if !it.format.Picture {
		it.bytes = max(it.bytes, int64(n))
		if n > 0 {
			it.problem, it.says = NotPicture, notPicture(it.format, it.entry.path)
		}
		return nil
	}
	hash := sha256.New()
	in2 := io.TeeReader(io.MultiReader(bytes.NewReader(head), in), hash)
	if it.entry.size <= batchBytes {
		buf := bytes.NewBuffer(make([]byte, 0, it.entry.size+bytes.MinRead))
		if it.bytes, err = buf.ReadFrom(in2); err != nil {
			return err
		}
		it.src.Bytes = buf.Bytes()
	} else if it.bytes, err = r.g.spool(in2, &it.src); err != nil {
		return err
	}
	it.sha = hash.Sum(nil)
	if it.bytes < it.entry.size {
		return io.ErrUnexpectedEOF
	}
	return nil
}

// errSpool is returned where the server could not put a file's bytes down.
var errSpool = errors.New("the server could not keep the file while it is read")

// spoolCheck is how many bytes are put down between two looks at the room on the disk.
const spoolCheck = 64 << 20

func (g *Gatherer) spool(in io.Reader, src *assets.Source) (total int64, err error) {
	f, err := os.CreateTemp(g.Folder, "spool-*")
	if err != nil {
		return 0, fmt.Errorf("%w: %w", errSpool, err)
	}
	defer f.Close()
	src.File = f.Name()
	for {
		if err := g.Room(); err != nil {
			return total, err
		}
		read := &failing{r: in}
		n, err := io.CopyN(f, read, spoolCheck)
		total += n
		switch {
		case err == io.EOF && read.err == io.EOF:
			return total, nil
		case err != nil && read.err == nil: // it was not the reading that failed
			return total, fmt.Errorf("%w: %w", errSpool, err)
		case err != nil:
			return total, err
		}
	}
}

// failing remembers the error that a reader gave.
type failing struct {
	r   io.Reader
	err error
}

func (f *failing) Read(p []byte) (int, error) {
	n, err := f.r.Read(p)
	f.err = err
	return n, err
}

func notPicture(f assets.Format, path string) message.Message {
	ext := names.Read(path).Extension
	switch f.Name {
	case "zip", "tar", "gzip", "xz", "Zstandard", "RAR", "7z":
		return message.New("archive_inside")
	case "unknown":
		if ext == "" {
			return message.New("bytes_unknown")
		}
		return message.New("bytes_unknown_named", "extension", ext)
	}
	if ext == "" {
		return message.New("bytes_of_format", "format", f.Name)
	}
	return message.New("bytes_of_format_named", "format", f.Name, "extension", ext)
}

func (r *reader) sendIfFull() error {
	if len(r.batch.items) >= batchFiles || r.batch.held >= batchBytes || r.batch.spooled >= batchSpool {
		return r.send()
	}
	return nil
}

func (r *reader) send() error {
	if len(r.batch.items) == 0 && len(r.batch.finished) == 0 {
		return nil
	}
	killpoint.Pass(killpoint.BatchRead)
	select {
	case r.out <- r.batch:
		r.batch = &batch{}
		return nil
	case <-r.ctx.Done():
		r.batch.drop()
		return r.ctx.Err()
	}
}

func (b *batch) drop() {
	for _, it := range b.items {
		discard(&it.src)
	}
}

func discard(src *assets.Source) {
	if src.File != "" {
		os.Remove(src.File)
	}
	*src = assets.Source{}
}

func hashFile(ctx context.Context, f *os.File) ([]byte, error) {
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	hash := sha256.New()
	buf := make([]byte, 1<<20)
	for ctx.Err() == nil {
		n, err := f.Read(buf)
		hash.Write(buf[:n])
		if err == io.EOF {
			return hash.Sum(nil), nil
		}
		if err != nil {
			return nil, err
		}
	}
	return nil, ctx.Err()
}
