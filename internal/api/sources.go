package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/core/rights"
	"ambrosa/core/schedule"
	"ambrosa/internal/people"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

// RightsBody is whether pictures may be used.
type RightsBody struct {
	May    string `json:"may" enum:"cleared,internal,not_cleared," doc:"Cleared; internal: placed, never published; not cleared; or nothing said."`
	Until  string `json:"until,omitempty" maxLength:"10" doc:"The last day, as 2026-12-31."`
	Holder string `json:"holder,omitempty" maxLength:"200" doc:"Whose they are."`
	Proof  string `json:"proof,omitempty" maxLength:"4000" doc:"What proves it."`
}

func (r RightsBody) rights() rights.Rights {
	return rights.Rights{May: rights.May(r.May), Until: r.Until, Holder: r.Holder, Proof: r.Proof}
}

// settingsBody is what a source of a kind needs.
type settingsBody struct {
	Protocol    string            `json:"protocol,omitempty" maxLength:"20"`
	Values      map[string]string `json:"values,omitempty" doc:"Of the protocol's fields, but the secret ones."`
	Folder      string            `json:"folder,omitempty" maxLength:"4000"`
	HostKey     string            `json:"hostKey,omitempty" maxLength:"100" doc:"The key that an SFTP host must have, SHA256:…; of a new one it is kept when it is first met."`
	Certificate string            `json:"certificate,omitempty" maxLength:"100" doc:"The fingerprint of a certificate that is trusted though nobody vouches for it, SHA256:…"`
	Connections int               `json:"connections,omitempty" minimum:"0" maximum:"16" doc:"At once; 0 for 4."`
	Login       string            `json:"login,omitempty" maxLength:"63" doc:"Of a drop folder: its name in the address."`
	Quiet       int               `json:"quiet,omitempty" minimum:"0" maximum:"86400" doc:"Seconds without a file after which a drop folder's are taken in; 0 for 30."`
	Tables      string            `json:"tables,omitempty" enum:"plan,apply," doc:"What is done with tables that come along: their plan is made, or also applied where it has no problem; nothing by itself where it is empty."`
	Quota       int64             `json:"quota,omitempty" minimum:"0" doc:"Bytes that a drop folder holds; 0 for 50 GiB."`
	Lookup      *sources.Service  `json:"lookup,omitempty" doc:"Of a lookup: how the service is asked."`
}

// filtersBody says which files are collected.
type filtersBody struct {
	Names string     `json:"names,omitempty" maxLength:"1000" doc:"A glob over the path: * stays in a folder, ** crosses folders."`
	Types []pathText `json:"types,omitempty" maxItems:"50" doc:"Extensions, as jpg."`
	Least int        `json:"least,omitempty" minimum:"0" maximum:"100000" doc:"Pixels of the longer side."`
	Newer string     `json:"newer,omitempty" maxLength:"10" doc:"Only files changed on this day or later, as 2026-12-31."`
}

// scheduleBody is when a source is collected from by the clock.
type scheduleBody struct {
	Each    string `json:"each" enum:"hour,day,week," doc:"Empty for not at all."`
	Minute  int    `json:"minute" minimum:"0" maximum:"1439" doc:"Of the hour, or of the day."`
	Weekday int    `json:"weekday" minimum:"0" maximum:"6" doc:"0 for Sunday."`
	Zone    string `json:"zone" maxLength:"60" doc:"A time zone of the IANA database, as Europe/Berlin."`
}

// schedule reads it. schedule.ErrSchedule for a zone that there is not.
func (b scheduleBody) schedule() (schedule.Schedule, error) {
	zone, err := time.LoadLocation(b.Zone)
	if err != nil || b.Zone == "Local" {
		return schedule.Schedule{}, schedule.ErrSchedule
	}
	return schedule.Schedule{Each: schedule.Each(b.Each), Minute: b.Minute, Weekday: b.Weekday, Zone: zone}, nil
}

