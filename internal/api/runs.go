package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/core/message"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

type runBody struct {
	ID         int64             `json:"id"`
	Plan       int64             `json:"plan"`
	Kind       string            `json:"kind" doc:"What made its plan: pairing, catalogue, undo …"`
	Title      string            `json:"title" doc:"Of an undo, that of the run which it takes back."`
	Rule       string            `json:"rule,omitempty"`
	State      string            `json:"state" enum:"waiting,working,stopping,stopped,done,failed"`
	Notes      []message.Message `json:"notes" doc:"Why it waits or failed."`
	Changes    int32             `json:"changes"`
	Done       int32             `json:"done"`
	Applied    int32             `json:"applied"`
	LeftAlone  int32             `json:"leftAlone"`
	Undone     int32             `json:"undone" doc:"How many of the lines that were made are taken back."`
	Person     string            `json:"person"`
	CreatedAt  time.Time         `json:"createdAt"`
	FinishedAt *time.Time        `json:"finishedAt,omitempty"`
	Delivery   int64             `json:"delivery,omitempty"`
	Worksheet  int64             `json:"worksheet,omitempty" doc:"The table in hand that its plan was made from."`
	Undoes     *int64            `json:"undoes,omitempty"`
	UndoneBy   int64             `json:"undoneBy,omitempty" doc:"The last run that took lines of this one back which are still taken back."`
}

func (s *Server) runRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/runs", "list-runs", "The ledger: runs, newest first"),
		func(ctx context.Context, in *struct {
			Before int64 `query:"before" minimum:"0" doc:"Give the runs before this number; 0 for the newest."`
			Most   int32 `query:"most" minimum:"1" maximum:"500" default:"200"`
		}) (*body[[]runBody], error) {
			page := query.RunsParams{Most: in.Most}
			if in.Before > 0 {
				page.Before = &in.Before
			}
			rows, err := s.Store.Runs(ctx, page)
			all := make([]runBody, len(rows))
			for i, r := range rows {
				if all[i], err = run(r); err != nil {
					return nil, err
				}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/runs/{id}", "get-run", "A run and how far it is"),
		func(ctx context.Context, in *ByID) (*body[runBody], error) {
			rows, err := s.Store.Runs(ctx, query.RunsParams{ID: &in.ID, Most: 1})
			if err == nil && len(rows) == 0 {
				err = pgx.ErrNoRows
			}
			if err != nil {
				return nil, problem(err)
			}
			one, err := run(rows[0])
			return answer(one), err
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/runs/{id}/stop", "stop-run", "Stop a run after the lines in hand"),
		func(ctx context.Context, in *ByID) (*struct{}, error) { return nil, problem(s.Ledger.Stop(ctx, in.ID)) })
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/runs/{id}/resume", "resume-run", "Resume a stopped run"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Ledger.Resume(ctx, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/runs/{id}/undo", "plan-undo",
		"Make the plan that takes a run back; apply it like any other"),
		func(ctx context.Context, in *ByID) (*body[idBody], error) {
			id, err := s.Ledger.PlanUndo(ctx, in.ID, person(ctx).ID)
			return answer(idBody{id}), problem(err)
		})
}

func run(r query.RunsRow) (runBody, error) {
	out := runBody{ID: r.ID, Plan: r.PlanID, Kind: r.Kind, Title: r.Title, State: r.State, Changes: r.Changes, Done: r.Done,
		Applied: r.Applied, LeftAlone: r.LeftAlone, Undone: r.Undone, Person: r.Person, CreatedAt: r.CreatedAt, FinishedAt: r.FinishedAt,
		Undoes: r.Undoes, UndoneBy: r.UndoneBy}
	source, err := sourceOf(r.Source)
	if err != nil {
		return out, err
	}
	out.Delivery, out.Worksheet, out.Rule = source.Delivery, source.Worksheet, string(source.Rule)
	err = json.Unmarshal(r.Notes, &out.Notes)
	return out, err
}
