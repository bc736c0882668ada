// Package shop shows an owner's page as a customer would see it: as it stands, and as it was or will be before and after a plan.
package shop

import (
	"context"
	"encoding/json"
	"slices"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
	texts "ambrosa/internal/subject/wording"

	"github.com/jackc/pgx/v5"
)

// Side is at which moment a page is shown.
type Side string

const (
	Now    Side = "now"
	Before Side = "before" // the plan's changes
	After  Side = "after"
)

// Ask says which page, at which moment of which plan, in which language.
type Ask struct {
	Owner    int64
	Plan     int64
	Side     Side
	Language string
}

// Item is an owner on a page.
type Item struct {
	core.Owner
	Pictures []Picture
}

// Picture is a picture on a page.
type Picture struct {
	Asset int64
	Sha   string
	Texts map[wording.Field]string
}

// Page is what a customer sees of an owner. Of a variant it is the product's page.
type Page struct {
	Item
	Path     []core.Owner // the categories above, the uppermost first
	Variants []Item       // of a product
	Tiles    []Item       // of a category: those below it, then its products, each with its pictures or those of its first variant that has some
	More     bool         // there are more than these tiles
	Changed  bool         // the plan changes something of what is seen here
}

// mostTiles is how many tiles a page shows.
const mostTiles = 60

// Shop shows pages.
type Shop struct{ Store *store.Store }

// Page returns an owner's page. pgx.ErrNoRows where it is not there at that moment. Cost: by what is seen on the page.
func (s *Shop) Page(ctx context.Context, ask Ask) (Page, error) {
	v := &view{ask: ask, q: s.Store.Queries, owners: map[int64]core.Owner{}, placed: map[int64][]placement.Picture{}, said: map[int64]wording.OwnerTexts{}}
	if err := v.read(ctx, []int64{ask.Owner}); err != nil {
		return Page{}, err
	}
	o, there := v.owners[ask.Owner]
	if there && o.Kind == core.Variant {
		ask.Owner = o.Parent
		return s.Page(ctx, ask)
	}
	if !there {
		return Page{}, pgx.ErrNoRows
	}
	below, err := v.below(ctx, o)
	if err != nil {
		return Page{}, err
	}
	if err := v.read(ctx, below); err != nil {
		return Page{}, err
	}
	page := Page{Path: nil, Changed: v.changed}
	if page.Path, err = v.path(ctx, o); err != nil {
		return Page{}, err
	}
	if err := v.shas(ctx); err != nil {
		return Page{}, err
	}
	page.Item = v.item(o.ID)
	if o.Kind == core.Product {
		page.Variants = v.items(func(of core.Owner) bool { return of.Kind == core.Variant && of.Parent == o.ID && !of.Retired })
		return page, nil
	}
	page.Tiles = v.tiles(o.ID)
	if page.More = len(page.Tiles) > mostTiles; page.More {
		page.Tiles = page.Tiles[:mostTiles]
	}
	return page, nil
}

// view is a page on its way.
type view struct {
	ask     Ask
	q       *query.Queries
	owners  map[int64]core.Owner
	placed  map[int64][]placement.Picture
	said    map[int64]wording.OwnerTexts
	sha     map[int64]string
	changed bool
}

// read reads owners with their pictures and texts, as they are at the moment asked for.
func (v *view) read(ctx context.Context, ids []int64) error {
	rows, err := v.q.OwnerRecords(ctx, ids)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if v.owners[row.ID], err = store.CatalogueOwner(row); err != nil {
			return err
		}
	}
	placed, err := pictures.Placed(ctx, v.q, ids)
	if err != nil {
		return err
	}
	said, err := texts.Texts(ctx, v.q, ids)
	if err != nil {
		return err
	}
	for _, id := range ids {
		v.placed[id], v.said[id] = placed[id], said[id]
	}
	if v.ask.Plan == 0 || v.ask.Side == Now {
		return nil
	}
	lines, err := v.q.PlanChangesOf(ctx, query.PlanChangesOfParams{PlanID: v.ask.Plan, Ids: ids})
	if err != nil {
		return err
	}
	for _, l := range lines {
		if err := v.overlay(l); err != nil {
			return err
		}
	}
	return nil
}

