package api

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"

	"ambrosa/core/message"
	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

type importBody struct {
	ID    int64             `json:"id"`
	Name  string            `json:"name"`
	State string            `json:"state" enum:"waiting,working,stopping,stopped,done,failed"`
	Plan  *int64            `json:"plan,omitempty" doc:"Its plan; none where it is done and everything stands as in the table."`
	Notes []message.Message `json:"notes" doc:"Why it waits or failed."`
}

// imports take a table as it comes, without reading it into memory.
func (s *Server) imports(app *fiber.App, api huma.API) {
	op := operation(people.Editor, http.MethodPost, "/api/catalogue/imports", "begin-import",
		"Send a products table (CSV) as the body; its plan is made in the background, and nothing is changed by it")
	op.Parameters = []*huma.Param{{Name: "name", In: "query", Schema: &huma.Schema{Type: huma.TypeString, MaxLength: new(200)}, Description: "The file's name."}}
	s.plain(app, api, op, func(c *fiber.Ctx) error {
		name := c.Query("name")
		if len(name) > 200 {
			return fiber.NewError(fiber.StatusUnprocessableEntity, "The name is longer than 200 bytes.")
		}
		table := c.Context().RequestBodyStream()
		if table == nil {
			table = bytes.NewReader(nil)
		}
		id, err := s.Importer.Bring(c.UserContext(), name, &checkedBody{r: table, check: s.Gatherer.Room}, person(c.UserContext()).ID)
		if err != nil {
			return problem(err)
		}
		return c.Status(fiber.StatusAccepted).JSON(idBody{id})
	})
}

func (s *Server) importRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/catalogue/imports/{id}", "get-import",
		"A table that was sent, and its plan once that is made"),
		func(ctx context.Context, in *ByID) (*body[importBody], error) {
			of, err := s.Store.ImportByID(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			out := importBody{ID: of.ID, Name: of.Name, State: of.State, Plan: of.PlanID}
			err = json.Unmarshal(of.Notes, &out.Notes)
			return answer(out), err
		})
}
