package tables

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"

	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Edit is a new text for a cell; or, with Column Whole, whether a row is left out: Out or In.
type Edit struct {
	Row, Column int
	Text        string
}

const (
	// Whole is the column of an edit that is of a whole row.
	Whole = -1
	// Out and In are what such an edit says.
	Out, In = "out", "in"
)

// mostColumns is how far to the right a cell may be edited.
const mostColumns = 1 << 14

// Edit edits cells as one step that the person can undo; the table is checked again. It returns how many cells changed. Errors:
// ErrNoCell, pgx.ErrNoRows.
func (t *Tables) Edit(ctx context.Context, id, person int64, edits []Edit) (changed int, err error) {
	err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		changed, err = t.edit(ctx, q, tx, id, person, edits)
		return err
	})
	return changed, err
}

// Repair accepts repairs: those of some problems, else all of a kind, else all. It returns how many cells changed. Errors: pgx.ErrNoRows.
func (t *Tables) Repair(ctx context.Context, id, person int64, kind string, problems []int32) (changed int, err error) {
	if problems == nil {
		problems = []int32{}
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		repairs, err := q.WorksheetRepairs(ctx, query.WorksheetRepairsParams{ID: id, Kind: kind, Seqs: problems})
		if err != nil {
			return err
		}
		last := map[[2]int32]int{} // of two repairs of one cell the later one holds the earlier
		var edits []Edit
		for _, r := range repairs {
			e := Edit{int(r.Row), int(r.Col), r.Repair}
			if at, twice := last[[2]int32{r.Row, r.Col}]; twice {
				edits[at] = e
				continue
			}
			last[[2]int32{r.Row, r.Col}] = len(edits)
			edits = append(edits, e)
		}
		changed, err = t.edit(ctx, q, tx, id, person, edits)
		return err
	})
	return changed, err
}

// edit makes edits and keeps them as a step.
func (t *Tables) edit(ctx context.Context, q *query.Queries, tx pgx.Tx, id, person int64, edits []Edit) (int, error) {
	w, err := q.LockWorksheet(ctx, id)
	if err != nil {
		return 0, err
	}
	done, err := apply(ctx, q, id, edits, nil)
	if err != nil || len(done) == 0 {
		return 0, err
	}
	if err := q.ForgetWorksheetUndone(ctx, query.ForgetWorksheetUndoneParams{WorksheetID: id, PersonID: person}); err != nil {
		return 0, err
	}
	step, err := q.AddWorksheetStep(ctx, query.AddWorksheetStepParams{WorksheetID: id, PersonID: person})
	if err != nil {
		return 0, err
	}
	for i := range done {
		done[i].StepID = step
	}
	if _, err := q.AddWorksheetEdits(ctx, done); err != nil {
		return 0, err
	}
	return len(done), t.touched(ctx, q, tx, w)
}

// touched has a table checked again after it changed.
func (t *Tables) touched(ctx context.Context, q *query.Queries, tx pgx.Tx, w query.Worksheet) error {
	if err := q.TouchWorksheet(ctx, w.ID); err != nil {
		return err
	}
	return t.ask(ctx, q, tx, w.ID, w.Name, nobody)
}

// Undo takes back a person's last step, or with again does the last one that was taken back once more. Cells that somebody changed
// since stay. It returns how many cells changed, and how many stay. Errors: ErrNoStep, pgx.ErrNoRows.
func (t *Tables) Undo(ctx context.Context, id, person int64, again bool) (changed, left int, err error) {
	err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		w, err := q.LockWorksheet(ctx, id)
		if err != nil {
			return err
		}
		step, err := q.LastWorksheetStep(ctx, query.LastWorksheetStepParams{ID: id, Person: person, Undone: again})
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrNoStep
		}
		if err != nil {
			return err
		}
		made, err := q.WorksheetEdits(ctx, step)
		if err != nil {
			return err
		}
		var edits []Edit
		stands := map[[2]int]string{}
		for _, e := range made {
			was, is := e.Before, e.After
			if again {
				was, is = is, was
			}
			edits = append(edits, Edit{int(e.Row), int(e.Col), was})
			stands[[2]int{int(e.Row), int(e.Col)}] = is
		}
		done, err := apply(ctx, q, id, edits, stands)
		if err != nil {
			return err
		}
		changed, left = len(done), len(edits)-len(done)
		if err := q.EndWorksheetStep(ctx, query.EndWorksheetStepParams{ID: step, Undone: !again}); err != nil {
			return err
		}
		return t.touched(ctx, q, tx, w)
	})
	return changed, left, err
}

