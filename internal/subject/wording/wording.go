// Package wording is the subject of what is said of pictures on their owners: alt text, title, caption, description, file name.
package wording

import (
	"context"
	"encoding/json"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/core/wording"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Subject changes texts. Its things are the owners; a text that is not there is null.
type Subject struct{}

var _ ledger.Subject = Subject{}

// Name is what its changes are kept under.
func (Subject) Name() string { return wording.Subject }

// Locks are the owners; where file names change all texts as a whole, as those are unique.
func (Subject) Locks(changes []change.Change) []ledger.Lock {
	locks := make([]ledger.Lock, 0, len(changes)+1)
	names := false
	for _, c := range changes {
		locks = append(locks, ledger.Lock{Class: ledger.Owner, ID: c.ID})
		for at := range read(c.After) {
			names = names || at.Field == wording.FileName
		}
	}
	if names {
		locks = append(locks, ledger.Lock{Class: ledger.Wording})
	}
	return locks
}

// read returns the texts of what this subject wrote.
func read(fields json.RawMessage) wording.OwnerTexts {
	if change.None(fields) {
		return nil
	}
	texts, err := wording.ReadTexts(fields)
	if err != nil {
		return nil
	}
	return texts
}

// Standing returns all texts of those owners that are there.
func (Subject) Standing(ctx context.Context, tx pgx.Tx, owners []int64) (map[int64]json.RawMessage, error) {
	q := query.New(tx)
	there, err := q.OwnersThere(ctx, owners)
	if err != nil {
		return nil, err
	}
	texts, err := Texts(ctx, q, there)
	standing := make(map[int64]json.RawMessage, len(there))
	for _, id := range there {
		standing[id] = texts[id].JSON()
	}
	return standing, err
}

// Texts returns all texts of owners, also of pictures that do not stand there now.
func Texts(ctx context.Context, q *query.Queries, owners []int64) (map[int64]wording.OwnerTexts, error) {
	rows, err := q.Texts(ctx, owners)
	all := make(map[int64]wording.OwnerTexts, len(owners))
	for _, r := range rows {
		if all[r.OwnerID] == nil {
			all[r.OwnerID] = wording.OwnerTexts{}
		}
		all[r.OwnerID][wording.Place{Asset: r.AssetID, Field: wording.Field(r.Field), Language: r.Language}] = &wording.Text{Text: r.Text, Hand: r.ByHand}
	}
	return all, err
}

// Same compares the texts that are given.
func (Subject) Same(standing, fields json.RawMessage) bool { return change.Same(standing, fields) }

// Write writes texts and takes them away. A line that would give a file name which another picture has is left alone.
func (Subject) Write(ctx context.Context, tx pgx.Tx, changes []change.Change) ([]ledger.Left, error) {
	q := query.New(tx)
	var rows []Row
	of := map[int64]change.Change{}
	for _, c := range changes {
		of[c.ID] = c
		for at, text := range read(c.After) {
			rows = append(rows, Row{c.ID, at, text})
		}
	}
	taken, err := Taken(ctx, q, rows)
	if err != nil {
		return nil, err
	}
	var left []ledger.Left
	leave := map[int64]bool{}
	for _, r := range taken {
		if !leave[r.Owner] {
			leave[r.Owner] = true
			left = append(left, ledger.Left{Seq: of[r.Owner].Seq, Message: message.New("file_name_taken", "name", r.Text.Text)})
		}
	}
	kept := rows[:0]
	for _, r := range rows {
		if !leave[r.Owner] {
			kept = append(kept, r)
		}
	}
	if err := Write(ctx, q, kept); err != nil || len(left) == len(changes) {
		return left, err
	}
	return left, q.TouchPictures(ctx)
}

// Row is a text on its way; nil takes it away.
type Row struct {
	Owner int64
	wording.Place
	Text *wording.Text
}

// Holder is who has a file name: a picture on an owner, in a language.
type Holder struct {
	Owner, Asset int64
	Language     string
}

// Holders are who has which of some file names.
func Holders(ctx context.Context, q *query.Queries, names []string) (map[string]Holder, error) {
	found, err := q.FileNames(ctx, names)
	has := make(map[string]Holder, len(found))
	for _, f := range found {
		has[f.Text] = Holder{f.OwnerID, f.AssetID, f.Language}
	}
	return has, err
}

func (r Row) holder() Holder { return Holder{r.Owner, r.Asset, r.Language} }

// Taken are the rows that give a file name which another picture has, or gets before them.
func Taken(ctx context.Context, q *query.Queries, rows []Row) ([]Row, error) {
	var names []string
	for _, r := range rows {
		if r.Field == wording.FileName && r.Text != nil {
			names = append(names, r.Text.Text)
		}
	}
	if len(names) == 0 {
		return nil, nil
	}
	has, err := Holders(ctx, q, names)
	if err != nil {
		return nil, err
	}
	of := make(map[Holder]string, len(has))
	for name, h := range has {
		of[h] = name
	}
	// A name that its holder gives away in the same breath is free.
	for _, r := range rows {
		if name, is := of[r.holder()]; is && r.Field == wording.FileName && (r.Text == nil || r.Text.Text != name) {
			delete(has, name)
		}
	}
	var taken []Row
	for _, r := range rows {
		if r.Field != wording.FileName || r.Text == nil {
			continue
		}
		if h, is := has[r.Text.Text]; is && h != r.holder() {
			taken = append(taken, r)
		} else {
			has[r.Text.Text] = r.holder()
		}
	}
	return taken, nil
}

// Write writes rows, each of another place.
func Write(ctx context.Context, q *query.Queries, rows []Row) error {
	var set query.WriteTextsParams
	var gone query.RemoveTextsParams
	for _, r := range rows {
		if r.Text == nil {
			gone.Owners, gone.Assets = append(gone.Owners, r.Owner), append(gone.Assets, r.Asset)
			gone.Fields, gone.Languages = append(gone.Fields, string(r.Field)), append(gone.Languages, r.Language)
			continue
		}
		set.Owners, set.Assets = append(set.Owners, r.Owner), append(set.Assets, r.Asset)
		set.Fields, set.Languages = append(set.Fields, string(r.Field)), append(set.Languages, r.Language)
		set.Texts, set.Hands = append(set.Texts, r.Text.Text), append(set.Hands, r.Text.Hand)
	}
	if len(gone.Owners) > 0 {
		if err := q.RemoveTexts(ctx, gone); err != nil {
			return err
		}
	}
	if len(set.Owners) > 0 {
		return q.WriteTexts(ctx, set)
	}
	return nil
}

// Refs are the owner, and the assets whose texts change.
func (Subject) Refs(c change.Change) []ledger.Ref {
	refs := []ledger.Ref{{Class: ledger.Owner, ID: c.ID}}
	fields := c.After // before and after are of the same places
	if change.None(fields) {
		fields = c.Before
	}
	for _, asset := range wording.AssetsOf(fields) {
		refs = append(refs, ledger.Ref{Class: ledger.Asset, ID: asset})
	}
	return refs
}

// Topics are those of the pictures of the catalogue.
func (Subject) Topics([]change.Change) []string { return []string{"pictures:0"} }
