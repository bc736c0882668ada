// Package hand makes plans of what people change by hand on a few owners: their pictures, what is said of them, and the owners themselves.
package hand

import (
	"context"
	"fmt"
	"slices"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
	texts "ambrosa/internal/subject/wording"

	"github.com/jackc/pgx/v5"
)

// PlanKind is the kind of these plans.
const PlanKind = "hand"

// Hand makes plans.
type Hand struct {
	Store  *store.Store
	Ledger *ledger.Ledger
}

// Owner returns an owner, and the SKU of the product that a variant is of. pgx.ErrNoRows.
func (h *Hand) Owner(ctx context.Context, id int64) (o core.Owner, product string, err error) {
	rows, err := h.Store.OwnerRecords(ctx, []int64{id})
	if err == nil && len(rows) == 0 {
		err = pgx.ErrNoRows
	}
	if err != nil {
		return o, "", err
	}
	if o, err = store.CatalogueOwner(rows[0]); err != nil || o.Kind != core.Variant {
		return o, "", err
	}
	above, err := h.Store.OwnerRecords(ctx, []int64{o.Parent})
	if err == nil && len(above) > 0 {
		product = above[0].Sku
	}
	return o, product, err
}

// Edit is what a person wants of one owner. Owner is its number, below 0 for one that is to be made; others of the same plan may name it
// so.
type Edit struct {
	Owner    int64
	Kind     string // of one that is to be made
	Fields   *Fields
	Pictures *Pictures
	Texts    []Text
}

// Fields are those of an owner that change; nil stays as it is.
type Fields struct {
	SKU, Barcode, Code, Title   *string
	Parent, Category            *int64
	Titles, Options, Attributes map[string]string // those that are named; an empty one goes
	Retired                     *bool
}

// Pictures are all pictures of an owner in their order, as its person saw them and as they shall be.
type Pictures struct{ Was, Now []int64 }

// Text is what shall be said of one picture of the owner; an empty one goes.
type Text struct {
	wording.Place
	Text string
}

// Wrong is why an edit can't be as it is wanted.
type Wrong struct {
	Owner int64
	Field string
	message.Message
}

// planner is a plan on its way.
type planner struct {
	*Hand
	edits    []Edit
	owners   map[int64]core.Owner // as they stand
	after    map[int64]core.Owner // those that change, as they shall be
	order    []int64              // in which they are made and changed
	wrong    []Wrong
	numbers  map[int64]int64 // of new ones
	standing map[int64][]placement.Picture
	said     map[int64]wording.OwnerTexts
}

// Plan keeps the plan of some edits and returns its number; where some can't be, no plan is kept and they are told. Errors:
// ledger.ErrNothingToDo. Cost: by the edits, and all categories where one is edited.
func (h *Hand) Plan(ctx context.Context, person int64, edits []Edit) (id int64, wrong []Wrong, err error) {
	p := &planner{Hand: h, edits: edits, after: map[int64]core.Owner{}, numbers: map[int64]int64{}}
	if err := p.read(ctx); err != nil {
		return 0, nil, err
	}
	for _, e := range edits {
		p.field(e)
	}
	if err := p.families(ctx); err != nil {
		return 0, nil, err
	}
	if err := p.check(ctx); err != nil {
		return 0, nil, err
	}
	if p.pictures(); len(p.wrong) > 0 {
		return 0, p.wrong, nil
	}
	changes, err := p.changes(ctx)
	if err != nil {
		return 0, nil, err
	}
	title, err := p.title(ctx)
	if err != nil {
		return 0, nil, err
	}
	draft := ledger.Draft{Kind: PlanKind, Title: title, Person: person}
	if gone := p.gone(); gone > 0 {
		draft.Counts = map[string]int{"gone": gone}
	}
	id, err = h.Ledger.Keep(ctx, draft, changes)
	return id, nil, err
}

// read reads the owners that are edited, with their pictures and texts.
func (p *planner) read(ctx context.Context) error {
	ids := make([]int64, 0, len(p.edits))
	for _, e := range p.edits {
		if e.Owner > 0 {
			ids = append(ids, e.Owner)
		}
	}
	rows, err := p.Store.OwnerRecords(ctx, ids)
	if err != nil {
		return err
	}
	if p.owners, err = store.CatalogueOwners(rows); err != nil {
		return err
	}
	if p.standing, err = pictures.Placed(ctx, p.Store.Queries, ids); err != nil {
		return err
	}
	p.said, err = texts.Texts(ctx, p.Store.Queries, ids)
	return err
}

func (p *planner) tell(owner int64, field string, why message.Message) {
	p.wrong = append(p.wrong, Wrong{owner, field, why})
}

