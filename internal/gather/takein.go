package gather

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"

	"ambrosa/core/colour"
	"ambrosa/core/names"
	"ambrosa/internal/assets"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// A batch is what is read, probed and committed together: so many files, or so many bytes in memory.
const (
	batchFiles = 48
	batchBytes = 24 << 20
)

var errStopped = errors.New("stopped")

// item is one file on its way through a batch.
type item struct {
	upload  string
	entry   entry
	src     assets.Source
	sha     []byte
	bytes   int64
	format  assets.Format
	picture *assets.Picture
	problem Problem
	detail  string
}

// finished says that an upload has been read to its end.
type finished struct {
	upload  string
	entries int32
	sha     []byte
}

type batch struct {
	items    []*item
	held     int64
	finished []finished
}

// TakeIn reads every upload of a delivery that is not taken in yet. While one batch is probed and committed
// the next is read. A batch commits in one transaction, so that it can be ended anywhere and taken up again:
// what is committed is not read twice. Memory grows with the batch, not the archive. It returns nil where
// another process is at it, or where it was asked to stop.
func (g *Gatherer) TakeIn(ctx context.Context, delivery int64) error {
	claimed, err := g.Store.ClaimDelivery(ctx, query.ClaimDeliveryParams{ID: delivery, Worker: g.Store.Worker})
	if err != nil || claimed == 0 {
		return err
	}
	defer g.Store.LeaveDelivery(context.WithoutCancel(ctx), query.LeaveDeliveryParams{ID: delivery, Worker: g.Store.Worker})
	if _, err := g.Store.MoveDeliveryState(ctx, query.MoveDeliveryStateParams{ID: delivery, Next: "taking_in", Now: []string{"waiting"}}); err != nil {
		return err
	}
	if err := g.proceed(ctx, delivery); err != nil {
		return err
	}
	uploads, err := g.Store.Uploads(ctx, delivery)
	if err != nil {
		return err
	}
	taken := map[string]map[int32]bool{}
	rows, err := g.Store.TakenEntries(ctx, delivery)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if taken[r.UploadID] == nil {
			taken[r.UploadID] = map[int32]bool{}
		}
		taken[r.UploadID][r.Entry] = true
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	batches := make(chan *batch)
	read := make(chan error, 1)
	go func() {
		defer close(batches)
		r := reader{g: g, ctx: ctx, out: batches, taken: taken, batch: &batch{}}
		read <- r.uploads(uploads)
	}()
	for b := range batches {
		if err = g.work(ctx, delivery, b); err != nil {
			break
		}
	}
	cancel()
	for b := range batches {
		b.drop()
	}
	if readErr := <-read; err == nil {
		err = readErr
	}
	if errors.Is(err, errStopped) {
		return nil
	}
	if err != nil {
		return err
	}
	return g.finish(ctx, delivery, uploads)
}

// proceed returns errStopped, having said so, where a stop was asked for.
func (g *Gatherer) proceed(ctx context.Context, delivery int64) error {
	stopped, err := g.Store.MoveDeliveryState(ctx, query.MoveDeliveryStateParams{ID: delivery, Next: "stopped", Now: []string{"stopping"}})
	if err != nil {
		return err
	}
	if err := store.Notify(ctx, g.Store.Pool, store.Topic("delivery", delivery)); err != nil {
		return err
	}
	if stopped > 0 {
		return errStopped
	}
	return nil
}

func (g *Gatherer) finish(ctx context.Context, delivery int64, uploads []query.Upload) error {
	ctx = context.WithoutCancel(ctx)
	same, err := g.Store.SameUploads(ctx, delivery)
	if err != nil {
		return err
	}
	var notes []string
	for _, s := range same {
		notes = append(notes, fmt.Sprintf("%s is the same archive, byte for byte, as one in “%s” of %s.", s.Path, s.Title, s.CreatedAt.Format("2 January 2006")))
	}
	if err := g.Store.SetDeliveryState(ctx, query.SetDeliveryStateParams{ID: delivery, State: "ready", Note: strings.Join(notes, " ")}); err != nil {
		return err
	}
	ids := make([]string, len(uploads))
	for i, u := range uploads {
		ids[i] = u.ID
	}
	g.sweep(ids)
	return store.Notify(ctx, g.Store.Pool, store.Topic("delivery", delivery))
}

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
	if err != nil {
		return fmt.Errorf("%s: its bytes are gone from the server; send it again: %w", u.Path, err)
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
			err = r.add(u.ID, entry{index: -1, path: u.Path, size: u.Bytes, problem: whole.problem, detail: whole.detail})
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
	it := &item{upload: upload, entry: e, problem: e.problem, detail: e.detail, bytes: e.size}
	r.check(it)
	r.batch.items = append(r.batch.items, it)
	r.batch.held += int64(len(it.src.Bytes))
	return r.sendIfFull()
}

