package tables

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/core/placement"
	"ambrosa/core/table"
	"ambrosa/core/wording"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
	texts "ambrosa/internal/subject/wording"

	"github.com/jackc/pgx/v5"
)

// Source is what a plan of a table was made from.
type Source struct {
	Table string         `json:"table"`
	Sheet int64          `json:"worksheet,omitempty"`
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
	changes, gone, err := p.changes(ctx, edits, rule)
	if err != nil {
		return 0, err
	}
	draft := p.draft(person, rule, gone)
	rows, err := p.becomes(ctx, edits, problems)
	if err != nil {
		return 0, err
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
		for i := range rows {
			rows[i].PlanID = plan
		}
		if _, err := q.AddPlanRows(ctx, rows); err != nil {
			return err
		}
		return q.SetWorksheetPlan(ctx, query.SetWorksheetPlanParams{ID: id, Plan: &plan})
	})
	return plan, err
}

// draft is the plan beside its changes.
func (p *planner) draft(person int64, rule placement.Rule, gone int) ledger.Draft {
	d := ledger.Draft{Kind: "table", Title: p.w.Name, Person: person, Source: Source{Table: p.w.Name, Sheet: p.w.ID, Rule: rule}}
	if gone > 0 {
		d.Counts = map[string]int{"gone": gone}
	}
	return d
}

// changes are those of the owners, then of their pictures, of which some are gone.
func (p *planner) changes(ctx context.Context, edits []core.Edit, rule placement.Rule) (changes []change.Change, gone int, err error) {
	if changes, err = core.Changes(edits); err != nil {
		return nil, 0, err
	}
	placed, gone, err := p.pictures(ctx, edits, rule)
	return append(changes, placed...), gone, err
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
	seen    []seenRow
	found   *table.Files // the pictures that it may name; nil until they are looked for
}

