package tables

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"

	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/jobs"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tablefiles"

	"github.com/jackc/pgx/v5"
)

// work reads a table, where that is not done, and checks it until it is checked as it stands.
func (t *Tables) work(ctx context.Context, id int64) error {
	for {
		w, err := t.Store.WorksheetByID(ctx, id)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil // it was removed meanwhile
		}
		if err != nil {
			return err
		}
		if !w.Read {
			if err := t.read(ctx, id, int(w.Sheet)); err != nil {
				return err
			}
			continue
		}
		found, err := t.check(ctx, w)
		if err != nil {
			return err
		}
		done, err := t.keep(ctx, w, found)
		if done && t.Ready != nil {
			return t.Ready(ctx, id)
		}
		if done || err != nil {
			return err
		}
	}
}

// read reads a sheet's rows in place of those that are there, and proposes which column is which field.
func (t *Tables) read(ctx context.Context, id int64, at int) error {
	f, err := sheet.Open(t.file(id))
	if errors.Is(err, os.ErrNotExist) {
		return sheet.ErrDamaged
	}
	if err != nil {
		return err
	}
	defer f.Close()
	rows, err := f.Rows(at)
	if err != nil {
		return err
	}
	defer rows.Close()
	b, err := tablefiles.Begin(rows)
	if err != nil {
		return err
	}
	header, err := json.Marshal(b.Header.Texts())
	if err != nil {
		return err
	}
	fields, err := json.Marshal(b.Proposal())
	if err != nil {
		return err
	}
	types, err := json.Marshal(b.Types())
	if err != nil {
		return err
	}
	return t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		w, err := q.LockWorksheet(ctx, id)
		if err != nil || w.Read || int(w.Sheet) != at {
			return err // another one read it, or another sheet is wanted by now
		}
		if err := q.ForgetWorksheetRows(ctx, id); err != nil {
			return err
		}
		n, err := copyRows(ctx, q, id, b)
		if err != nil {
			return err
		}
		told := tablefiles.Troubles(tablefiles.Notes(f, rows), b.Header)
		if n == 0 {
			told = append(told, message.New("sheet_no_rows"))
		}
		remarks := []byte("[]")
		if len(told) > 0 {
			if remarks, err = json.Marshal(told); err != nil {
				return err
			}
		}
		return q.SetWorksheetRead(ctx, query.SetWorksheetReadParams{Remarks: remarks, ID: id, HeaderRow: int32(b.Header.Number), Header: header, Fields: fields, Types: types, Rows: int32(n)})
	})
}

// copyRows keeps the rows behind a header, in pieces, without those that hold nothing.
func copyRows(ctx context.Context, q *query.Queries, id int64, b *tablefiles.Begun) (n int, err error) {
	var some []query.AddWorksheetRowsParams
	for {
		row, err := b.Next()
		if err != nil && err != io.EOF {
			return n, err
		}
		if err == nil && (!row.Empty() || row.Broken) {
			p, err := kept(id, row)
			if err != nil {
				return n, err
			}
			some = append(some, p)
		}
		if len(some) == piece || err == io.EOF && len(some) > 0 {
			if _, err := q.AddWorksheetRows(ctx, some); err != nil {
				return n, err
			}
			n += len(some)
			some = some[:0]
		}
		if err == io.EOF {
			return n, nil
		}
	}
}

// checked is a table's header and fields as they are kept.
func checked(w query.WorksheetByIDRow) (header table.Row, fields table.Assignment, err error) {
	var texts []string
	header.Number = int(w.HeaderRow)
	if err := json.Unmarshal(w.Header, &texts); err != nil {
		return header, nil, err
	}
	for _, s := range texts {
		header.Cells = append(header.Cells, table.Cell{Text: s})
	}
	err = json.Unmarshal(w.Fields, &fields)
	return header, fields, err
}

// mostAlikeProblems is how many problems of one kind are kept that stop no row: a list of a million new products has as many that the
// catalogue does not know.
const mostAlikeProblems = 100_000

// found is what a check found.
type found struct {
	problems []table.Problem
	counts   map[string]int // by kind, those that are not kept among them
	waiting  int            // pictures at addresses and in cells that are not here yet
}

// check finds what is wrong with a table as it stands.
func (t *Tables) check(ctx context.Context, w query.WorksheetByIDRow) (*found, error) {
	header, fields, err := checked(w)
	if err != nil {
		return nil, err
	}
	key := table.Field(w.Key)
	want := wanted{}
	at, parent := fields.Of(key), fields.Of(table.Parent)
	if err := t.each(ctx, w.ID, func(r Row) error {
		want.want(key, r.At(at).Text, r.At(at).Stored, r.At(parent).Text)
		return nil
	}); err != nil {
		return nil, err
	}
	owners, err := know(ctx, t.Store, want)
	if err != nil {
		return nil, err
	}
	files, err := t.files(ctx, w)
	if err != nil {
		return nil, err
	}
	var types map[int]table.Type
	if err := json.Unmarshal(w.Types, &types); err != nil {
		return nil, err
	}
	c := table.NewChecker(header, table.Options{Fields: fields, Types: types, Most: mostAlikeProblems, Key: key, Mode: table.Mode(w.Mode), Catalogue: owners, Files: files})
	if err := t.each(ctx, w.ID, func(r Row) error {
		if !r.LeftOut {
			c.Row(r.Row)
		}
		return nil
	}); err != nil {
		return nil, err
	}
	return &found{c.End(), c.Counts(), c.Waiting()}, nil
}

// keep keeps what is wrong with a table and ends the work; done is false where the table was edited meanwhile.
func (t *Tables) keep(ctx context.Context, w query.WorksheetByIDRow, f *found) (done bool, err error) {
	rows := make([]query.AddWorksheetProblemsParams, len(f.problems))
	stopped := map[int]bool{}
	for i, p := range f.problems {
		why, err := json.Marshal(p.Why)
		if err != nil {
			return false, err
		}
		rows[i] = query.AddWorksheetProblemsParams{WorksheetID: w.ID, Seq: int32(i + 1), Row: int32(p.Row), Col: int32(p.Column), Kind: p.Kind,
			Stops: p.Stops, Value: p.Value, Repair: p.Repair, Why: why}
		if p.Stops {
			stopped[p.Row] = true
		}
	}
	counts, err := json.Marshal(f.counts)
	if err != nil {
		return false, err
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		now, err := q.LockWorksheet(ctx, w.ID)
		if err != nil {
			return err
		}
		if now.Version != w.Version {
			return nil
		}
		if err := q.ForgetWorksheetProblems(ctx, w.ID); err != nil {
			return err
		}
		if _, err := q.AddWorksheetProblems(ctx, rows); err != nil {
			return err
		}
		if err := q.SetWorksheetChecked(ctx, query.SetWorksheetCheckedParams{ID: w.ID, Version: w.Version, Stopped: int32(len(stopped)), Kinds: counts, Waiting: int32(f.waiting)}); err != nil {
			return err
		}
		done = true
		err = t.Jobs.Finish(ctx, q, tx, Work, w.ID)
		if errors.Is(err, jobs.ErrState) {
			err = nil // asked for twice, it was done by the other one
		}
		return err
	})
	return done && err == nil, err
}
