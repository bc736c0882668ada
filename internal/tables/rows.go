package tables

import (
	"context"
	"encoding/json"
	"strconv"

	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/store/query"
)

// more is what a cell holds besides its text.
type more struct {
	Stored  string     `json:"stored,omitempty"`
	Kind    table.Kind `json:"kind,omitempty"`
	Formula string     `json:"formula,omitempty"`
	Picture string     `json:"picture,omitempty"`
}

// kept is a row as it is kept.
func kept(id int64, r table.Row) (query.AddWorksheetRowsParams, error) {
	p := query.AddWorksheetRowsParams{WorksheetID: id, Row: int32(r.Number), Broken: r.Broken}
	besides := map[string]more{}
	for i, c := range r.Cells {
		if c.Stored != "" || c.Kind != table.Text || c.Formula != "" || c.Picture != "" {
			besides[strconv.Itoa(i)] = more{c.Stored, c.Kind, c.Formula, c.Picture}
		}
	}
	var err error
	if p.Cells, err = json.Marshal(r.Texts()); err != nil {
		return p, err
	}
	if len(besides) > 0 {
		p.More, err = json.Marshal(besides)
	}
	return p, err
}

// Row is a row of a table in hand.
type Row struct {
	table.Row
	LeftOut bool
}

// readRow is the inverse of kept.
func readRow(of query.WorksheetRowsRow) (Row, error) {
	r := Row{Row: table.Row{Number: int(of.Row), Broken: of.Broken}, LeftOut: of.LeftOut}
	var texts []string
	if err := json.Unmarshal(of.Cells, &texts); err != nil {
		return r, err
	}
	r.Cells = make([]table.Cell, len(texts))
	for i, s := range texts {
		r.Cells[i].Text = s
	}
	var besides map[string]more
	if len(of.More) > 0 {
		if err := json.Unmarshal(of.More, &besides); err != nil {
			return r, err
		}
	}
	for column, m := range besides {
		if i, err := strconv.Atoi(column); err == nil && i < len(r.Cells) {
			r.Cells[i].Stored, r.Cells[i].Kind, r.Cells[i].Formula, r.Cells[i].Picture = m.Stored, m.Kind, m.Formula, m.Picture
		}
	}
	return r, nil
}

// piece is how many rows are read at once.
const piece = 2000

// each reads the rows of a table one after the other.
func (t *Tables) each(ctx context.Context, id int64, use func(Row) error) error {
	return t.eachBehind(ctx, id, 0, use)
}

// eachBehind reads those behind a row.
func (t *Tables) eachBehind(ctx context.Context, id int64, after int32, use func(Row) error) error {
	for {
		rows, err := t.Store.WorksheetRows(ctx, query.WorksheetRowsParams{ID: id, After: after, Most: piece})
		if err != nil {
			return err
		}
		for _, of := range rows {
			r, err := readRow(of)
			if err != nil {
				return err
			}
			if err := use(r); err != nil {
				return err
			}
			after = of.Row
		}
		if len(rows) < piece {
			return nil
		}
	}
}

// readMessage reads a message as it is kept.
func readMessage(kept json.RawMessage) (m message.Message, err error) {
	err = json.Unmarshal(kept, &m)
	return m, err
}

// Rows returns so many rows after one; with a kind, only those that have a problem of that kind.
func (t *Tables) Rows(ctx context.Context, id int64, after, most int32, kind string) ([]Row, error) {
	var all []query.WorksheetRowsRow
	var err error
	if kind == "" {
		all, err = t.Store.WorksheetRows(ctx, query.WorksheetRowsParams{ID: id, After: after, Most: most})
	} else {
		var some []query.WorksheetRowsOfKindRow
		some, err = t.Store.WorksheetRowsOfKind(ctx, query.WorksheetRowsOfKindParams{ID: id, After: after, Most: most, Kind: kind})
		for _, r := range some {
			all = append(all, query.WorksheetRowsRow(r))
		}
	}
	if err != nil {
		return nil, err
	}
	rows := make([]Row, len(all))
	for i, of := range all {
		if rows[i], err = readRow(of); err != nil {
			return nil, err
		}
	}
	return rows, nil
}
