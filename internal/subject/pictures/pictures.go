// Package pictures is the subject of an owner's pictures: which they are, and their order.
package pictures

import (
	"context"
	"encoding/json"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/core/placement"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Subject changes the pictures of owners. Its things are the owners.
type Subject struct{}

var _ ledger.Subject = Subject{}

// Name is what its changes are kept under.
func (Subject) Name() string { return placement.Subject }

// Locks are the owners, and the assets that they shall have.
func (Subject) Locks(changes []change.Change) []ledger.Lock {
	locks := make([]ledger.Lock, 0, 2*len(changes))
	for _, c := range changes {
		locks = append(locks, ledger.Lock{Class: ledger.Owner, ID: c.ID})
		for _, p := range read(c.After) {
			locks = append(locks, ledger.Lock{Class: ledger.Asset, ID: p.Asset, Share: true})
		}
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
			pictures = append(pictures, placement.Picture{Asset: *r.AssetID})
		}
		placed[r.ID] = pictures
	}
	return placed, err
}

// Same compares which pictures there are, in which order, and not their alt texts, which are changed by themselves.
func (Subject) Same(standing, fields json.RawMessage) bool {
	a, errA := placement.Read(standing)
	b, errB := placement.Read(fields)
	return errA == nil && errB == nil && placement.Same(a, b)
}

// Write puts the pictures on their owners, and an alt text where there is none by hand. A line with an asset that is gone is
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
	var texts []query.AddWordingsParams
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
			if p.Alt != "" {
				texts = append(texts, query.AddWordingsParams{OwnerID: c.ID, AssetID: p.Asset, Language: catalogue.Language, Field: "alt", Text: p.Alt})
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
	if err := word(ctx, q, texts); err != nil {
		return nil, err
	}
	if len(left) == len(changes) {
		return left, nil
	}
	return left, q.TouchPictures(ctx)
}

// word keeps the alt texts of pictures that are new on their owners. One that stands is replaced, unless it is by hand.
func word(ctx context.Context, q *query.Queries, texts []query.AddWordingsParams) error {
	if len(texts) == 0 {
		return nil
	}
	type place struct{ owner, asset int64 }
	owners := make([]int64, len(texts))
	for i, t := range texts {
		owners[i] = t.OwnerID
	}
	rows, err := q.AltTexts(ctx, query.AltTextsParams{Owners: owners, Language: catalogue.Language})
	if err != nil {
		return err
	}
	kept := make(map[place]query.AltTextsRow, len(rows))
	for _, r := range rows {
		kept[place{r.OwnerID, r.AssetID}] = r
	}
	fresh := texts[:0]
	other := query.SetAltTextsParams{Language: catalogue.Language}
	for _, t := range texts {
		at := place{t.OwnerID, t.AssetID}
		if stands, is := kept[at]; !is {
			kept[at] = query.AltTextsRow{Text: t.Text}
			fresh = append(fresh, t)
		} else if !stands.ByHand && stands.Text != t.Text {
			other.Owners, other.Assets, other.Texts = append(other.Owners, t.OwnerID), append(other.Assets, t.AssetID), append(other.Texts, t.Text)
		}
	}
	if len(other.Owners) > 0 {
		if err := q.SetAltTexts(ctx, other); err != nil {
			return err
		}
	}
	_, err = q.AddWordings(ctx, fresh)
	return err
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

// Topics are those of the pictures of the catalogue.
func (Subject) Topics([]change.Change) []string { return []string{"pictures:0"} }
