package api

import (
	"context"
	"net/http"
	"time"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

type assignmentBody struct {
	ID      int64     `json:"id"`
	Name    string    `json:"name"`
	SavedAt time.Time `json:"savedAt"`
	Person  string    `json:"person"`
}

// assignmentRoutes are about how tables are read, saved under names.
func (s *Server) assignmentRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tables/{id}/assignments", "list-assignments",
		"How tables with the same header were read, as it was saved; the newest first, at most 50"),
		func(ctx context.Context, in *ByID) (*body[[]assignmentBody], error) {
			rows, err := s.Tables.Assignments(ctx, in.ID)
			out := make([]assignmentBody, len(rows))
			for i, r := range rows {
				out[i] = assignmentBody{r.ID, r.Name, r.SavedAt, r.Person}
			}
			return answer(out), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tables/{id}/assignments", "save-assignment",
		"Save how a table is read, under a name, for tables with the same header"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Name string `json:"name" minLength:"1" maxLength:"200"`
			}
		}) (*body[idBody], error) {
			id, err := s.Tables.SaveAssignment(ctx, in.ID, person(ctx).ID, in.Body.Name)
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tables/{id}/assignments/{assignment}/use", "use-assignment",
		"Read a table as was saved; it is checked again"),
		func(ctx context.Context, in *struct {
			ByID
			Assignment int64 `path:"assignment" minimum:"1"`
		}) (*struct{}, error) {
			return nil, problem(s.Tables.UseAssignment(ctx, in.ID, in.Assignment))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/assignments/{id}", "remove-assignment", "Remove what was saved of how tables are read"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Tables.RemoveAssignment(ctx, in.ID))
		})
}
