package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"os"
	"slices"

	"ambrosa/internal/people"
	"ambrosa/internal/sheet"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

// sheetRoutes make files of the lines that a screen shows.
func (s *Server) sheetRoutes(app *fiber.App, api huma.API) {
	op := operation(people.Viewer, http.MethodPost, "/api/sheets", "make-sheet", "Rows, each a JSON array of texts on a line, as a file; nothing is kept of them")
	op.Parameters = []*huma.Param{{Name: "name", In: "query", Schema: &huma.Schema{Type: huma.TypeString, MaxLength: new(200)}},
		{Name: "format", In: "query", Schema: &huma.Schema{Type: huma.TypeString, Enum: []any{"csv", "xlsx", "ods"}}}}
	s.plain(app, api, op, s.makeSheet)
}

// mostSheet is how large the rows may be that a screen sends, in bytes.
const mostSheet = 512 << 20

func (s *Server) makeSheet(c *fiber.Ctx) error {
	format, name := c.Query("format", "csv"), c.Query("name", "lines")
	if !slices.Contains(formats, format) || len(name) > 200 {
		return fiber.NewError(fiber.StatusUnprocessableEntity, sheet.ErrFormat.Error())
	}
	from := c.Context().RequestBodyStream()
	if from == nil {
		from = bytes.NewReader(nil)
	}
	return s.sendMade(c, name+"."+format, func(to io.Writer) error {
		return writeRows(io.LimitReader(&checkedBody{r: from, check: s.Gatherer.Room}, mostSheet), to, format)
	})
}

// sendMade makes a file and sends it once it is whole: while an answer is sent the request is over, and what is wrong is told no more.
func (s *Server) sendMade(c *fiber.Ctx, name string, write func(io.Writer) error) error {
	made, err := os.CreateTemp(s.Gatherer.Folder, "sheet-*.part") // a process that is killed leaves it to what clears tables
	if err != nil {
		return err
	}
	defer os.Remove(made.Name()) // it is open, and is read to its end all the same
	if err = write(made); err == nil {
		_, err = made.Seek(0, io.SeekStart)
	}
	if err != nil {
		_ = made.Close() // nothing of it is wanted any more
		return err
	}
	return s.stream(c, name, func(_ context.Context, to io.Writer) error {
		_, err := io.Copy(to, made)
		return errors.Join(err, made.Close())
	})
}

// writeRows writes JSON arrays of texts as a table.
func writeRows(from io.Reader, to io.Writer, format string) error {
	w, err := sheet.NewWriter(to, "x."+format)
	if err != nil {
		return err
	}
	for rows := json.NewDecoder(from); ; {
		var row []string
		switch err := rows.Decode(&row); {
		case err == io.EOF:
			return w.Close()
		case err != nil:
			return fiber.NewError(fiber.StatusUnprocessableEntity, "Rows are JSON arrays of texts, one a line.")
		}
		if err := w.Row(row); err != nil {
			return err
		}
	}
}
