package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/core/catalogue"
	"ambrosa/core/message"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pair"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	labels "ambrosa/internal/catalogue"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

type planBody struct {
	ID        int64               `json:"id"`
	Kind      string              `json:"kind" doc:"What made it: pairing, catalogue, undo …"`
	Title     string              `json:"title" doc:"Of an undo, that of the run which it takes back."`
	Delivery  int64               `json:"delivery,omitempty"`
	Worksheet int64               `json:"worksheet,omitempty" doc:"The table in hand that its plan was made from."`
	Undoes    *int64              `json:"undoes,omitempty" doc:"The run that this takes back."`
	Rule      string              `json:"rule,omitempty"`
	Changes   int32               `json:"changes"`
	Held      int32               `json:"held,omitempty" doc:"How many lines are held: they are left alone unless somebody releases them."`
	Counts    map[string]int      `json:"counts" doc:"What its maker counted: gone, the pictures that it takes off their owners."`
	Stale     bool                `json:"stale,omitempty" doc:"Decisions, the ladder or the catalogue have changed since the plan was made; make it again."`
	Problems  []catalogue.Problem `json:"problems" doc:"Lines that are left out, and why; a line that is kept goes in all the same."`
	Person    string              `json:"person"`
	CreatedAt time.Time           `json:"createdAt"`
	Run       *int64              `json:"run,omitempty"`
	RunState  *string             `json:"runState,omitempty" enum:"waiting,working,stopping,stopped,done,failed"`
}

type changeBody struct {
	Seq      int32            `json:"seq"`
	Subject  string           `json:"subject" doc:"What kind of thing changes: pictures, owner …"`
	ID       int64            `json:"id" doc:"Which thing; of pictures, their owner."`
	Before   json.RawMessage  `json:"before" doc:"The fields that change, as a merge patch (RFC 7396); null where the thing is not there."`
	After    json.RawMessage  `json:"after"`
	Made     bool             `json:"made,omitempty" doc:"It is in the ledger."`
	Undone   bool             `json:"undone,omitempty" doc:"It was made, and taken back."`
	Why      *message.Message `json:"why,omitempty" doc:"Why it was, or would be, left alone."`
	Held     bool             `json:"held,omitempty" doc:"It is left alone unless somebody releases it."`
	Released string           `json:"released,omitempty" doc:"Who released it, where it was held."`
	Reason   string           `json:"reason,omitempty" doc:"Why they released it."`
}

type changesBody struct {
	Lines  []changeBody `json:"lines"`
	Owners []ownerRef   `json:"owners" doc:"The owners that the lines touch, as far as they are in the catalogue."`
	Assets []assetRef   `json:"assets" doc:"The pictures that the lines touch."`
}

type ownerRef struct {
	ID    int64  `json:"id"`
	Kind  string `json:"kind"`
	SKU   string `json:"sku"`
	Label string `json:"label"`
}

type assetRef struct {
	ID   int64  `json:"id"`
	Sha  string `json:"sha"`
	Path string `json:"path,omitempty" doc:"As it came first."`
}

const changesAtMost = 500