// field notes what becomes of an owner's own fields.
func (p *planner) field(e Edit) {
	o, stands := p.owners[e.Owner]
	if !stands && e.Owner > 0 {
		p.tell(e.Owner, "", message.New("owner_gone"))
		return
	}
	if !stands {
		o = core.Owner{ID: e.Owner, Kind: e.Kind}
	}
	if e.Fields == nil && stands {
		return
	}
	if f := e.Fields; f != nil {
		o = f.on(o)
	}
	if _, twice := p.after[e.Owner]; !twice {
		p.order = append(p.order, e.Owner)
	}
	p.after[e.Owner] = o
}

// on is an owner with fields as they shall be.
func (f *Fields) on(o core.Owner) core.Owner {
	set := func(into *string, text *string, clean func(string) string) {
		if text != nil {
			*into = clean(*text)
		}
	}
	set(&o.SKU, f.SKU, core.CleanKey)
	set(&o.Barcode, f.Barcode, core.CleanKey)
	set(&o.Code, f.Code, core.CleanKey)
	set(&o.Title, f.Title, core.CleanText)
	if f.Parent != nil {
		o.Parent = *f.Parent
	}
	if f.Category != nil {
		o.Category = *f.Category
	}
	if f.Retired != nil {
		o.Retired = *f.Retired
	}
	o.Titles, o.Options = named(o.Titles, f.Titles), named(o.Options, f.Options)
	o.SetAttributes(f.Attributes)
	return o
}

// named are texts by name with others in the place of some.
func named(was, with map[string]string) map[string]string {
	if len(with) == 0 {
		return was
	}
	all := make(map[string]string, len(was)+len(with))
	for name, text := range was {
		all[name] = text
	}
	for name, text := range with {
		if text = core.CleanText(text); text == "" {
			delete(all, name)
		} else {
			all[core.CleanText(name)] = text
		}
	}
	return all
}

// families has the variants of products that are retired, or taken up again, go with them.
func (p *planner) families(ctx context.Context) error {
	var products []int64
	for _, id := range p.order {
		if o := p.after[id]; o.Kind == core.Product && o.Retired != p.owners[id].Retired && id > 0 {
			products = append(products, id)
		}
	}
	if len(products) == 0 {
		return nil
	}
	rows, err := p.Store.VariantsOf(ctx, products)
	if err != nil {
		return err
	}
	for _, row := range rows {
		v, err := store.CatalogueOwner(row)
		if err != nil {
			return err
		}
		if _, edited := p.after[v.ID]; edited || v.Retired == p.after[v.Parent].Retired {
			continue
		}
		p.owners[v.ID] = v
		v.Retired = p.after[v.Parent].Retired
		p.after[v.ID] = v
		p.order = append(p.order, v.ID)
	}
	return nil
}

// check finds what can't be.
func (p *planner) check(ctx context.Context) error {
	if len(p.order) == 0 {
		return nil
	}
	around, err := p.around(ctx)
	if err != nil {
		return err
	}
	for _, id := range p.order {
		if field, why := around.Wrong(p.after[id]); field != "" {
			p.tell(id, field, why)
		}
	}
	return nil
}

// around knows what stands around the owners that are edited: who has their SKUs and barcodes, the products of variants, and the
// categories.
func (p *planner) around(ctx context.Context) (*core.Around, error) {
	var rows []core.Row
	var parents []int64
	for _, o := range p.after {
		if o.Kind != core.Category {
			rows = append(rows, core.Row{SKU: o.SKU, Barcode: o.Barcode})
			parents = append(parents, o.Parent)
		}
	}
	identities, barcodes := core.Touched(rows)
	found, err := p.Store.OwnersTouched(ctx, query.OwnersTouchedParams{Identities: append([]string{}, identities...), Barcodes: append([]string{}, barcodes...)})
	if err != nil {
		return nil, err
	}
	products, err := p.Store.OwnerRecords(ctx, parents)
	if err != nil {
		return nil, err
	}
	categories, err := p.Store.AllCategories(ctx)
	if err != nil {
		return nil, err
	}
	standing, err := store.CatalogueOwners(slices.Concat(found, products, categories))
	if err != nil {
		return nil, err
	}
	around := core.NewAround()
	for id, o := range standing {
		if _, edited := p.after[id]; !edited {
			around.Add(o)
		}
	}
	used, err := p.Store.ProductsInCategories(ctx, p.order)
	if err != nil {
		return nil, err
	}
	for _, u := range used {
		around.Used[u.Category] += int(u.Products)
	}
	for _, id := range p.order {
		around.Add(p.after[id])
	}
	return around, nil
}

// pictures finds which pictures can't be placed as wanted.
func (p *planner) pictures() {
	for _, e := range p.edits {
		if e.Pictures == nil {
			continue
		}
		was := make([]int64, len(p.standing[e.Owner]))
		for i, s := range p.standing[e.Owner] {
			was[i] = s.Asset
		}
		switch {
		case !slices.Equal(was, e.Pictures.Was):
			p.tell(e.Owner, "pictures", message.New("pictures_since"))
		case slices.Contains(e.Pictures.Now, 0):
			p.tell(e.Owner, "pictures", message.New("picture_gone"))
		}
	}
}

