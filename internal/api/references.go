package api

import (
	"context"
	"net/http"
	"strings"
	"time"

	"ambrosa/internal/people"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

// ReferenceBody is one line of a cross-reference.
type ReferenceBody struct {
	Code      string     `json:"code" doc:"The supplier's."`
	SKU       string     `json:"sku"`
	Owner     int64      `json:"owner,omitempty"`
	Title     string     `json:"title,omitempty"`
	Confirmed int        `json:"confirmed,omitempty" minimum:"0" doc:"How often people paired so by hand."`
	Person    string     `json:"person,omitempty" doc:"Who added it."`
	AddedAt   *time.Time `json:"addedAt,omitempty"`
}

type newReferenceBody struct {
	Code      string `json:"code" maxLength:"400" doc:"The supplier's."`
	SKU       string `json:"sku" maxLength:"400"`
	Confirmed int    `json:"confirmed,omitempty" minimum:"0" doc:"How often people paired so by hand."`
}

type referencedBody struct {
	Added   int64    `json:"added"`
	Unknown []string `json:"unknown" doc:"SKUs that the catalogue does not have, the first few."`
}

func (s *Server) referenceRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/references", "list-references", "A page of a source's cross-reference, by code"),
		func(ctx context.Context, in *struct {
			ByID
			After      string `query:"after" maxLength:"400"`
			AfterOwner int64  `query:"afterOwner" minimum:"0"`
			Most       int32  `query:"most" minimum:"1" maximum:"1000" default:"1000"`
		}) (*body[[]ReferenceBody], error) {
			rows, err := s.Store.Crossed(ctx, query.CrossedParams{Source: in.ID, After: in.After, AfterOwner: in.AfterOwner, Most: in.Most})
			all := make([]ReferenceBody, len(rows))
			for i, r := range rows {
				all[i] = ReferenceBody{Code: r.Code, SKU: r.Sku, Owner: r.OwnerID, Title: r.Title, Confirmed: int(r.Confirmed), Person: r.Person, AddedAt: &r.AddedAt}
			}
			return answer(all), problem(err)
		})
	add := operation(people.Editor, http.MethodPost, "/api/sources/{id}/references", "add-references",
		"Add lines to a source's cross-reference: entries, or a text of one line each, their code and our SKU parted by a tab, a semicolon or a comma")
	add.MaxBodyBytes, add.BodyReadTimeout = bodyTable, 5*time.Minute
	huma.Register(api, add, func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Entries []newReferenceBody `json:"entries,omitempty" maxItems:"200000"`
			Text    string             `json:"text,omitempty" maxLength:"30000000"`
		}
	}) (*body[referencedBody], error) {
		entries := sources.ReadEntries(in.Body.Text)
		for _, e := range in.Body.Entries {
			entries = append(entries, sources.Entry(e))
		}
		n, unknown, err := s.Sources.AddEntries(ctx, person(ctx).ID, in.ID, entries)
		if unknown == nil {
			unknown = []string{}
		}
		return answer(referencedBody{n, unknown}), problem(err)
	})
	huma.Register(api, operation(people.Editor, http.MethodDelete, "/api/sources/{id}/references", "remove-references", "Remove the lines of codes from a source's cross-reference"),
		func(ctx context.Context, in *struct {
			ByID
			Codes string `query:"codes" required:"true" maxLength:"20000" doc:"One a line; * for all."`
		}) (*struct{}, error) {
			codes := strings.Split(in.Codes, "\n")
			if in.Codes == "*" {
				codes = nil
			}
			_, err := s.Sources.RemoveEntries(ctx, in.ID, codes)
			return nil, problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/learnt", "list-learnt",
		"Lines that a source's cross-reference could learn from what people paired by hand, the most often confirmed first"),
		func(ctx context.Context, in *struct {
			ByID
			From int `query:"from" minimum:"0" doc:"How many are known."`
			Most int `query:"most" minimum:"1" maximum:"1000" default:"200"`
		}) (*body[[]ReferenceBody], error) {
			learnt, err := s.Sources.Learnt(ctx, in.ID)
			all := []ReferenceBody{}
			for _, e := range learnt[min(in.From, len(learnt)):min(in.From+in.Most, len(learnt))] {
				all = append(all, ReferenceBody{Code: e.Code, SKU: e.SKU, Confirmed: e.Confirmed})
			}
			return answer(all), problem(err)
		})
}
