// Package owner is the subject of products, variants and categories themselves.
package owner

import (
	"context"
	"encoding/json"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Subject changes owners.
type Subject struct{}

var (
	_ ledger.Subject    = Subject{}
	_ ledger.Foreseeing = Subject{}
)

// Name is what its changes are kept under.
func (Subject) Name() string { return catalogue.Subject }

// ground is what a change's fields say an owner stands on.
type ground struct {
	Parent   int64 `json:"parent"`
	Category int64 `json:"category"`
}

// grounds are the owners on which one stands, before and after a change.
func grounds(c change.Change) (ids []int64) {
	for _, fields := range []json.RawMessage{c.Before, c.After} {
		var g ground
		if !change.None(fields) && json.Unmarshal(fields, &g) == nil {
			ids = append(ids, g.Parent, g.Category)
		}
	}
	return slices.DeleteFunc(ids, func(id int64) bool { return id == 0 })
}

// Locks are the owners, those on which they stand, and all owners as a whole: what one change does rests on what others have
// not done yet, so they take turns, chunk by chunk.
func (Subject) Locks(changes []change.Change) []ledger.Lock {
	locks := []ledger.Lock{{Class: ledger.Owner}}
	for _, c := range changes {
		locks = append(locks, ledger.Lock{Class: ledger.Owner, ID: c.ID})
		for _, id := range grounds(c) {
			locks = append(locks, ledger.Lock{Class: ledger.Owner, ID: id, Share: true})
		}
	}
	return locks
}

// Standing returns owners with all their fields.
func (Subject) Standing(ctx context.Context, tx pgx.Tx, ids []int64) (map[int64]json.RawMessage, error) {
	owners, err := standing(ctx, query.New(tx), ids)
	fields := make(map[int64]json.RawMessage, len(owners))
	for id, o := range owners {
		fields[id] = o.JSON()
	}
	return fields, err
}

func standing(ctx context.Context, q *query.Queries, ids []int64) (map[int64]catalogue.Owner, error) {
	rows, err := q.OwnerRecords(ctx, ids)
	if err != nil {
		return nil, err
	}
	return store.CatalogueOwners(rows)
}

// Same compares the fields that are given.
func (Subject) Same(standing, fields json.RawMessage) bool { return change.Same(standing, fields) }

// Refs are the owner, and those on which it stands.
func (Subject) Refs(c change.Change) []ledger.Ref {
	refs := []ledger.Ref{{Class: ledger.Owner, ID: c.ID}}
	for _, id := range grounds(c) {
		refs = append(refs, ledger.Ref{Class: ledger.Owner, ID: id})
	}
	return refs
}

// Topics are those of the catalogue.
func (Subject) Topics([]change.Change) []string { return []string{"catalogue:0"} }