func (s *Server) planRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/plans/{id}", "get-plan", "A plan"),
		func(ctx context.Context, in *ByID) (*body[planBody], error) {
			p, err := s.plan(ctx, in.ID)
			return answer(p), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/plans/{id}/changes", "list-changes",
		"A plan's changes, before and after, with what became of them"),
		func(ctx context.Context, in *struct {
			ByID
			After    int32 `query:"after" doc:"Give the changes after this number."`
			Most     int32 `query:"most" minimum:"1" maximum:"500" default:"200"`
			LeftOnly bool  `query:"left" doc:"Only those that were left alone."`
		}) (*body[changesBody], error) {
			lines, err := s.Ledger.Lines(ctx, in.ID, in.After, int(min(in.Most, changesAtMost)), in.LeftOnly)
			if err != nil {
				return nil, problem(err)
			}
			out, err := s.changes(ctx, lines)
			return answer(out), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/plans/{id}/apply", "apply-plan",
		"Apply a plan: a run in the background"),
		func(ctx context.Context, in *struct {
			ByID
			Mail bool `query:"mail" doc:"Tell by mail when it ended, whatever you wish else."`
		}) (*body[idBody], error) {
			var id int64
			err := s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) (err error) {
				if id, err = s.Ledger.ApplyIn(ctx, q, tx, in.ID, person(ctx).ID); err != nil || !in.Mail {
					return err
				}
				return q.WantMail(ctx, query.WantMailParams{Kind: ledger.Work, Subject: id})
			})
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/plans/{id}/release", "release-lines",
		"Release held lines of a plan, all that are held where none is named"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Lines  []int32 `json:"lines,omitempty" maxItems:"10000"`
				Reason string  `json:"reason" minLength:"1" maxLength:"500" doc:"Why they may be made; it stays in the ledger."`
			}
		}) (*body[releasedBody], error) {
			n, err := s.Ledger.Release(ctx, in.ID, person(ctx).ID, in.Body.Lines, in.Body.Reason)
			return answer(releasedBody{n}), problem(err)
		})
}

type releasedBody struct {
	Released int64 `json:"released" doc:"How many lines were released."`
}

func (s *Server) plan(ctx context.Context, id int64) (planBody, error) {
	p, err := s.Store.PlanByID(ctx, id)
	if err != nil {
		return planBody{}, err
	}
	out := planBody{ID: p.ID, Kind: p.Kind, Title: p.Title, Undoes: p.Undoes, Changes: p.Changes, Held: p.Held,
		Person: p.Person, CreatedAt: p.CreatedAt, Run: p.RunID, RunState: p.RunState}
	if err := json.Unmarshal(p.Problems, &out.Problems); err != nil {
		return out, err
	}
	if err := json.Unmarshal(p.Counts, &out.Counts); err != nil {
		return out, err
	}
	source, err := sourceOf(p.Source)
	if err != nil {
		return out, err
	}
	out.Delivery, out.Worksheet, out.Rule = source.Delivery, source.Worksheet, string(source.Rule)
	if p.Kind == "pairing" && p.RunID == nil {
		out.Stale, err = s.Pairer.Stale(ctx, source.Source)
	}
	return out, err
}

// madeFrom is what a plan was made from: a delivery, or a table.
type madeFrom struct {
	pair.Source
	Worksheet int64 `json:"worksheet"`
}

// sourceOf reads what a plan was made from.
func sourceOf(source json.RawMessage) (of madeFrom, err error) {
	err = json.Unmarshal(source, &of)
	return of, err
}

// changes shows lines of a plan, and what they touch.
func (s *Server) changes(ctx context.Context, lines []ledger.Line) (changesBody, error) {
	out := changesBody{Lines: make([]changeBody, len(lines)), Owners: []ownerRef{}, Assets: []assetRef{}}
	touched := map[string][]int64{}
	for i, l := range lines {
		out.Lines[i] = changeBody{Seq: l.Seq, Subject: l.Subject, ID: l.ID, Before: orNull(l.Before), After: orNull(l.After),
			Made: l.Made, Undone: l.Undone, Held: l.Held, Released: l.Released, Reason: l.Reason}
		if l.Why.Code != "" {
			out.Lines[i].Why = &l.Why
		}
		for _, r := range l.Refs {
			touched[r.Class] = append(touched[r.Class], r.ID)
		}
	}
	owners, err := labels.Labels(ctx, s.Store, touched[ledger.Owner])
	if err != nil {
		return out, err
	}
	for _, o := range owners {
		out.Owners = append(out.Owners, ownerRef{ID: o.ID, Kind: o.Kind, SKU: o.SKU, Label: o.Label})
	}
	assets, err := s.Store.AssetNames(ctx, touched[ledger.Asset])
	for _, a := range assets {
		out.Assets = append(out.Assets, assetRef{ID: a.ID, Sha: a.Sha, Path: a.Path})
	}
	return out, err
}

func orNull(j json.RawMessage) json.RawMessage {
	if len(j) == 0 {
		return json.RawMessage("null")
	}
	return j
}
