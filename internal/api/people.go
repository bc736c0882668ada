package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

type personBody struct {
	ID        int64      `json:"id"`
	Name      string     `json:"name"`
	Role      string     `json:"role" enum:"viewer,editor,admin"`
	CreatedAt time.Time  `json:"createdAt"`
	EndedAt   *time.Time `json:"endedAt,omitempty" doc:"Since when they can't sign in any more."`
	SeenAt    *time.Time `json:"seenAt,omitempty" doc:"When they signed in last."`
	Sessions  int32      `json:"sessions" doc:"Browsers in which they are signed in."`
	Tokens    int32      `json:"tokens"`
}

type auditBody struct {
	ID      int64           `json:"id"`
	At      time.Time       `json:"at"`
	Code    string          `json:"code"`
	Data    json.RawMessage `json:"data"`
	Person  string          `json:"person,omitempty" doc:"Who did it; nobody where it was done on the command line."`
	Subject string          `json:"subject,omitempty" doc:"Whom it concerns."`
}

// peopleRoutes are those for who looks after people, and for everybody's own settings and password.
type newPersonBody struct {
	Name     string `json:"name" minLength:"1" maxLength:"60"`
	Password string `json:"password" minLength:"10" maxLength:"1000"`
	Role     string `json:"role" enum:"viewer,editor,admin"`
}

func (s *Server) peopleRoutes(api huma.API) {
	huma.Register(api, operation(people.Admin, http.MethodGet, "/api/people", "list-people", "A piece of everybody, by name; those who left last"),
		func(ctx context.Context, in *struct {
			After int64 `query:"after" minimum:"0" doc:"Give those behind this person."`
			Most  int32 `query:"most" minimum:"1" maximum:"200" default:"100"`
		}) (*body[[]personBody], error) {
			from := query.PeopleParams{Most: in.Most}
			if in.After > 0 {
				p, err := s.Store.PersonByID(ctx, in.After)
				if err != nil {
					return nil, problem(err)
				}
				from.Ended, from.Name, from.After = p.EndedAt != nil, p.Name, p.ID
			}
			rows, err := s.Store.People(ctx, from)
			all := make([]personBody, len(rows))
			for i, p := range rows {
				all[i] = personBody{ID: p.ID, Name: p.Name, Role: p.Role, CreatedAt: p.CreatedAt, EndedAt: p.EndedAt, Sessions: p.Sessions, Tokens: p.Tokens}
				if p.LastSeen.Unix() > 0 {
					all[i].SeenAt = &p.LastSeen
				}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/people", "add-person", "Add a person"),
		func(ctx context.Context, in *body[newPersonBody]) (*body[idBody], error) {
			id, err := s.Register.Add(ctx, person(ctx).ID, in.Body.Name, in.Body.Password, people.Role(in.Body.Role))
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPut, "/api/people/{id}/role", "set-role", "Change what a person may do"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Role string `json:"role" enum:"viewer,editor,admin"`
			}
		}) (*struct{}, error) {
			return nil, problem(s.Register.SetRole(ctx, person(ctx).ID, in.ID, people.Role(in.Body.Role)))
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/people/{id}/end-sessions", "end-sessions", "Sign a person out everywhere"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Register.EndSessions(ctx, person(ctx).ID, in.ID))
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/people/{id}/deactivate", "deactivate-person",
		"Let a person sign in no more; what they did stays"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				WithoutName bool `json:"withoutName" doc:"Remove the name for good: what they did is then a former person's."`
			}
		}) (*struct{}, error) {
			return nil, problem(s.Register.Deactivate(ctx, person(ctx).ID, in.ID, in.Body.WithoutName))
		})
	huma.Register(api, operation(people.Admin, http.MethodPost, "/api/people/{id}/activate", "activate-person", "Let a person sign in again"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Register.Activate(ctx, person(ctx).ID, in.ID))
		})
	huma.Register(api, operation(people.Admin, http.MethodGet, "/api/audit", "audit", "Sign-ins, roles, tokens and passwords: who changed what, the newest first"),
		func(ctx context.Context, in *struct {
			Before int64 `query:"before" minimum:"0" doc:"Give the lines before this one."`
			Most   int32 `query:"most" minimum:"1" maximum:"200" default:"100"`
		}) (*body[[]auditBody], error) {
			if in.Before == 0 {
				in.Before = 1 << 62
			}
			rows, err := s.Store.Audit(ctx, query.AuditParams{Before: in.Before, Most: in.Most})
			all := make([]auditBody, len(rows))
			for i, a := range rows {
				all[i] = auditBody{ID: a.ID, At: a.At, Code: a.Code, Data: a.Data, Person: a.Person, Subject: a.Subject}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodPatch, "/api/session/settings", "change-settings",
		"Change some of your own settings, by a merge patch (RFC 7396)"),
		func(ctx context.Context, in *struct{ Body map[string]any }) (*body[json.RawMessage], error) {
			patch, err := json.Marshal(in.Body)
			if err != nil {
				return nil, problem(err)
			}
			now, err := s.Register.Set(ctx, person(ctx).ID, patch)
			return answer(now), problem(err)
		})
	huma.Register(api, bySession(operation(people.Viewer, http.MethodPut, "/api/session/password", "change-password",
		"Change your own password; your other sessions end")),
		func(ctx context.Context, in *struct {
			Session string `cookie:"ambrosa_session" maxLength:"200"`
			Body    struct {
				Old string `json:"old" maxLength:"1000"`
				New string `json:"new" minLength:"10" maxLength:"1000"`
			}
		}) (*struct{}, error) {
			return nil, problem(s.Register.SetPassword(ctx, person(ctx).ID, in.Session, in.Body.Old, in.Body.New))
		})
}
