package tables

import (
	"context"
	"encoding/json"
	"io"

	"ambrosa/internal/sheet"
)

// Write writes a table as it stands, header first, in the format of the name. Rows that are left out are not written.
func (t *Tables) Write(ctx context.Context, id int64, name string, to io.Writer) error {
	w, err := t.Store.WorksheetByID(ctx, id)
	if err != nil {
		return err
	}
	var header []string
	if err := json.Unmarshal(w.Header, &header); err != nil {
		return err
	}
	out, err := sheet.NewWriter(to, name)
	if err != nil {
		return err
	}
	if err := out.Row(header); err != nil {
		return err
	}
	if err := t.each(ctx, id, func(r Row) error {
		if r.LeftOut {
			return nil
		}
		return out.Row(r.Texts())
	}); err != nil {
		return err
	}
	return out.Close()
}