// check decides what can be decided without pixels, and reads the bytes of what may be a picture.
func (r *reader) check(it *item) {
	if it.problem != "" {
		return
	}
	e := it.entry
	if climbsOut(e.path) {
		it.problem, it.detail = UnsafePath, "The path leads out of the archive; the file was not read."
		return
	}
	if litter := names.Read(e.path).Litter; litter != "" {
		it.problem, it.detail = Litter, strings.ToUpper(litter[:1])+litter[1:]+"."
		return
	}
	if err := r.readBytes(it); err != nil {
		discard(&it.src)
		it.problem, it.detail = Damaged, readFailure(err)
		return
	}
	if it.bytes == 0 {
		it.problem, it.detail = Empty, "The file has no bytes."
	}
}

func readFailure(err error) string {
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return "The archive ends in the middle of this file."
	case errors.Is(err, errTooMuch):
		return "The file unpacks to more than the archive claims; it was not taken in."
	case strings.Contains(err.Error(), "checksum"):
		return "The file's checksum is wrong; its bytes were damaged on the way."
	}
	return "The file can't be unpacked: " + err.Error() + "."
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
			it.problem, it.detail = NotPicture, notPicture(it.format, it.entry.path)
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
	} else if it.bytes, err = spool(r.g.Folder, in2, &it.src); err != nil {
		return err
	}
	it.sha = hash.Sum(nil)
	if it.bytes < it.entry.size {
		return io.ErrUnexpectedEOF
	}
	return nil
}

func spool(folder string, in io.Reader, src *assets.Source) (int64, error) {
	f, err := os.CreateTemp(folder, "spool-*")
	if err != nil {
		return 0, err
	}
	defer f.Close()
	src.File = f.Name()
	return io.Copy(f, in)
}

func notPicture(f assets.Format, path string) string {
	claims := ""
	if ext := names.Read(path).Extension; ext != "" {
		claims = " It is named " + ext + "."
	}
	switch f.Name {
	case "zip", "tar", "gzip", "xz", "Zstandard", "RAR", "7z":
		return "An archive inside the archive; unpack it and drop it by itself."
	case "unknown":
		return "Its bytes are of no picture type that is read." + claims
	}
	return "Its bytes are " + f.Name + ", which is not taken in as a picture." + claims
}

func (r *reader) sendIfFull() error {
	if len(r.batch.items) >= batchFiles || r.batch.held >= batchBytes {
		return r.send()
	}
	return nil
}

func (r *reader) send() error {
	if len(r.batch.items) == 0 && len(r.batch.finished) == 0 {
		return nil
	}
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

// work probes a batch on all cores, stores what is new, and commits its lines.
func (g *Gatherer) work(ctx context.Context, delivery int64, b *batch) error {
	defer b.drop()
	known, err := g.known(ctx, b)
	if err != nil {
		return err
	}
	fresh := map[string]*item{}
	for _, it := range b.items {
		if it.problem == "" && !known[string(it.sha)] && fresh[string(it.sha)] == nil {
			fresh[string(it.sha)] = it
		}
	}
	if err := g.probe(ctx, fresh); err != nil {
		return err
	}
	for _, it := range b.items {
		if twin := fresh[string(it.sha)]; it.problem == "" && twin != nil {
			it.picture, it.problem, it.detail = twin.picture, twin.problem, twin.detail
		}
		if ext := names.Read(it.entry.path).Extension; it.problem == "" && !it.format.Agrees(ext) {
			it.problem, it.detail = TypeDiffers, fmt.Sprintf("A %s named %s; it is used as what it is.", it.format.Name, ext)
			if ext == "" {
				it.detail = fmt.Sprintf("A %s without an extension; it is used as what it is.", it.format.Name)
			}
		}
	}
	if err := g.commit(ctx, delivery, b); err != nil {
		return err
	}
	return g.proceed(ctx, delivery)
}

func (g *Gatherer) known(ctx context.Context, b *batch) (map[string]bool, error) {
	var shas [][]byte
	for _, it := range b.items {
		if it.sha != nil {
			shas = append(shas, it.sha)
		}
	}
	rows, err := g.Store.KnownAssets(ctx, shas)
	known := map[string]bool{}
	for _, r := range rows {
		known[string(r)] = true
	}
	return known, err
}

func (g *Gatherer) probe(ctx context.Context, fresh map[string]*item) error {
	work := make(chan *item)
	var wg sync.WaitGroup
	var mu sync.Mutex
	var failed error
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for it := range work {
				picture, err := assets.Probe(it.src, g.Limits.Pixels)
				switch {
				case errors.Is(err, assets.ErrTooLarge):
					it.problem, it.detail = TooLarge, sentence(err)
				case err != nil:
					it.problem, it.detail = Damaged, sentence(err)
				default:
					it.picture = picture
					if err := g.Vault.Put(ctx, it.sha, it.format, it.src, picture); err != nil {
						mu.Lock()
						failed = err
						mu.Unlock()
					}
				}
			}
		})
	}
	for _, it := range fresh {
		work <- it
	}
	close(work)
	wg.Wait()
	return failed
}

