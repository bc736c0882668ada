package tables

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/table"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tablefiles"
)

// CheckFile reads a file's beginning and returns the error with which planning it would end. Errors: those of tablefiles.Begin,
// core.ErrNoSKU.
func CheckFile(path string) error {
	return sheet.With(path, "", func(rows sheet.Rows) error {
		b, err := tablefiles.Begin(rows)
		if err != nil {
			return err
		}
		return b.Knows()
	})
}

// LookFile says what importing a file would change, and which of its rows can't be. Nothing is kept. Cost: by the table, not the
// catalogue; what its rows say stands in memory. Errors: those of CheckFile and of reading.
func (t *Tables) LookFile(ctx context.Context, path string, rule placement.Rule) ([]change.Change, []core.Problem, error) {
	p := planner{Tables: t}
	edits, problems, err := p.readFile(ctx, path)
	if err != nil {
		return nil, nil, err
	}
	changes, _, err := p.changes(ctx, edits, rule)
	return changes, problems, err
}

// PlanFile keeps the plan of importing a file, which is no table in hand, and returns its number. Rows that can't be are the plan's
// problems. Errors: those of LookFile, and ledger.ErrNothingToDo.
func (t *Tables) PlanFile(ctx context.Context, name, path string, person int64, rule placement.Rule) (plan int64, err error) {
	p := planner{Tables: t, w: query.WorksheetByIDRow{Name: name}}
	edits, problems, err := p.readFile(ctx, path)
	if err != nil {
		return 0, err
	}
	changes, gone, err := p.changes(ctx, edits, rule)
	if err != nil {
		return 0, err
	}
	draft := p.draft(person, rule, gone)
	if len(problems) > 0 {
		draft.Problems = problems
	}
	return t.Ledger.Keep(ctx, draft, changes)
}

// PlanText is PlanFile for a table that is given as a text.
func (t *Tables) PlanText(ctx context.Context, name, text string, person int64) (int64, error) {
	f, err := os.CreateTemp("", "ambrosa-table-*")
	if err != nil {
		return 0, err
	}
	defer os.Remove(f.Name())
	_, err = f.WriteString(text)
	if err := errors.Join(err, f.Close()); err != nil {
		return 0, err
	}
	return t.PlanFile(ctx, name, f.Name(), person, placement.OnlyWhereEmpty)
}

// Problems are those of a kept plan, and how many changes it has.
func (t *Tables) Problems(ctx context.Context, plan int64) (problems []core.Problem, changes int32, err error) {
	p, err := t.Store.PlanByID(ctx, plan)
	if err != nil {
		return nil, 0, err
	}
	if err := json.Unmarshal(p.Problems, &problems); err != nil {
		return nil, 0, fmt.Errorf("problems of plan %d: %w", plan, err)
	}
	return problems, p.Changes, nil
}

// readFile reads what a file says, and what of it the catalogue takes.
func (p *planner) readFile(ctx context.Context, path string) (edits []core.Edit, problems []core.Problem, err error) {
	p.key, p.w.Mode = table.SKU, string(table.Both)
	err = sheet.With(path, "", func(rows sheet.Rows) error {
		b, err := tablefiles.Begin(rows)
		if err != nil {
			return err
		}
		if err := b.Knows(); err != nil {
			return err
		}
		p.fields = b.Proposal()
		o := table.Options{Fields: p.fields}
		if p.fields.SaysPictures() {
			if p.found, err = p.files(ctx, p.w); err != nil {
				return err
			}
			o.Files = p.found
		}
		r := table.NewReader(b.Header, o, false)
		for {
			row, err := b.Next()
			if err == io.EOF {
				p.shows(r.Placed())
				p.rows, problems = r.End()
				return nil
			}
			if err != nil {
				return err
			}
			r.Row(row)
		}
	})
	if err != nil {
		return nil, nil, err
	}
	edits, more, err := p.owners(ctx)
	return edits, append(problems, more...), err
}
