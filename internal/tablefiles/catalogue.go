// Package tablefiles checks tables without a database: a table, a table of owners, and folders or archives of pictures.
package tablefiles

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/core/gtin"
	"ambrosa/core/table"
	"ambrosa/internal/sheet"
)

// ErrOwners is returned where a table of owners lacks a column that is needed.
var ErrOwners = errors.New("the owners' first row must name the column id or sku, and at least one key")

// Owners are a catalogue as a table gives it, found by any of its columns.
type Owners struct {
	all []owner
	by  map[table.Field]map[string][]int32
}

type owner struct {
	table.Known
	id, parent, title string
}

// ReadOwners reads a table of owners: id,kind,parent_id,sku,barcode,code,title; every other column is an attribute. An owner stands in
// memory.
func ReadOwners(path string) (*Owners, error) {
	f, err := sheet.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	at, err := sheet.Pick(f, "")
	if err != nil {
		return nil, err
	}
	rows, err := f.Rows(at)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	o := &Owners{by: map[table.Field]map[string][]int32{}}
	var columns []string
	for {
		row, err := rows.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		switch {
		case row.Empty() || row.Broken:
		case columns == nil:
			columns = slices.Clone(row.Texts())
			for i, c := range columns {
				columns[i] = strings.ToLower(strings.TrimSpace(c))
			}
		default:
			o.add(columns, row)
		}
	}
	if !slices.Contains(columns, "sku") && !slices.Contains(columns, "id") {
		return nil, ErrOwners
	}
	o.family()
	return o, nil
}

func (o *Owners) add(columns []string, row table.Row) {
	n := int32(len(o.all))
	var one owner
	for i, cell := range row.Cells[:min(len(row.Cells), len(columns))] {
		text := strings.TrimSpace(cell.Text)
		if text == "" {
			continue
		}
		switch columns[i] {
		case "id":
			one.id = text
		case "kind":
			one.Kind = strings.ToLower(text)
		case "parent_id", "parent":
			one.parent = text
		case "sku":
			one.SKU = text
			o.index(table.SKU, catalogue.Identity(text), n)
		case "barcode":
			one.Barcode = text
			if form, err := gtin.Parse(text); err == nil {
				o.index(table.Barcode, form, n)
			}
		case "code":
			o.index(table.Code, catalogue.Identity(text), n)
		case "title":
			one.title = text
			o.index(table.Title, catalogue.Identity(text), n)
		default:
			o.index(table.Attribute(columns[i]), catalogue.Identity(text), n)
		}
	}
	o.all = append(o.all, one)
}

func (o *Owners) index(by table.Field, key string, n int32) {
	if o.by[by] == nil {
		o.by[by] = map[string][]int32{}
	}
	o.by[by][key] = append(o.by[by][key], n)
}

// family finds the products of variants, and what tells owners of one title apart: their path, and their SKU.
func (o *Owners) family() {
	at := make(map[string]int, len(o.all))
	for i, one := range o.all {
		if one.id != "" {
			at[one.id] = i
		} else if one.SKU != "" {
			at[one.SKU] = i
		}
	}
	for i := range o.all {
		one := &o.all[i]
		path := []string{one.title}
		for up, ok := at[one.parent]; ok && len(path) <= catalogue.MaxLevels; up, ok = at[o.all[up].parent] {
			if one.Kind == catalogue.Variant && len(path) == 1 {
				one.Parent = o.all[up].SKU
			}
			path = append(path, o.all[up].title)
		}
		slices.Reverse(path)
		if one.Label = strings.Join(path, " > "); one.SKU != "" {
			one.Label = fmt.Sprintf("%s (%s)", one.Label, one.SKU)
		}
	}
}

// Find finds owners by a field.
func (o *Owners) Find(by table.Field, key string) (found []table.Known) {
	for _, n := range o.by[by][key] {
		found = append(found, o.all[n].Known)
	}
	return found
}
