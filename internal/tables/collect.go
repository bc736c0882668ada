package tables

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"

	"ambrosa/core/catalogue"
	"ambrosa/core/table"
	"ambrosa/internal/gather"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/listed"
	"ambrosa/internal/jobs"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// SourceKind is the kind of source that the pictures are which a table names by address or holds in its cells.
const SourceKind = "table"

var (
	// ErrNothing is returned for collecting where no picture of a table is at an address or in a cell, or all are here.
	ErrNothing = errors.New("no picture of the table waits at an address or in a cell")
	// ErrCollecting is returned for collecting while that goes on.
	ErrCollecting = errors.New("the table's pictures are being collected")
)

// collects says of a delivery which table it was collected for.
type collects struct {
	Kind  string `json:"kind"`
	Table int64  `json:"worksheet"`
}

// Collect asks for the pictures that a table names by address or that lie in its cells, those that are not here yet, as a delivery that
// belongs to it. Once they are here the table is checked again. Errors: ErrNotChecked, ErrNothing, ErrCollecting, pgx.ErrNoRows.
func (t *Tables) Collect(ctx context.Context, id, person int64) (delivery int64, err error) {
	of, err := json.Marshal(collects{SourceKind, id})
	if err != nil {
		return 0, err
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		w, err := q.LockWorksheet(ctx, id)
		if err != nil {
			return err
		}
		switch {
		case !w.Read || w.Checked != w.Version:
			return ErrNotChecked
		case w.Waiting == 0:
			return ErrNothing
		}
		own, err := q.WorksheetDeliveries(ctx, id)
		if err != nil {
			return err
		}
		for _, d := range own {
			if d.Collected && d.State != "ready" && d.State != string(jobs.Stopped) && d.State != string(jobs.Failed) {
				return ErrCollecting
			}
		}
		if delivery, err = t.Gatherer.CollectIn(ctx, q, tx, w.Name, of, person); err != nil {
			return err
		}
		return q.AttachDelivery(ctx, query.AttachDeliveryParams{WorksheetID: id, DeliveryID: delivery})
	})
	return delivery, err
}

// Attach makes a delivery one of a table's own, or with off one of all again. Errors: pgx.ErrNoRows.
func (t *Tables) Attach(ctx context.Context, id, delivery int64, off bool) error {
	return t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		w, err := q.LockWorksheet(ctx, id)
		if err != nil {
			return err
		}
		if _, err := q.DeliveryTitle(ctx, delivery); err != nil {
			return err
		}
		if off {
			_, err = q.DetachDelivery(ctx, query.DetachDeliveryParams{WorksheetID: id, DeliveryID: delivery})
		} else {
			err = q.AttachDelivery(ctx, query.AttachDeliveryParams{WorksheetID: id, DeliveryID: delivery})
		}
		if err != nil {
			return err
		}
		return t.touched(ctx, q, tx, w)
	})
}

// Arrived has the tables checked again that name pictures of a delivery which is taken in. One of tables alone is closed, unless none was
// found in it.
func (t *Tables) Arrived(ctx context.Context, q *query.Queries, tx pgx.Tx, delivery int64) error {
	source, err := q.SourceOf(ctx, delivery)
	if err != nil {
		return err
	}
	if gather.IsOfLists(source.Source) {
		found, err := q.TablesFound(ctx, query.TablesFoundParams{Delivery: delivery, Most: 1})
		if err != nil || len(found) == 0 {
			return err
		}
		done := true
		_, err = q.DescribeDelivery(ctx, query.DescribeDeliveryParams{ID: delivery, Closed: &done})
		return err
	}
	some, err := q.WorksheetsWith(ctx, delivery)
	if err != nil {
		return err
	}
	for _, s := range some { // mostly one
		w, err := q.LockWorksheet(ctx, s.ID)
		if err != nil {
			return err
		}
		if err := t.touched(ctx, q, tx, w); err != nil {
			return err
		}
	}
	return nil
}

// Source opens the source of a delivery that is collected for a table.
func (t *Tables) Source(_ int64, of json.RawMessage) (source.Source, error) {
	var c collects
	if err := json.Unmarshal(of, &c); err != nil {
		return nil, err
	}
	return &listed.Source{Fetch: t.Fetch, Limits: t.Gatherer.Limits, Open: func(ctx context.Context) (listed.List, error) {
		return t.list(ctx, c.Table)
	}}, nil
}

// list is a table as what names pictures.
type list struct {
	*Tables
	w      query.WorksheetByIDRow
	fields table.Assignment
	files  *table.Files
	book   sheet.File
}

func (t *Tables) list(ctx context.Context, id int64) (*list, error) {
	l := &list{Tables: t}
	var err error
	if l.w, err = t.Store.WorksheetByID(ctx, id); errors.Is(err, pgx.ErrNoRows) {
		return nil, source.ErrGone
	}
	if err != nil {
		return nil, err
	}
	if _, l.fields, err = checked(l.w); err != nil {
		return nil, err
	}
	if l.files, err = t.files(ctx, l.w); err != nil {
		return nil, err
	}
	if l.book, err = sheet.Open(t.file(id)); errors.Is(err, os.ErrNotExist) {
		err = source.ErrGone
	}
	return l, err
}

func (l *list) Name() string                            { return l.w.Name }
func (l *list) Count() int64                            { return int64(l.w.Waiting) }
func (l *list) Part(name string) (io.ReadCloser, error) { return sheet.Part(l.book, name) }
func (l *list) Close() error                            { return l.book.Close() }

// Each tells the pictures that are not here yet. Rows that are left out name none.
func (l *list) Each(ctx context.Context, after int, visit func(listed.Entry) error) error {
	sku := l.fields.Of(table.SKU)
	return l.eachBehind(ctx, l.w.ID, int32(after), func(r Row) error {
		if r.LeftOut || r.Broken {
			return nil
		}
		e := listed.Entry{Row: r.Number, SKU: catalogue.CleanKey(r.At(sku).Text)}
		for _, named := range table.Addresses(r.Row, l.fields) {
			if file, _ := l.files.Come(named.Address); file.Asset != 0 {
				continue
			}
			e.Address, e.Part = named.Address, named.Part
			if err := visit(e); err != nil {
				return err
			}
		}
		return nil
	})
}
