// Package channel is the subject of what a channel has: which file stands where, and what it holds.
package channel

import (
	"context"
	"encoding/json"

	"ambrosa/core/change"
	"ambrosa/core/channel"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Sender makes files, and brings them to where a channel has them.
type Sender interface {
	// Send does what changes say outside the database. It may be asked twice for one.
	Send(context.Context, []change.Change) ([]ledger.Left, error)
}

// Subject changes files of channels, or their lists. Its things are their slots.
type Subject struct {
	Sender Sender
	Lists  bool
}

var (
	_ ledger.Subject = Subject{}
	_ ledger.Outside = Subject{}
)

// Name is what its changes are kept under.
func (s Subject) Name() string {
	if s.Lists {
		return channel.ListSubject
	}
	return channel.Subject
}

// Locks are all channels as a whole: what a run writes of them at a time is little, and sending is not part of it.
func (Subject) Locks([]change.Change) []ledger.Lock { return []ledger.Lock{{Class: ledger.Channel}} }

// Batch is how many files are sent at a time, and are sent again where the program is killed over them.
func (Subject) Batch() int { return 64 }

// Do sends them.
func (s Subject) Do(ctx context.Context, changes []change.Change) ([]ledger.Left, error) {
	return s.Sender.Send(ctx, changes)
}

// Standing returns what stands in slots; those in which nothing does are missing.
func (Subject) Standing(ctx context.Context, tx pgx.Tx, ids []int64) (map[int64]json.RawMessage, error) {
	rows, err := query.New(tx).ChannelFiles(ctx, ids)
	standing := make(map[int64]json.RawMessage, len(rows))
	for _, r := range rows {
		if f := Filed(r); f.Path != "" {
			standing[r.ID] = f.JSON()
		}
	}
	return standing, err
}

// Filed is what stands in a slot.
func Filed(r query.ChannelFilesRow) channel.Filed {
	return channel.Filed{Path: r.Path, Key: r.Key, Let: r.Let, Owner: r.OwnerID, Asset: r.AssetID, Size: r.Size}
}

// Same compares where a file stands, what it holds, and why it was held.
func (Subject) Same(standing, fields json.RawMessage) bool {
	return channel.ReadFiled(standing).Same(channel.ReadFiled(fields))
}

// Write notes what stands now, and counts it.
func (Subject) Write(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	q := query.New(tx)
	before, err := q.ChannelFiles(ctx, change.IDs(changes))
	if err != nil {
		return nil, err
	}
	var p query.SetChannelFilesParams
	for _, c := range changes {
		f := channel.ReadFiled(c.After)
		p.Ids, p.Paths, p.Keys, p.Lets = append(p.Ids, c.ID), append(p.Paths, f.Path), append(p.Keys, f.Key), append(p.Lets, f.Let)
	}
	if err := q.SetChannelFiles(ctx, p); err != nil {
		return nil, err
	}
	after, err := q.ChannelFiles(ctx, p.Ids)
	if err != nil {
		return nil, err
	}
	more := map[int64]query.CountInChannelParams{}
	count := func(rows []query.ChannelFilesRow, sign int64) {
		for _, r := range rows {
			of := more[r.ChannelID]
			if of.ID = r.ChannelID; r.Path != "" {
				of.Files, of.Bytes = of.Files+sign, of.Bytes+sign*r.Bytes
			}
			more[r.ChannelID] = of
		}
	}
	count(before, -1)
	count(after, 1)
	for _, of := range more {
		if err := q.CountInChannel(ctx, of); err != nil {
			return nil, err
		}
	}
	return nil, nil
}

// Refs are the owner and the picture.
func (Subject) Refs(c change.Change) []ledger.Ref {
	f := channel.ReadFiled(c.After)
	if change.None(c.After) {
		f = channel.ReadFiled(c.Before)
	}
	return []ledger.Ref{{Class: ledger.Owner, ID: f.Owner}, {Class: ledger.Asset, ID: f.Asset}}
}

// Topics are those of all channels.
func (Subject) Topics([]change.Change) []string { return []string{string(store.Topic("channel", 0))} }
