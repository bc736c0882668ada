package gather

import (
	"context"
	"encoding/json"
	"errors"
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"ambrosa/core/colour"
	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/internal/assets"
	"ambrosa/internal/gather/source"
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
	// batchTime is how long a batch waits for more from a source that is slow: so that one sees how far it is.
	batchTime = 2 * time.Second
)

// item is one file on its way through a batch.
type item struct {
	source.Item
	src     assets.Source
	sha     []byte
	bytes   int64 // as they are, or as claimed where they were not read
	format  assets.Format
	picture *assets.Picture
	problem *source.Problem
}

type batch struct {
	items   []*item
	held    int64 // bytes in memory
	spooled int64 // bytes in files
	begun   time.Time
}

// taking is a delivery being taken in.
type taking struct {
	*Gatherer
	delivery int64
	expected atomic.Int64 // items in all, as far as the source has told
	cursor   source.Cursor
	told     time.Time // when what is to come was shown last; the reader's
}

// TakeIn takes in what a delivery's source has and is not taken in yet. While one batch is probed and committed
// the next is read. A batch commits in one transaction, so that it can be ended anywhere and taken up again:
// what is committed is not read twice, but for what came since the source's last cursor. Memory grows with the batch, and with the
// items behind the cursor. It returns jobs.ErrStopped where it was asked to stop.
func (g *Gatherer) TakeIn(ctx context.Context, delivery int64) error {
	t := &taking{Gatherer: g, delivery: delivery, told: time.Now()}
	stopped := false
	err := g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) (err error) {
		stopped, err = t.step(ctx, q, tx, &batch{})
		return err
	})
	if err == nil && stopped {
		err = jobs.ErrStopped
	}
	if err != nil {
		return err
	}
	of, err := g.Store.SourceOf(ctx, delivery)
	if err != nil {
		return err
	}
	src, err := g.open(delivery, of.Source)
	if err != nil {
		return err
	}
	rows, err := g.Store.TakenItems(ctx, query.TakenItemsParams{DeliveryID: delivery, Line: of.CursorLine})
	if err != nil {
		return err
	}
	taken := make(map[string]bool, len(rows))
	for _, id := range rows {
		taken[id] = true
	}
	t.cursor = source.Cursor(of.Cursor)
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	batches := make(chan *batch)
	read := make(chan error, 1)
	go func() {
		defer close(batches)
		r := reader{g: g, delivery: delivery, ctx: ctx, out: batches, taken: taken, batch: &batch{}}
		read <- r.walk(src, t.cursor, func(p source.Progress) error { return t.tell(ctx, p) })
	}()
	for b := range batches {
		if err = t.work(ctx, b); err != nil {
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
	return g.finish(ctx, delivery)
}

// tell notes what a source knows of what is to come, and now and then shows it. jobs.ErrStopped where somebody asked to stop.
func (t *taking) tell(ctx context.Context, p source.Progress) error {
	t.expected.Store(p.Items)
	if time.Since(t.told) < batchTime {
		return nil
	}
	t.told = time.Now()
	stopped := false
	err := t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) (err error) {
		stopped, err = t.step(ctx, q, tx, &batch{})
		return err
	})
	if err == nil && stopped {
		err = jobs.ErrStopped
	}
	return err
}

// step notes a batch in the delivery's job, in the batch's transaction, and reports whether somebody asked to stop.
func (t *taking) step(ctx context.Context, q *query.Queries, tx pgx.Tx, b *batch) (stop bool, err error) {
	job, err := q.LockJob(ctx, query.LockJobParams{Kind: Work, Subject: t.delivery})
	if err != nil {
		return false, err
	}
	bytes := int64(0)
	for _, it := range b.items {
		bytes += it.bytes
	}
	return t.Jobs.Step(ctx, q, tx, Work, t.delivery, job.Done+int64(len(b.items)), t.expected.Load(), bytes)
}

func (g *Gatherer) finish(ctx context.Context, delivery int64) error {
	ctx = context.WithoutCancel(ctx)
	uploads, err := g.Store.Uploads(ctx, delivery)
	if err != nil {
		return err
	}
	ids := make([]string, len(uploads))
	for i, u := range uploads {
		ids[i] = u.ID
	}
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
		if err := q.FinishUploads(ctx, ids); err != nil {
			return err
		}
		if g.Finished != nil {
			if err := g.Finished(ctx, q, tx, delivery); err != nil {
				return err
			}
		}
		return g.Jobs.Finish(ctx, q, tx, Work, delivery)
	})
	if err != nil {
		return err
	}
	killpoint.Pass(killpoint.DeliveryReady)
	g.sweep(ids)
	return nil
}

// work probes a batch on all cores, stores what is new, and commits its lines.
func (t *taking) work(ctx context.Context, b *batch) error {
	defer b.drop()
	own, err := t.origins(ctx, b)
	if err != nil {
		return err
	}
	known, err := t.known(ctx, b)
	if err != nil {
		return err
	}
	for it, sha := range own {
		if !known[string(it.sha)] { // the bytes of what it was made of are lost, so it is a picture of its own
			it.sha = sha
		}
	}
	fresh := map[string]*item{}
	for _, it := range b.items {
		if it.problem == nil && !known[string(it.sha)] && fresh[string(it.sha)] == nil {
			fresh[string(it.sha)] = it
		}
	}
	if err := t.Room(); err != nil {
		return err
	}
	if err := t.probe(ctx, fresh); err != nil {
		return err
	}
	for _, it := range b.items {
		if twin := fresh[string(it.sha)]; it.problem == nil && twin != nil {
			it.picture, it.problem = twin.picture, twin.problem
		}
		if ext := names.Read(it.Path).Extension; it.problem == nil && !it.format.Agrees(ext) {
			it.problem = source.NewProblem(source.TypeDiffers, "type_differs", "format", it.format.Name, "extension", ext)
			if ext == "" {
				it.problem = source.NewProblem(source.TypeDiffers, "type_without_extension", "format", it.format.Name)
			}
		}
	}
	killpoint.Pass(killpoint.BatchStored)
	err = t.commit(ctx, b)
	if err == nil || errors.Is(err, jobs.ErrStopped) {
		killpoint.Pass(killpoint.BatchCommitted)
	}
	return err
}