// overlay makes one thing what it is at the moment asked for.
func (v *view) overlay(l query.PlanChangesOfRow) (err error) {
	v.changed = true
	fields := json.RawMessage(l.After)
	if v.ask.Side == Before {
		fields = l.Before
	}
	switch l.Subject {
	case core.Subject:
		if change.None(fields) {
			delete(v.owners, l.SubjectID)
			return nil
		}
		if o, stands := v.owners[l.SubjectID]; stands {
			if fields, err = change.Merge(o.JSON(), fields); err != nil {
				return err
			}
		}
		v.owners[l.SubjectID], err = core.ReadOwner(l.SubjectID, fields)
	case placement.Subject:
		if v.placed[l.SubjectID], err = placement.Read(fields); err != nil {
			return err
		}
		for _, p := range v.placed[l.SubjectID] {
			for field, of := range p.Texts {
				for lang, text := range of {
					v.say(l.SubjectID, wording.Place{Asset: p.Asset, Field: field, Language: lang}, &text)
				}
			}
		}
	case wording.Subject:
		said, err := wording.ReadTexts(fields)
		if err != nil {
			return err
		}
		for at, text := range said {
			v.say(l.SubjectID, at, text)
		}
	}
	return err
}

// say has a picture's text be another; one by a pattern does not replace one by hand.
func (v *view) say(owner int64, at wording.Place, text *wording.Text) {
	if stands := v.said[owner][at]; text != nil && stands != nil && stands.Hand && !text.Hand {
		return
	}
	if v.said[owner] == nil {
		v.said[owner] = wording.OwnerTexts{}
	}
	if text == nil {
		delete(v.said[owner], at)
		return
	}
	v.said[owner][at] = text
}

// below are the owners that are seen on a page besides: variants of a product; of a category those below it, and its products with
// their variants. Those that a plan makes are among them.
func (v *view) below(ctx context.Context, o core.Owner) ([]int64, error) {
	ids, err := v.q.SeenBelow(ctx, query.SeenBelowParams{Owner: o.ID, Most: mostTiles + 1})
	if err != nil || v.ask.Plan == 0 || v.ask.Side == Now {
		return ids, err
	}
	made, err := v.q.PlannedBelow(ctx, query.PlannedBelowParams{PlanID: v.ask.Plan, Owner: o.ID, Most: mostTiles + 1})
	return append(ids, made...), err
}

// path are the categories above an owner.
func (v *view) path(ctx context.Context, o core.Owner) (path []core.Owner, err error) {
	at := o.Category
	if o.Kind == core.Category {
		at = o.Parent
	}
	for at != 0 && len(path) < core.MaxLevels {
		if _, known := v.owners[at]; !known {
			if err := v.read(ctx, []int64{at}); err != nil {
				return nil, err
			}
		}
		up, there := v.owners[at]
		if !there {
			break
		}
		path = append(path, up)
		at = up.Parent
	}
	slices.Reverse(path)
	return path, nil
}

// shas reads which pictures they are.
func (v *view) shas(ctx context.Context) error {
	var assets []int64
	for _, some := range v.placed {
		for _, p := range some {
			assets = append(assets, p.Asset)
		}
	}
	rows, err := v.q.AssetsByID(ctx, assets)
	v.sha = make(map[int64]string, len(rows))
	for _, r := range rows {
		v.sha[r.ID] = r.Sha
	}
	return err
}

// item is an owner with its pictures.
func (v *view) item(id int64) Item {
	it := Item{Owner: v.owners[id], Pictures: []Picture{}}
	for _, p := range v.placed[id] {
		one := Picture{Asset: p.Asset, Sha: v.sha[p.Asset], Texts: map[wording.Field]string{}}
		for at, text := range v.said[id] {
			if at.Asset == p.Asset && at.Language == v.ask.Language {
				one.Texts[at.Field] = text.Text
			}
		}
		it.Pictures = append(it.Pictures, one)
	}
	return it
}

// items are the owners that are meant, in the order of the catalogue.
func (v *view) items(meant func(core.Owner) bool) []Item {
	var some []core.Owner
	for _, o := range v.owners {
		if meant(o) {
			some = append(some, o)
		}
	}
	slices.SortFunc(some, func(a, b core.Owner) int {
		if a.Ordinal != b.Ordinal {
			return a.Ordinal - b.Ordinal
		}
		return int(a.ID - b.ID)
	})
	items := make([]Item, len(some))
	for i, o := range some {
		items[i] = v.item(o.ID)
	}
	return items
}

// tiles are what a category's page shows: categories below it, then products.
func (v *view) tiles(category int64) []Item {
	tiles := v.items(func(o core.Owner) bool { return o.Kind == core.Category && o.Parent == category && !o.Retired })
	for _, p := range v.items(func(o core.Owner) bool { return o.Kind == core.Product && o.Category == category && !o.Retired }) {
		if len(p.Pictures) == 0 {
			for _, of := range v.items(func(o core.Owner) bool { return o.Kind == core.Variant && o.Parent == p.ID && !o.Retired }) {
				if len(of.Pictures) > 0 {
					p.Pictures = of.Pictures
					break
				}
			}
		}
		tiles = append(tiles, p)
	}
	return tiles
}