// pictureRow is what a row says of pictures.
type pictureRow struct {
	row      int
	sku      string // identity; of a category its pathKey
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
	at := fields.Of(p.key)
	if err := p.each(ctx, p.w.ID, func(row Row) error {
		p.seen = append(p.seen, seenRow{row.Number, core.CleanText(row.At(at).Text), row.LeftOut})
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
	p.shows(placed)
	return nil
}

// shows notes what rows say of pictures.
func (p *planner) shows(placed []table.Placed) {
	for _, one := range placed {
		p.shown = append(p.shown, pictureRow{one.Line, cmp.Or(core.Identity(one.SKU), pathKey(one.Category)), one.Names, one.Position, one.Main, one.Alt})
	}
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
	paths, err := p.paths(ctx, rows)
	if err != nil {
		return nil, nil, err
	}
	skus, categories := map[int]string{}, map[int][]string{}
	kept := rows[:0]
	for _, r := range rows {
		found := owners.Find(p.key, table.Identity(p.key, keyOf(r)))
		switch {
		case len(found) == 1 && found[0].Kind == core.Category:
			if r.Category = paths[found[0].ID]; len(r.Category) == 0 {
				continue
			}
			r.Kind, r.SKU, categories[r.Line] = core.Category, "", r.Category
		case len(found) == 1 && found[0].SKU != "":
			r.SKU = found[0].SKU
			skus[r.Line] = r.SKU
		default:
			continue
		}
		kept = append(kept, r)
	}
	some := placed[:0]
	for _, one := range placed {
		one.SKU, one.Category = skus[one.Line], categories[one.Line]
		if one.SKU != "" || len(one.Category) > 0 {
			some = append(some, one)
		}
	}
	return kept, some, nil
}

// paths are the titles down to each category, where a row may be of one.
func (p *planner) paths(ctx context.Context, rows []core.Row) (map[int64][]string, error) {
	if len(rows) == 0 || p.key != table.Title && p.key != table.Code {
		return nil, nil
	}
	all, err := p.Store.AllCategories(ctx)
	if err != nil {
		return nil, err
	}
	of, err := store.CatalogueOwners(all)
	return pathsOf(of), err
}

// pathsOf are the titles down to each of some categories.
func pathsOf(categories map[int64]core.Owner) map[int64][]string {
	paths := make(map[int64][]string, len(categories))
	for id := range categories {
		var path []string
		for at := id; at != 0 && len(path) < core.MaxLevels; at = categories[at].Parent {
			path = append(path, categories[at].Title)
		}
		slices.Reverse(path)
		paths[id] = path
	}
	return paths
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
	mode := table.Mode(p.w.Mode)
	var missing []core.Problem
	if mode == table.Update {
		var err error
		if rows, missing, err = p.onlyThere(ctx, rows); err != nil {
			return nil, nil, err
		}
	}
	edits, problems, err := catalogue.Edits(ctx, p.Store, rows)
	if err != nil {
		return nil, nil, err
	}
	problems = append(missing, problems...)
	edits = slices.DeleteFunc(edits, func(e core.Edit) bool {
		return mode == table.Update && e.Before == nil && e.After.Kind != core.Category || mode == table.Create && e.Before != nil
	})
	return edits, problems, catalogue.Number(ctx, p.Store, edits)
}

// onlyThere leaves out the rows of categories that are not there: a table that only updates makes none.
func (p *planner) onlyThere(ctx context.Context, rows []core.Row) (kept []core.Row, missing []core.Problem, err error) {
	if !slices.ContainsFunc(rows, func(r core.Row) bool { return r.Kind == core.Category }) {
		return rows, nil, nil
	}
	there := map[string]int64{}
	if err := p.categories(ctx, nil, there); err != nil {
		return nil, nil, err
	}
	for _, r := range rows {
		if r.Kind == core.Category && there[pathKey(r.Category)] == 0 {
			missing = append(missing, core.Problem{Line: r.Line, Column: "title", Message: message.New("category_unknown", "path", core.JoinPath(r.Category))})
			continue
		}
		kept = append(kept, r)
	}
	return kept, missing, nil
}

// pictures are the changes of the owners' pictures.
func (p *planner) pictures(ctx context.Context, edits []core.Edit, rule placement.Rule) ([]change.Change, int, error) {
	if len(p.shown) == 0 {
		return nil, 0, nil
	}
	if p.found == nil {
		var err error
		if p.found, err = p.files(ctx, p.w); err != nil {
			return nil, 0, err
		}
	}
	ids := map[string]int64{}
	want := wanted{}
	categories := false
	for _, s := range p.shown {
		if strings.HasPrefix(s.sku, pathMark) {
			categories = true
		} else {
			want.add(table.SKU, s.sku)
		}
	}
	for _, e := range edits {
		if e.After != nil && e.After.SKU != "" {
			ids[core.Identity(e.After.SKU)] = e.ID
		}
	}
	if categories {
		if err := p.categories(ctx, edits, ids); err != nil {
			return nil, 0, err
		}
	}
	if err := p.standing(ctx, want, ids); err != nil {
		return nil, 0, err
	}
	wishes, instead := map[int64][]placement.Wish{}, map[int64]int64{}
	slices.SortStableFunc(p.shown, func(a, b pictureRow) int { return cmp.Or(first(b.main)-first(a.main), placeOf(a)-placeOf(b)) })
	for _, s := range p.shown {
		owner, there := ids[s.sku]
		if !there {
			continue
		}
		for _, name := range s.names {
			asset := named(p.found, s.row, name, instead)
			if asset != 0 {
				wish := placement.Wish{Picture: placement.Picture{Asset: asset}, Number: s.position}
				if s.alt != "" {
					wish.Texts.Set(wording.Alt, core.Language, wording.Text{Text: s.alt, Hand: true})
				}
				wishes[owner] = append(wishes[owner], wish)
			}
		}
	}
	owners, err := p.Store.OwnersShowing(ctx, slices.Collect(maps.Keys(instead)))
	if err != nil {
		return nil, 0, err
	}
	for o := range wishes {
		owners = append(owners, o)
	}
	slices.Sort(owners)
	owners = slices.Compact(owners)
	standing, err := pictures.Placed(ctx, p.Store.Queries, owners)
	if err != nil {
		return nil, 0, err
	}
	said, err := p.said(ctx, wishes)
	if err != nil {
		return nil, 0, err
	}
	gone := 0
	var changes, reworded []change.Change
	for _, o := range owners {
		before := standing[o]
		after := placement.Apply(placement.Replace(before, instead), wishes[o], rule)
		if !placement.Same(before, after) {
			gone += len(placement.Gone(before, after))
			changes = append(changes, placement.Change(o, before, after))
		}
		if c, n := rewords(o, before, wishes[o], said[o]); n > 0 {
			reworded = append(reworded, c)
		}
	}
	return append(changes, reworded...), gone, nil
}

// said are the texts of owners for whose pictures rows say some.
func (p *planner) said(ctx context.Context, wishes map[int64][]placement.Wish) (map[int64]wording.OwnerTexts, error) {
	var owners []int64
	for o, some := range wishes {
		if slices.ContainsFunc(some, func(w placement.Wish) bool { return w.Texts != nil }) {
			owners = append(owners, o)
		}
	}
	if len(owners) == 0 {
		return nil, nil
	}
	return texts.Texts(ctx, p.Store.Queries, owners)
}

// rewords is the change of the texts of pictures that stand already, where rows say others. A row that says what a rule made already says nothing new:
// the text stays the rule's.
func rewords(owner int64, standing []placement.Picture, wishes []placement.Wish, texts wording.OwnerTexts) (change.Change, int) {
	after := wording.OwnerTexts{}
	for _, w := range wishes {
		if !slices.ContainsFunc(standing, func(p placement.Picture) bool { return p.Asset == w.Asset }) {
			continue
		}
		for field, of := range w.Texts {
			for lang, text := range of {
				at := wording.Place{Asset: w.Asset, Field: field, Language: lang}
				if stands := texts[at]; stands == nil || stands.Text != text.Text {
					after[at] = &text
				}
			}
		}
	}
	return wording.Change(owner, texts, after)
}

// named is the asset that a name, an address or a cell of a row leads to; 0 where there is none, or nobody knows which. instead notes
// which assets it takes the place of.
func named(files *table.Files, row int, name string, instead map[int64]int64) int64 {
	if table.IsAddress(name) {
		file, _ := files.Come(name)
		return file.Asset
	}
	found := files.Find(row, name)
	if found.Near || len(found.Files) != 1 {
		return 0
	}
	if found.Everywhere {
		for _, other := range found.Also {
			instead[other.Asset] = found.Files[0].Asset
		}
	}
	return found.Files[0].Asset
}

// pathMark begins the keys of categories, which no SKU begins with.
const pathMark = "\x00"

// pathKey is the key of a category by its path; empty for none.
func pathKey(path []string) string {
	key := ""
	for _, title := range path {
		key += pathMark + core.Identity(title)
	}
	return key
}

// categories adds the numbers of categories, those that the plan makes among them.
func (p *planner) categories(ctx context.Context, edits []core.Edit, ids map[string]int64) error {
	all, err := p.Store.AllCategories(ctx)
	if err != nil {
		return err
	}
	of, err := store.CatalogueOwners(all)
	if err != nil {
		return err
	}
	for _, e := range edits {
		if e.After != nil && e.After.Kind == core.Category {
			of[e.ID] = *e.After
		}
	}
	for id, path := range pathsOf(of) {
		ids[pathKey(path)] = id
	}
	return nil
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
