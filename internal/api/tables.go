package api

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/placement"
	"ambrosa/core/table"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tables"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

// TableFacts are what is said of every table in hand.
type TableFacts struct {
	ID        int64          `json:"id"`
	Name      string         `json:"name"`
	State     string         `json:"state" enum:"waiting,working,stopping,stopped,done,failed" doc:"Of its reading and checking."`
	Rows      int32          `json:"rows"`
	Stopped   int32          `json:"stopped" doc:"Rows that do not go in as they are."`
	Kinds     map[string]int `json:"kinds" doc:"How many problems there are, by kind."`
	Plan      *int64         `json:"plan,omitempty" doc:"The plan that was made of it, while it stands as it was then."`
	Closed    bool           `json:"closed"`
	Person    string         `json:"person"`
	CreatedAt time.Time      `json:"createdAt"`
}

type tableBody struct {
	TableFacts
	Notes     []message.Message `json:"notes" doc:"Why its reading waits or failed."`
	Format    string            `json:"format" doc:"csv, xlsx, ods …"`
	Sheets    []tables.Sheet    `json:"sheets"`
	Sheet     int32             `json:"sheet" doc:"The place of the sheet that is read."`
	Read      bool              `json:"read"`
	Checked   bool              `json:"checked" doc:"What is wrong with it is told of it as it stands."`
	HeaderRow int32             `json:"headerRow"`
	Header    []string          `json:"header"`
	Fields    map[string]string `json:"fields" doc:"By a column's place, the field it is."`
	Types     map[string]string `json:"types" doc:"Of options and attributes, by a column's place: text, number, yes_no, date, address, list."`
	Key       string            `json:"key"`
	Mode      string            `json:"mode" enum:"create,update,both"`
	Clears    bool              `json:"clears" doc:"Whether an empty cell takes away what stands."`
	Delivery  *int64            `json:"delivery,omitempty" doc:"Whose pictures it names; without one, all pictures."`
	Remarks   []message.Message `json:"remarks" doc:"What is worth knowing of it and belongs to no row: hidden rows, columns of one name."`
	Own       []ownDelivery     `json:"own" doc:"The deliveries that belong to it: their pictures come before all others."`
	Waiting   int32             `json:"waiting" doc:"Pictures at addresses and in cells that are not here yet."`
	Choice    string            `json:"choice" doc:"Which picture is meant where one of its own has the name of another: attached, here, or replace; empty until somebody says so."`
	FoundIn   *int64            `json:"foundIn,omitempty" doc:"The delivery that it lay in."`
}

type tableRowBody struct {
	Row      int                `json:"row" doc:"As an office program counts."`
	Cells    []string           `json:"cells"`
	Broken   bool               `json:"broken,omitempty" doc:"Its quotes don't match; it stands in one cell."`
	LeftOut  bool               `json:"leftOut,omitempty"`
	Lying    []int              `json:"lying,omitempty" doc:"The columns in whose cells pictures lie."`
	Problems []tableProblemBody `json:"problems,omitempty"`
}

type tableProblemBody struct {
	Seq    int32           `json:"seq"`
	Column int32           `json:"column" doc:"-1 where it belongs to none."`
	Kind   string          `json:"kind"`
	Value  string          `json:"value"`
	Stops  bool            `json:"stops"`
	Repair *string         `json:"repair,omitempty" doc:"What the cell should say instead."`
	Why    message.Message `json:"why"`
}

type tableCellBody struct {
	Row    int    `json:"row" minimum:"1" maximum:"1048576"`
	Column int    `json:"column" minimum:"0" maximum:"16383"`
	Text   string `json:"text" maxLength:"40000"`
}

type cellsChangedBody struct {
	Cells int `json:"cells" doc:"How many changed."`
	Left  int `json:"left,omitempty" doc:"How many stay, as somebody changed them since."`
}

