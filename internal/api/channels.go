package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/core/channel"
	"ambrosa/internal/people"
	"ambrosa/internal/publish"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

type namedChannelBody struct {
	ID        int64            `json:"id"`
	Name      string           `json:"name"`
	Says      channel.Channel  `json:"says" doc:"Where to, and how files are named and made."`
	Source    string           `json:"source,omitempty" doc:"What its drive is called."`
	Person    string           `json:"person" doc:"Who made it."`
	Files     int64            `json:"files" doc:"That stand there."`
	Bytes     int64            `json:"bytes"`
	Busy      bool             `json:"busy,omitempty" doc:"What would go is being looked at."`
	State     string           `json:"state,omitempty" enum:"waiting,working,stopping,stopped,done,failed" doc:"Of that work."`
	Done      int64            `json:"done,omitempty" doc:"Files that were looked at."`
	Notes     json.RawMessage  `json:"notes" doc:"Why that work waits or failed: messages of code and data."`
	Plan      *int64           `json:"plan,omitempty" doc:"The last plan of what would go; none where nothing would."`
	Run       *int64           `json:"run,omitempty" doc:"The run of that plan."`
	Counts    map[string]int64 `json:"counts" doc:"Of that plan, by what becomes of the files."`
	PlannedAt *time.Time       `json:"plannedAt,omitempty"`
	Schedule  *scheduleBody    `json:"schedule,omitempty"`
	NextAt    *time.Time       `json:"nextAt,omitempty"`
	Addresses bool             `json:"addresses,omitempty" doc:"Its files have public addresses."`
}

type newChannelBody struct {
	Name string          `json:"name" minLength:"1" maxLength:"200"`
	Says channel.Channel `json:"says"`
}

type channelFileBody struct {
	ID    int64      `json:"id"`
	Path  string     `json:"path"`
	Bytes int64      `json:"bytes"`
	Size  string     `json:"size,omitempty"`
	Sha   string     `json:"sha,omitempty" doc:"Of the picture it is made of."`
	Owner int64      `json:"owner,omitempty"`
	SKU   string     `json:"sku,omitempty"`
	Title string     `json:"title,omitempty"`
	Let   string     `json:"let,omitempty" doc:"Why it was held, where somebody let it go."`
	PutAt *time.Time `json:"putAt,omitempty"`
}

type thereBody struct {
	Path     string     `json:"path"`
	Here     int64      `json:"here" doc:"Bytes as they were sent; -1 where it should not be there."`
	There    int64      `json:"there" doc:"Bytes as they lie there; -1 where it is not there."`
	Modified *time.Time `json:"modified,omitempty"`
	Sha      string     `json:"sha,omitempty"`
	What     string     `json:"what" enum:"same,differs,only_there,only_here"`
}

type theresBody struct {
	Files  []thereBody      `json:"files"`
	Counts map[string]int64 `json:"counts"`
}

func channelOf(r query.ChannelsRow) (b namedChannelBody, err error) {
	c := r.Channel
	b = namedChannelBody{ID: c.ID, Name: c.Name, Source: r.Source, Person: r.Person, Files: c.Files, Bytes: c.Bytes, Busy: r.Busy, State: r.State, Done: r.Done, Notes: r.Notes,
		Plan: c.PlanID, Run: r.Run, PlannedAt: c.PlannedAt, NextAt: r.NextAt, Addresses: c.AddressKey != nil}
	if r.Each != nil {
		b.Schedule = &scheduleBody{Each: *r.Each, Minute: int(*r.Minute), Weekday: int(*r.Weekday), Zone: *r.TimeZone}
	}
	if err = json.Unmarshal(c.Says, &b.Says); err == nil {
		err = json.Unmarshal(c.Counts, &b.Counts)
	}
	return b, err
}

