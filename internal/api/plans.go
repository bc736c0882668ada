package api

import (
	"ambrosa/internal/people"
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"time"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

type planBody struct {
	ID        int64               `json:"id"`
	Kind      string              `json:"kind" enum:"pairing,catalogue,order,undo"`
	Title     string              `json:"title"`
	Delivery  *int64              `json:"delivery,omitempty"`
	Undoes    *int64              `json:"undoes,omitempty" doc:"The run that this takes back."`
	Rule      string              `json:"rule,omitempty"`
	Changes   int32               `json:"changes"`
	Gone      int32               `json:"gone,omitempty" doc:"How many pictures the plan takes off their owners."`
	Stale     bool                `json:"stale,omitempty" doc:"Decisions, the ladder or the catalogue have changed since the plan was made; make it again."`
	Problems  []catalogue.Problem `json:"problems" doc:"Lines that are left out, and why; a line that is kept goes in all the same."`
	Person    string              `json:"person"`
	CreatedAt time.Time           `json:"createdAt"`
	Run       *int64              `json:"run,omitempty"`
	RunState  *string             `json:"runState,omitempty" enum:"waiting,working,stopping,stopped,done,failed"`
}

type changeBody struct {
	Seq     int32            `json:"seq"`
	Owner   ownerRef         `json:"owner"`
	Subject string           `json:"subject" enum:"pictures,owner"`
	Before  []placedBody     `json:"before,omitempty"`
	After   []placedBody     `json:"after,omitempty"`
	Gone    []placedBody     `json:"gone,omitempty" doc:"The pictures that the change takes off their owner, at their place before."`
	Was     *catalogue.Owner `json:"was,omitempty"`
	Will    *catalogue.Owner `json:"will,omitempty"`
	Made    bool             `json:"made,omitempty" doc:"It is in the ledger."`
	Undone  bool             `json:"undone,omitempty" doc:"It was made, and taken back."`
	Why     string           `json:"why,omitempty" doc:"Why it was, or would be, left alone."`
}

type ownerRef struct {
	ID    int64  `json:"id"`
	Kind  string `json:"kind"`
	SKU   string `json:"sku"`
	Label string `json:"label"`
}

type placedBody struct {
	Sha   string `json:"sha"`
	Alt   string `json:"alt,omitempty"`
	Place int    `json:"place" doc:"1…n."`
}

type runBody struct {
	ID         int64      `json:"id"`
	Plan       int64      `json:"plan"`
	Kind       string     `json:"kind" enum:"pairing,catalogue,order,undo"`
	Title      string     `json:"title"`
	Rule       string     `json:"rule,omitempty"`
	State      string     `json:"state" enum:"waiting,working,stopping,stopped,done,failed"`
	Note       string     `json:"note,omitempty"`
	Changes    int32      `json:"changes"`
	Done       int32      `json:"done"`
	Applied    int32      `json:"applied"`
	LeftAlone  int32      `json:"leftAlone"`
	Undone     int32      `json:"undone" doc:"How many of the lines that were made are taken back."`
	Person     string     `json:"person"`
	CreatedAt  time.Time  `json:"createdAt"`
	FinishedAt *time.Time `json:"finishedAt,omitempty"`
	Delivery   *int64     `json:"delivery,omitempty"`
	Undoes     *int64     `json:"undoes,omitempty"`
	UndoneBy   int64      `json:"undoneBy,omitempty" doc:"The last run that took lines of this one back which are still taken back."`
}

const changesAtMost = 500

func (s *Server) planRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/plans/{id}", "get-plan", "A plan"), func(ctx context.Context, in *ByID) (*body[planBody], error) {
		p, err := s.Store.PlanByID(ctx, in.ID)
		if err != nil {
			return nil, problem(err)
		}
		out := planBody{ID: p.ID, Kind: p.Kind, Title: p.Title, Delivery: p.DeliveryID, Undoes: p.Undoes, Rule: p.HouseRule, Changes: p.Changes, Gone: p.Gone,
			Person: p.Person, CreatedAt: p.CreatedAt, Run: p.RunID, RunState: p.RunState}
		if err := json.Unmarshal(p.Problems, &out.Problems); err != nil {
			return nil, err
		}
		if p.DeliveryID != nil && p.RunID == nil && p.Kind == "pairing" {
			if out.Stale, err = s.Bench.Stale(ctx, *p.DeliveryID, p.Basis); err != nil {
				return nil, problem(err)
			}
		}
		return answer(out), nil
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/plans/{id}/changes", "list-changes", "A plan's changes, before and after, with what became of them"), func(ctx context.Context, in *struct {
		ByID
		After    int32 `query:"after" doc:"Give the changes after this number."`
		Most     int32 `query:"most" minimum:"1" maximum:"500" default:"200"`
		LeftOnly bool  `query:"left" doc:"Only those that were left alone."`
	}) (*body[[]changeBody], error) {
		rows, err := s.Store.PlanChanges(ctx, query.PlanChangesParams{PlanID: in.ID, AfterSeq: in.After, LeftOnly: in.LeftOnly, Most: min(in.Most, changesAtMost)})
		if err != nil {
			return nil, problem(err)
		}
		out, err := s.changes(ctx, rows)
		return answer(out), problem(err)
	})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/plans/{id}/apply", "apply-plan", "Apply a plan: a run in the background"), func(ctx context.Context, in *ByID) (*body[idBody], error) {
		id, err := s.Runner.Apply(ctx, in.ID, person(ctx).ID)
		return answer(idBody{id}), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/runs", "list-runs", "The ledger: runs, newest first"), func(ctx context.Context, _ *struct{}) (*body[[]runBody], error) {
		rows, err := s.Store.Runs(ctx, query.RunsParams{Most: 1000})
		all := make([]runBody, len(rows))
		for i, r := range rows {
			all[i] = run(r)
		}
		return answer(all), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/runs/{id}", "get-run", "A run and how far it is"), func(ctx context.Context, in *ByID) (*body[runBody], error) {
		rows, err := s.Store.Runs(ctx, query.RunsParams{ID: &in.ID, Most: 1})
		if err == nil && len(rows) == 0 {
			err = pgx.ErrNoRows
		}
		if err != nil {
			return nil, problem(err)
		}
		return answer(run(rows[0])), nil
	})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/runs/{id}/stop", "stop-run", "Stop a run after the lines in hand"), func(ctx context.Context, in *ByID) (*struct{}, error) {
		return nil, problem(s.Runner.Stop(ctx, in.ID))
	})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/runs/{id}/resume", "resume-run", "Go on with a stopped run"), func(ctx context.Context, in *ByID) (*struct{}, error) {
		return nil, problem(s.Runner.Resume(ctx, in.ID))
	})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/runs/{id}/undo", "plan-undo", "Make the plan that takes a run back; apply it like any other"), func(ctx context.Context, in *ByID) (*body[idBody], error) {
		id, err := s.Runner.PlanUndo(ctx, in.ID, person(ctx).ID)
		return answer(idBody{id}), problem(err)
	})
}