func (s *Server) tableRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tables", "list-tables", "The tables in hand, the newest first"),
		func(ctx context.Context, in *struct {
			Before int64 `query:"before" minimum:"0" doc:"Give those before this number; 0 for the newest."`
			Most   int32 `query:"most" minimum:"1" maximum:"200" default:"50"`
			Closed bool  `query:"closed" doc:"Also those that people are done with."`
		}) (*body[[]TableFacts], error) {
			if in.Before == 0 {
				in.Before = 1<<63 - 1
			}
			rows, err := s.Store.Worksheets(ctx, query.WorksheetsParams{Before: in.Before, Most: in.Most, Closed: in.Closed})
			all := make([]TableFacts, len(rows))
			for i, w := range rows {
				all[i] = TableFacts{ID: w.ID, Name: w.Name, State: w.State, Rows: w.Rows, Stopped: w.Stopped, Plan: w.PlanID, Closed: w.Closed,
					Person: w.Person, CreatedAt: w.CreatedAt}
				if err := json.Unmarshal(w.Kinds, &all[i].Kinds); err != nil {
					return nil, err
				}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tables/{id}", "get-table", "A table in hand"),
		func(ctx context.Context, in *ByID) (*body[tableBody], error) {
			w, err := s.table(ctx, in.ID)
			return answer(w), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPatch, "/api/tables/{id}", "describe-table",
		"Change what is said of a table; what is left out stays. It is checked again"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Fields   map[int]fieldName `json:"fields,omitempty" maxProperties:"500" doc:"By a column's place, the field it is."`
				Key      *string           `json:"key,omitempty" maxLength:"200"`
				Mode     *string           `json:"mode,omitempty" enum:"create,update,both"`
				Clears   *bool             `json:"clears,omitempty"`
				Delivery *int64            `json:"delivery,omitempty" minimum:"0" doc:"Whose pictures it names; 0 for all."`
				Sheet    *int              `json:"sheet,omitempty" minimum:"0" maximum:"10000"`
				Closed   *bool             `json:"closed,omitempty"`
				Types    map[int]typeName  `json:"types,omitempty" maxProperties:"500" doc:"By a column's place, what its cells are."`
				Choice   *string           `json:"choice,omitempty" enum:"attached,here,replace" doc:"Which picture is meant of several of one name."`
			}
		}) (*struct{}, error) {
			d := tables.Described{Key: in.Body.Key, Mode: in.Body.Mode, Clears: in.Body.Clears, Delivery: in.Body.Delivery, Sheet: in.Body.Sheet,
				Closed: in.Body.Closed, Choice: in.Body.Choice}
			if in.Body.Fields != nil {
				d.Fields = map[int]string{}
				for at, f := range in.Body.Fields {
					d.Fields[at] = string(f)
				}
			}
			if in.Body.Types != nil {
				d.Types = map[int]table.Type{}
				for at, of := range in.Body.Types {
					d.Types[at] = table.Type(of)
				}
			}
			return nil, problem(s.Tables.Describe(ctx, in.ID, d))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/tables/{id}", "remove-table", "Remove a table in hand; what was imported stays"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Tables.Remove(ctx, in.ID))
		})
	s.cellRoutes(api)
	s.tablePictureRoutes(api)
	s.assignmentRoutes(api)
}

// fieldName is a field as it is named outside.
type fieldName string

// typeName is what the cells of a column are.
type typeName string

// Schema bounds it.
func (typeName) Schema(huma.Registry) *huma.Schema {
	return &huma.Schema{Type: huma.TypeString, Enum: []any{"text", "number", "yes_no", "date", "address", "list"}}
}

// Schema bounds it.
func (fieldName) Schema(huma.Registry) *huma.Schema {
	return &huma.Schema{Type: huma.TypeString, MaxLength: new(200)}
}

