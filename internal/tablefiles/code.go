package tablefiles

import (
	"errors"

	"ambrosa/core/catalogue"
	"ambrosa/internal/sheet"
)

// Code is what an error of reading a table is called in messages; empty where it is another.
func Code(err error) string {
	for _, of := range []struct {
		err  error
		code string
	}{{ErrEmpty, "table_empty"}, {catalogue.ErrNoSKU, "table_without_sku"}, {sheet.ErrNoTable, "table_no_text"},
		{catalogue.ErrColumns, "table_wide"}, {sheet.ErrPassword, "table_password"}, {sheet.ErrOld, "table_old"},
		{sheet.ErrDamaged, "table_damaged"}, {sheet.ErrTooLarge, "table_bomb"}} {
		if errors.Is(err, of.err) {
			return of.code
		}
	}
	return ""
}
