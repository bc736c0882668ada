package tables

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrName is returned for saving an assignment without a name.
	ErrName = errors.New("an assignment needs a name")
	// ErrHeader is returned for using an assignment on a table with another header.
	ErrHeader = errors.New("the assignment is of a table with another header")
)

// mostAssignments is how many assignments are offered for one header.
const mostAssignments = 50

// headerText is a header as one text, by which tables with the same one are known: capitals and blanks do not count.
func headerText(kept json.RawMessage) (string, error) {
	var texts []string
	if err := json.Unmarshal(kept, &texts); err != nil {
		return "", err
	}
	for i, s := range texts {
		texts[i] = catalogue.Identity(s)
	}
	b, err := json.Marshal(texts)
	return string(b), err
}

// SaveAssignment saves how a table is read, under a name; one of that name is replaced. Errors: ErrName, pgx.ErrNoRows.
func (t *Tables) SaveAssignment(ctx context.Context, id, person int64, name string) (int64, error) {
	if name = strings.TrimSpace(catalogue.CleanText(name)); name == "" {
		return 0, ErrName
	}
	w, err := t.Store.WorksheetByID(ctx, id)
	if err != nil {
		return 0, err
	}
	header, err := headerText(w.Header)
	if err != nil {
		return 0, err
	}
	return t.Store.SaveAssignment(ctx, query.SaveAssignmentParams{ID: id, Name: name, Header: header, Person: person})
}

// Assignments are those that were saved for tables with the same header, the newest first.
func (t *Tables) Assignments(ctx context.Context, id int64) ([]query.AssignmentsForRow, error) {
	w, err := t.Store.WorksheetByID(ctx, id)
	if err != nil {
		return nil, err
	}
	header, err := headerText(w.Header)
	if err != nil {
		return nil, err
	}
	return t.Store.AssignmentsFor(ctx, query.AssignmentsForParams{Header: header, Most: mostAssignments})
}

// UseAssignment reads a table as an assignment says; it is checked again. Errors: ErrHeader, pgx.ErrNoRows.
func (t *Tables) UseAssignment(ctx context.Context, id, assignment int64) error {
	return t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		w, err := q.LockWorksheet(ctx, id)
		if err != nil {
			return err
		}
		a, err := q.AssignmentByID(ctx, assignment)
		if err != nil {
			return err
		}
		header, err := headerText(w.Header)
		if err != nil {
			return err
		}
		if header != a.Header {
			return ErrHeader
		}
		if err := q.DescribeWorksheet(ctx, query.DescribeWorksheetParams{ID: id, Fields: a.Fields, Types: a.Types, Key: &a.Key, Mode: &a.Mode, Clears: &a.Clears, Again: true}); err != nil {
			return err
		}
		return t.ask(ctx, q, tx, id, w.Name, nobody)
	})
}

// RemoveAssignment removes one. Errors: pgx.ErrNoRows.
func (t *Tables) RemoveAssignment(ctx context.Context, assignment int64) error {
	n, err := t.Store.RemoveAssignment(ctx, assignment)
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}
