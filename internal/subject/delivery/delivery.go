// Package delivery is the subject of deliveries: whether one is removed. What is said of one is no change of the catalogue and needs no plan.
package delivery

import (
	"context"
	"encoding/json"

	"ambrosa/core/change"
	"ambrosa/core/tidy"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Subject changes deliveries.
type Subject struct{}

var _ ledger.Subject = Subject{}

// Name is what its changes are kept under.
func (Subject) Name() string { return tidy.DeliverySubject }

// Locks are the deliveries.
func (Subject) Locks(changes []change.Change) []ledger.Lock {
	locks := make([]ledger.Lock, len(changes))
	for i, c := range changes {
		locks[i] = ledger.Lock{Class: ledger.Delivery, ID: c.ID}
	}
	return locks
}

// Standing returns what stands of those deliveries that are there.
func (Subject) Standing(ctx context.Context, tx pgx.Tx, ids []int64) (map[int64]json.RawMessage, error) {
	rows, err := query.New(tx).DeliveriesStanding(ctx, ids)
	standing := make(map[int64]json.RawMessage, len(rows))
	for _, r := range rows {
		standing[r.ID] = tidy.Delivery{Removed: r.Removed}.JSON()
	}
	return standing, err
}

// Same compares field by field.
func (Subject) Same(standing, fields json.RawMessage) bool { return change.Same(standing, fields) }

// Write removes deliveries, or brings them back.
func (s Subject) Write(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	var p query.SetDeliveriesRemovedParams
	for _, c := range changes {
		var d tidy.Delivery
		if err := json.Unmarshal(c.After, &d); err != nil {
			return nil, err
		}
		p.Ids, p.Removed = append(p.Ids, c.ID), append(p.Removed, d.Removed)
	}
	return nil, query.New(tx).SetDeliveriesRemoved(ctx, p)
}

// Refs are none: what came in with a delivery is not changed.
func (Subject) Refs(change.Change) []ledger.Ref { return nil }

// Topics are those of the deliveries.
func (Subject) Topics(changes []change.Change) []string {
	topics := make([]string, len(changes))
	for i, c := range changes {
		topics[i] = string(store.Topic("delivery", c.ID))
	}
	return topics
}
