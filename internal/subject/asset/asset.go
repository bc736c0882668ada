// Package asset is the subject of pictures themselves: whether they lie in the bin, what people say of them, and that they are deleted for good.
package asset

import (
	"context"
	"encoding/json"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/core/tidy"
	"ambrosa/internal/assets"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Subject changes assets.
type Subject struct {
	Store *store.Store
	Vault *assets.Vault
}

var (
	_ ledger.Subject    = Subject{}
	_ ledger.Outside    = Subject{}
	_ ledger.Foreseeing = Subject{}
)

// Name is what its changes are kept under.
func (Subject) Name() string { return tidy.Subject }

// Locks are the assets.
func (Subject) Locks(changes []change.Change) []ledger.Lock {
	locks := make([]ledger.Lock, len(changes))
	for i, c := range changes {
		locks[i] = ledger.Lock{Class: ledger.Asset, ID: c.ID}
	}
	return locks
}

// Standing returns what stands of those assets that are there.
func (Subject) Standing(ctx context.Context, tx pgx.Tx, ids []int64) (map[int64]json.RawMessage, error) {
	all, err := Standing(ctx, query.New(tx), ids)
	standing := make(map[int64]json.RawMessage, len(all))
	for id, a := range all {
		standing[id] = a.JSON()
	}
	return standing, err
}

// Standing returns what stands of those assets that are there.
func Standing(ctx context.Context, q *query.Queries, ids []int64) (map[int64]tidy.Asset, error) {
	rows, err := q.AssetsStanding(ctx, ids)
	all := make(map[int64]tidy.Asset, len(rows))
	for _, r := range rows {
		a := tidy.Asset{Binned: r.Binned, Placeholder: r.Placeholder, Tags: r.Tags, Note: r.Note}
		if r.May != "" {
			a.Rights = &tidy.Rights{May: r.May, Until: r.Until, Holder: r.Holder, Proof: r.Proof}
		}
		all[r.ID] = a
	}
	return all, err
}

// Same compares field by field.
func (Subject) Same(standing, fields json.RawMessage) bool { return change.Same(standing, fields) }

// Foresee says which changes Write would leave alone: a picture that an owner shows is not binned, one that is being deleted not changed.
func (Subject) Foresee(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	q := query.New(tx)
	ids := change.IDs(changes)
	used, err := q.AssetsInUse(ctx, ids)
	if err != nil {
		return nil, err
	}
	doomed, err := q.AssetsDoomed(ctx, ids)
	if err != nil {
		return nil, err
	}
	isUsed, isDoomed := set(used), set(doomed)
	var left []ledger.Left
	for _, c := range changes {
		deletes := change.None(c.After)
		switch {
		case isDoomed[c.ID] && !deletes:
			left = append(left, ledger.Left{Seq: c.Seq, Message: message.New("asset_doomed")})
		case isUsed[c.ID] && (deletes || bins(c)):
			left = append(left, ledger.Left{Seq: c.Seq, Message: message.New("asset_shown")})
		}
	}
	return left, nil
}

func set(ids []int64) map[int64]bool {
	is := make(map[int64]bool, len(ids))
	for _, id := range ids {
		is[id] = true
	}
	return is
}

// bins reports whether a change puts its asset into the bin.
func bins(c change.Change) bool {
	a, err := tidy.ReadAsset(c.After)
	return err == nil && a.Binned
}

// Write changes the assets, and deletes the rows of those whose bytes are gone.
func (s Subject) Write(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	left, err := s.Foresee(ctx, tx, changes)
	if err != nil {
		return nil, err
	}
	out := map[int32]bool{}
	for _, l := range left {
		out[l.Seq] = true
	}
	var described, gone []change.Change
	for _, c := range changes {
		switch {
		case out[c.Seq]:
		case change.None(c.After):
			gone = append(gone, c)
		default:
			described = append(described, c)
		}
	}
	q := query.New(tx)
	if err := describe(ctx, q, described); err != nil {
		return nil, err
	}
	more, err := remove(ctx, q, gone)
	return append(left, more...), err
}

// describe writes what the changes make of their assets.
func describe(ctx context.Context, q *query.Queries, changes []change.Change) error {
	if len(changes) == 0 {
		return nil
	}
	standing, err := Standing(ctx, q, change.IDs(changes))
	if err != nil {
		return err
	}
	var p query.DescribeAssetsParams
	var rights query.PutRightsParams
	var without []int64
	for _, c := range changes {
		was := standing[c.ID]
		merged, err := change.Merge(was.JSON(), c.After)
		if err != nil {
			return err
		}
		a, err := tidy.ReadAsset(merged)
		if err != nil {
			return err
		}
		tags, err := json.Marshal(append([]string{}, a.Tags...))
		if err != nil {
			return err
		}
		p.Ids, p.Binned, p.Placeholders = append(p.Ids, c.ID), append(p.Binned, a.Binned), append(p.Placeholders, a.Placeholder)
		p.Tags, p.Notes = append(p.Tags, string(tags)), append(p.Notes, a.Note)
		switch {
		case a.Rights != nil && (was.Rights == nil || *was.Rights != *a.Rights):
			rights.Ids, rights.Mays, rights.Untils = append(rights.Ids, c.ID), append(rights.Mays, a.Rights.May), append(rights.Untils, a.Rights.Until)
			rights.Holders, rights.Proofs = append(rights.Holders, a.Rights.Holder), append(rights.Proofs, a.Rights.Proof)
		case a.Rights == nil && was.Rights != nil:
			without = append(without, c.ID)
		}
	}
	if err := q.DescribeAssets(ctx, p); err != nil {
		return err
	}
	if len(rights.Ids) > 0 {
		if err := q.PutRights(ctx, rights); err != nil {
			return err
		}
	}
	if len(without) == 0 {
		return nil
	}
	return q.DropRights(ctx, without)
}

// Refs are the asset.
func (Subject) Refs(c change.Change) []ledger.Ref {
	return []ledger.Ref{{Class: ledger.Asset, ID: c.ID}}
}

// Topics are those of all pictures.
func (Subject) Topics([]change.Change) []string { return []string{"assets:0"} }
