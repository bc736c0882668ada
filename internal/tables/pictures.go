package tables

import (
	"context"
	"encoding/json"
	"strings"

	"ambrosa/core/table"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Shown is a picture that a row names; without a SHA-256 there is none of that name.
type Shown struct{ Name, SHA string }

// mostShown is how many pictures of a row are shown.
const mostShown = 20

// Pictures are those that a row names, in their order: by their names as they are, by their addresses, and those in its cells. Errors:
// pgx.ErrNoRows.
func (t *Tables) Pictures(ctx context.Context, id int64, row int32) ([]Shown, error) {
	w, err := t.Store.WorksheetByID(ctx, id)
	if err != nil {
		return nil, err
	}
	of, err := t.Store.WorksheetRow(ctx, query.WorksheetRowParams{ID: id, Row: row})
	if err != nil {
		return nil, err
	}
	r, err := readRow(query.WorksheetRowsRow(of))
	if err != nil {
		return nil, err
	}
	var fields table.Assignment
	if err := json.Unmarshal(w.Fields, &fields); err != nil {
		return nil, err
	}
	var shown []Shown
	var names, addresses []string
	for _, f := range []table.Field{table.Main, table.Picture, table.Pictures} {
		for _, name := range table.Split(r.At(fields.Of(f)).Text) {
			if table.IsAddress(name) {
				continue
			}
			name = name[strings.LastIndexAny(name, `/\`)+1:]
			shown = append(shown, Shown{Name: name})
			names = append(names, name)
		}
	}
	for _, lies := range table.Addresses(r.Row, fields) {
		shown = append(shown, Shown{Name: lies.Address})
		addresses = append(addresses, lies.Address)
	}
	if len(shown) == 0 {
		return nil, nil
	}
	shas, err := t.bytesOf(ctx, w, row, names, addresses)
	for i := range shown {
		shown[i].SHA = shas[shown[i].Name]
	}
	return shown[:min(len(shown), mostShown)], err
}

// bytesOf are the SHA-256 of pictures by their names and addresses, as a row means them.
func (t *Tables) bytesOf(ctx context.Context, w query.WorksheetByIDRow, row int32, names, addresses []string) (map[string]string, error) {
	shas := map[string]string{}
	p := query.PicturesCalledParams{ID: w.ID, Names: names}
	if w.DeliveryID != nil {
		p.Delivery = *w.DeliveryID
	}
	called, err := t.Store.PicturesCalled(ctx, p)
	if err != nil {
		return nil, err
	}
	for _, c := range called {
		shas[c.Name] = c.Sha
	}
	chosen, err := t.Store.ChosenPictures(ctx, query.ChosenPicturesParams{ID: w.ID, Row: row})
	if err != nil {
		return nil, err
	}
	for _, c := range chosen {
		shas[c.Name] = c.Sha
	}
	from, err := t.Store.PicturesFrom(ctx, query.PicturesFromParams{ID: w.ID, Addresses: addresses})
	for _, f := range from {
		shas[f.Address] = f.Sha
	}
	return shas, err
}

// mostAlike is how many pictures of one name are shown side by side.
const mostAlike = 40

// Alike are the pictures that a name may mean, those of the table's own deliveries first; each asset once. Errors: pgx.ErrNoRows.
func (t *Tables) Alike(ctx context.Context, id int64, name string) ([]query.PicturesAlikeRow, error) {
	w, err := t.Store.WorksheetByID(ctx, id)
	if err != nil {
		return nil, err
	}
	p := query.PicturesAlikeParams{ID: id, Name: name[strings.LastIndexAny(name, `/\`)+1:], Most: mostAlike}
	if w.DeliveryID != nil {
		p.Delivery = *w.DeliveryID
	}
	all, err := t.Store.PicturesAlike(ctx, p)
	seen := map[int64]bool{}
	some := all[:0]
	for _, one := range all {
		if !seen[one.Asset] {
			seen[one.Asset] = true
			some = append(some, one)
		}
	}
	return some, err
}

// Chosen says which picture a row means by a name; row 0 stands for all rows.
type Chosen struct {
	Row  int32
	Name string
	table.Pick
}

// Choose keeps which picture is meant; the table is checked again. Errors: pgx.ErrNoRows, ErrNoCell where no picture has that name.
func (t *Tables) Choose(ctx context.Context, id int64, c Chosen) error {
	c.Name = c.Name[strings.LastIndexAny(c.Name, `/\`)+1:]
	alike, err := t.Alike(ctx, id, c.Name)
	if err != nil {
		return err
	}
	there := false
	for _, one := range alike {
		there = there || one.Asset == c.Asset
	}
	if !there {
		return ErrNoCell
	}
	return t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		w, err := q.LockWorksheet(ctx, id)
		if err != nil {
			return err
		}
		if err := q.SetWorksheetChoice(ctx, query.SetWorksheetChoiceParams{WorksheetID: id, Row: c.Row, Name: c.Name, AssetID: c.Asset, Everywhere: c.Everywhere}); err != nil {
			return err
		}
		return t.touched(ctx, q, tx, w)
	})
}
