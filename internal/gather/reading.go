package gather

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/internal/assets"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive"
	"ambrosa/internal/killpoint"
)

// reader fills batches in the order in which a source shows its items.
type reader struct {
	g        *Gatherer
	delivery int64
	ctx      context.Context
	out      chan<- *batch
	taken    map[string]bool // items that need not be read again
	batch    *batch
}

// walk reads a source from a place on to its end.
func (r *reader) walk(src source.Source, from source.Cursor, tell func(source.Progress) error) error {
	err := src.Walk(r.ctx, from, tell, func(it source.Item) error {
		if r.taken[it.ID] {
			return nil
		}
		return r.add(it)
	})
	if err != nil {
		return err
	}
	return r.send()
}

func (r *reader) add(from source.Item) error {
	it := &item{Item: from, problem: from.Problem, bytes: min(max(from.Bytes, 0), r.g.Limits.Bytes)}
	if err := r.g.Room(); err != nil {
		return err
	}
	if err := r.check(it); errors.Is(err, source.ErrUnchanged) {
		return nil
	} else if err != nil {
		return err
	}
	if len(r.batch.items) == 0 {
		r.batch.begun = time.Now()
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
	if it.problem != nil {
		return nil
	}
	if source.ClimbsOut(it.Path) {
		it.problem = source.NewProblem(source.UnsafePath, "path_leads_out")
		return nil
	}
	if litter := names.Read(it.Path).Litter; litter != "" {
		it.problem = source.NewProblem(source.Litter, litter)
		return nil
	}
	if err := r.readBytes(it); err != nil {
		discard(&it.src)
		var away *source.Trouble
		if errors.As(err, &away) || errors.Is(err, ErrNoRoom) || errors.Is(err, errSpool) || errors.Is(err, source.ErrUnchanged) {
			return err
		}
		if r.ctx.Err() != nil {
			return r.ctx.Err()
		}
		if !errors.As(err, &it.problem) {
			it.problem = &source.Problem{Fault: source.Damaged, Says: readFailure(err)}
		}
		return nil
	}
	if it.bytes == 0 {
		it.problem = source.NewProblem(source.Empty, "file_empty")
	}
	return nil
}

func readFailure(err error) message.Message {
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return message.New("archive_ends")
	case errors.Is(err, archive.ErrHoles):
		return message.New("file_holes")
	case errors.Is(err, archive.ErrTooMuch):
		return message.New("file_unpacks_over")
	case strings.Contains(err.Error(), "checksum"):
		return message.New("file_checksum")
	}
	return message.New("file_unreadable", "why", err.Error())
}

// readBytes takes the entry's bytes into memory, or into a file where they are many, hashing on the way. A
// file that is no picture is read no further than its head.
func (r *reader) readBytes(it *item) error {
	in, err := it.Open(r.ctx)
	if err != nil {
		return err
	}
	defer in.Close()
	if told, ok := in.(source.Origin); ok {
		if from := told.Origin(); from != nil {
			it.From = from
		}
	}
	if it.Item.Bytes < 0 { // nobody else bounds it
		in = archive.Limited(in, in, r.g.Limits.EntryBytes)
	}
	head := make([]byte, assets.HeadBytes)
	n, err := io.ReadFull(in, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return err
	}
	if n < len(head) && int64(n) < it.Item.Bytes {
		return io.ErrUnexpectedEOF
	}
	head = head[:n]
	it.format = assets.Detect(head)
	if !it.format.Picture {
		it.bytes = max(it.bytes, int64(n))
		if n == 0 {
			return nil
		}
		it.problem = &source.Problem{Fault: source.NotPicture, Says: notPicture(it.format, it.Path)}
		return r.offer(it, io.MultiReader(bytes.NewReader(head), in))
	}
	hash := sha256.New()
	in2 := io.TeeReader(io.MultiReader(bytes.NewReader(head), in), hash)
	if claimed := it.Item.Bytes; claimed >= 0 && claimed <= batchBytes {
		buf := bytes.NewBuffer(make([]byte, 0, claimed+bytes.MinRead))
		if it.bytes, err = buf.ReadFrom(in2); err != nil {
			return err
		}
		it.src.Bytes = buf.Bytes()
	} else if it.bytes, err = r.g.spool(in2, &it.src); err != nil {
		return err
	}
	it.sha = hash.Sum(nil)
	if it.bytes < it.Item.Bytes {
		return io.ErrUnexpectedEOF
	}
	return nil
}

// offer shows what may be the list of the pictures to who keeps such.
func (r *reader) offer(it *item, in io.Reader) error {
	if r.g.Lists == nil || !r.g.Lists.MayBe(it.Path) {
		return nil
	}
	read := &failing{r: in}
	kept, err := r.g.Lists.Found(r.ctx, r.delivery, it.ID, it.Path, read)
	switch {
	case read.err != nil && read.err != io.EOF:
		return read.err
	case err != nil:
		return fmt.Errorf("%w: %w", errSpool, err)
	case kept:
		it.problem.Says = message.New("table_beside")
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
	if len(r.batch.items) >= batchFiles || r.batch.held >= batchBytes || r.batch.spooled >= batchSpool ||
		time.Since(r.batch.begun) >= batchTime {
		return r.send()
	}
	return nil
}

func (r *reader) send() error {
	if len(r.batch.items) == 0 {
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
