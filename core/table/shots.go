package table

import (
	"slices"
	"strconv"
)

// ShotColumn is a column of a picture table.
type ShotColumn string

// Preview is the column in whose cells the pictures themselves are.
const Preview ShotColumn = "preview"

// ShotColumns are all columns, in the order in which they are offered.
var ShotColumns = []ShotColumn{Preview, "name", "path", "link", "address", "width", "height", "bytes", "type", "sku", "title", "kind", "position", "main", "alt",
	"delivery", "supplier", "sha256"}

// ReadShotColumn reads a column by its name; ok is false where there is none.
func ReadShotColumn(name string) (c ShotColumn, ok bool) {
	return ShotColumn(name), slices.Contains(ShotColumns, ShotColumn(name))
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
	number := func(n int64) string {
		if n == 0 {
			return ""
		}
		return strconv.FormatInt(n, 10)
	}
	switch c {
	case "name":
		return s.Name
	case "path":
		return s.Path
	case "link":
		return s.Link
	case "address":
		return s.Address
	case "width":
		return number(int64(s.Width))
	case "height":
		return number(int64(s.Height))
	case "bytes":
		return number(s.Bytes)
	case "type":
		return s.Format
	case "sku":
		return s.SKU
	case "title":
		return s.Title
	case "kind":
		return s.Kind
	case "position":
		return number(int64(s.Position))
	case "main":
		if s.Position == 1 {
			return "yes"
		}
	case "alt":
		return s.Alt
	case "delivery":
		return s.Delivery
	case "supplier":
		return s.Supplier
	case "sha256":
		return s.SHA
	}
	return ""
}
