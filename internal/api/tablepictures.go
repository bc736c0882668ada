package api

import (
	"context"
	"net/http"
	"time"

	"ambrosa/core/table"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tables"

	"github.com/danielgtaylor/huma/v2"
)

type rowPictureBody struct {
	Name string `json:"name"`
	SHA  string `json:"sha,omitempty" doc:"None where no picture is called so."`
}

// ownDelivery is a delivery that belongs to a table.
type ownDelivery struct {
	ID        int64  `json:"id"`
	Title     string `json:"title"`
	State     string `json:"state"`
	Collected bool   `json:"collected" doc:"It was collected from the table's addresses and cells."`
	Done      int64  `json:"done"`
	Total     int64  `json:"total" doc:"How many files are expected; 0 where nobody knows."`
	Problems  int32  `json:"problems"`
	Pictures  int32  `json:"pictures"`
}

type alikeBody struct {
	Asset     int64     `json:"asset"`
	SHA       string    `json:"sha"`
	Path      string    `json:"path"`
	Delivery  string    `json:"delivery"`
	CreatedAt time.Time `json:"createdAt"`
	Width     int32     `json:"width"`
	Height    int32     `json:"height"`
	Bytes     int64     `json:"bytes"`
	Attached  bool      `json:"attached" doc:"It came in a delivery that belongs to the table."`
}

type foundTable struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// tablePictureRoutes are about the pictures that a table names.
func (s *Server) tablePictureRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tables/{id}/rows/{row}/pictures", "list-row-pictures",
		"The pictures that a row names, at most 20"),
		func(ctx context.Context, in *struct {
			ByID
			Row int32 `path:"row" minimum:"1" maximum:"1048576"`
		}) (*body[[]rowPictureBody], error) {
			shown, err := s.Tables.Pictures(ctx, in.ID, in.Row)
			out := make([]rowPictureBody, len(shown))
			for i, p := range shown {
				out[i] = rowPictureBody(p)
			}
			return answer(out), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tables/{id}/alike", "list-alike-pictures",
		"The pictures that a name in a table may mean, its own first, at most 40"),
		func(ctx context.Context, in *struct {
			ByID
			Name string `query:"name" required:"true" minLength:"1" maxLength:"4096"`
		}) (*body[[]alikeBody], error) {
			all, err := s.Tables.Alike(ctx, in.ID, in.Name)
			out := make([]alikeBody, len(all))
			for i, a := range all {
				out[i] = alikeBody{Asset: a.Asset, SHA: a.Sha, Path: a.Path, Delivery: a.Delivery, CreatedAt: a.CreatedAt, Width: a.Width, Height: a.Height,
					Bytes: a.Bytes, Attached: a.Attached}
			}
			return answer(out), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/tables/{id}/choices", "choose-picture",
		"Say which picture a row of a table means by a name, or all rows; the table is checked again"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Row        int32  `json:"row" minimum:"0" maximum:"1048576" doc:"0 for all rows."`
				Name       string `json:"name" minLength:"1" maxLength:"4096"`
				Asset      int64  `json:"asset" minimum:"1"`
				Everywhere bool   `json:"everywhere,omitempty" doc:"It also goes wherever the others of that name stand."`
			}
		}) (*struct{}, error) {
			b := in.Body
			return nil, problem(s.Tables.Choose(ctx, in.ID, tables.Chosen{Row: b.Row, Name: b.Name, Pick: table.Pick{Asset: b.Asset, Everywhere: b.Everywhere}}))
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tables/{id}/collect", "collect-pictures",
		"Collect the pictures that a table names by address or that lie in its cells, as a delivery of its own; its number is returned"),
		func(ctx context.Context, in *ByID) (*body[idBody], error) {
			id, err := s.Tables.Collect(ctx, in.ID, person(ctx).ID)
			return answer(idBody{id}), problem(err)
		})
	attach := func(off bool) func(context.Context, *attachRequest) (*struct{}, error) {
		return func(ctx context.Context, in *attachRequest) (*struct{}, error) {
			return nil, problem(s.Tables.Attach(ctx, in.ID, in.Delivery, off))
		}
	}
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/tables/{id}/deliveries/{delivery}", "attach-delivery",
		"Make a delivery one of a table's own: its pictures come before all others"), attach(false))
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/tables/{id}/deliveries/{delivery}", "detach-delivery",
		"A delivery is no more one of a table's own"), attach(true))
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/tables", "list-found-tables",
		"The tables that lay beside the pictures of a delivery, at most 20"),
		func(ctx context.Context, in *ByID) (*body[[]foundTable], error) {
			rows, err := s.Store.TablesFound(ctx, query.TablesFoundParams{Delivery: in.ID, Most: 20})
			out := make([]foundTable, len(rows))
			for i, r := range rows {
				out[i] = foundTable(r)
			}
			return answer(out), problem(err)
		})
}

// attachRequest names a table and a delivery; exported fields are read from the path.
type attachRequest struct {
	ByID
	Delivery int64 `path:"delivery" minimum:"1"`
}
