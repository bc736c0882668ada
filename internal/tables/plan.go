package tables

import (
	"cmp"
	"context"
	"slices"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/table"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"

	"github.com/jackc/pgx/v5"
)

// Source is what a plan of a table was made from.
type Source struct {
	Table string         `json:"table"`
	Sheet int64          `json:"worksheet"`
	Rule  placement.Rule `json:"rule,omitempty"`
}

// mostProblems is how many rows that are left out a plan names; the table names all.
const mostProblems = 1000

// Plan makes the plan of a table: the owners that it makes or changes, then their pictures under a house rule. Rows that are stopped or
// left out do not go in. Errors: ErrNotChecked, core.ErrNoSKU, ledger.ErrNothingToDo, pgx.ErrNoRows.
func (t *Tables) Plan(ctx context.Context, id, person int64, rule placement.Rule) (plan int64, err error) {
	w, err := t.Store.WorksheetByID(ctx, id)
	if err != nil {
		return 0, err
	}
	if !w.Read || w.Checked != w.Version {
		return 0, ErrNotChecked
	}
	p := planner{Tables: t, w: w}
	if err := p.read(ctx); err != nil {
		return 0, err
	}
	edits, problems, err := p.owners(ctx)
	if err != nil {
		return 0, err
	}
	changes, err := core.Changes(edits)
	if err != nil {
		return 0, err
	}
	placed, gone, err := p.pictures(ctx, edits, rule)
	if err != nil {
		return 0, err
	}
	changes = append(changes, placed...)
	draft := ledger.Draft{Kind: "table", Title: w.Name, Person: person, Source: Source{Table: w.Name, Sheet: id, Rule: rule}}
	if gone > 0 {
		draft.Counts = map[string]int{"gone": gone}
	}
	if problems = append(p.stopped, problems...); len(problems) > 0 {
		draft.Problems = problems[:min(len(problems), mostProblems)]
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		now, err := q.LockWorksheet(ctx, id)
		if err != nil {
			return err
		}
		if now.Version != w.Version {
			return ErrNotChecked
		}
		if plan, err = t.Ledger.KeepIn(ctx, q, draft, changes); err != nil {
			return err
		}
		return q.SetWorksheetPlan(ctx, query.SetWorksheetPlanParams{ID: id, Plan: &plan})
	})
	return plan, err
}

// planner makes one table's plan.
type planner struct {
	*Tables
	w       query.WorksheetByIDRow
	fields  table.Assignment
	key     table.Field
	rows    []core.Row
	shown   []pictureRow
	stopped []core.Problem
}

// pictureRow is what a row says of pictures.
type pictureRow struct {
	sku      string // identity
	names    []string
	position *int
	main     bool
	alt      string
}

// read reads the rows that go in.
func (p *planner) read(ctx context.Context) error {
	header, fields, err := checked(p.w)
	if err != nil {
		return err
	}
	if p.fields, p.key = fields, table.Field(p.w.Key); fields.Of(p.key) < 0 {
		return core.ErrNoSKU
	}
	stops, err := p.Store.WorksheetStops(ctx, p.w.ID)
	if err != nil {
		return err
	}
	stopped := make(map[int]bool, len(stops))
	for _, s := range stops {
		if stopped[int(s.Row)] {
			continue
		}
		stopped[int(s.Row)] = true
		m, err := readMessage(s.Why)
		if err != nil {
			return err
		}
		p.stopped = append(p.stopped, core.Problem{Line: int(s.Row), Column: header.At(int(s.Col)).Text, Message: m})
	}
	r := table.NewReader(header, table.Options{Fields: fields, Key: p.key, Mode: table.Mode(p.w.Mode)}, p.w.Clears)
	if err := p.each(ctx, p.w.ID, func(row Row) error {
		if row.LeftOut || stopped[row.Number] {
			return nil
		}
		r.Row(row.Row)
		return nil
	}); err != nil {
		return err
	}
	placed := r.Placed()
	p.rows, _ = r.End()
	if p.key != table.SKU {
		if p.rows, placed, err = p.bySKU(ctx, p.rows, placed); err != nil {
			return err
		}
	}
	for _, one := range placed {
		p.shown = append(p.shown, pictureRow{core.Identity(one.SKU), one.Names, one.Position, one.Main, one.Alt})
	}
	return nil
}

