// Package tables holds the tables in hand: sheets of files that were sent, read into rows, checked against the catalogue and the
// pictures, repaired cell by cell, and planned.
package tables

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tablefiles"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrLarge is returned for a file larger than a table may be.
	ErrLarge = fmt.Errorf("a table may have at most %s", message.Bytes(largest))
	// ErrField is returned for a field, key, mode or column that there is not.
	ErrField = errors.New("there is no such field, key or mode, or two columns are one field")
	// ErrNotChecked is returned where a table is still being read or checked.
	ErrNotChecked = errors.New("the table is still being checked; wait until it is, then plan")
	// ErrNoStep is returned where a person has nothing to undo or redo.
	ErrNoStep = errors.New("nothing is left here to undo or redo")
	// ErrNoCell is returned for an edit of a row that there is not.
	ErrNoCell = errors.New("the table has no such row or column")
)

const (
	largest = 1 << 30
	// Work is the kind of work that reading and checking a table is.
	Work = "worksheet"
)

// Tables are the tables in hand. Folder holds their files; instances that share a database share it.
type Tables struct {
	Store  *store.Store
	Ledger *ledger.Ledger
	Jobs   *jobs.Jobs
	Folder string
	// Gatherer takes in what a table collects, by Fetch where it is at addresses.
	Gatherer *gather.Gatherer
	Fetch    *fetch.Fetcher
	Ready    func(ctx context.Context, table int64) error // is told of a table that was checked; nil for nobody
}

// Register registers the work on tables.
func (t *Tables) Register() {
	t.Jobs.Register(jobs.Kind{Name: Work, Unit: "rows", Workers: 2, Work: t.work, Trouble: trouble, Topic: "table"})
}

func (t *Tables) file(id int64) string { return filepath.Join(t.Folder, fmt.Sprintf("sheet-%d", id)) }

// Bring keeps a file and asks for it to be read; it returns the table's number. Errors: ErrLarge, those of sheet.Open, and
// tablefiles.ErrEmpty.
func (t *Tables) Bring(ctx context.Context, name string, from io.Reader, person int64) (id int64, err error) {
	return t.bring(ctx, name, from, person, nil)
}

// lay is where a table lay: an item of a delivery.
type lay struct {
	delivery int64
	item     string
	sent     bool // for itself: it lies beside no pictures
}

func (t *Tables) bring(ctx context.Context, name string, from io.Reader, person int64, found *lay) (id int64, err error) {
	f, err := os.CreateTemp(t.Folder, "sheet-*.part")
	if err != nil {
		return 0, err
	}
	defer os.Remove(f.Name()) // it has another name by then where it is kept
	defer f.Close()
	n, err := io.Copy(f, io.LimitReader(from, largest+1))
	if err != nil {
		return 0, err
	}
	if n > largest {
		return 0, ErrLarge
	}
	sheets, at, known, err := look(f.Name())
	if err == nil && found != nil && !found.sent && known == 0 {
		err = tablefiles.ErrEmpty // beside pictures lies much that is no list of them
	}
	if err != nil {
		return 0, err
	}
	kept, err := json.Marshal(sheets)
	if err != nil {
		return 0, err
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		p := query.AddWorksheetParams{Name: name, Format: strings.ToLower(strings.TrimPrefix(filepath.Ext(name), ".")), Sheets: kept, Sheet: int32(at), CreatedBy: person}
		if found != nil {
			p.FoundIn, p.FoundItem = &found.delivery, &found.item
		}
		if id, err = q.AddWorksheet(ctx, p); err != nil {
			return err
		}
		if found != nil && !found.sent {
			if err := q.AttachDelivery(ctx, query.AttachDeliveryParams{WorksheetID: id, DeliveryID: found.delivery}); err != nil {
				return err
			}
		}
		if err := os.Rename(f.Name(), t.file(id)); err != nil {
			return err
		}
		return t.ask(ctx, q, tx, id, name, person)
	})
	return id, err
}

// Sheet is a sheet of a file, as it is kept.
type Sheet struct {
	Name   string `json:"name"`
	Hidden bool   `json:"hidden"`
}