func (s *Server) cellRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tables/{id}/rows", "list-rows",
		"Rows of a table with what is wrong with them; what belongs to no row stands in row 0"),
		func(ctx context.Context, in *struct {
			ByID
			After int32  `query:"after" minimum:"-1" default:"-1" doc:"Give the rows after this number; -1 from the beginning."`
			Most  int32  `query:"most" minimum:"1" maximum:"1000" default:"250"`
			Kind  string `query:"kind" maxLength:"60" doc:"Only rows that have a problem of this kind."`
		}) (*body[[]tableRowBody], error) {
			rows, err := s.tableRows(ctx, in.ID, in.After, in.Most, in.Kind)
			return answer(rows), problem(err)
		})
	edit := operation(people.Editor, http.MethodPut, "/api/tables/{id}/cells", "edit-cells", "Edit cells, as one step that you can undo")
	edit.MaxBodyBytes, edit.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, edit, func(ctx context.Context, in *struct {
		ByID
		Body []tableCellBody `minItems:"1" maxItems:"10000"`
	}) (*body[cellsChangedBody], error) {
		edits := make([]tables.Edit, len(in.Body))
		for i, c := range in.Body {
			edits[i] = tables.Edit(c)
		}
		n, err := s.Tables.Edit(ctx, in.ID, person(ctx).ID, edits)
		return answer(cellsChangedBody{Cells: n}), problem(err)
	})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/tables/{id}/left-out", "leave-out-rows", "Leave rows out, or take them in again"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Rows []int `json:"rows" minItems:"1" maxItems:"10000"`
				Out  bool  `json:"out"`
			}
		}) (*body[cellsChangedBody], error) {
			edits := make([]tables.Edit, len(in.Body.Rows))
			for i, r := range in.Body.Rows {
				edits[i] = tables.Edit{Row: r, Column: tables.Whole, Text: tables.In}
				if in.Body.Out {
					edits[i].Text = tables.Out
				}
			}
			n, err := s.Tables.Edit(ctx, in.ID, person(ctx).ID, edits)
			return answer(cellsChangedBody{Cells: n}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tables/{id}/repairs", "accept-repairs",
		"Accept repairs: those of some problems, else all of a kind, else all"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Kind     string  `json:"kind,omitempty" maxLength:"60"`
				Problems []int32 `json:"problems,omitempty" maxItems:"10000" doc:"Their seq."`
			}
		}) (*body[cellsChangedBody], error) {
			n, err := s.Tables.Repair(ctx, in.ID, person(ctx).ID, in.Body.Kind, in.Body.Problems)
			return answer(cellsChangedBody{Cells: n}), problem(err)
		})
	undo := func(again bool) func(context.Context, *ByID) (*body[cellsChangedBody], error) {
		return func(ctx context.Context, in *ByID) (*body[cellsChangedBody], error) {
			n, left, err := s.Tables.Undo(ctx, in.ID, person(ctx).ID, again)
			return answer(cellsChangedBody{n, left}), problem(err)
		}
	}
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tables/{id}/undo", "undo-edit", "Undo your last edit of a table"), undo(false))
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tables/{id}/redo", "redo-edit", "Do again what you undid last in a table"), undo(true))
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tables/{id}/plans", "plan-table",
		"Make the plan of a table; nothing is changed by it. Rows that are stopped do not go in"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Rule placement.Rule `json:"rule" enum:"only_where_empty,add_after,same_place,whole_set" doc:"For owners that have pictures."`
			}
		}) (*body[idBody], error) {
			id, err := s.Tables.Plan(ctx, in.ID, person(ctx).ID, in.Body.Rule)
			return answer(idBody{id}), problem(err)
		})
}

// table is a table in hand.
func (s *Server) table(ctx context.Context, id int64) (tableBody, error) {
	w, err := s.Store.WorksheetByID(ctx, id)
	if err != nil {
		return tableBody{}, err
	}
	out := tableBody{Format: w.Format, Sheet: w.Sheet, Read: w.Read, Checked: w.Read && w.Checked == w.Version, HeaderRow: w.HeaderRow, Key: w.Key, Mode: w.Mode,
		Clears: w.Clears, Delivery: w.DeliveryID, Waiting: w.Waiting, Choice: w.Choice, FoundIn: w.FoundIn, Own: []ownDelivery{}}
	own, err := s.Store.WorksheetDeliveries(ctx, id)
	if err != nil {
		return out, err
	}
	for _, d := range own {
		out.Own = append(out.Own, ownDelivery(d))
	}
	out.TableFacts = TableFacts{ID: w.ID, Name: w.Name, State: w.State, Rows: w.Rows, Stopped: w.Stopped, Plan: w.PlanID, Closed: w.ClosedAt != nil,
		Person: w.Person, CreatedAt: w.CreatedAt}
	for _, of := range []struct {
		kept json.RawMessage
		to   any
	}{{w.Notes, &out.Notes}, {w.Sheets, &out.Sheets}, {w.Header, &out.Header}, {w.Fields, &out.Fields}, {w.Types, &out.Types}, {w.Remarks, &out.Remarks}, {w.Kinds, &out.Kinds}} {
		if err := json.Unmarshal(of.kept, of.to); err != nil {
			return out, err
		}
	}
	return out, nil
}

// mostOnPage is how many problems a page of rows shows; a row of a broken table may have many.
const mostOnPage = 20_000