// bySKU gives rows that are known by another key the SKU of the owner that has it; those without one do not go in.
func (p *planner) bySKU(ctx context.Context, rows []core.Row, placed []table.Placed) ([]core.Row, []table.Placed, error) {
	want := wanted{}
	keyOf := func(r core.Row) string {
		switch p.key {
		case table.Barcode:
			return r.Barcode
		case table.Code:
			return r.Code
		case table.Title:
			return r.Title
		}
		return r.Attributes[p.key.Own()]
	}
	for _, r := range rows {
		want.want(p.key, keyOf(r), "", "")
	}
	owners, err := know(ctx, p.Store, want)
	if err != nil {
		return nil, nil, err
	}
	skus := map[int]string{}
	kept := rows[:0]
	for _, r := range rows {
		if found := owners.Find(p.key, table.Identity(p.key, keyOf(r))); len(found) == 1 && found[0].SKU != "" {
			r.SKU = found[0].SKU
			skus[r.Line] = r.SKU
			kept = append(kept, r)
		}
	}
	some := placed[:0]
	for _, one := range placed {
		if one.SKU = skus[one.Line]; one.SKU != "" {
			some = append(some, one)
		}
	}
	return kept, some, nil
}

// owners are the changes of the owners themselves.
func (p *planner) owners(ctx context.Context) ([]core.Edit, []core.Problem, error) {
	// Of one picture a row an owner has several rows, of which the first says what the owner is.
	seen := map[string]bool{}
	rows := slices.DeleteFunc(slices.Clone(p.rows), func(r core.Row) bool {
		id := core.Identity(r.SKU)
		again := r.Kind != core.Category && seen[id] && p.fields.Of(table.Picture) >= 0
		seen[id] = true
		return again
	})
	edits, problems, err := catalogue.Edits(ctx, p.Store, rows)
	if err != nil {
		return nil, nil, err
	}
	mode := table.Mode(p.w.Mode)
	edits = slices.DeleteFunc(edits, func(e core.Edit) bool {
		return mode == table.Update && e.Before == nil && e.After.Kind != core.Category || mode == table.Create && e.Before != nil
	})
	return edits, problems, catalogue.Number(ctx, p.Store, edits)
}

// pictures are the changes of the owners' pictures.
func (p *planner) pictures(ctx context.Context, edits []core.Edit, rule placement.Rule) ([]change.Change, int, error) {
	if len(p.shown) == 0 {
		return nil, 0, nil
	}
	files, assets, err := p.names(ctx, p.w.DeliveryID)
	if err != nil {
		return nil, 0, err
	}
	ids := map[string]int64{}
	want := wanted{}
	for _, s := range p.shown {
		want.add(table.SKU, s.sku)
	}
	for _, e := range edits {
		if e.After != nil && e.After.SKU != "" {
			ids[core.Identity(e.After.SKU)] = e.ID
		}
	}
	if err := p.standing(ctx, want, ids); err != nil {
		return nil, 0, err
	}
	wishes := map[int64][]placement.Wish{}
	slices.SortStableFunc(p.shown, func(a, b pictureRow) int { return cmp.Or(first(b.main)-first(a.main), placeOf(a)-placeOf(b)) })
	for _, s := range p.shown {
		owner, there := ids[s.sku]
		if !there {
			continue
		}
		for _, name := range s.names {
			found := files.Find(name)
			if found.Near || len(found.Paths) != 1 {
				continue
			}
			wishes[owner] = append(wishes[owner], placement.Wish{Picture: placement.Picture{Asset: assets[found.Paths[0]], Alt: s.alt}, Number: s.position})
		}
	}
	var owners []int64
	for o := range wishes {
		owners = append(owners, o)
	}
	slices.Sort(owners)
	standing, err := pictures.Placed(ctx, p.Store.Queries, owners)
	if err != nil {
		return nil, 0, err
	}
	gone := 0
	for _, o := range owners {
		gone += len(placement.Gone(standing[o], placement.Apply(standing[o], wishes[o], rule)))
	}
	return placement.Plan(owners, standing, wishes, rule), gone, nil
}

// standing adds the numbers of owners that stand.
func (p *planner) standing(ctx context.Context, want wanted, ids map[string]int64) error {
	keys := make([]string, 0, len(want[table.SKU]))
	for k := range want[table.SKU] {
		keys = append(keys, k)
	}
	for some := range slices.Chunk(keys, asked) {
		rows, err := p.Store.KnownOwners(ctx, query.KnownOwnersParams{Field: string(table.SKU), Keys: some})
		if err != nil {
			return err
		}
		for _, r := range rows {
			ids[core.Identity(r.Sku)] = r.ID
		}
	}
	return nil
}

func first(main bool) int {
	if main {
		return 1
	}
	return 0
}

func placeOf(r pictureRow) int {
	if r.position == nil {
		return 1 << 30
	}
	return *r.position
}
