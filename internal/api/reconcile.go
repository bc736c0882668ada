package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"ambrosa/internal/people"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

// ReconciledBody is a file of a drive beside the pictures that are here.
type ReconciledBody struct {
	Item     string     `json:"item"`
	N        int32      `json:"n"`
	Path     string     `json:"path" doc:"There; or here, where it is only here."`
	Bytes    int64      `json:"bytes"`
	Modified *time.Time `json:"modified,omitempty"`
	What     string     `json:"what" enum:"same,differs,elsewhere,only_there,only_here"`
	HerePath string     `json:"herePath,omitempty"`
	Here     *sizeBody  `json:"here,omitempty" doc:"The picture here that it is, or may be."`
	Placed   int32      `json:"placed,omitempty" doc:"On how many owners that picture stands."`
	Ignored  bool       `json:"ignored,omitempty" doc:"It is not collected."`
}

type reconciliationBody struct {
	State  string           `json:"state" enum:"none,waiting,working,stopping,stopped,done,failed"`
	Done   int64            `json:"done" doc:"Files that were found so far."`
	At     *time.Time       `json:"at,omitempty" doc:"When it was looked at last."`
	Counts map[string]int32 `json:"counts"`
}

func (s *Server) reconcileRoutes(api huma.API) {
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/sources/{id}/reconciliation", "reconcile", "Put a drive beside all pictures, in the background"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Sources.Reconcile(ctx, person(ctx).ID, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/sources/{id}/reconciliation", "stop-reconciling", "Stop looking at a drive"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Jobs.Stop(ctx, sources.Reconciling, in.ID))
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/reconciliation", "get-reconciliation", "How far it is, and how much was found of each kind"),
		func(ctx context.Context, in *ByID) (*body[reconciliationBody], error) {
			b, err := s.reconciliation(ctx, in.ID)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/reconciled", "list-reconciled", "A page of what was found"),
		func(ctx context.Context, in *struct {
			ByID
			What  string `query:"what" enum:"same,differs,elsewhere,only_there,only_here"`
			After int32  `query:"after" minimum:"0"`
			Most  int32  `query:"most" minimum:"1" maximum:"1000" default:"1000"`
		}) (*body[[]ReconciledBody], error) {
			rows, err := s.Store.Reconciled(ctx, query.ReconciledParams{Source: in.ID, What: in.What, After: in.After, Most: in.Most})
			all := make([]ReconciledBody, len(rows))
			for i, r := range rows {
				all[i] = ReconciledBody{Item: r.Item, N: r.N, Path: r.Path, Bytes: r.Bytes, Modified: r.Modified, What: r.What, HerePath: r.HerePath, Placed: r.Placed,
					Ignored: r.Mark == sources.Ignored}
				if r.Sha != "" {
					all[i].Here = &sizeBody{r.Sha, r.Width, r.Height, r.HereBytes}
				}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/sources/{id}/marks", "mark-files", "Have files of a drive not collected any more, or again"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Items   []pathText `json:"items" maxItems:"100000"`
				Ignored bool       `json:"ignored"`
			}
		}) (*struct{}, error) {
			return nil, problem(s.Sources.Ignore(ctx, in.ID, plainTexts(in.Body.Items), in.Body.Ignored))
		})
}

// reconciliation is how far the look at a drive is, and what it found.
func (s *Server) reconciliation(ctx context.Context, id int64) (b reconciliationBody, err error) {
	b = reconciliationBody{State: "none", Counts: map[string]int32{}}
	job, err := s.Store.JobOf(ctx, query.JobOfParams{Kind: sources.Reconciling, Subject: id})
	if errors.Is(err, pgx.ErrNoRows) {
		return b, nil
	}
	if err != nil {
		return b, err
	}
	b.State, b.Done, b.At = job.State, job.Done, job.EndedAt
	rows, err := s.Store.CountReconciled(ctx, id)
	for _, r := range rows {
		b.Counts[r.What] = r.Count
	}
	return b, err
}
