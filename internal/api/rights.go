package api

import (
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"net/http"
	"time"

	"ambrosa/internal/people"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

// waysBody is what is known of where a picture came from, and of its rights.
type waysBody struct {
	Rights *RightsBody `json:"rights,omitempty" doc:"What holds: what an admin set, else the strictest of what is said."`
	Ways   []wayBody   `json:"ways" doc:"All that it came by, the newest first; a page."`
}

type wayBody struct {
	ID         int64           `json:"id" doc:"Of the arrival."`
	Path       string          `json:"path"`
	Origin     json.RawMessage `json:"origin" doc:"Where it lay: a path or an address, its time and checksum there."`
	Delivery   int64           `json:"delivery"`
	Title      string          `json:"title" doc:"The delivery's."`
	At         time.Time       `json:"at"`
	Person     string          `json:"person"`
	Source     int64           `json:"source,omitempty"`
	SourceName string          `json:"sourceName,omitempty"`
	Kind       string          `json:"kind,omitempty"`
	Supplier   string          `json:"supplier,omitempty"`
	Rights     *RightsBody     `json:"rights,omitempty"`
}

// ByHash is a picture's SHA-256 in hex in an address.
type ByHash struct {
	Sha string `path:"sha" minLength:"64" maxLength:"64" pattern:"^[0-9a-f]+$"`
}

func (s *Server) rightsRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/pictures/{sha}/ways", "list-ways", "All that a picture came by, and what it may be used for"),
		func(ctx context.Context, in *struct {
			ByHash
			Before int64 `query:"before" minimum:"0" doc:"Give the arrivals before this number."`
			Most   int32 `query:"most" minimum:"1" maximum:"200" default:"50"`
		}) (*body[waysBody], error) {
			b, err := s.ways(ctx, in.Sha, in.Before, in.Most)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Admin, http.MethodPut, "/api/pictures/{sha}/rights", "set-rights", "Say what a picture may be used for, whatever it came by"),
		func(ctx context.Context, in *struct {
			ByHash
			Body RightsBody
		}) (*struct{}, error) {
			sha, err := hex.DecodeString(in.Sha)
			if err != nil {
				return nil, problem(errMissing)
			}
			return nil, problem(s.Sources.SetRights(ctx, person(ctx).ID, sha, in.Body.rights()))
		})
}

func (s *Server) ways(ctx context.Context, hash string, before int64, most int32) (b waysBody, err error) {
	sha, err := hex.DecodeString(hash)
	if err != nil {
		return b, errMissing
	}
	asset, err := s.Store.AssetBySha(ctx, sha)
	if errors.Is(err, pgx.ErrNoRows) {
		return b, errMissing
	} else if err != nil {
		return b, err
	}
	rows, err := s.Store.CameBy(ctx, query.CameByParams{Sha: sha, Before: before, Most: most})
	if err != nil {
		return b, err
	}
	b.Ways = make([]wayBody, len(rows))
	for i, r := range rows {
		b.Ways[i] = wayBody{ID: r.ID, Path: r.Path, Origin: r.Origin, Delivery: r.DeliveryID, Title: r.Title, At: r.CreatedAt, Person: r.Person,
			Source: r.Source, SourceName: r.SourceName, Kind: r.Kind, Supplier: r.Supplier}
		if r.May != "" {
			b.Ways[i].Rights = &RightsBody{r.May, r.Until, r.Holder, r.Proof}
		}
	}
	of, err := pictures.Rights(ctx, s.Store.Queries, []int64{asset})
	if r, said := of[asset]; said && r.May != "" {
		b.Rights = &RightsBody{string(r.May), r.Until, r.Holder, r.Proof}
	}
	return b, err
}
