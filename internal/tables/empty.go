package tables

import (
	"errors"
	"io"
	"slices"

	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/sheet"
)

// ErrKind is returned for a kind of empty table that there is not.
var ErrKind = errors.New("an empty table is one of products or pictures")

// kinds are the empty tables, by what they are for: their columns, each with whether it is required and an example.
var kinds = map[string][]struct {
	field    table.Field
	required bool
	example  string
}{
	"products": {{table.SKU, true, "PK-DLT-140-AMB"}, {table.Parent, false, "PK-DLT-140"}, {table.KindOf, false, "variant"}, {table.Title, true, "Drift Delta 140"},
		{table.Barcode, false, "9520123456788"}, {table.Code, false, "1040"}, {table.Category, false, "Kites > Deltas"}, {table.Price, false, "24.90"},
		{table.Option("colour"), false, "amber"}, {table.Attribute("material"), false, "ripstop"}},
	"pictures": {{table.SKU, true, "PK-DLT-140-AMB"}, {table.Picture, true, "PK-DLT-140-AMB_1.jpg"}, {table.Position, false, "1"}, {table.MainFlag, false, "yes"},
		{table.Alt, false, "Drift Delta 140 in amber, seen from the front"}},
}

// Empty writes an empty table of a kind as XLSX, with a page that explains each column. Errors: ErrKind.
func Empty(to io.Writer, kind string) error {
	columns, ok := kinds[kind]
	if !ok {
		return ErrKind
	}
	say := func(code string) string { return message.New(code).Text() }
	var all []sheet.Explained
	for _, c := range columns {
		e := sheet.Explained{Name: string(c.field), Goes: say("column_" + explained(c.field)), Example: c.example, Required: say("column_optional")}
		if c.required {
			e.Required = say("column_required")
		}
		all = append(all, e)
	}
	return sheet.WriteEmpty(to, all, [2]string{kind, say("column_page")}, [4]string{say("column_name"), say("column_goes"), say("column_needed"), say("column_example")})
}

func explained(f table.Field) string {
	switch {
	case f.IsOption():
		return "option"
	case f.IsAttribute():
		return "attribute"
	case slices.Contains(table.Fields, f):
		return string(f)
	}
	return ""
}
