package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/internal/people"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

type visitBody struct {
	ID           int64           `json:"id" doc:"That of its delivery."`
	Title        string          `json:"title"`
	State        string          `json:"state" enum:"open,waiting,taking_in,stopping,stopped,ready,failed"`
	Notes        json.RawMessage `json:"notes" doc:"Why it waits or failed: messages of code and data."`
	CreatedAt    time.Time       `json:"createdAt"`
	FinishedAt   *time.Time      `json:"finishedAt,omitempty"`
	BeganAt      *time.Time      `json:"beganAt,omitempty"`
	Person       string          `json:"person"`
	Lines        int32           `json:"lines"`
	Pictures     int32           `json:"pictures"`
	Problems     int32           `json:"problems"`
	Visited      bool            `json:"visited" doc:"It was compared with what was there before."`
	Listed       bool            `json:"listed"`
	Found        int64           `json:"found"`
	Wanted       int64           `json:"wanted"`
	Same         int64           `json:"same"`
	New          int64           `json:"new"`
	Changed      int64           `json:"changed"`
	Renamed      int64           `json:"renamed"`
	Gone         int64           `json:"gone"`
	Bytes        int64           `json:"bytes" doc:"Of what had to come."`
	Fetched      int64           `json:"fetched"`
	FetchedBytes int64           `json:"fetchedBytes"`
}

// VisitFileBody is a file that is not as it was.
type VisitFileBody struct {
	Item     string     `json:"item"`
	N        int32      `json:"n"`
	Path     string     `json:"path"`
	Bytes    int64      `json:"bytes"`
	Modified *time.Time `json:"modified,omitempty"`
	What     string     `json:"what" enum:"new,changed,renamed,gone,same"`
	Formerly string     `json:"formerly,omitempty" doc:"Its former path, where it was renamed."`
	Arrival  int64      `json:"arrival,omitempty"`
	Before   *sizeBody  `json:"before,omitempty" doc:"The picture that was there."`
	Now      *sizeBody  `json:"now,omitempty" doc:"The picture that came."`
	Apart    *int32     `json:"apart,omitempty" doc:"In how many of 64 bits their likenesses differ; 0 looks the same."`
	Placed   int32      `json:"placed,omitempty" doc:"On how many owners the former picture stands."`
}

// sizeBody is a picture and its size.
type sizeBody struct {
	Sha    string `json:"sha"`
	Width  int32  `json:"width"`
	Height int32  `json:"height"`
	Bytes  int64  `json:"bytes"`
}

func visitFile(r query.VisitFilesRow) VisitFileBody {
	b := VisitFileBody{Item: r.Item, N: r.N, Path: r.Path, Bytes: r.Bytes, Modified: r.Modified, What: r.What, Formerly: r.BeforePath, Arrival: r.Arrival, Placed: r.Placed}
	if r.BeforeSha != "" {
		b.Before = &sizeBody{r.BeforeSha, r.BeforeWidth, r.BeforeHeight, r.BeforeBytes}
	}
	if r.Sha != "" {
		b.Now = &sizeBody{r.Sha, r.Width, r.Height, r.NowBytes}
	}
	if r.Apart >= 0 {
		b.Apart = &r.Apart
	}
	return b
}

func (s *Server) visitRoutes(api huma.API) {
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/sources/{id}/visits", "collect", "Collect what is new or changed at a source since the last visit"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Chosen    []pathText `json:"chosen,omitempty" maxItems:"10000" doc:"Files, and folders, which end in a slash; none for all."`
				Most      int        `json:"most,omitempty" minimum:"0" maximum:"100000" doc:"Of pages: only so many items; 0 for all."`
				Addresses bool       `json:"addresses,omitempty" doc:"Of pages: only the addresses of pictures, no picture."`
			}
		}) (*body[idBody], error) {
			id, err := s.Sources.CollectAs(ctx, person(ctx).ID, in.ID, plainTexts(in.Body.Chosen), sources.Wish{Most: in.Body.Most, Addresses: in.Body.Addresses})
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/visits", "list-visits", "A page of what came from a source, the newest first"),
		func(ctx context.Context, in *struct {
			ByID
			Before int64 `query:"before" minimum:"0"`
			Most   int32 `query:"most" minimum:"1" maximum:"200" default:"100"`
		}) (*body[[]visitBody], error) {
			rows, err := s.Store.Visits(ctx, query.VisitsParams{Source: &in.ID, Before: in.Before, Most: in.Most})
			all := make([]visitBody, len(rows))
			for i, r := range rows {
				all[i] = visitBody{ID: r.ID, Title: r.Title, State: r.State, Notes: r.Notes, CreatedAt: r.CreatedAt, FinishedAt: r.FinishedAt, BeganAt: r.BeganAt, Person: r.Person,
					Lines: r.Lines, Pictures: r.Pictures, Problems: r.Problems, Visited: r.Visited, Listed: r.Listed, Found: r.Found, Wanted: r.Wanted, Same: r.Same,
					New: r.Fresh, Changed: r.Changed, Renamed: r.Renamed, Gone: r.Gone, Bytes: r.Bytes, Fetched: r.Fetched, FetchedBytes: r.FetchedBytes}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/visits/{id}/files", "list-visit-files", "A page of what a visit found that is not as it was"),
		func(ctx context.Context, in *struct {
			ByID
			What  string `query:"what" enum:"new,changed,renamed,gone,same" doc:"Only these; without it, all but what is the same."`
			After int32  `query:"after" minimum:"0"`
			Most  int32  `query:"most" minimum:"1" maximum:"1000" default:"1000"`
		}) (*body[[]VisitFileBody], error) {
			rows, err := s.Store.VisitFiles(ctx, query.VisitFilesParams{Delivery: in.ID, After: in.After, What: in.What, Most: in.Most})
			all := make([]VisitFileBody, len(rows))
			for i, r := range rows {
				all[i] = visitFile(r)
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/visits/{id}/renewal", "plan-renewal",
		"Make the plan that puts changed pictures in the place of those that they replace at the source"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Items []pathText `json:"items,omitempty" maxItems:"100000" doc:"Of the visit's files; none for all."`
			}
		}) (*body[idBody], error) {
			id, err := s.Sources.Renew(ctx, person(ctx).ID, in.ID, plainTexts(in.Body.Items))
			return answer(idBody{id}), problem(err)
		})
}
