// Package gather turns what comes in, archives and loose files, into deliveries: each file read, checked,
// stored once under its hash, with its derivatives.
package gather

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"ambrosa/internal/assets"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/tus/tusd/v2/pkg/filestore"
	tus "github.com/tus/tusd/v2/pkg/handler"
)

var (
	// ErrNotOpen is returned for an upload into a delivery that is closed.
	ErrNotOpen = errors.New("the delivery takes no more files")
	// ErrNothing is returned for closing a delivery into which nothing came.
	ErrNothing = errors.New("nothing has arrived in full yet")
	// ErrMissing is returned for closing a delivery while files are still on their way.
	ErrMissing = errors.New("files are still on their way")
	// ErrState is returned where a delivery can't be stopped or resumed, as it stands.
	ErrState = errors.New("the delivery is not at work")
	// ErrKept is returned for removing a delivery that is taken in, or on which somebody decided something.
	ErrKept = errors.New("the delivery is taken in or in use; it stays")
	// ErrBytesGone is returned where the bytes of an upload are no longer on the server.
	ErrBytesGone = errors.New("are gone from the server; open the delivery again and send the file again")
	// ErrLarge is returned for an upload over the limit.
	ErrLarge = errors.New("the file is larger than an upload may be")
)

// MaxPath is how long a file's path may be, in bytes.
const MaxPath = 4096

// Gatherer takes deliveries in. Folder holds uploads until they are taken in; instances that share a database
// share it. Enqueue asks for background work within a transaction.
type Gatherer struct {
	Store   *store.Store
	Vault   *assets.Vault
	Folder  string
	Limits  Limits
	Enqueue func(ctx context.Context, tx pgx.Tx, delivery int64) error
}

// File is where an upload's bytes lie while they wait.
func (g *Gatherer) File(upload string) string { return filepath.Join(g.Folder, upload) }

// Begin opens a delivery and gives its number.
func (g *Gatherer) Begin(ctx context.Context, title string, person int64) (int64, error) {
	return g.Store.AddDelivery(ctx, query.AddDeliveryParams{Title: title, CreatedBy: person})
}

// IsUploadID reports whether a text has the form of an upload's name: 32 hex digits. Whatever names a file on the disk is
// checked with it first.
func IsUploadID(id string) bool {
	raw, err := hex.DecodeString(id)
	return err == nil && len(raw) == 16 && strings.ToLower(id) == id
}

// Announce records a file that is about to be sent and gives the upload's name, by which its bytes are put
// at File. bytes is the length it will have. Errors: ErrNotOpen, ErrLarge, ErrNoRoom.
func (g *Gatherer) Announce(ctx context.Context, delivery, person int64, path string, bytes int64) (string, error) {
	if bytes < 0 || bytes > g.Limits.Upload {
		return "", fmt.Errorf("%w: %s; the limit is %s", ErrLarge, bytesText(bytes), bytesText(g.Limits.Upload))
	}
	if err := g.roomFor(bytes); err != nil {
		return "", err
	}
	var id [16]byte
	rand.Read(id[:])
	name := hex.EncodeToString(id[:])
	path, _ = entryName(strings.TrimLeft(path, "/"), nil)
	var entries *int32
	if !isArchiveName(path) {
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
		return q.AddUpload(ctx, query.AddUploadParams{ID: name, DeliveryID: delivery, Path: path, Bytes: bytes, Entries: entries, CreatedBy: person})
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
		if _, err := q.MoveDeliveryState(ctx, query.MoveDeliveryStateParams{ID: delivery, Next: "waiting", Now: []string{"open"}}); err != nil {
			return err
		}
		if err := store.Notify(ctx, tx, store.Topic("delivery", delivery)); err != nil {
			return err
		}
		return g.Enqueue(ctx, tx, delivery)
	})
	if err == nil {
		killpoint.Pass(killpoint.DeliveryClosed)
		g.sweep(missing)
	}
	return err
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
		if err := q.SetDeliveryState(ctx, query.SetDeliveryStateParams{ID: delivery, State: "open", Note: "Its bytes were lost on the server. Send the same files again."}); err != nil {
			return err
		}
		return store.Notify(ctx, tx, store.Topic("delivery", delivery))
	})
}

// expect readies the place for an upload's bytes to come anew.
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
		return store.Notify(ctx, tx, store.Topic("delivery", delivery))
	})
	if err == nil {
		g.sweep(ids)
	}
	return err
}

// Stop asks a taking in to end after what it has in hand. ErrState where none goes on.
func (g *Gatherer) Stop(ctx context.Context, delivery int64) error {
	return g.move(ctx, delivery, "stopping", []string{"waiting", "taking_in"}, false)
}

// Resume goes on where a taking in was stopped or failed.
func (g *Gatherer) Resume(ctx context.Context, delivery int64) error {
	return g.move(ctx, delivery, "waiting", []string{"stopped", "failed"}, true)
}

func (g *Gatherer) move(ctx context.Context, delivery int64, next string, now []string, enqueue bool) error {
	return g.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		moved, err := q.MoveDeliveryState(ctx, query.MoveDeliveryStateParams{ID: delivery, Next: next, Now: now})
		if err != nil {
			return err
		}
		if moved == 0 {
			return ErrState
		}
		if err := store.Notify(ctx, tx, store.Topic("delivery", delivery)); err != nil {
			return err
		}
		if enqueue {
			return g.Enqueue(ctx, tx, delivery)
		}
		return nil
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