type sourceBody struct {
	ID         int64         `json:"id"`
	Name       string        `json:"name"`
	Kind       string        `json:"kind" enum:"upload,drive,drop,addresses,pages,lookup"`
	Settings   settingsBody  `json:"settings"`
	Secret     bool          `json:"secret" doc:"Whether a secret is kept; it is never told."`
	Filters    filtersBody   `json:"filters"`
	Supplier   string        `json:"supplier"`
	Rights     RightsBody    `json:"rights"`
	Person     string        `json:"person" doc:"Who made it."`
	Mine       bool          `json:"mine" doc:"Whether who asks may change it."`
	CreatedAt  time.Time     `json:"createdAt"`
	Deliveries int32         `json:"deliveries"`
	LastAt     *time.Time    `json:"lastAt,omitempty" doc:"When the last delivery came from it."`
	Working    bool          `json:"working,omitempty" doc:"It is being collected from."`
	Schedule   *scheduleBody `json:"schedule,omitempty"`
	NextAt     *time.Time    `json:"nextAt,omitempty"`
	Crossed    int32         `json:"crossed" doc:"Lines of its cross-reference."`
	Addresses  int32         `json:"addresses,omitempty" doc:"How many it has, where it is one of addresses and asked for alone."`
}

type newSourceBody struct {
	Name     string            `json:"name" minLength:"1" maxLength:"200"`
	Kind     string            `json:"kind" enum:"upload,drive,drop,addresses,pages,lookup"`
	Settings settingsBody      `json:"settings,omitempty"`
	Secrets  map[string]string `json:"secrets,omitempty" doc:"Of the protocol's secret fields, those that change. They are never told again."`
	Filters  filtersBody       `json:"filters,omitempty"`
	Supplier string            `json:"supplier,omitempty" maxLength:"200"`
	Rights   RightsBody        `json:"rights,omitempty"`
}

func (b newSourceBody) source() sources.Source {
	return sources.Source{Name: b.Name, Kind: sources.Kind(b.Kind), Settings: sources.Settings(b.Settings), Secrets: b.Secrets, Filters: sources.Filters{Names: b.Filters.Names, Types: plainTexts(b.Filters.Types), Least: b.Filters.Least, Newer: b.Filters.Newer},
		Supplier: b.Supplier, Rights: b.Rights.rights()}
}

// askedBy is who asks, as sources need to know.
func askedBy(ctx context.Context) sources.Asker {
	p := person(ctx)
	return sources.Asker{Person: p.ID, Admin: p.Role.May(people.Admin)}
}

func namedSource(r query.SourcesRow, by sources.Asker) (b sourceBody, err error) {
	b = sourceBody{ID: r.ID, Name: r.Name, Kind: r.Kind, Secret: r.Secret, Supplier: r.Supplier, Rights: RightsBody{May: r.May, Until: r.Until, Holder: r.Holder, Proof: r.Proof},
		Person: r.Person, Mine: by.Admin || r.CreatedBy == by.Person, CreatedAt: r.CreatedAt, Deliveries: r.Deliveries, Working: r.Working != "", NextAt: r.NextAt, Crossed: r.Crossed}
	if r.Deliveries > 0 {
		if at, ok := r.LastAt.(time.Time); ok {
			b.LastAt = &at
		}
	}
	if r.Each != "" {
		b.Schedule = &scheduleBody{Each: r.Each, Minute: int(r.Minute), Weekday: int(r.Weekday), Zone: r.TimeZone}
	}
	if err = json.Unmarshal(r.Settings, &b.Settings); err == nil {
		err = json.Unmarshal(r.Filters, &b.Filters)
	}
	return b, err
}

