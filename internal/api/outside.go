package api

import (
	"context"
	"net/http"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

// Outside is the demo's outside world.
type Outside interface {
	// Pass lets a day pass there.
	Pass() error
}

func (s *Server) outsideRoutes(api huma.API) {
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/outside/day", "pass-day", "In the demo: let a day pass at the suppliers' servers, so that collecting again finds something"),
		func(context.Context, *struct{}) (*struct{}, error) {
			if s.Outside == nil {
				return nil, problem(errMissing)
			}
			return nil, problem(s.Outside.Pass())
		})
}
