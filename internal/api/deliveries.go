package api

import (
	"context"
	"encoding/json"
	"net/http"
	"strings"
	"time"

	"ambrosa/internal/pair"
	"ambrosa/internal/people"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

type deliveryBody struct {
	ID          int64           `json:"id"`
	Title       string          `json:"title"`
	State       string          `json:"state" enum:"open,waiting,taking_in,stopping,stopped,ready,failed"`
	Notes       json.RawMessage `json:"notes" doc:"What is to be said of it: messages of code and data."`
	CreatedAt   time.Time       `json:"createdAt"`
	FinishedAt  *time.Time      `json:"finishedAt,omitempty"`
	CreatedBy   string          `json:"createdBy"`
	Uploads     int32           `json:"uploads"`
	UploadBytes int64           `json:"uploadBytes"`
	Expected    int32           `json:"expected" doc:"Files the uploads hold; 0 where that is not known yet."`
	Lines       int32           `json:"lines" doc:"Arrivals so far."`
	Pictures    int32           `json:"pictures"`
	Problems    int32           `json:"problems"`
	Seen        int32           `json:"seen" doc:"Pictures that had arrived before."`
	Bytes       int64           `json:"bytes"`
	Supplier    string          `json:"supplier,omitempty"`
	Note        string          `json:"note,omitempty"`
	ClosedAt    *time.Time      `json:"closedAt,omitempty" doc:"Since when people are done with it."`
	Source      int64           `json:"source,omitempty" doc:"Where it comes from; none for a drop without a name."`
	SourceName  string          `json:"sourceName,omitempty"`
	Visit       *progressBody   `json:"visit,omitempty" doc:"How far it is, where it is collected from a source."`
	Rights      *RightsBody     `json:"rights,omitempty" doc:"What its pictures may be used for."`
	Rule        string          `json:"rule,omitempty" doc:"The house rule by which the last delivery of the source was placed."`
	PairsWith   string          `json:"pairsWith,omitempty" enum:"products,categories" doc:"What kinds of owners it is for; none for all."`
	LikeTitle   string          `json:"likeTitle,omitempty" doc:"The delivery of the source whose ladder, habits and house rule it begins with."`
}

// progressBody is how far a visit is.
type progressBody struct {
	Listed      bool  `json:"listed" doc:"All is found; what is new or changed is being fetched."`
	Found       int64 `json:"found"`
	Wanted      int64 `json:"wanted" doc:"Files that are new or changed."`
	WantedBytes int64 `json:"wantedBytes"`
}

func deliveryOf(d query.DeliveriesRow) deliveryBody {
	b := deliveryBody{ID: d.ID, Title: d.Title, State: d.State, Notes: d.Notes, CreatedAt: d.CreatedAt, FinishedAt: d.FinishedAt, CreatedBy: d.CreatedBy, Uploads: d.Uploads,
		UploadBytes: d.UploadBytes, Expected: d.Expected, Lines: d.Lines, Pictures: d.Pictures, Problems: d.Problems, Seen: d.Seen, Bytes: d.Bytes, Supplier: d.Supplier,
		Note: d.Note, ClosedAt: d.ClosedAt, Source: d.Source, SourceName: d.SourceName, Rule: d.HouseRule, LikeTitle: d.LikeTitle, PairsWith: d.PairsWith}
	if d.Visited {
		b.Visit = &progressBody{d.Listed, d.Found, d.Wanted, d.WantedBytes}
	}
	if d.May != "" {
		b.Rights = &RightsBody{May: d.May, Until: d.Until, Holder: d.Holder, Proof: d.Proof}
	}
	return b
}

type uploadBody struct {
	ID       string `json:"id" doc:"Its tus address is /api/uploads/ and this."`
	Path     string `json:"path"`
	Bytes    int64  `json:"bytes"`
	Received int64  `json:"received"`
}

// ArrivalBody is one line of a delivery.
type ArrivalBody struct {
	ID      int64           `json:"id"`
	Path    string          `json:"path"`
	Bytes   int64           `json:"bytes"`
	Sha     string          `json:"sha,omitempty" doc:"SHA-256 in hex, where there is a picture."`
	Format  string          `json:"format,omitempty"`
	Width   int32           `json:"width,omitempty"`
	Height  int32           `json:"height,omitempty"`
	Problem string          `json:"problem,omitempty" enum:"type_differs,not_picture,damaged,too_large,empty,litter,encrypted,unsafe_path,not_archive,refused,unreachable,too_small,twin,left_out"`
	Message json.RawMessage `json:"message,omitempty" doc:"What is wrong: a message of code and data."`
	Seen    bool            `json:"seen,omitempty"`
}

type newDeliveryBody struct {
	Title  string `json:"title" minLength:"1" maxLength:"200"`
	Source int64  `json:"source,omitempty" minimum:"1" doc:"The source that it comes from: its supplier and rights are the delivery's."`
	Lists  bool   `json:"lists,omitempty" doc:"Tables are sent into it: each is taken in hand, and the delivery is closed then."`
}

type ticketBody struct {
	Ticket string `json:"ticket" doc:"What the archive is fetched with at /api/downloads/."`
}

func (s *Server) deliveryRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries", "list-deliveries",
		"A page of deliveries, newest first"),
		func(ctx context.Context, in *struct {
			Before int64  `query:"before" minimum:"0" doc:"Give the deliveries before this number; 0 for the newest."`
			Most   int32  `query:"most" minimum:"1" maximum:"200" default:"100"`
			Said   string `query:"q" maxLength:"200" doc:"A part of the title, the supplier or the note."`
			State  string `query:"state" enum:"open,waiting,taking_in,stopping,stopped,ready,failed"`
			Of     string `query:"supplier" maxLength:"200"`
			Source int64  `query:"source" minimum:"0" doc:"Those of one source; 0 for all."`
			Closed string `query:"closed" enum:"no,yes,all" default:"all" doc:"Those that people are done with."`
		}) (*body[[]deliveryBody], error) {
			page := query.DeliveriesParams{Most: &in.Most}
			if in.Closed != "all" {
				closed := in.Closed == "yes"
				page.Closed = &closed
			}
			if in.State != "" {
				page.State = &in.State
			}
			if in.Of != "" {
				page.Supplier = &in.Of
			}
			if in.Source > 0 {
				page.Source = &in.Source
			}
			if in.Said != "" {
				said := "%" + store.EscapeLike(strings.ToLower(in.Said)) + "%"
				page.Said = &said
			}
			if in.Before > 0 {
				page.Before = &in.Before
			}
			rows, err := s.Store.Deliveries(ctx, page)
			all := make([]deliveryBody, len(rows))
			for i, d := range rows {
				all[i] = deliveryOf(d)
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries", "begin-delivery",
		"Open a delivery; then upload into it by tus at /api/uploads/, with its number and a path as metadata, and close it"),
		func(ctx context.Context, in *body[newDeliveryBody]) (*body[idBody], error) {
			begin := s.Gatherer.Begin
			if in.Body.Lists {
				begin = s.Gatherer.BeginLists
			}
			id, err := begin(ctx, in.Body.Title, person(ctx).ID)
			if err == nil && in.Body.Source > 0 {
				err = s.Sources.Bind(ctx, id, in.Body.Source)
			}
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}", "get-delivery", "One delivery"),
		func(ctx context.Context, in *ByID) (*body[deliveryBody], error) {
			d, err := s.delivery(ctx, in.ID)
			return answer(deliveryOf(d)), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPatch, "/api/deliveries/{id}", "describe-delivery",
		"Change what is said of a delivery; what is left out stays"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Title     *string     `json:"title,omitempty" minLength:"1" maxLength:"200"`
				Supplier  *string     `json:"supplier,omitempty" maxLength:"200"`
				Note      *string     `json:"note,omitempty" maxLength:"4000"`
				Closed    *bool       `json:"closed,omitempty" doc:"Whether people are done with it."`
				Rights    *RightsBody `json:"rights,omitempty" doc:"What its pictures may be used for."`
				PairsWith *string     `json:"pairsWith,omitempty" enum:"all,products,categories" doc:"What kinds of owners its files are read for: products and their variants, categories, or all."`
			}
		}) (*struct{}, error) {
			if in.Body.Rights != nil {
				if err := s.Sources.SetDeliveryRights(ctx, in.ID, in.Body.Rights.rights()); err != nil {
					return nil, problem(err)
				}
			}
			if with := in.Body.PairsWith; with != nil {
				if err := s.Pairer.For(ctx, in.ID, strings.TrimPrefix(*with, "all")); err != nil {
					return nil, problem(err)
				}
			}
			return nil, problem(s.Gatherer.Describe(ctx, query.DescribeDeliveryParams{ID: in.ID, Title: in.Body.Title, Supplier: in.Body.Supplier,
				Note: in.Body.Note, Closed: in.Body.Closed}))
		})
	pack := operation(people.Viewer, http.MethodPost, "/api/deliveries/{id}/zip", "zip-pictures",
		"Ask for the pictures of lines as one archive, to be fetched at /api/downloads/ and the ticket within an hour")
	pack.MaxBodyBytes, pack.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, pack, func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Arrivals []int64 `json:"arrivals" minItems:"1" maxItems:"100000"`
		}
	}) (*body[ticketBody], error) {
		ticket, err := s.Gatherer.Ticket(ctx, in.ID, person(ctx).ID, in.Body.Arrivals)
		return answer(ticketBody{ticket}), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/suppliers", "list-suppliers", "Whose deliveries there are, by name"),
		func(ctx context.Context, in *struct {
			After string `query:"after" maxLength:"200"`
			Most  int32  `query:"most" minimum:"1" maximum:"200" default:"200"`
		}) (*body[[]string], error) {
			names, err := s.Store.Suppliers(ctx, query.SuppliersParams{After: in.After, Most: in.Most})
			if names == nil {
				names = []string{}
			}
			return answer(names), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/uploads", "list-uploads",
		"Files of a delivery as they are sent, to go on where sending ended; a page, by their IDs"),
		func(ctx context.Context, in *struct {
			ByID
			After string `query:"after" maxLength:"40" doc:"The last ID that is known."`
			Most  int32  `query:"most" minimum:"1" maximum:"1000" default:"1000"`
		}) (*body[[]uploadBody], error) {
			rows, err := s.Store.UploadsAfter(ctx, query.UploadsAfterParams{DeliveryID: in.ID, After: in.After, Most: in.Most})
			all := make([]uploadBody, len(rows))
			for i, u := range rows {
				all[i] = uploadBody{u.ID, u.Path, u.Bytes, s.Gatherer.Received(u)}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/close", "close-delivery",
		"Everything is sent: take it in"),
		func(ctx context.Context, in *struct {
			ByID
			Partly bool `query:"partly" doc:"Leave out what has not come in full."`
		}) (*struct{}, error) {
			return nil, problem(s.Gatherer.Close(ctx, in.ID, in.Partly))
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/stop", "stop-delivery", "Stop taking in"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Gatherer.Stop(ctx, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/resume", "resume-delivery", "Go on taking in"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Gatherer.Resume(ctx, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/reopen", "reopen-delivery",
		"Open a delivery again for sending, where bytes of its files are gone from the server"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Gatherer.Reopen(ctx, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/deliveries/{id}", "remove-delivery",
		"Remove a delivery that was not taken in to its end, and what was sent for it"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Gatherer.Remove(ctx, in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/removal", "plan-removal",
		"Make the plan that removes a closed delivery, and puts those of its pictures into the bin that nothing else has"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Title string `json:"title,omitempty" maxLength:"200" doc:"Of the plan."`
			}
		}) (*body[idBody], error) {
			plan, err := s.Tidy.RemoveDelivery(ctx, person(ctx).ID, in.Body.Title, in.ID)
			return answer(idBody{plan}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/arrivals", "list-arrivals",
		"What came in, in its order"),
		func(ctx context.Context, in *struct {
			ByID
			After int64 `query:"after" minimum:"0" doc:"The last that is known: only what came behind it."`
			Most  int32 `query:"most" minimum:"1" maximum:"1000" default:"1000"`
		}) (*body[[]ArrivalBody], error) {
			rows, err := s.Store.Arrivals(ctx, query.ArrivalsParams{Delivery: in.ID, After: in.After, Most: &in.Most})
			all := make([]ArrivalBody, len(rows))
			for i, a := range rows {
				all[i] = arrival(a)
			}
			return answer(all), problem(err)
		})
}

func (s *Server) delivery(ctx context.Context, id int64) (query.DeliveriesRow, error) {
	rows, err := s.Store.Deliveries(ctx, query.DeliveriesParams{ID: &id})
	if err == nil && len(rows) == 0 {
		err = pgx.ErrNoRows
	}
	if err != nil {
		return query.DeliveriesRow{}, err
	}
	return rows[0], nil
}

func arrival(a query.ArrivalsRow) ArrivalBody {
	b := ArrivalBody{ID: a.ID, Path: a.Path, Bytes: a.Bytes, Sha: pair.Sha(a), Problem: a.Problem, Message: a.Message, Seen: a.SeenBefore}
	if a.Format != nil {
		b.Format, b.Width, b.Height = *a.Format, *a.Width, *a.Height
	}
	return b
}