func (s *Server) channelRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/channels", "list-channels", "Where pictures and lists are published to; a page, by name"),
		func(ctx context.Context, in *struct {
			AfterName string `query:"afterName" maxLength:"200" doc:"The name of the last one of the page before."`
			After     int64  `query:"after" minimum:"0"`
			Most      int32  `query:"most" minimum:"1" maximum:"200" default:"200"`
		}) (*body[[]namedChannelBody], error) {
			b, err := s.channels(ctx, query.ChannelsParams{AfterName: in.AfterName, After: in.After, Most: in.Most})
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/channels/{id}", "get-channel", "A channel"),
		func(ctx context.Context, in *ByID) (*body[namedChannelBody], error) {
			b, err := s.channels(ctx, query.ChannelsParams{ID: in.ID, Most: 1})
			if err == nil && len(b) == 0 {
				err = errMissing
			}
			if err != nil {
				return nil, problem(err)
			}
			return answer(b[0]), nil
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/channels", "add-channel", "Add a channel"),
		func(ctx context.Context, in *struct{ Body newChannelBody }) (*body[idBody], error) {
			id, err := s.Publish.Add(ctx, person(ctx).ID, publish.Channel{Name: in.Body.Name, Channel: in.Body.Says})
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/channels/{id}", "set-channel", "Change a channel; what stands there changes when it is published to"),
		func(ctx context.Context, in *struct {
			ByID
			Body newChannelBody
		}) (*struct{}, error) {
			return nil, problem(s.Publish.Set(ctx, publish.Channel{ID: in.ID, Name: in.Body.Name, Channel: in.Body.Says}))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/channels/{id}", "remove-channel", "End a channel; what it sent stays where it is, but for its public addresses"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Publish.Remove(ctx, in.ID))
		})
	s.publishRoutes(api)
	s.channelFileRoutes(api)
	s.savedListRoutes(api)
}

func (s *Server) channels(ctx context.Context, p query.ChannelsParams) ([]namedChannelBody, error) {
	rows, err := s.Store.Channels(ctx, p)
	all := make([]namedChannelBody, len(rows))
	for i := 0; err == nil && i < len(rows); i++ {
		all[i], err = channelOf(rows[i])
	}
	return all, err
}

func (s *Server) publishRoutes(api huma.API) {
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/channels/{id}/plan", "plan-channel", "Look what would go to a channel, in the background; the channel then names the plan"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Publish.Look(ctx, person(ctx).ID, in.ID, false))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/channels/{id}/plan", "stop-planning-channel", "Stop looking what would go"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Jobs.Stop(ctx, publish.Work, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/channels/{id}/schedule", "schedule-channel", "Publish to a channel by the clock; what is held stays held"),
		func(ctx context.Context, in *struct {
			ByID
			Body scheduleBody
		}) (*struct{}, error) {
			when, err := in.Body.schedule()
			if err != nil {
				return nil, problem(err)
			}
			return nil, problem(s.Publish.Schedule(ctx, in.ID, when))
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/channels/{id}/addresses", "open-addresses", "Give a channel's files public addresses; those it had are taken back"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Publish.OpenAddresses(ctx, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/channels/{id}/addresses", "close-addresses", "Take a channel's public addresses back, for good"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Publish.CloseAddresses(ctx, in.ID))
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/house", "get-house", "What an admin says of this house to those outside"),
		func(ctx context.Context, _ *struct{}) (*body[publish.House], error) {
			h, err := s.Publish.House(ctx)
			return answer(h), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPut, "/api/house", "set-house", "Say where this house is reached, and whether public addresses may be"),
		func(ctx context.Context, in *struct{ Body publish.House }) (*struct{}, error) {
			return nil, problem(s.Publish.SetHouse(ctx, person(ctx).ID, in.Body))
		})
}

func (s *Server) channelFileRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/channels/{id}/files", "list-channel-files", "A page of what stands in a channel"),
		func(ctx context.Context, in *struct {
			ByID
			After int64 `query:"after" minimum:"0"`
			Most  int32 `query:"most" minimum:"1" maximum:"1000" default:"500"`
		}) (*body[[]channelFileBody], error) {
			rows, err := s.Store.ChannelFilesStanding(ctx, query.ChannelFilesStandingParams{Channel: in.ID, After: in.After, Most: in.Most})
			all := make([]channelFileBody, len(rows))
			for i, r := range rows {
				all[i] = channelFileBody{ID: r.ID, Path: r.Path, Bytes: r.Bytes, Size: r.Size, Sha: r.Sha, Owner: r.OwnerID, SKU: r.Sku, Title: r.Title, Let: r.Let, PutAt: r.PutAt}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/channels/{id}/there", "list-channel-folder",
		"A page of a channel's folder, as it was looked at last, beside what should be there"),
		func(ctx context.Context, in *struct {
			ByID
			What  string `query:"what" enum:"same,differs,only_there,only_here"`
			After string `query:"after" maxLength:"4000" doc:"The path of the last one of the page before."`
			Most  int32  `query:"most" minimum:"1" maximum:"1000" default:"500"`
		}) (*body[theresBody], error) {
			b, err := s.there(ctx, query.ReconciliationParams{Channel: in.ID, What: in.What, After: in.After, Most: in.Most})
			return answer(b), problem(err)
		})
}

func (s *Server) there(ctx context.Context, p query.ReconciliationParams) (b theresBody, err error) {
	b.Files = []thereBody{}
	rows, err := s.Store.Reconciliation(ctx, p)
	if err != nil {
		return b, err
	}
	for _, r := range rows {
		b.Files = append(b.Files, thereBody{Path: r.Path, Here: r.Here, There: r.There, Modified: r.Modified, Sha: r.Sha, What: r.What})
	}
	n, err := s.Store.ReconciliationCounts(ctx, p.Channel)
	b.Counts = map[string]int64{"same": n.Same, "differs": n.Differs, "only_there": n.OnlyThere, "only_here": n.OnlyHere}
	return b, err
}