func (s *Server) sourceRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources", "list-sources", "Where deliveries come from; a page, by their numbers"),
		func(ctx context.Context, in *struct {
			After int64 `query:"after" minimum:"0"`
			Most  int32 `query:"most" minimum:"1" maximum:"200" default:"200"`
		}) (*body[[]sourceBody], error) {
			rows, err := s.Store.Sources(ctx, query.SourcesParams{After: in.After, Most: in.Most})
			all := make([]sourceBody, len(rows))
			for i, r := range rows {
				if all[i], err = namedSource(r, askedBy(ctx)); err != nil {
					break
				}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}", "get-source", "One source"),
		func(ctx context.Context, in *ByID) (*body[sourceBody], error) {
			rows, err := s.Store.Sources(ctx, query.SourcesParams{ID: &in.ID, Most: 1})
			if err == nil && len(rows) == 0 {
				err = pgx.ErrNoRows
			}
			if err != nil {
				return nil, problem(err)
			}
			b, err := namedSource(rows[0], askedBy(ctx))
			if err == nil && b.Kind == string(sources.Addresses) {
				b.Addresses, err = s.Store.CountAddresses(ctx, in.ID)
			}
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/sources", "add-source", "Name a source"),
		func(ctx context.Context, in *body[newSourceBody]) (*body[idBody], error) {
			id, err := s.Sources.Add(ctx, askedBy(ctx), in.Body.source())
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/sources/{id}", "set-source", "Change a source; secrets that are left out stay"),
		func(ctx context.Context, in *struct {
			ByID
			Body newSourceBody
		}) (*struct{}, error) {
			return nil, problem(s.Sources.Set(ctx, askedBy(ctx), in.ID, in.Body.source()))
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/sources/{id}", "remove-source", "Remove a source; what came from it stays"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Sources.Remove(ctx, askedBy(ctx), in.ID))
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/sources/{id}/schedule", "schedule-source", "Have a source collected from by the clock, or no more"),
		func(ctx context.Context, in *struct {
			ByID
			Body scheduleBody
		}) (*struct{}, error) {
			when, err := in.Body.schedule()
			if err != nil {
				return nil, problem(err)
			}
			return nil, problem(s.Sources.Schedule(ctx, askedBy(ctx), in.ID, when))
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/sources/{id}/door", "open-drop-folder", "Make a new password for a drop folder; the one before opens it no more"),
		func(ctx context.Context, in *ByID) (*body[doorBody], error) {
			password, err := s.Sources.MakeDoor(ctx, askedBy(ctx), in.ID)
			return answer(doorBody{password}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/sources/{id}/door", "close-drop-folder", "Take a drop folder's password back"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Sources.CloseDoor(ctx, askedBy(ctx), in.ID))
		})
	list := operation(people.Editor, http.MethodPut, "/api/sources/{id}/addresses", "set-addresses", "Give a source of addresses those that it has from now on, one a line, with or without a SKU")
	list.MaxBodyBytes, list.BodyReadTimeout = bodyTable, 5*time.Minute
	huma.Register(api, list, func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Text string `json:"text" maxLength:"30000000"`
		}
	}) (*body[addressesBody], error) {
		all, wrong := sources.ReadAddresses(in.Body.Text)
		err := s.Sources.SetAddresses(ctx, askedBy(ctx), in.ID, all)
		return answer(addressesBody{len(all), len(wrong), wrong[:min(len(wrong), 20)]}), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/addresses", "list-addresses", "A page of a source's addresses"),
		func(ctx context.Context, in *struct {
			ByID
			After int32 `query:"after" minimum:"0"`
			Most  int32 `query:"most" minimum:"1" maximum:"1000" default:"1000"`
		}) (*body[[]AddressLineBody], error) {
			rows, err := s.Store.Addresses(ctx, query.AddressesParams{SourceID: in.ID, After: in.After, Most: in.Most})
			all := make([]AddressLineBody, len(rows))
			for i, r := range rows {
				all[i] = AddressLineBody{r.Row, r.Address, r.Sku}
			}
			return answer(all), problem(err)
		})
}

type doorBody struct {
	Password string `json:"password" doc:"It is told once."`
}

type addressesBody struct {
	Kept  int      `json:"kept"`
	Wrong int      `json:"wrong" doc:"Lines without an address; the first few are shown."`
	Lines []string `json:"lines"`
}

// AddressLineBody is one address of a source.
type AddressLineBody struct {
	Row     int32  `json:"row"`
	Address string `json:"address"`
	SKU     string `json:"sku,omitempty"`
}
