package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"ambrosa/core/channel"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

type savedListBody struct {
	ID      int64        `json:"id"`
	Name    string       `json:"name"`
	List    channel.List `json:"list"`
	SavedAt time.Time    `json:"savedAt"`
	Person  string       `json:"person" doc:"Who saved it."`
}

// savedListRoutes are about lists of channels, saved under names.
func (s *Server) savedListRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/saved-lists", "list-saved-lists", "Lists of channels, saved under names; a page, by name"),
		func(ctx context.Context, in *struct {
			AfterName string `query:"afterName" maxLength:"200" doc:"The name of the last one of the page before."`
			After     int64  `query:"after" minimum:"0"`
			Most      int32  `query:"most" minimum:"1" maximum:"200" default:"200"`
		}) (*body[[]savedListBody], error) {
			rows, err := s.Store.ListPresets(ctx, query.ListPresetsParams{AfterName: in.AfterName, After: in.After, Most: in.Most})
			all := make([]savedListBody, len(rows))
			for i, r := range rows {
				all[i] = savedListBody{ID: r.ID, Name: r.Name, SavedAt: r.SavedAt, Person: r.Person}
				if err := json.Unmarshal(r.Says, &all[i].List); err != nil {
					return nil, err
				}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/saved-lists", "save-list", "Save a list under a name, for other channels; one of that name is replaced"),
		func(ctx context.Context, in *struct {
			Body struct {
				Name string       `json:"name" minLength:"1" maxLength:"200"`
				List channel.List `json:"list"`
			}
		}) (*body[idBody], error) {
			id, err := s.Publish.SaveList(ctx, person(ctx).ID, in.Body.Name, in.Body.List)
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/saved-lists/{id}", "remove-saved-list", "Remove a saved list; channels keep theirs"),
		func(ctx context.Context, in *ByID) (*struct{}, error) {
			return nil, problem(s.Publish.RemoveList(ctx, in.ID))
		})
}
