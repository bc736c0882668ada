// Package gallery keeps all pictures in memory as they are found by, beside the database that says what changed.
package gallery

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"ambrosa/core/gallery"
	"ambrosa/internal/store"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/singleflight"
)

// Gallery finds pictures. One process has one.
type Gallery struct {
	Store *store.Store

	mu     sync.Mutex
	last   *standing
	flight singleflight.Group
}

// standing is the shelf as a snapshot of the database saw it.
type standing struct {
	shelf    *gallery.Shelf
	snapshot string    // as pg_current_snapshot says it
	whole    time.Time // when all pictures were read last
}

const (
	// wholeAgain is when all pictures are read again, whatever changed: what depends on the day, and well before the log of changes is cleared.
	wholeAgain = 12 * time.Hour
	logDays    = 3
	// mostChanged is up to how many changed pictures are read alone, of all one in four.
	mostChanged = 4
)

// Now is the shelf as it stands. Cost: reading what changed since it was asked for last; all where nobody asked before.
func (g *Gallery) Now(ctx context.Context) (*gallery.Shelf, error) {
	made := g.flight.DoChan("now", func() (any, error) {
		g.mu.Lock()
		last := g.last
		g.mu.Unlock()
		next, err := g.next(context.WithoutCancel(ctx), last)
		if err != nil {
			return nil, err
		}
		g.mu.Lock()
		g.last = next
		g.mu.Unlock()
		return next.shelf, nil
	})
	select {
	case r := <-made:
		if r.Err != nil {
			return nil, r.Err
		}
		return r.Val.(*gallery.Shelf), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// next brings a shelf up to date, in one transaction that sees one moment.
func (g *Gallery) next(ctx context.Context, last *standing) (next *standing, err error) {
	err = pgx.BeginTxFunc(ctx, g.Store.Pool, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}, func(tx pgx.Tx) error {
		next = &standing{}
		if err := tx.QueryRow(ctx, "SELECT pg_current_snapshot()::text").Scan(&next.snapshot); err != nil {
			return err
		}
		if last != nil && time.Since(last.whole) < wholeAgain {
			changed, whole, err := changedSince(ctx, tx, last)
			if err != nil || !whole {
				next.shelf, next.whole = last.shelf, last.whole
				if err == nil && len(changed) > 0 {
					next.shelf, err = renewed(ctx, tx, last.shelf, changed)
				}
				return err
			}
		}
		next.whole = time.Now()
		lines, err := read(ctx, tx, nil)
		next.shelf = gallery.New(lines)
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("reading the pictures: %w", err)
	}
	return next, nil
}

// unseenSQL are the changes of transactions that a snapshot, $1, did not see.
const unseenSQL = "FROM asset_log WHERE xid >= pg_snapshot_xmin($1::pg_snapshot) AND NOT pg_visible_in_snapshot(xid, $1::pg_snapshot)"

// Changed reports whether any picture changed since a snapshot, as pg_current_snapshot says it.
func (g *Gallery) Changed(ctx context.Context, snapshot string) (changed bool, err error) {
	err = g.Store.Pool.QueryRow(ctx, "SELECT EXISTS (SELECT 1 "+unseenSQL+")", snapshot).Scan(&changed)
	return changed, err
}

// changedSince returns which pictures changed in transactions that an earlier snapshot did not see; whole where they are so many that all are
// read again.
func changedSince(ctx context.Context, tx pgx.Tx, last *standing) (ids []int64, whole bool, err error) {
	most := last.shelf.Len()/mostChanged + 1000
	rows, err := tx.Query(ctx, "SELECT DISTINCT asset_id "+unseenSQL+" LIMIT $2", last.snapshot, most+1)
	if err != nil {
		return nil, false, err
	}
	ids, err = pgx.CollectRows(rows, pgx.RowTo[int64])
	return ids, len(ids) > most, err
}

// renewed is a shelf with some pictures read again.
func renewed(ctx context.Context, tx pgx.Tx, shelf *gallery.Shelf, ids []int64) (*gallery.Shelf, error) {
	lines, err := read(ctx, tx, ids)
	if err != nil {
		return nil, err
	}
	there := make(map[int64]bool, len(lines))
	for _, l := range lines {
		there[l.ID] = true
	}
	var gone []int64
	for _, id := range ids {
		if !there[id] {
			gone = append(gone, id)
		}
	}
	return shelf.With(lines, gone), nil
}

// ClearLog removes old lines of the log of changes.
func (g *Gallery) ClearLog(ctx context.Context) error {
	_, err := g.Store.Pool.Exec(ctx, "DELETE FROM asset_log WHERE at < now() - make_interval(days => $1)", logDays)
	return err
}

// Warm reads the pictures before somebody asks; what hinders it is told to who asks then.
func (g *Gallery) Warm(ctx context.Context) error {
	_, err := g.Now(ctx)
	if errors.Is(err, context.Canceled) {
		return nil
	}
	return err
}
