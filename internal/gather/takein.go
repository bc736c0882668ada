package gather

import (
	"context"
	"encoding/json"
	"errors"
	"runtime"
	"sync"
	"time"

	"ambrosa/core/colour"
	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/internal/assets"
	"ambrosa/internal/jobs"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"
)

// A batch is what is read, probed and committed together: so many files, or so many bytes in memory.
const (
	batchFiles = 48
	batchBytes = 24 << 20
	batchSpool = 512 << 20 // bytes of large files, which lie on the disk meanwhile
)

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
	says    message.Message
}

// finished says that an upload has been read to its end.
type finished struct {
	upload  string
	entries int32
	sha     []byte
}

type batch struct {
	items    []*item
	held     int64 // bytes in memory
	spooled  int64 // bytes in files
	finished []finished
}

// TakeIn reads every upload of a delivery that is not taken in yet. While one batch is probed and committed
// the next is read. A batch commits in one transaction, so that it can be ended anywhere and taken up again:
// what is committed is not read twice. Memory grows with the batch, not the archive. It returns
// jobs.ErrStopped where it was asked to stop.
func (g *Gatherer) TakeIn(ctx context.Context, delivery int64) error {
	stopped := false
	err := g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) (err error) {
		stopped, err = g.step(ctx, q, tx, delivery, &batch{})
		return err
	})
	if err == nil && stopped {
		err = jobs.ErrStopped
	}
	if err != nil {
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
	if err != nil {
		return err
	}
	return g.finish(ctx, delivery, uploads)
}

// step notes a batch in the delivery's job, in the batch's transaction, and reports whether somebody asked to stop.
func (g *Gatherer) step(ctx context.Context, q *query.Queries, tx pgx.Tx, delivery int64, b *batch) (stop bool, err error) {
	job, err := q.LockJob(ctx, query.LockJobParams{Kind: Work, Subject: delivery})
	if err != nil {
		return false, err
	}
	expected, err := q.ExpectedFiles(ctx, delivery)
	if err != nil {
		return false, err
	}
	bytes := int64(0)
	for _, it := range b.items {
		bytes += it.bytes
	}
	return g.Jobs.Step(ctx, q, tx, Work, delivery, job.Done+int64(len(b.items)), expected, bytes)
}

func (g *Gatherer) finish(ctx context.Context, delivery int64, uploads []query.Upload) error {
	ctx = context.WithoutCancel(ctx)
	same, err := g.Store.SameUploads(ctx, delivery)
	if err != nil {
		return err
	}
	notes := []message.Message{}
	for _, s := range same {
		notes = append(notes, message.New("same_archive", "path", s.Path, "delivery", s.Title, "date", s.CreatedAt.Format(time.DateOnly)))
	}
	kept, err := json.Marshal(notes)
	if err != nil {
		return err
	}
	err = g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if err := q.SetDeliveryNotes(ctx, query.SetDeliveryNotesParams{ID: delivery, Notes: kept}); err != nil {
			return err
		}
		return g.Jobs.Finish(ctx, q, tx, Work, delivery)
	})
	if err != nil {
		return err
	}
	killpoint.Pass(killpoint.DeliveryReady)
	ids := make([]string, len(uploads))
	for i, u := range uploads {
		ids[i] = u.ID
	}
	g.sweep(ids)
	return nil
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
	if err := g.Room(); err != nil {
		return err
	}
	if err := g.probe(ctx, fresh); err != nil {
		return err
	}
	for _, it := range b.items {
		if twin := fresh[string(it.sha)]; it.problem == "" && twin != nil {
			it.picture, it.problem, it.says = twin.picture, twin.problem, twin.says
		}
		if ext := names.Read(it.entry.path).Extension; it.problem == "" && !it.format.Agrees(ext) {
			it.problem, it.says = TypeDiffers, message.New("type_differs", "format", it.format.Name, "extension", ext)
			if ext == "" {
				it.says = message.New("type_without_extension", "format", it.format.Name)
			}
		}
	}
	killpoint.Pass(killpoint.BatchStored)
	err = g.commit(ctx, delivery, b)
	if err == nil || errors.Is(err, jobs.ErrStopped) {
		killpoint.Pass(killpoint.BatchCommitted)
	}
	return err
}

// known tells which pictures of a batch are in the vault already. One whose bytes are lost is not: it is stored anew. Cost:
// two questions to the vault a picture that has come before.
func (g *Gatherer) known(ctx context.Context, b *batch) (map[string]bool, error) {
	var shas [][]byte
	for _, it := range b.items {
		if it.sha != nil {
			shas = append(shas, it.sha)
		}
	}
	rows, err := g.Store.KnownAssets(ctx, shas)
	if err != nil {
		return nil, err
	}
	there := make([]bool, len(rows))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(32) // it mostly waits for the network
	for i, sha := range rows {
		group.Go(func() (err error) {
			there[i], err = g.Vault.Has(ctx, sha)
			return err
		})
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	known := map[string]bool{}
	for i, sha := range rows {
		known[string(sha)] = there[i]
	}
	return known, nil
}

func (g *Gatherer) probe(ctx context.Context, fresh map[string]*item) error {
	work := make(chan *item)
	var wg sync.WaitGroup
	var mu sync.Mutex
	var failed error
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for it := range work {
				picture, err := assets.Probe(ctx, it.src, g.Limits.Pixels)
				switch {
				case ctx.Err() != nil:
				case errors.Is(err, assets.ErrTooLarge):
					it.problem, it.says = TooLarge, said(err)
				case err != nil:
					it.problem, it.says = Damaged, said(err)
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
	if failed == nil {
		failed = ctx.Err()
	}
	return failed
}

// said is what an error of reading a picture says.
func said(err error) message.Message {
	if m, ok := message.Of(err); ok {
		return m
	}
	return message.New("picture_damaged")
}

// commit keeps a batch's lines. jobs.ErrStopped, the lines kept, where somebody asked to stop.
func (g *Gatherer) commit(ctx context.Context, delivery int64, b *batch) error {
	stopped := false
	err := g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
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
			lines.Problems, lines.Saids = append(lines.Problems, string(it.problem)), append(lines.Saids, "[]")
			says := ""
			if it.says.Code != "" {
				b, err := json.Marshal(it.says)
				if err != nil {
					return err
				}
				says = string(b)
			}
			lines.Messages = append(lines.Messages, says)
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
		if err := q.FinishUploads(ctx, done); err != nil {
			return err
		}
		stopped, err = g.step(ctx, q, tx, delivery, b)
		return err
	})
	if err == nil && stopped {
		err = jobs.ErrStopped
	}
	return err
}
