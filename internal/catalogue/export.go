package catalogue

import (
	"cmp"
	"context"
	"slices"

	core "ambrosa/core/catalogue"
	"ambrosa/core/table"
	"ambrosa/internal/assets"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
)

// exported is how many owners are read at once.
const exported = 5000

// exporter writes the catalogue as a table.
type exporter struct {
	store      *store.Store
	to         sheet.Writer
	options    []string
	attributes []string
	paths      map[int64][]string // of categories
	pictures   bool               // whether any owner has some
}

// Export writes the catalogue as a table: the fields by their names, each option and attribute in a column of its own. First the
// categories, each below the one it is in, then products, then variants, in the order of the catalogue: imported unchanged, it changes
// nothing. Cost: linear; the categories stand in memory.
func Export(ctx context.Context, s *store.Store, to sheet.Writer) error {
	e := &exporter{store: s, to: to, paths: map[int64][]string{}}
	own, err := s.OwnFields(ctx)
	if err != nil {
		return err
	}
	for _, f := range own {
		if f.Attribute {
			e.attributes = append(e.attributes, f.Name)
		} else {
			e.options = append(e.options, f.Name)
		}
	}
	if e.pictures, err = s.AnyPlacement(ctx); err != nil {
		return err
	}
	if err := to.Row(e.header()); err != nil {
		return err
	}
	if err := e.categories(ctx); err != nil {
		return err
	}
	for _, kind := range []string{core.Product, core.Variant} {
		if err := e.owners(ctx, kind); err != nil {
			return err
		}
	}
	return nil
}

func (e *exporter) header() []string {
	header := []string{string(table.SKU), string(table.Parent), string(table.KindOf), string(table.Title), string(table.Barcode), string(table.Code), string(table.Category)}
	for _, o := range e.options {
		header = append(header, string(table.Option(o)))
	}
	for _, a := range e.attributes {
		header = append(header, string(table.Attribute(a)))
	}
	if e.pictures {
		header = append(header, string(table.Main), string(table.Pictures))
	}
	return header
}

// categories writes the tree of categories, each below the one it is in.
func (e *exporter) categories(ctx context.Context) error {
	all, err := e.store.AllCategories(ctx)
	if err != nil {
		return err
	}
	below := map[int64][]core.Owner{}
	for _, row := range all {
		o, err := store.CatalogueOwner(row)
		if err != nil {
			return err
		}
		below[o.Parent] = append(below[o.Parent], o)
	}
	for _, of := range below {
		slices.SortFunc(of, func(a, b core.Owner) int { return cmp.Or(cmp.Compare(a.Ordinal, b.Ordinal), cmp.Compare(a.ID, b.ID)) })
	}
	ids := make([]int64, len(all))
	for i, o := range all {
		ids[i] = o.ID
	}
	placed, err := e.placed(ctx, ids)
	if err != nil {
		return err
	}
	var walk func(parent int64) error
	walk = func(parent int64) error {
		for _, o := range below[parent] {
			above := e.paths[parent]
			e.paths[o.ID] = append(slices.Clip(above), o.Title)
			if err := e.to.Row(e.row(o, core.JoinPath(above), placed[o.ID])); err != nil {
				return err
			}
			if err := walk(o.ID); err != nil {
				return err
			}
		}
		return nil
	}
	return walk(0)
}

func (e *exporter) owners(ctx context.Context, kind string) error {
	after := query.OwnersInOrderParams{Kind: kind, Most: exported, Ordinal: -1 << 31}
	for {
		page, err := e.store.OwnersInOrder(ctx, after)
		if err != nil {
			return err
		}
		ids := make([]int64, len(page))
		for i, row := range page {
			ids[i] = row.Owner.ID
		}
		placed, err := e.placed(ctx, ids)
		if err != nil {
			return err
		}
		for _, row := range page {
			o, err := store.CatalogueOwner(row.Owner)
			if err != nil {
				return err
			}
			if err := e.to.Row(e.row(o, row.ParentSku, placed[o.ID])); err != nil {
				return err
			}
			after.Ordinal, after.ID = row.Owner.Ordinal, o.ID
		}
		if len(page) < exported {
			return nil
		}
	}
}

// placed are the names of owners' pictures, in their order.
func (e *exporter) placed(ctx context.Context, owners []int64) (map[int64][]string, error) {
	if !e.pictures {
		return nil, nil
	}
	rows, err := e.store.PlacedNames(ctx, owners)
	names := make(map[int64][]string, len(owners))
	for _, r := range rows {
		names[r.OwnerID] = append(names[r.OwnerID], table.Refer(r.Name, r.Sha, assets.Extension(r.Format), r.Alone))
	}
	return names, err
}

func (e *exporter) row(o core.Owner, parent string, pictures []string) []string {
	row := []string{o.SKU, parent, o.Kind, o.Title, o.Barcode, o.Code, core.JoinPath(e.paths[o.Category])}
	for _, name := range e.options {
		row = append(row, o.Options[name])
	}
	for _, name := range e.attributes {
		row = append(row, o.Attribute(name))
	}
	if e.pictures {
		main, rest := "", pictures
		if len(pictures) > 0 {
			main, rest = pictures[0], pictures[1:]
		}
		row = append(row, main, table.ReferenceList(rest))
	}
	return row
}
