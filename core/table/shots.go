package table

import (
	"slices"
	"strconv"
)

// ShotColumn is a column of a picture table.
type ShotColumn string

// Preview is the column in whose cells the pictures themselves are.
const Preview ShotColumn = "preview"

type shotText struct {
	column ShotColumn
	text   func(Shot) string
}

// shotColumns are all columns, in the order in which they are offered, and what stands in them.
var shotColumns = []shotText{
	{Preview, func(Shot) string { return "" }},
	{"name", func(s Shot) string { return s.Name }},
	{"path", func(s Shot) string { return s.Path }},
	{"link", func(s Shot) string { return s.Link }},
	{"address", func(s Shot) string { return s.Address }},
	{"width", func(s Shot) string { return number(int64(s.Width)) }},
	{"height", func(s Shot) string { return number(int64(s.Height)) }},
	{"bytes", func(s Shot) string { return number(s.Bytes) }},
	{"type", func(s Shot) string { return s.Format }},
	{"sku", func(s Shot) string { return s.SKU }},
	{"title", func(s Shot) string { return s.Title }},
	{"kind", func(s Shot) string { return s.Kind }},
	{"position", func(s Shot) string { return number(int64(s.Position)) }},
	{"main", func(s Shot) string {
		if s.Position == 1 {
			return "yes"
		}
		return ""
	}},
	{"alt", func(s Shot) string { return s.Alt }},
	{"delivery", func(s Shot) string { return s.Delivery }},
	{"supplier", func(s Shot) string { return s.Supplier }},
	{"sha256", func(s Shot) string { return s.SHA }},
}

// number is a number as a text; empty for 0, which stands for none.
func number(n int64) string {
	if n == 0 {
		return ""
	}
	return strconv.FormatInt(n, 10)
}

func shotColumn(c ShotColumn) int {
	return slices.IndexFunc(shotColumns, func(of shotText) bool { return of.column == c })
}

// ReadShotColumn reads a column by its name; ok is false where there is none.
func ReadShotColumn(name string) (c ShotColumn, ok bool) {
	return ShotColumn(name), shotColumn(ShotColumn(name)) >= 0
}

// Shot is a picture as a picture table tells of it: of an owner, or by itself.
type Shot struct {
	SHA, Format      string
	Path             string // of the first file that brought it
	Name             string // as a table names it; see Refer
	Link             string // where it is seen
	Address          string // where it was fetched from
	Width, Height    int
	Bytes            int64
	SKU, Title, Kind string // of the owner; empty where it is on none
	Position         int
	Alt              string
	Delivery         string
	Supplier         string
}

// Text is what stands in a column; of the preview nothing.
func (s Shot) Text(c ShotColumn) string {
	if at := shotColumn(c); at >= 0 {
		return shotColumns[at].text(s)
	}
	return ""
}
