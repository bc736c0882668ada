package api

import (
	"context"
	"net/http"
	"time"

	"ambrosa/core/message"
	"ambrosa/internal/drive"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

type protocolBody struct {
	Kind   string      `json:"kind"`
	Name   string      `json:"name"`
	Cloud  bool        `json:"cloud,omitempty" doc:"It is reached at hosts of the provider's own choice."`
	Fields []fieldBody `json:"fields"`
}

type fieldBody struct {
	Name     string   `json:"name"`
	Help     string   `json:"help"`
	Required bool     `json:"required,omitempty"`
	Secret   bool     `json:"secret,omitempty"`
	Default  string   `json:"default,omitempty"`
	Choices  []string `json:"choices,omitempty"`
}

type hostBody struct {
	Kind    string    `json:"kind"`
	Host    string    `json:"host"`
	Person  string    `json:"person" doc:"Who allowed it."`
	AddedAt time.Time `json:"addedAt"`
}

type newHostBody struct {
	Kind string `json:"kind" minLength:"1" maxLength:"20" doc:"A protocol's."`
	Host string `json:"host" minLength:"1" maxLength:"253" doc:"A host, *.example for those below, or * for any that the whole world reaches."`
}

type triedBody struct {
	Files       int               `json:"files"`
	Pictures    int               `json:"pictures" doc:"By their names."`
	Bytes       int64             `json:"bytes"`
	Whole       bool              `json:"whole" doc:"All was counted; else there are more."`
	HostKey     string            `json:"hostKey,omitempty"`
	Certificate string            `json:"certificate,omitempty" doc:"The fingerprint of one that is not trusted."`
	Missing     []message.Message `json:"missing" doc:"What is in the way, or a permission that is missing."`
}

type entryBody struct {
	Path     string     `json:"path" doc:"A folder's ends in a slash."`
	Folder   bool       `json:"folder,omitempty"`
	Bytes    int64      `json:"bytes"`
	Modified *time.Time `json:"modified,omitempty"`
	Here     bool       `json:"here,omitempty" doc:"It came already, as it is."`
}

// protocols are told once: they stay while the program runs.
func protocols() []protocolBody {
	all := []protocolBody{}
	for _, p := range drive.Protocols() {
		one := protocolBody{Kind: p.Kind, Name: p.Name, Cloud: p.Cloud, Fields: []fieldBody{}}
		for _, f := range p.Fields {
			one.Fields = append(one.Fields, fieldBody(f))
		}
		all = append(all, one)
	}
	return all
}

func (s *Server) driveRoutes(api huma.API) {
	known := protocols()
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/protocols", "list-protocols", "The ways to speak to drives, and what each needs to be told"),
		func(context.Context, *struct{}) (*body[[]protocolBody], error) { return answer(known), nil })
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/drive-hosts", "list-drive-hosts", "Where drives may be connected"),
		func(ctx context.Context, _ *struct{}) (*body[[]hostBody], error) {
			rows, err := s.Store.DriveHosts(ctx)
			all := make([]hostBody, len(rows))
			for i, r := range rows {
				all[i] = hostBody(r)
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/drive-hosts", "allow-drive-host", "Allow drives at a host"),
		func(ctx context.Context, in *body[newHostBody]) (*struct{}, error) {
			return nil, problem(s.Store.AddDriveHost(ctx, query.AddDriveHostParams{Kind: in.Body.Kind, Host: in.Body.Host, AddedBy: person(ctx).ID}))
		})
	huma.Register(api, operation(people.Admin, http.MethodDelete, "/api/drive-hosts", "forbid-drive-host", "Allow drives at a host no more"),
		func(ctx context.Context, in *struct {
			Kind string `query:"kind" required:"true" maxLength:"20"`
			Host string `query:"host" required:"true" maxLength:"253"`
		}) (*struct{}, error) {
			n, err := s.Store.RemoveDriveHost(ctx, query.RemoveDriveHostParams{Kind: in.Kind, Host: in.Host})
			if err == nil && n == 0 {
				err = pgx.ErrNoRows
			}
			return nil, problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/sources/{id}/try", "try-source", "Look at a drive: how much there is, and what is in the way"),
		func(ctx context.Context, in *ByID) (*body[triedBody], error) {
			t, err := s.Sources.Try(ctx, in.ID)
			if t.Missing == nil {
				t.Missing = []message.Message{}
			}
			return answer(triedBody{t.Files, t.Pictures, t.Bytes, t.Whole, t.HostKey, t.Print, t.Missing}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodGet, "/api/sources/{id}/folder", "list-drive-folder", "What is in one folder of a drive; a page, by their paths"),
		func(ctx context.Context, in *struct {
			ByID
			Path  string `query:"path" maxLength:"4096"`
			After string `query:"after" maxLength:"4096"`
			Most  int    `query:"most" minimum:"1" maximum:"1000" default:"1000"`
		}) (*body[[]entryBody], error) {
			found, here, err := s.Sources.Listed(ctx, in.ID, in.Path)
			all := []entryBody{}
			for _, e := range found {
				if e.Path <= in.After || len(all) == in.Most {
					continue
				}
				b := entryBody{Path: e.Path, Folder: e.Folder, Bytes: e.Bytes, Here: here[e.Path]}
				if !e.Modified.IsZero() {
					b.Modified = &e.Modified
				}
				all = append(all, b)
			}
			return answer(all), problem(err)
		})
}