func sentence(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

func (g *Gatherer) commit(ctx context.Context, delivery int64, b *batch) error {
	return g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		var up query.UpsertAssetsParams
		distinct := map[string]bool{}
		for _, it := range b.items {
			if it.picture != nil && !distinct[string(it.sha)] {
				distinct[string(it.sha)] = true
				up.Sha256s, up.Bytes = append(up.Sha256s, it.sha), append(up.Bytes, it.bytes)
				up.Formats = append(up.Formats, it.format.Name)
				up.Widths, up.Heights = append(up.Widths, int32(it.picture.Width)), append(up.Heights, int32(it.picture.Height))
				up.Likenesses, up.Palettes = append(up.Likenesses, int64(it.picture.Likeness)), append(up.Palettes, colour.Pack(it.picture.Palette))
			}
		}
		if err := q.UpsertAssets(ctx, up); err != nil {
			return err
		}
		var shas [][]byte
		for _, it := range b.items {
			if it.sha != nil {
				shas = append(shas, it.sha)
			}
		}
		ids, err := q.AssetIDs(ctx, shas)
		if err != nil {
			return err
		}
		type standing struct {
			id   int64
			seen bool
		}
		assetOf := map[string]standing{}
		for _, r := range ids {
			assetOf[string(r.Sha256)] = standing{r.ID, r.Seen}
		}
		lines := query.AddArrivalsParams{DeliveryID: delivery}
		for _, it := range b.items {
			asset := assetOf[string(it.sha)]
			lines.UploadIds, lines.Entries = append(lines.UploadIds, it.upload), append(lines.Entries, int32(it.entry.index))
			lines.Paths, lines.RawPaths = append(lines.Paths, it.entry.path), append(lines.RawPaths, it.entry.raw)
			lines.Bytes, lines.Assets = append(lines.Bytes, it.bytes), append(lines.Assets, asset.id)
			lines.Problems, lines.Details = append(lines.Problems, string(it.problem)), append(lines.Details, it.detail)
			lines.Seen = append(lines.Seen, asset.seen)
			if it.sha != nil {
				assetOf[string(it.sha)] = standing{asset.id, asset.id > 0}
			}
		}
		if err := q.AddArrivals(ctx, lines); err != nil {
			return err
		}
		var done query.FinishUploadsParams
		for _, f := range b.finished {
			done.Ids, done.Entries, done.Sha256s = append(done.Ids, f.upload), append(done.Entries, f.entries), append(done.Sha256s, f.sha)
		}
		return q.FinishUploads(ctx, done)
	})
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

// CleanSpool removes what killed processes left half unpacked. A day is longer than any file takes, so what
// another instance has in hand stays.
func (g *Gatherer) CleanSpool() error {
	left, err := filepath.Glob(filepath.Join(g.Folder, "spool-*"))
	if err != nil {
		return err
	}
	for _, path := range left {
		info, err := os.Stat(path)
		if err != nil || time.Since(info.ModTime()) < 24*time.Hour {
			continue
		}
		if err := os.Remove(path); err != nil {
			return err
		}
	}
	return nil
}