func run(r query.RunsRow) runBody {
	return runBody{ID: r.ID, Plan: r.PlanID, Kind: r.Kind, Title: r.Title, Rule: r.HouseRule, State: r.State, Note: r.Note, Changes: r.Changes, Done: r.Done,
		Applied: r.Applied, LeftAlone: r.LeftAlone, Undone: r.Undone, Person: r.Person, CreatedAt: r.CreatedAt, FinishedAt: r.FinishedAt,
		Delivery: r.DeliveryID, Undoes: r.Undoes, UndoneBy: r.UndoneBy}
}

// changes shows lines of a plan; for those not made yet it says which would be left alone as things stand.
func (s *Server) changes(ctx context.Context, rows []query.PlanChangesRow) ([]changeBody, error) {
	out := make([]changeBody, len(rows))
	owners := make([]int64, len(rows))
	var assets []int64
	before, after := make([][]change.Picture, len(rows)), make([][]change.Picture, len(rows))
	for i, c := range rows {
		owners[i] = c.OwnerID
		out[i] = changeBody{Seq: c.Seq, Subject: c.Subject, Made: c.Made, Undone: c.Undone, Why: c.Why, Owner: ownerRef{ID: c.OwnerID}}
		was, will := any(&before[i]), any(&after[i])
		if c.Subject == "owner" {
			was, will = &out[i].Was, &out[i].Will
		}
		if err := json.Unmarshal(c.Before, was); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(c.After, will); err != nil {
			return nil, err
		}
		for _, p := range slices.Concat(before[i], after[i]) {
			assets = append(assets, p.Asset)
		}
	}
	labels, err := s.Bench.Labels(ctx, owners)
	if err != nil {
		return nil, err
	}
	conflicts, err := s.Runner.Conflicts(ctx, rows)
	if err != nil {
		return nil, err
	}
	shas := map[int64]string{}
	found, err := s.Store.AssetsByID(ctx, assets)
	if err != nil {
		return nil, err
	}
	for _, a := range found {
		shas[a.ID] = a.Sha
	}
	for i, c := range rows {
		if l, ok := labels[c.OwnerID]; ok {
			out[i].Owner = ownerRef{l.ID, l.Kind, l.SKU, l.Label}
		} else if o := out[i].Will; o != nil {
			out[i].Owner = ownerRef{c.OwnerID, o.Kind, o.SKU, catalogue.Label(o.Title, "", o.Options)}
		} else if o := out[i].Was; o != nil {
			out[i].Owner = ownerRef{c.OwnerID, o.Kind, o.SKU, catalogue.Label(o.Title, "", o.Options)}
		}
		if !c.Made {
			out[i].Why = conflicts[c.Seq]
		}
		if c.Subject != "pictures" {
			continue
		}
		out[i].Before, out[i].After = placed(before[i], shas), placed(after[i], shas)
		gone := change.Gone(before[i], after[i])
		for _, p := range out[i].Before {
			if slices.ContainsFunc(gone, func(g change.Picture) bool { return shas[g.Asset] == p.Sha }) {
				out[i].Gone = append(out[i].Gone, p)
			}
		}
	}
	return out, nil
}

func placed(pictures []change.Picture, shas map[int64]string) []placedBody {
	out := make([]placedBody, len(pictures))
	for i, p := range pictures {
		out[i] = placedBody{shas[p.Asset], p.Alt, i + 1}
	}
	return out
}
