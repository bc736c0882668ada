package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

type personKey struct{}

// person is who asks. Every operation but signing in has one.
func person(ctx context.Context) people.Person {
	p, _ := ctx.Value(personKey{}).(people.Person)
	return p
}

type sessionBody struct {
	ID   int64       `json:"id"`
	Name string      `json:"name"`
	Role people.Role `json:"role" enum:"viewer,editor,admin"`
	CSRF string      `json:"csrf" doc:"Send as X-Ambrosa-CSRF with every changing request of this session."`
	// What they mean is the screens' own.
	Settings json.RawMessage `json:"settings" doc:"What the person set for themselves."`
	Demo     bool            `json:"demo" doc:"Whether this is the demo world."`
}

type tokenBody struct {
	ID        int64      `json:"id"`
	Name      string     `json:"name"`
	CreatedAt time.Time  `json:"createdAt"`
	UsedAt    *time.Time `json:"usedAt,omitempty"`
}

type newTokenBody struct {
	Name string `json:"name" minLength:"1" maxLength:"60"`
}

type madeTokenBody struct {
	ID    int64  `json:"id"`
	Token string `json:"token" doc:"The token itself, which is shown only now."`
}

type body[T any] struct{ Body T }

func answer[T any](v T) *body[T] { return &body[T]{v} }

func (s *Server) sessionRoutes(api huma.API) {
	huma.Register(api, operation(people.Anybody, http.MethodPost, "/api/session", "sign-in", "Sign in"), func(ctx context.Context, in *struct {
		Body struct {
			Name     string `json:"name" maxLength:"200"`
			Password string `json:"password" maxLength:"1000"`
		}
	}) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
		Body      sessionBody
	}, error) {
		session, p, err := s.Register.SignIn(ctx, in.Body.Name, in.Body.Password, caller(ctx))
		if err != nil {
			return nil, problem(err)
		}
		who, err := s.who(ctx, p)
		if err != nil {
			return nil, problem(err)
		}
		return &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
			Body      sessionBody
		}{s.cookie(session, 14*24*3600), who}, nil
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/session", "who-am-i", "Who is signed in"),
		func(ctx context.Context, _ *struct{}) (*body[sessionBody], error) {
			who, err := s.who(ctx, person(ctx))
			return answer(who), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodDelete, "/api/session", "sign-out", "Sign out"),
		func(ctx context.Context, in *struct {
			Session string `cookie:"ambrosa_session" maxLength:"200"`
		}) (*struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}, error) {
			if err := s.Register.SignOut(ctx, in.Session); err != nil {
				return nil, problem(err)
			}
			return &struct {
				SetCookie http.Cookie `header:"Set-Cookie"`
			}{s.cookie("", -1)}, nil
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tokens", "list-tokens", "Your access tokens"),
		func(ctx context.Context, _ *struct{}) (*body[[]tokenBody], error) {
			rows, err := s.Store.Tokens(ctx, person(ctx).ID)
			tokens := make([]tokenBody, len(rows))
			for i, t := range rows {
				tokens[i] = tokenBody{t.ID, t.Name, t.CreatedAt, t.UsedAt}
			}
			return answer(tokens), problem(err)
		})
	huma.Register(api, bySession(operation(people.Viewer, http.MethodPost, "/api/tokens", "make-token", "Make an access token; its text is shown this once")), func(ctx context.Context, in *body[newTokenBody]) (*body[madeTokenBody], error) {
		id, token, err := s.Register.MakeToken(ctx, person(ctx).ID, in.Body.Name)
		return answer(madeTokenBody{id, token}), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodDelete, "/api/tokens/{id}", "revoke-token", "Revoke an access token"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Register.RevokeToken(ctx, person(ctx).ID, in.ID))
		})
}

// who is somebody with their settings.
func (s *Server) who(ctx context.Context, p people.Person) (sessionBody, error) {
	settings, err := s.Register.Settings(ctx, p.ID)
	return sessionBody{ID: p.ID, Name: p.Name, Role: p.Role, CSRF: p.CSRF, Settings: settings, Demo: s.Demo}, err
}

func (s *Server) cookie(session string, seconds int) http.Cookie {
	return http.Cookie{Name: sessionCookie, Value: session, Path: "/", MaxAge: seconds, HttpOnly: true, Secure: s.Secure, SameSite: http.SameSiteStrictMode}
}
