// Package gather turns what comes in, archives and loose files, into deliveries: each file read, checked,
// stored once under its hash, with its derivatives.
package gather

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"ambrosa/core/message"
	"ambrosa/internal/assets"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive"
	"ambrosa/internal/gather/source/upload"
	"ambrosa/internal/jobs"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/tus/tusd/v2/pkg/filestore"
	tus "github.com/tus/tusd/v2/pkg/handler"
)

var (
	// ErrNotOpen is returned for an upload into a delivery that is closed.
	ErrNotOpen = errors.New("the delivery does not take files any more")
	// ErrNothing is returned for closing a delivery into which nothing came.
	ErrNothing = errors.New("no file has arrived in full yet")
	// ErrMissing is returned for closing a delivery while files are still on their way.
	ErrMissing = errors.New("files are still on their way")
	// ErrState is returned where a delivery can't be stopped, resumed or opened again, as it stands.
	ErrState = jobs.ErrState
	// ErrKept is returned for removing a delivery that is taken in, or on which somebody decided something.
	ErrKept = errors.New("plans or decisions use the delivery, or it is being read; it is not removed")
	// ErrLarge is returned for an upload over the limit.
	ErrLarge = errors.New("the file is larger than an upload may be")
)

// MaxPath is how long a file's path may be, in bytes.
const MaxPath = 4096

// Work is the kind of work that taking a delivery in is; Clearing that of removing what killed processes left.
const (
	Work     = "take_in"
	Clearing = "clear_uploads"
)

// Gatherer takes deliveries in. Folder holds uploads until they are taken in; instances that share a database
// share it.
type Gatherer struct {
	Store  *store.Store
	Jobs   *jobs.Jobs
	Vault  *assets.Vault
	Folder string
	Limits source.Limits
	Kinds  map[string]Opener // of sources, beside its own
	// Lists is shown what lies beside the pictures and may be the list of them, by MayBe; kept where it is one. nil for nobody.
	Lists interface {
		MayBe(name string) bool
		Found(ctx context.Context, delivery int64, item, name string, from io.Reader) (kept bool, err error)
	}
	// Saved reads what was sent with the pages that are among it; nil for nobody.
	Saved func(*upload.Source) source.Source
	// Finished is told of a delivery that is taken in, in the transaction that says so; nil for nobody.
	Finished func(ctx context.Context, q *query.Queries, tx pgx.Tx, delivery int64) error
}

// noRoomPause is how long work that found the disk nearly full waits before it looks again.
var noRoomPause = 20 * time.Second

// Register registers a gatherer's work.
func (g *Gatherer) Register() {
	g.Jobs.Register(jobs.Kind{Name: Work, Unit: "files", Workers: 1, Work: g.TakeIn, Trouble: Meaning, Topic: "delivery", Slow: isSlow, SlowWorkers: 3})
	g.Jobs.Register(jobs.Kind{Name: Clearing, Every: 24 * time.Hour, Work: func(ctx context.Context,
		_ int64) error {
		return g.CleanFolder(ctx)
	}})
}

// isSlow reports whether a delivery comes from elsewhere: what was sent is on our own disk.
func isSlow(ctx context.Context, q *query.Queries, delivery int64) (bool, error) {
	of, err := q.SourceOf(ctx, delivery)
	if err != nil {
		return false, err
	}
	var says struct{ Kind string }
	err = json.Unmarshal(of.Source, &says)
	return says.Kind != "upload", err
}

// Meaning says what an error of taking in means to the user. Of others the log tells, as they may name what is the server's.
func Meaning(err error) jobs.Trouble {
	var away *source.Trouble
	if errors.As(err, &away) {
		return jobs.Trouble{Says: []message.Message{away.Says}, Final: away.Final}
	}
	if !errors.Is(err, ErrNoRoom) && !errors.Is(err, source.ErrGone) && !errors.Is(err, assets.ErrVault) {
		return jobs.Trouble{}
	}
	m, ok := message.Of(err)
	if !ok {
		return jobs.Trouble{}
	}
	t := jobs.Trouble{Says: []message.Message{m}, Final: errors.Is(err, source.ErrGone)}
	if errors.Is(err, ErrNoRoom) {
		t.Says = append(t.Says, message.New("room_awaited"))
		t.Wait = noRoomPause
	}
	return t
}

// File is where an upload's bytes lie while they wait.
func (g *Gatherer) File(upload string) string { return filepath.Join(g.Folder, upload) }

// Begin opens a delivery of files that are sent, and returns its number.
func (g *Gatherer) Begin(ctx context.Context, title string, person int64) (int64, error) {
	return g.Store.AddDelivery(ctx, query.AddDeliveryParams{Title: title, Source: []byte(`{"kind": "upload"}`), Open: true, CreatedBy: person})
}

// BeginLists opens a delivery of tables that are sent: what shall take them is asked for each (see Lists).
func (g *Gatherer) BeginLists(ctx context.Context, title string, person int64) (int64, error) {
	return g.Store.AddDelivery(ctx, query.AddDeliveryParams{Title: title, Source: []byte(`{"kind": "upload", "lists": true}`), Open: true, CreatedBy: person})
}

