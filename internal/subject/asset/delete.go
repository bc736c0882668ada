package asset

import (
	"context"
	"time"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// A deletion is two steps, so that it can end at any point and be taken up again. Do marks the rows and deletes what the vault has; Write then
// deletes the rows. Between the two a picture may come in again: who brings it says so (WantAssets) before it stores anything, which waits
// while bytes are being deleted here; then it is stored anew and its row stays.

const (
	deletedAtOnce = 100             // pictures whose rows are locked while their bytes are deleted
	deleteTime    = 2 * time.Minute // for those
)

// Batch is how many lines are done at a time.
func (Subject) Batch() int { return 1000 }

// Do deletes the bytes of pictures that lie in the bin. It may be asked twice.
func (s Subject) Do(ctx context.Context, changes []change.Change) ([]ledger.Left, error) {
	var ids []int64
	for _, c := range changes {
		if change.None(c.After) {
			ids = append(ids, c.ID)
		}
	}
	if len(ids) == 0 {
		return nil, nil
	}
	if err := s.Store.DoomAssets(ctx, ids); err != nil {
		return nil, err
	}
	killpoint.Pass(killpoint.AssetsDoomed)
	for len(ids) > 0 {
		some := ids[:min(len(ids), deletedAtOnce)]
		if err := s.deleteBytes(ctx, some); err != nil {
			return nil, err
		}
		killpoint.Pass(killpoint.BytesDeleted)
		ids = ids[len(some):]
	}
	return nil, nil
}

// deleteBytes deletes what the vault has of doomed pictures. Their rows are locked meanwhile.
func (s Subject) deleteBytes(ctx context.Context, ids []int64) error {
	ctx, cancel := context.WithTimeout(ctx, deleteTime)
	defer cancel()
	return s.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		doomed, err := q.LockDoomed(ctx, ids)
		if err != nil {
			return err
		}
		for _, d := range doomed {
			if err := s.Vault.Delete(ctx, d.Sha); err != nil {
				return err
			}
			killpoint.Pass(killpoint.BlobDeleted)
		}
		return nil
	})
}

// remove deletes the rows of pictures whose bytes are gone. Those that somebody wants meanwhile stay.
func remove(ctx context.Context, q *query.Queries, changes []change.Change) ([]ledger.Left, error) {
	if len(changes) == 0 {
		return nil, nil
	}
	doomed, err := q.LockDoomed(ctx, change.IDs(changes))
	if err != nil {
		return nil, err
	}
	going := make([]int64, len(doomed))
	for i, d := range doomed {
		going[i] = d.ID
	}
	if err := q.ForgetArrivals(ctx, going); err != nil {
		return nil, err
	}
	if err := q.ForgetTexts(ctx, going); err != nil {
		return nil, err
	}
	gone, err := q.DeleteDoomed(ctx, going)
	if err != nil {
		return nil, err
	}
	is := set(gone)
	var left []ledger.Left
	for _, c := range changes {
		if !is[c.ID] {
			left = append(left, ledger.Left{Seq: c.Seq, Message: message.New("asset_wanted")})
		}
	}
	return left, nil
}