// changes are the lines of the plan: owners first, categories before what stands in them, then pictures, then texts.
func (p *planner) changes(ctx context.Context) ([]change.Change, error) {
	edits, err := p.ownerEdits(ctx)
	if err != nil {
		return nil, err
	}
	changes, err := core.Changes(edits)
	if err != nil {
		return nil, err
	}
	var reworded []change.Change
	for _, e := range p.edits {
		owner := e.Owner
		if n, is := p.numbers[owner]; is {
			owner = n
		}
		before := p.standing[e.Owner]
		after := before
		if e.Pictures != nil {
			after = placed(e.Pictures.Now)
		}
		said := wording.OwnerTexts{}
		for _, t := range e.Texts {
			text := wording.Written(t.Place, t.Text)
			if at := indexOf(after, t.Asset); at < 0 || indexOf(before, t.Asset) >= 0 {
				said[t.Place] = text
			} else if text != nil {
				after[at].Texts.Set(t.Field, t.Language, *text)
			}
		}
		if !placement.Same(before, after) {
			changes = append(changes, placement.Change(owner, before, after))
		}
		if c, n := wording.Change(owner, p.said[e.Owner], said); n > 0 {
			reworded = append(reworded, c)
		}
	}
	return append(changes, reworded...), nil
}

func placed(assets []int64) (all []placement.Picture) {
	for _, a := range assets {
		if indexOf(all, a) < 0 {
			all = append(all, placement.Picture{Asset: a})
		}
	}
	return all
}

func indexOf(pictures []placement.Picture, asset int64) int {
	return slices.IndexFunc(pictures, func(p placement.Picture) bool { return p.Asset == asset })
}

// ownerEdits are the owners that change, with numbers for those that are new.
func (p *planner) ownerEdits(ctx context.Context) ([]core.Edit, error) {
	rank := func(id int64) int {
		return slices.Index([]string{core.Category, core.Product, core.Variant}, p.after[id].Kind)
	}
	slices.SortStableFunc(p.order, func(a, b int64) int { return rank(a) - rank(b) })
	var edits []core.Edit
	last := 0
	for _, id := range p.order {
		after := p.after[id]
		if id > 0 {
			before := p.owners[id]
			if !before.Equal(after) {
				edits = append(edits, core.Edit{ID: id, Before: &before, After: &after})
			}
			continue
		}
		if last == 0 {
			ordinal, err := p.Store.LastOrdinal(ctx)
			if err != nil {
				return nil, err
			}
			last = int(ordinal)
		}
		last++
		after.Ordinal = last
		edits = append(edits, core.Edit{ID: id, After: &after})
	}
	fresh := map[int]int64{}
	for i, e := range edits {
		if e.Before == nil {
			fresh[i] = e.ID
		}
	}
	if len(fresh) == 0 {
		return edits, nil
	}
	if err := catalogue.Number(ctx, p.Store, edits); err != nil {
		return nil, err
	}
	for i, id := range fresh {
		p.numbers[id] = edits[i].ID
	}
	return edits, nil
}

// gone counts the pictures that are taken off their owners.
func (p *planner) gone() (n int) {
	for _, e := range p.edits {
		if e.Pictures != nil {
			n += len(placement.Gone(p.standing[e.Owner], placed(e.Pictures.Now)))
		}
	}
	return n
}

// title names the plan after the first owner, and how many more there are.
func (p *planner) title(ctx context.Context) (string, error) {
	first := p.edits[0].Owner
	name := p.after[first].SKU
	if name == "" {
		labels, err := catalogue.Labels(ctx, p.Store, []int64{first})
		if err != nil {
			return "", err
		}
		if name = labels[first].SKU; name == "" {
			name = labels[first].Label
		}
	}
	if name == "" {
		name = p.after[first].Title
	}
	if more := len(p.edits) - 1; more > 0 {
		name = fmt.Sprintf("%s + %d", name, more)
	}
	return name, nil
}

// Order keeps the plan that puts owners that stand side by side into an order, and returns its number. ErrSiblings, ledger.ErrNothingToDo.
func (h *Hand) Order(ctx context.Context, person int64, ids []int64) (int64, error) {
	rows, err := h.Store.OwnerRecords(ctx, ids)
	if err != nil {
		return 0, err
	}
	of, err := store.CatalogueOwners(rows)
	if err != nil {
		return 0, err
	}
	var siblings []core.Owner
	for _, id := range ids {
		o, there := of[id]
		if !there || len(siblings) > 0 && (o.Parent != siblings[0].Parent || o.Category != siblings[0].Category || o.Kind != siblings[0].Kind) {
			return 0, ErrSiblings
		}
		siblings = append(siblings, o)
	}
	changes, err := core.Changes(core.InOrder(siblings))
	if err != nil {
		return 0, err
	}
	if len(changes) == 0 {
		return 0, ledger.ErrNothingToDo
	}
	return h.Ledger.Keep(ctx, ledger.Draft{Kind: PlanKind, Title: siblings[0].Title, Person: person}, changes)
}