// IsOfLists reports whether a delivery's source says that it is one of tables.
func IsOfLists(of json.RawMessage) bool {
	var says struct{ Lists bool }
	return json.Unmarshal(of, &says) == nil && says.Lists
}

// Describe changes what people say of a delivery, and tells who looks on. pgx.ErrNoRows where there is none.
func (g *Gatherer) Describe(ctx context.Context, d query.DescribeDeliveryParams) error {
	return g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		n, err := q.DescribeDelivery(ctx, d)
		if err != nil {
			return err
		}
		if n == 0 {
			return pgx.ErrNoRows
		}
		return store.Notify(ctx, tx, store.Topic("delivery", d.ID))
	})
}

// Collect asks for what a source has, as a delivery, and returns its number. of says which source: its kind, and what the kind needs.
func (g *Gatherer) Collect(ctx context.Context, title string, of json.RawMessage, person int64) (id int64, err error) {
	err = g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		id, err = g.CollectIn(ctx, q, tx, title, of, person)
		return err
	})
	return id, err
}

// CollectIn does so in a transaction.
func (g *Gatherer) CollectIn(ctx context.Context, q *query.Queries, tx pgx.Tx, title string, of json.RawMessage, person int64) (id int64, err error) {
	if _, err := g.open(0, of); err != nil {
		return 0, err
	}
	if id, err = q.AddDelivery(ctx, query.AddDeliveryParams{Title: title, Source: of, CreatedBy: person}); err != nil {
		return 0, err
	}
	return id, g.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Work, Subject: id, Title: title, Person: person})
}

// IsUploadID reports whether a text has the form of an upload's name: 32 hex digits. Whatever names a file on the disk is
// checked with it first.
func IsUploadID(id string) bool {
	raw, err := hex.DecodeString(id)
	return err == nil && len(raw) == 16 && strings.ToLower(id) == id
}

// Announce records a file that is about to be sent and returns the upload's name, by which its bytes are put
// at File. bytes is the length it will have. Errors: ErrNotOpen, ErrLarge, ErrNoRoom.
func (g *Gatherer) Announce(ctx context.Context, delivery, person int64, path string, bytes int64) (string, error) {
	if bytes < 0 || bytes > g.Limits.Upload {
		return "", fmt.Errorf("%w: %s; the limit is %s", ErrLarge, message.Bytes(bytes), message.Bytes(g.Limits.Upload))
	}
	if err := g.roomFor(bytes); err != nil {
		return "", err
	}
	var id [16]byte
	rand.Read(id[:])
	name := hex.EncodeToString(id[:])
	path, _ = archive.EntryName(strings.TrimLeft(path, "/"), nil)
	var entries *int32
	if !archive.IsName(path) {
		one := int32(1)
		entries = &one
	}
	return name, g.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		state, err := q.LockDelivery(ctx, delivery)
		if err != nil {
			return err
		}
		if state != "open" {
			return ErrNotOpen
		}
		return q.AddUpload(ctx, query.AddUploadParams{ID: name, DeliveryID: delivery, Path: path, Bytes: bytes, Entries: entries,
			CreatedBy: person})
	})
}

// Forget drops the row of an upload that is sent no further; whoever calls it removes the bytes. ErrNotOpen where its
// delivery is closed.
func (g *Gatherer) Forget(ctx context.Context, upload string) error {
	return g.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		delivery, err := q.DeliveryOfUpload(ctx, upload)
		if err != nil {
			return err
		}
		state, err := q.LockDelivery(ctx, delivery)
		if err != nil {
			return err
		}
		if state != "open" {
			return ErrNotOpen
		}
		return q.DropUploads(ctx, []string{upload})
	})
}

// Received is how many bytes of an upload have come.
func (g *Gatherer) Received(u query.Upload) int64 {
	if u.Done {
		return u.Bytes
	}
	info, err := os.Stat(g.File(u.ID))
	if err != nil {
		return 0
	}
	return info.Size()
}

// Close ends the sending and asks for the taking in. Where files have not come in full it returns ErrMissing
// with their number, or leaves them out where partly is set.
func (g *Gatherer) Close(ctx context.Context, delivery int64, partly bool) error {
	var missing []string
	err := g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		state, err := q.LockDelivery(ctx, delivery)
		if err != nil {
			return err
		}
		if state != "open" {
			return nil // closing twice is closing once
		}
		uploads, err := q.Uploads(ctx, delivery)
		if err != nil {
			return err
		}
		missing = nil
		for _, u := range uploads {
			if g.Received(u) != u.Bytes {
				missing = append(missing, u.ID)
			}
		}
		if len(missing) > 0 && !partly {
			return fmt.Errorf("%w: %d of %d", ErrMissing, len(missing), len(uploads))
		}
		if len(missing) == len(uploads) {
			return ErrNothing
		}
		if err := q.DropUploads(ctx, missing); err != nil {
			return err
		}
		if err := q.SetDeliveryOpen(ctx, query.SetDeliveryOpenParams{ID: delivery, Notes: []byte("[]")}); err != nil {
			return err
		}
		return g.ask(ctx, q, tx, delivery, uploads, missing)
	})
	if err == nil {
		killpoint.Pass(killpoint.DeliveryClosed)
		g.sweep(missing)
	}
	return err
}