// origins takes what was made here for a channel, and comes in again, for the picture that it was made of. It returns the SHA-256 that these have
// themselves. Cost: one question a batch.
func (g *Gatherer) origins(ctx context.Context, b *batch) (own map[*item][]byte, err error) {
	var shas [][]byte
	for _, it := range b.items {
		if it.sha != nil {
			shas = append(shas, it.sha)
		}
	}
	rows, err := g.Store.RenditionOrigins(ctx, shas)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	origin := make(map[string][]byte, len(rows))
	for _, r := range rows {
		origin[string(r.Sum)] = r.Origin
	}
	own = map[*item][]byte{}
	for _, it := range b.items {
		if of := origin[string(it.sha)]; of != nil {
			own[it], it.sha = it.sha, of
		}
	}
	return own, nil
}

// known tells which pictures of a batch are in the vault already. One whose bytes are lost is not: it is stored again. Cost:
// two questions to the vault a picture that has come before.
func (g *Gatherer) known(ctx context.Context, b *batch) (map[string]bool, error) {
	var shas [][]byte
	for _, it := range b.items {
		if it.sha != nil {
			shas = append(shas, it.sha)
		}
	}
	if err := g.Store.WantAssets(ctx, shas); err != nil { // before anything of them is stored
		return nil, err
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
					it.problem = &source.Problem{Fault: source.TooLarge, Says: said(err)}
				case err != nil:
					it.problem = &source.Problem{Fault: source.Damaged, Says: said(err)}
				case max(picture.Width, picture.Height) < it.Least:
					it.problem = source.NewProblem(source.TooSmall, "picture_too_small", "width", picture.Width, "height", picture.Height, "least", it.Least)
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
func (t *taking) commit(ctx context.Context, b *batch) error {
	stopped, moved := false, t.cursor
	err := t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
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
		if err := undoomed(ctx, q, shas, distinct); err != nil {
			return err
		}
		if err := q.ReviveAssets(ctx, shas); err != nil {
			return err
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
		// The cursor moves before the lines come: of those that it leaves behind, none is in this batch.
		if next := b.items[len(b.items)-1].Next; next != t.cursor {
			if err := q.SetCursor(ctx, query.SetCursorParams{ID: t.delivery, Cursor: string(next)}); err != nil {
				return err
			}
			moved = next
		}
		lines := query.AddArrivalsParams{DeliveryID: t.delivery}
		for _, it := range b.items {
			asset := assetOf[string(it.sha)]
			if it.problem == nil && asset.id == 0 {
				return errDeleted
			}
			lines.Items, lines.Paths, lines.RawPaths = append(lines.Items, it.ID), append(lines.Paths, it.Path), append(lines.RawPaths, it.Raw)
			lines.Bytes, lines.Assets = append(lines.Bytes, it.bytes), append(lines.Assets, asset.id)
			lines.Seen = append(lines.Seen, asset.seen)
			if err := it.tell(&lines); err != nil {
				return err
			}
			if it.sha != nil {
				assetOf[string(it.sha)] = standing{asset.id, asset.id > 0}
			}
		}
		if err := q.AddArrivals(ctx, lines); err != nil {
			return err
		}
		stopped, err = t.step(ctx, q, tx, b)
		return err
	})
	if err == nil {
		t.cursor = moved
		if stopped {
			err = jobs.ErrStopped
		}
	}
	return err
}

// errDeleted is returned where a picture that was there is deleted meanwhile: it is stored anew when the batch is done again.
var errDeleted = errors.New("a picture that is coming in was deleted at the same moment")

// undoomed returns errDeleted where the bytes of a picture are being deleted that were not stored just now.
func undoomed(ctx context.Context, q *query.Queries, shas [][]byte, stored map[string]bool) error {
	doomed, err := q.DoomedShas(ctx, shas)
	for _, sha := range doomed {
		if !stored[string(sha)] {
			return errDeleted
		}
	}
	return err
}

// tell adds what is to be said of an item to the lines that are kept.
func (it *item) tell(lines *query.AddArrivalsParams) error {
	fault, says, said, origin := "", "", "[]", "{}"
	if it.problem != nil {
		b, err := json.Marshal(it.problem.Says)
		if err != nil {
			return err
		}
		fault, says = string(it.problem.Fault), string(b)
	}
	if len(it.Said) > 0 {
		b, err := json.Marshal(it.Said)
		if err != nil {
			return err
		}
		said = string(b)
	}
	if len(it.From) > 0 {
		origin = string(it.From)
	}
	lines.Problems, lines.Messages = append(lines.Problems, fault), append(lines.Messages, says)
	lines.Saids, lines.Origins = append(lines.Saids, said), append(lines.Origins, origin)
	return nil
}