// look tells a file's sheets, which is read first, one that is not hidden and holds something, and how many of its columns have a name
// that says which field they are.
func look(path string) (sheets []Sheet, at, known int, err error) {
	f, err := sheet.Open(path)
	if err != nil {
		return nil, 0, 0, err
	}
	defer f.Close()
	for _, s := range f.Sheets() {
		sheets = append(sheets, Sheet(s))
	}
	if at, err = sheet.Pick(f, ""); err != nil {
		return nil, 0, 0, err
	}
	rows, err := f.Rows(at)
	if err != nil {
		return nil, 0, 0, err
	}
	defer rows.Close()
	b, err := tablefiles.Begin(rows)
	if err != nil {
		return nil, 0, 0, err
	}
	return sheets, at, len(b.Fields), nil
}

// nobody is told of a check that an edit brought about: who edits looks at the table.
const nobody = 0

func (t *Tables) ask(ctx context.Context, q *query.Queries, tx pgx.Tx, id int64, name string, person int64) error {
	return t.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Work, Subject: id, Title: name, Person: person})
}

// Described is what is changed of a table; nil stays. Delivery 0 stands for all pictures.
type Described struct {
	Fields   map[int]string
	Key      *string
	Mode     *string
	Clears   *bool
	Delivery *int64
	Sheet    *int
	Closed   *bool
	Types    map[int]table.Type
	Choice   *string // which picture is meant of several of one name: a table.Choice
}

// Describe changes what is said of a table; it is checked again. Errors: ErrField, pgx.ErrNoRows.
func (t *Tables) Describe(ctx context.Context, id int64, d Described) error {
	p := query.DescribeWorksheetParams{ID: id, Key: d.Key, Mode: d.Mode, Clears: d.Clears, Closed: d.Closed, Choice: d.Choice}
	if d.Key != nil {
		if f, ok := table.ReadField(*d.Key); !ok || !f.IsKey() {
			return fmt.Errorf("%w: %s", ErrField, *d.Key)
		}
	}
	if d.Mode != nil && !slices.Contains([]table.Mode{table.Create, table.Update, table.Both}, table.Mode(*d.Mode)) {
		return fmt.Errorf("%w: %s", ErrField, *d.Mode)
	}
	if d.Choice != nil && !slices.Contains([]table.Choice{table.TakeThis, table.TakeHere, table.TakeInPlace}, table.Choice(*d.Choice)) {
		return fmt.Errorf("%w: %s", ErrField, *d.Choice)
	}
	if d.Delivery != nil {
		p.SetsDelivery, p.Delivery = true, *d.Delivery
	}
	if d.Fields != nil {
		taken := map[table.Field]bool{}
		for _, name := range d.Fields {
			f, ok := table.ReadField(name)
			if !ok || taken[f] {
				return fmt.Errorf("%w: %s", ErrField, name)
			}
			taken[f] = true
		}
		fields, err := json.Marshal(d.Fields)
		if err != nil {
			return err
		}
		p.Fields = fields
	}
	if d.Types != nil {
		for _, of := range d.Types {
			if !slices.Contains(table.Types, of) {
				return fmt.Errorf("%w: %s", ErrField, of)
			}
		}
		types, err := json.Marshal(d.Types)
		if err != nil {
			return err
		}
		p.Types = types
	}
	return t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		w, err := q.LockWorksheet(ctx, id)
		if err != nil {
			return err
		}
		if d.Sheet != nil {
			var sheets []Sheet
			if err := json.Unmarshal(w.Sheets, &sheets); err != nil {
				return err
			}
			if *d.Sheet < 0 || *d.Sheet >= len(sheets) {
				return fmt.Errorf("%w: sheet %d", ErrField, *d.Sheet)
			}
			at := int32(*d.Sheet)
			p.Sheet = &at
		}
		// Being done with a table changes nothing of what is wrong with it.
		p.Again = d.Fields != nil || d.Types != nil || d.Key != nil || d.Mode != nil || d.Clears != nil || d.Delivery != nil || d.Sheet != nil || d.Choice != nil
		if err := q.DescribeWorksheet(ctx, p); err != nil || !p.Again {
			return err
		}
		return t.ask(ctx, q, tx, id, w.Name, nobody)
	})
}

// Remove removes a table in hand and its file; what was imported stays. Errors: pgx.ErrNoRows.
func (t *Tables) Remove(ctx context.Context, id int64) error {
	n, err := t.Store.RemoveWorksheet(ctx, id)
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	if err != nil {
		return err
	}
	if err := os.Remove(t.file(id)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// trouble says what an error of reading a table means: trying again does not help.
func trouble(err error) jobs.Trouble {
	if code := tablefiles.Code(err); code != "" {
		return jobs.Trouble{Says: []message.Message{{Code: code}}, Final: true}
	}
	return jobs.Trouble{}
}
