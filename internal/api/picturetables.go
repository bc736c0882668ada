package api

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"slices"
	"time"

	"ambrosa/core/table"
	"ambrosa/internal/gather"
	"ambrosa/internal/people"
	"ambrosa/internal/tables"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

// pictureColumn is a column of a picture table.
type pictureColumn struct {
	Column string `json:"column" maxLength:"40" doc:"preview, name, path, link, address, width, height, bytes, type, sku, title, kind, position, main, alt, delivery, supplier, sha256."`
	Header string `json:"header,omitempty" maxLength:"200" doc:"What its header says; the column's name where it is empty."`
}

type presetBody struct {
	ID      int64           `json:"id"`
	Name    string          `json:"name"`
	Columns []pictureColumn `json:"columns"`
	Side    int32           `json:"side" doc:"Of previews in pixels."`
	SavedAt time.Time       `json:"savedAt"`
	Person  string          `json:"person"`
}

// presetRoutes are about what picture tables hold, saved under names.
func (s *Server) presetRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/picture-presets", "list-picture-presets", "What picture tables hold, saved under names; at most 200"),
		func(ctx context.Context, _ *struct{}) (*body[[]presetBody], error) {
			rows, err := s.Tables.Presets(ctx)
			out := make([]presetBody, len(rows))
			for i, r := range rows {
				out[i] = presetBody{ID: r.ID, Name: r.Name, Side: r.Side, SavedAt: r.SavedAt, Person: r.Person}
				if err := json.Unmarshal(r.Columns, &out[i].Columns); err != nil {
					return nil, err
				}
			}
			return answer(out), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/picture-presets", "save-picture-preset", "Save what a picture table holds, under a name"),
		func(ctx context.Context, in *struct {
			Body struct {
				Name    string          `json:"name" minLength:"1" maxLength:"200"`
				Columns []pictureColumn `json:"columns" minItems:"1" maxItems:"40"`
				Side    int             `json:"side" minimum:"32" maximum:"480"`
			}
		}) (*body[idBody], error) {
			id, err := s.Tables.SavePreset(ctx, person(ctx).ID, tables.Preset{Name: in.Body.Name, Columns: shotColumns(in.Body.Columns), Side: in.Body.Side})
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/picture-presets/{id}", "remove-picture-preset", "Remove what was saved of picture tables"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Tables.RemovePreset(ctx, in.ID))
		})
}

func shotColumns(some []pictureColumn) []tables.ShotColumn {
	all := make([]tables.ShotColumn, len(some))
	for i, c := range some {
		all[i] = tables.ShotColumn{Column: table.ShotColumn(c.Column), Header: c.Header}
	}
	return all
}

// pictureSpec is what a picture table shall hold.
type pictureSpec struct {
	Columns  []pictureColumn `json:"columns"`
	Side     int             `json:"side"`
	Format   string          `json:"format"`
	Ticket   string          `json:"ticket"`
	Delivery int64           `json:"delivery"`
	Category int64           `json:"category"`
	Sheet    string          `json:"sheet"`
	Cell     string          `json:"cell"`
}

// largestBook is how large a workbook may be that is written into, in bytes.
const largestBook = 64 << 20

// pictureTables makes picture tables; a workbook to write into is the body.
func (s *Server) pictureTables(app *fiber.App, api huma.API) {
	op := operation(people.Viewer, http.MethodPost, "/api/picture-tables", "make-picture-table",
		"A table of pictures, of those that a ticket of /api/gallery/zip names, a delivery, a category or all owners, with chosen columns; with a workbook (XLSX) as the body it is written into that, at a cell or "+
			"below its rows, and what stands there stays")
	op.Parameters = []*huma.Param{{Name: "spec", In: "query", Required: true, Schema: &huma.Schema{Type: huma.TypeString, MaxLength: new(16_000)},
		Description: `JSON: {"columns": [{"column", "header"}], "side": pixels of previews, "format": "xlsx", "csv" or "ods", "ticket": text, "delivery": number, "category": number, "sheet": name, "cell": "B5"}.`}}
	s.plain(app, api, op, s.makePictureTable)
}

func (s *Server) makePictureTable(c *fiber.Ctx) error {
	var spec pictureSpec
	if err := json.Unmarshal([]byte(c.Query("spec")), &spec); err != nil || !slices.Contains(formats, spec.Format) || spec.Side < 32 || spec.Side > 480 {
		return fiber.NewError(fiber.StatusUnprocessableEntity, "The spec is no JSON of a picture table, or its format or size is unknown.")
	}
	shots := tables.Shots{Columns: shotColumns(spec.Columns), Side: spec.Side, Delivery: spec.Delivery, Category: spec.Category, Sheet: spec.Sheet, Cell: spec.Cell,
		Site: c.BaseURL()}
	if spec.Ticket != "" {
		asked, err := s.Gatherer.Download(c.UserContext(), spec.Ticket, person(c.UserContext()).ID)
		if err == nil && len(asked.Pictures) == 0 {
			err = gather.ErrNothing
		}
		if err != nil {
			return problem(err)
		}
		shots.Pictures = asked.Pictures
	}
	if from := c.Context().RequestBodyStream(); from != nil {
		book, err := io.ReadAll(io.LimitReader(&checkedBody{r: from, check: s.Gatherer.Room}, largestBook+1))
		if err != nil {
			return err
		}
		if len(book) > largestBook {
			return problem(tables.ErrLarge)
		}
		if len(book) > 0 {
			shots.Book, spec.Format = bytes.NewReader(book), "xlsx"
		}
	}
	name := "pictures." + spec.Format
	return s.sendMade(c, name, func(to io.Writer) error { return problem(s.Tables.PictureTable(c.UserContext(), shots, name, to)) })
}
