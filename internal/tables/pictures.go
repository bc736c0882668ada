package tables

import (
	"context"
	"encoding/json"
	"strings"

	"ambrosa/core/table"
	"ambrosa/internal/store/query"
)

// Shown is a picture that a row names; without a SHA-256 there is none of that name.
type Shown struct{ Name, SHA string }

// mostShown is how many pictures of a row are shown.
const mostShown = 20

// Pictures are those that a row names, in their order, by their names as they are. Errors: pgx.ErrNoRows.
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
	var names []string
	for _, f := range []table.Field{table.Main, table.Picture, table.Pictures} {
		for _, name := range table.Split(r.At(fields.Of(f)).Text) {
			name = name[strings.LastIndexAny(name, `/\`)+1:]
			if shown = append(shown, Shown{Name: name}); len(shown) <= mostShown {
				names = append(names, name)
			}
		}
	}
	if len(names) == 0 {
		return nil, nil
	}
	p := query.PicturesCalledParams{Names: names}
	if w.DeliveryID != nil {
		p.Delivery = *w.DeliveryID
	}
	found, err := t.Store.PicturesCalled(ctx, p)
	if err != nil {
		return nil, err
	}
	shas := make(map[string]string, len(found))
	for _, f := range found {
		shas[f.Name] = f.Sha
	}
	shown = shown[:len(names)]
	for i := range shown {
		shown[i].SHA = shas[shown[i].Name]
	}
	return shown, nil
}
