package api

import (
	"context"
	"encoding/json"
	"net/http"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

// LookupAhead is what a run of a lookup would ask for.
type LookupAhead struct {
	Ask     int `json:"ask" doc:"Barcodes that will be asked for."`
	Known   int `json:"known" doc:"Of which the answer is known, and has pictures."`
	Nothing int `json:"nothing" doc:"Of which the service had nothing within 30 days; they are not asked for."`
	None    int `json:"none" doc:"Products and variants without a picture and without a barcode."`
	Wrong   int `json:"wrong" doc:"With a wrong barcode, or a house code that the service does not take."`
	Today   int `json:"today" doc:"Asked for today already."`
	ADay    int `json:"aDay" doc:"That may be asked for a day; 0 for any number."`
}

// LookupState is how a run went.
type LookupState struct {
	All      int32           `json:"all"`
	Found    int32           `json:"found"`
	None     int32           `json:"none"`
	Failed   int32           `json:"failed"`
	Waiting  int32           `json:"waiting" doc:"Not asked for: the limit of the day was reached, or it goes on still."`
	Failures []LookupFailure `json:"failures" doc:"The first 100."`
}

// LookupFailure is a barcode that could not be asked for.
type LookupFailure struct {
	Barcode string          `json:"barcode"`
	Message json.RawMessage `json:"message"`
}

func (s *Server) lookupRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/lookup", "look-ahead", "What a lookup would ask for: all products and variants without a picture that have a barcode"),
		func(ctx context.Context, in *ByID) (*body[LookupAhead], error) {
			a, err := s.Sources.LookAhead(ctx, in.ID)
			return answer(LookupAhead{Ask: a.Ask, Known: a.Known, Nothing: a.Nothing, None: a.None, Wrong: a.Wrong, Today: a.Today, ADay: a.ADay}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/sources/{id}/lookup", "look-up", "Ask a barcode service for pictures, as a delivery"),
		func(ctx context.Context, in *ByID) (*body[idBody], error) {
			id, err := s.Sources.LookUp(ctx, person(ctx).ID, in.ID)
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/lookups/{id}", "get-lookup", "How a run of a lookup went; by the number of its delivery"),
		func(ctx context.Context, in *ByID) (*body[LookupState], error) {
			c, err := s.Store.LookupCounts(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			rows, err := s.Store.LookupFailures(ctx, in.ID)
			out := LookupState{All: c.All, Found: c.Found, None: c.None, Failed: c.Failed, Waiting: c.Waiting, Failures: make([]LookupFailure, len(rows))}
			for i, r := range rows {
				out.Failures[i] = LookupFailure{r.Barcode, r.Message}
			}
			return answer(out), problem(err)
		})
}