// apply puts new texts into cells and returns what changed. With stands, only cells that hold the text that is said there change.
func apply(ctx context.Context, q *query.Queries, id int64, edits []Edit, stands map[[2]int]string) ([]query.AddWorksheetEditsParams, error) {
	var numbers []int32
	of := map[int32][]Edit{}
	for _, e := range edits {
		if e.Column < Whole || e.Column >= mostColumns {
			return nil, fmt.Errorf("%w: column %d", ErrNoCell, e.Column)
		}
		row := int32(e.Row)
		if of[row] == nil {
			numbers = append(numbers, row)
		}
		of[row] = append(of[row], e)
	}
	rows, err := q.WorksheetRowsAt(ctx, query.WorksheetRowsAtParams{ID: id, Rows: numbers})
	if err != nil {
		return nil, err
	}
	if len(rows) < len(numbers) {
		return nil, ErrNoCell
	}
	var done []query.AddWorksheetEditsParams
	p := query.SetWorksheetRowsParams{ID: id}
	for _, r := range rows {
		made, err := edited(&r, of[r.Row], stands)
		if err != nil {
			return nil, err
		}
		if len(made) == 0 {
			continue
		}
		done = append(done, made...)
		p.Rows, p.Cells, p.Mores = append(p.Rows, r.Row), append(p.Cells, r.Cells), append(p.Mores, r.More)
		p.Brokens, p.Outs = append(p.Brokens, r.Broken), append(p.Outs, r.LeftOut)
	}
	if len(done) == 0 {
		return nil, nil
	}
	if err := q.SetWorksheetRows(ctx, p); err != nil {
		return nil, err
	}
	at := query.ForgetWorksheetProblemsAtParams{ID: id}
	for _, e := range done {
		at.Rows, at.Cols = append(at.Rows, e.Row), append(at.Cols, e.Col)
	}
	if err := q.ForgetWorksheetProblemsAt(ctx, at); err != nil {
		return nil, err
	}
	return done, q.CountWorksheetProblems(ctx, id)
}

// edited edits one row. What a cell held besides its text is gone with the text.
func edited(r *query.WorksheetRowsAtRow, edits []Edit, stands map[[2]int]string) (made []query.AddWorksheetEditsParams, err error) {
	var cells []string
	besides := map[string]more{}
	if err := json.Unmarshal(r.Cells, &cells); err != nil {
		return nil, err
	}
	if len(r.More) > 0 {
		if err := json.Unmarshal(r.More, &besides); err != nil {
			return nil, err
		}
	}
	for _, e := range edits {
		was := In
		switch {
		case e.Column == Whole && r.LeftOut:
			was = Out
		case e.Column >= len(cells):
			was = ""
		case e.Column >= 0:
			was = cells[e.Column]
		}
		if expected, given := stands[[2]int{e.Row, e.Column}]; given && expected != was || was == e.Text && !r.Broken {
			continue
		}
		made = append(made, query.AddWorksheetEditsParams{Row: r.Row, Col: int32(e.Column), Before: was, After: e.Text})
		if e.Column == Whole {
			r.LeftOut = e.Text == Out
			continue
		}
		for len(cells) <= e.Column {
			cells = append(cells, "")
		}
		cells[e.Column] = e.Text
		r.Broken = false
		at := strconv.Itoa(e.Column)
		if lies := besides[at].Picture; lies != "" {
			besides[at] = more{Picture: lies}
		} else {
			delete(besides, at)
		}
	}
	if r.Cells, err = json.Marshal(cells); err != nil {
		return nil, err
	}
	if r.More = nil; len(besides) > 0 {
		r.More, err = json.Marshal(besides)
	}
	return made, err
}