func (s *Server) tableRows(ctx context.Context, id int64, after, most int32, kind string) ([]tableRowBody, error) {
	rows, err := s.Tables.Rows(ctx, id, after, most, kind)
	if err != nil {
		return nil, err
	}
	out := make([]tableRowBody, 0, len(rows)+1)
	if after < 0 {
		out = append(out, tableRowBody{Cells: []string{}})
	}
	for _, r := range rows {
		row := tableRowBody{Row: r.Number, Cells: r.Texts(), Broken: r.Broken, LeftOut: r.LeftOut}
		for column, c := range r.Cells {
			if c.Picture != "" {
				row.Lying = append(row.Lying, column)
			}
		}
		out = append(out, row)
	}
	if len(out) == 0 {
		return out, nil
	}
	problems, err := s.Store.WorksheetProblemsOn(ctx, query.WorksheetProblemsOnParams{ID: id, FromRow: int32(out[0].Row), ToRow: int32(out[len(out)-1].Row), Most: mostOnPage})
	if err != nil {
		return nil, err
	}
	at := make(map[int32]*tableRowBody, len(out))
	for i := range out {
		at[int32(out[i].Row)] = &out[i]
	}
	for _, p := range problems {
		row := at[p.Row]
		if row == nil {
			continue
		}
		one := tableProblemBody{Seq: p.Seq, Column: p.Col, Kind: p.Kind, Value: p.Value, Stops: p.Stops, Repair: p.Repair}
		if err := json.Unmarshal(p.Why, &one.Why); err != nil {
			return nil, err
		}
		row.Problems = append(row.Problems, one)
	}
	return out, nil
}

// tableFiles take a table as it comes, and send it as it stands now.
func (s *Server) tableFiles(app *fiber.App, api huma.API) {
	op := operation(people.Editor, http.MethodPost, "/api/tables", "send-table",
		"Send a table (CSV, XLSX, ODS) as the body; it is read and checked in the background, and nothing is changed by it")
	op.Parameters = []*huma.Param{{Name: "name", In: "query", Schema: &huma.Schema{Type: huma.TypeString, MaxLength: new(200)}, Description: "The file's name."}}
	s.plain(app, api, op, func(c *fiber.Ctx) error {
		name := c.Query("name", "table.csv")
		if len(name) > 200 {
			return fiber.NewError(fiber.StatusUnprocessableEntity, "The name is longer than 200 bytes.")
		}
		from := c.Context().RequestBodyStream()
		if from == nil {
			from = bytes.NewReader(nil)
		}
		id, err := s.Tables.Bring(c.UserContext(), name, &checkedBody{r: from, check: s.Gatherer.Room}, person(c.UserContext()).ID)
		if err != nil {
			return problem(err)
		}
		return c.Status(fiber.StatusAccepted).JSON(idBody{id})
	})
	get := operation(people.Viewer, http.MethodGet, "/api/tables/{id}/file", "download-table",
		"A table as it stands now, repaired, without the rows that are left out; in the format it came in, or csv, xlsx, ods")
	get.Parameters = []*huma.Param{{Name: "id", In: "path", Required: true, Schema: &huma.Schema{Type: huma.TypeInteger}},
		{Name: "format", In: "query", Schema: &huma.Schema{Type: huma.TypeString, Enum: []any{"csv", "xlsx", "ods"}}}}
	s.plain(app, api, get, s.tableFile)
	whole := operation(people.Viewer, http.MethodGet, "/api/catalogue/file", "export-catalogue", "The whole catalogue as a table; imported unchanged, it changes nothing")
	whole.Parameters = []*huma.Param{{Name: "format", In: "query", Schema: &huma.Schema{Type: huma.TypeString, Enum: []any{"csv", "xlsx", "ods"}}}}
	s.plain(app, api, whole, s.catalogueFile)
	report := operation(people.Viewer, http.MethodGet, "/api/plans/{id}/report", "report-rows",
		"What became of each row of the table that a plan was made from, as far as its run has come")
	report.Parameters = []*huma.Param{{Name: "id", In: "path", Required: true, Schema: &huma.Schema{Type: huma.TypeInteger}},
		{Name: "format", In: "query", Schema: &huma.Schema{Type: huma.TypeString, Enum: []any{"csv", "xlsx", "ods"}}}}
	s.plain(app, api, report, s.planReport)
	empty := operation(people.Viewer, http.MethodGet, "/api/empty-tables/{kind}", "empty-table", "An empty table of products or pictures (XLSX), with a page that explains each column")
	empty.Parameters = []*huma.Param{{Name: "kind", In: "path", Required: true, Schema: &huma.Schema{Type: huma.TypeString, Enum: []any{"products", "pictures"}}}}
	s.plain(app, api, empty, s.emptyTable)
}