// ask asks for the taking in of a delivery's uploads, but for those that are missing.
func (g *Gatherer) ask(ctx context.Context, q *query.Queries, tx pgx.Tx, delivery int64, uploads []query.Upload, missing []string) error {
	of, err := q.DeliveryTitle(ctx, delivery)
	if err != nil {
		return err
	}
	expected := int64(0)
	for _, u := range uploads {
		if u.Entries != nil && !slices.Contains(missing, u.ID) {
			expected += int64(*u.Entries)
		}
	}
	return g.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Work, Subject: delivery, Title: of.Title, Total: expected, Person: of.CreatedBy})
}

// Reopen opens a delivery again for sending where it failed because bytes of its uploads are gone. What was taken in
// stays; the files whose bytes are gone are sent again under the names they have. ErrState where nothing is gone.
func (g *Gatherer) Reopen(ctx context.Context, delivery int64) error {
	return g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		state, err := q.LockDelivery(ctx, delivery)
		if err != nil {
			return err
		}
		uploads, err := q.Uploads(ctx, delivery)
		if err != nil {
			return err
		}
		gone := slices.DeleteFunc(uploads, func(u query.Upload) bool { return u.Done || g.Received(u) == u.Bytes })
		if state != "failed" && state != "stopped" || len(gone) == 0 {
			return fmt.Errorf("%w: no bytes are missing", ErrState)
		}
		for _, u := range gone {
			if err := g.expect(u); err != nil {
				return err
			}
		}
		if err := q.SetDeliveryOpen(ctx, query.SetDeliveryOpenParams{ID: delivery, Open: true,
			Notes: []byte(`[{"code": "delivery_bytes_lost"}]`)}); err != nil {
			return err
		}
		if err := q.DropJob(ctx, query.DropJobParams{Kind: Work, Subject: delivery}); err != nil {
			return err
		}
		return store.Notify(ctx, tx, store.Topic("delivery", delivery))
	})
}

// expect readies the place for an upload's bytes to come again.
func (g *Gatherer) expect(u query.Upload) error {
	g.sweep([]string{u.ID})
	_, err := filestore.New(g.Folder).NewUpload(context.Background(), tus.FileInfo{ID: u.ID, Size: u.Bytes,
		MetaData: map[string]string{"delivery": strconv.FormatInt(u.DeliveryID, 10), "path": u.Path}})
	return err
}

// Remove removes a delivery that was never taken in to its end, and the bytes of its uploads. What it brought already
// into the vault stays there. ErrKept where it is ready, at work, or somebody decided on its lines or planned with it.
func (g *Gatherer) Remove(ctx context.Context, delivery int64) error {
	var ids []string
	err := g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		state, err := q.LockDelivery(ctx, delivery)
		if err != nil {
			return err
		}
		inUse, err := q.DeliveryInUse(ctx, delivery)
		if err != nil {
			return err
		}
		if inUse || state != "open" && state != "failed" && state != "stopped" {
			return ErrKept
		}
		uploads, err := q.Uploads(ctx, delivery)
		if err != nil {
			return err
		}
		for _, u := range uploads {
			ids = append(ids, u.ID)
		}
		if err := q.RemoveDelivery(ctx, delivery); err != nil {
			return err
		}
		if err := q.DropJob(ctx, query.DropJobParams{Kind: Work, Subject: delivery}); err != nil {
			return err
		}
		return store.Notify(ctx, tx, store.Topic("delivery", delivery))
	})
	if err == nil {
		g.sweep(ids)
	}
	return err
}

// Stop asks a taking in to end after what it has in hand. ErrState where none goes on.
func (g *Gatherer) Stop(ctx context.Context, delivery int64) error {
	return g.Jobs.Stop(ctx, Work, delivery)
}

// Resume goes on where a taking in was stopped or failed.
func (g *Gatherer) Resume(ctx context.Context, delivery int64) error {
	return g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if state, err := q.LockDelivery(ctx, delivery); err != nil || state == "open" {
			return errors.Join(err, ErrState)
		}
		return g.Jobs.Resume(ctx, q, tx, Work, delivery)
	})
}

// sweep removes the bytes of uploads that nothing needs any more; it is repeated harmlessly.
func (g *Gatherer) sweep(ids []string) {
	for _, id := range ids {
		if !IsUploadID(id) {
			continue
		}
		for _, suffix := range []string{"", ".info"} {
			if err := os.Remove(g.File(id) + suffix); err != nil && !errors.Is(err, os.ErrNotExist) {
				slog.Warn("can't remove an upload that is taken in", "upload", id, "error", err)
			}
		}
	}
}
