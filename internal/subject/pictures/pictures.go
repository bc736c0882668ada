// Package pictures is the subject of an owner's pictures: which they are, and their order.
package pictures

import (
	"context"
	"encoding/json"
	"slices"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/core/placement"
	words "ambrosa/core/wording"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/wording"

	"github.com/jackc/pgx/v5"
)

// Subject changes the pictures of owners. Its things are the owners.
type Subject struct{}

var _ ledger.Subject = Subject{}

// Name is what its changes are kept under.
func (Subject) Name() string { return placement.Subject }

// Locks are the owners, and the assets that they shall have; where file names come along all texts as a whole, as those are unique.
func (Subject) Locks(changes []change.Change) []ledger.Lock {
	locks := make([]ledger.Lock, 0, 2*len(changes))
	names := false
	for _, c := range changes {
		locks = append(locks, ledger.Lock{Class: ledger.Owner, ID: c.ID})
		for _, p := range read(c.After) {
			locks = append(locks, ledger.Lock{Class: ledger.Asset, ID: p.Asset, Share: true})
			names = names || p.Texts[words.FileName] != nil
		}
	}
	if names {
		locks = append(locks, ledger.Lock{Class: ledger.Wording})
	}
	return locks
}

// read returns the pictures of what this subject wrote.
func read(fields json.RawMessage) []placement.Picture {
	pictures, err := placement.Read(fields)
	if err != nil {
		return nil
	}
	return pictures
}

// Standing returns the pictures of those owners that are there.
func (Subject) Standing(ctx context.Context, tx pgx.Tx, owners []int64) (map[int64]json.RawMessage, error) {
	placed, err := Placed(ctx, query.New(tx), owners)
	standing := make(map[int64]json.RawMessage, len(placed))
	for id, pictures := range placed {
		standing[id] = placement.JSON(pictures)
	}
	return standing, err
}

// Placed returns the pictures of those owners that are there, in their order.
func Placed(ctx context.Context, q *query.Queries, owners []int64) (map[int64][]placement.Picture, error) {
	rows, err := q.PlacedOn(ctx, owners)
	placed := make(map[int64][]placement.Picture, len(owners))
	for _, r := range rows {
		pictures := placed[r.ID]
		if r.AssetID != nil {
			pictures = append(pictures, placement.Picture{Asset: *r.AssetID, Placeholder: r.Placeholder})
		}
		placed[r.ID] = pictures
	}
	return placed, err
}

// Same compares which pictures there are, in which order, and not their texts, which are changed by themselves.
func (Subject) Same(standing, fields json.RawMessage) bool {
	a, errA := placement.Read(standing)
	b, errB := placement.Read(fields)
	return errA == nil && errB == nil && placement.Same(a, b)
}

// Write puts the pictures on their owners, and their texts. A line with an asset that is gone is
// left alone.
func (Subject) Write(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	q := query.New(tx)
	after := make([][]placement.Picture, len(changes))
	for i, c := range changes {
		after[i] = read(c.After)
	}
	there, err := assetsThere(ctx, q, after)
	if err != nil {
		return nil, err
	}
	var left []ledger.Left
	var clear []int64
	var placements [][]any
	var texts []wording.Row
	for n, c := range changes {
		if gone := missing(after[n], there); gone != 0 {
			left = append(left, ledger.Left{Seq: c.Seq, Message: message.New("asset_gone", "asset", gone)})
			continue
		}
		if len(read(c.Before)) > 0 {
			clear = append(clear, c.ID)
		}
		for i, p := range after[n] {
			placements = append(placements, []any{c.ID, int32(i + 1), p.Asset})
			for field, of := range p.Texts {
				for lang, text := range of {
					texts = append(texts, wording.Row{Owner: c.ID, Place: words.Place{Asset: p.Asset, Field: field, Language: lang}, Text: &text})
				}
			}
		}
	}
	if len(clear) > 0 {
		if _, err := tx.Exec(ctx, "DELETE FROM placement WHERE owner_id = ANY ($1)", clear); err != nil {
			return nil, err
		}
	}
	if _, err := tx.CopyFrom(ctx, pgx.Identifier{"placement"}, []string{"owner_id", "position", "asset_id"}, pgx.CopyFromRows(placements)); err != nil {
		return nil, err
	}
	if err := restore(ctx, q, placements); err != nil {
		return nil, err
	}
	if err := word(ctx, q, texts); err != nil {
		return nil, err
	}
	if len(left) == len(changes) {
		return left, nil
	}
	return left, q.TouchPictures(ctx)
}

// restore takes the pictures out of the bin that stand on an owner now: a placement wins over the bin, and undo reaches into it.
func restore(ctx context.Context, q *query.Queries, placements [][]any) error {
	ids := make([]int64, len(placements))
	for i, p := range placements {
		ids[i] = p[2].(int64)
	}
	return q.RestoreAssets(ctx, ids)
}

// word keeps the texts of pictures that are new on their owners. One by hand is replaced by one by hand alone. A file name that another
// picture has is left out: the picture matters more.
func word(ctx context.Context, q *query.Queries, texts []wording.Row) error {
	if len(texts) == 0 {
		return nil
	}
	owners := make([]int64, len(texts))
	for i, t := range texts {
		owners[i] = t.Owner
	}
	standing, err := wording.Texts(ctx, q, owners)
	if err != nil {
		return err
	}
	fresh := texts[:0]
	for _, t := range texts {
		if stands := standing[t.Owner][t.Place]; stands == nil || *stands != *t.Text && (t.Text.Hand || !stands.Hand) {
			fresh = append(fresh, t)
		}
	}
	taken, err := wording.Taken(ctx, q, fresh)
	if err != nil {
		return err
	}
	out := make(map[wording.Row]bool, len(taken))
	for _, t := range taken {
		out[t] = true
	}
	return wording.Write(ctx, q, slices.DeleteFunc(fresh, func(r wording.Row) bool { return out[r] }))
}

// assetsThere tells which of the pictures are there.
func assetsThere(ctx context.Context, q *query.Queries, lists [][]placement.Picture) (map[int64]bool, error) {
	there := map[int64]bool{}
	for _, pictures := range lists {
		for _, p := range pictures {
			there[p.Asset] = false
		}
	}
	ids := make([]int64, 0, len(there))
	for id := range there {
		ids = append(ids, id)
	}
	found, err := q.AssetsThere(ctx, ids)
	for _, id := range found {
		there[id] = true
	}
	return there, err
}

// missing is the first picture that is not there; 0 where all are.
func missing(pictures []placement.Picture, there map[int64]bool) int64 {
	for _, p := range pictures {
		if !there[p.Asset] {
			return p.Asset
		}
	}
	return 0
}

// Refs are the owner, and the assets that it had and shall have.
func (Subject) Refs(c change.Change) []ledger.Ref {
	refs := []ledger.Ref{{Class: ledger.Owner, ID: c.ID}}
	for _, fields := range []json.RawMessage{c.Before, c.After} {
		for _, p := range read(fields) {
			refs = append(refs, ledger.Ref{Class: ledger.Asset, ID: p.Asset})
		}
	}
	return refs
}

// Topics are those of the pictures of the catalogue, and of all pictures.
func (Subject) Topics([]change.Change) []string { return []string{"pictures:0", "assets:0"} }
