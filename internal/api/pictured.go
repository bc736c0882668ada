package api

import (
	"context"
	"net/http"

	"ambrosa/core/catalogue"
	core "ambrosa/core/wording"
	"ambrosa/internal/hand"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"
	"ambrosa/internal/wording"

	"github.com/danielgtaylor/huma/v2"
)

// PicturedQuery says which owners are shown, and which of their texts.
type PicturedQuery struct {
	Kind     string `query:"kind" enum:"product,category" default:"product" doc:"Products with their variants, or categories."`
	After    string `query:"after" maxLength:"40" pattern:"^[0-9]+(\\.[0-9]+)?$" doc:"Where the page before ended: its next."`
	Most     int32  `query:"most" minimum:"1" maximum:"500" default:"100" doc:"Products, or categories, of a page."`
	In       int64  `query:"in" minimum:"0" doc:"A category: only what is in it or below it."`
	Without  bool   `query:"without" doc:"Only those without a picture."`
	Retired  bool   `query:"retired" doc:"Only products that are retired."`
	Q        string `query:"q" maxLength:"200" doc:"Only those that a search finds."`
	Field    string `query:"field" enum:"alt,title,caption,description,file_name" default:"alt"`
	Language string `query:"language" maxLength:"35" default:"en"`
}

type picturedBody struct {
	Owners []picturedOwnerBody `json:"owners" doc:"In the order of the catalogue: each product, then its variants."`
	Next   string              `json:"next,omitempty" doc:"Where the next page begins; none behind the last."`
	Total  int                 `json:"total,omitempty" doc:"How many there are in all, where that is known."`
}

type picturedOwnerBody struct {
	ID       int64             `json:"id"`
	Kind     string            `json:"kind"`
	Parent   int64             `json:"parent,omitempty"`
	SKU      string            `json:"sku,omitempty"`
	Code     string            `json:"code,omitempty"`
	Label    string            `json:"label"`
	Path     string            `json:"path,omitempty" doc:"Of its category; of a category its own."`
	Retired  bool              `json:"retired,omitempty"`
	Pictures []textPictureBody `json:"pictures"`
}

type textPictureBody struct {
	Asset    int64    `json:"asset"`
	Sha      string   `json:"sha"`
	Name     string   `json:"name,omitempty" doc:"What its file was called when it came last."`
	Text     string   `json:"text,omitempty"`
	Hand     bool     `json:"hand,omitempty" doc:"The text is written by hand: patterns leave it alone."`
	Then     *string  `json:"then,omitempty" doc:"What the text would be, where it would change."`
	Problems []string `json:"problems,omitempty" enum:"alt_missing,alt_long,says_image_of,same_on_owner,only_key,is_file_name,colour_differs,field_unknown"`
}

func (s *Server) picturedRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/pictured", "list-pictured", "A page of owners with their pictures, and what is said of them"),
		func(ctx context.Context, in *PicturedQuery) (*body[picturedBody], error) {
			page, err := s.pictured(ctx, in, nil)
			return answer(page), problem(err)
		})
	preview := operation(people.Editor, http.MethodPost, "/api/wording/preview", "preview-wording", "A page of owners with their pictures, and what would be said of them; nothing is kept")
	preview.MaxBodyBytes = bodyDecisions
	huma.Register(api, preview, func(ctx context.Context, in *struct {
		PicturedQuery
		Body TextAct
	}) (*body[picturedBody], error) {
		act := in.Body.act()
		page, err := s.pictured(ctx, &in.PicturedQuery, &act)
		return answer(page), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/pictures", "list-pictures", "A page of all pictures, as they came, the newest first; of one delivery where it is named"),
		func(ctx context.Context, in *struct {
			Before   int64  `query:"before" minimum:"0" doc:"Give what came before this arrival: the last one's id."`
			Most     int32  `query:"most" minimum:"1" maximum:"500" default:"100"`
			Delivery int64  `query:"delivery" minimum:"0"`
			Q        string `query:"q" maxLength:"200" doc:"Only those whose path holds all words."`
		}) (*body[[]arrivedBody], error) {
			rows, err := s.Store.ArrivedPictures(ctx, query.ArrivedPicturesParams{Before: in.Before, Most: in.Most, Delivery: in.Delivery, Likes: hand.Likes(in.Q)})
			all := make([]arrivedBody, len(rows))
			for i, r := range rows {
				all[i] = arrivedBody{ID: r.ID, Asset: r.AssetID, Sha: r.Sha, Path: r.Path, Delivery: r.DeliveryID, Title: r.Title, Width: r.Width, Height: r.Height}
			}
			return answer(all), problem(err)
		})
}

type arrivedBody struct {
	ID       int64  `json:"id" doc:"Of the arrival."`
	Asset    int64  `json:"asset"`
	Sha      string `json:"sha"`
	Path     string `json:"path"`
	Delivery int64  `json:"delivery"`
	Title    string `json:"title" doc:"The delivery's."`
	Width    int32  `json:"width"`
	Height   int32  `json:"height"`
}

// pictured returns a page of owners with their pictures.
func (s *Server) pictured(ctx context.Context, in *PicturedQuery, act *wording.Act) (page picturedBody, err error) {
	page.Owners = []picturedOwnerBody{}
	var ids []int64
	if in.Kind == catalogue.Category {
		ids, page.Next, page.Total, err = s.Hand.Page(ctx, hand.Search{Kind: in.Kind, Below: in.In, Text: in.Q, Without: in.Without}, in.After, int(in.Most))
	} else {
		ids, page.Next, err = s.families(ctx, in)
	}
	if err != nil {
		return page, err
	}
	owners, err := s.Wording.Show(ctx, ids, core.Field(in.Field), in.Language, act)
	for _, o := range owners {
		one := picturedOwnerBody{ID: o.ID, Kind: o.Kind, Parent: o.Parent, SKU: o.SKU, Code: o.Code, Label: o.Label, Path: o.Path, Retired: o.Retired, Pictures: []textPictureBody{}}
		for _, p := range o.Pictures {
			of := textPictureBody{Asset: p.Asset, Sha: p.Sha, Name: p.Name, Text: p.Text, Hand: p.Hand, Then: p.Then}
			for _, w := range p.Problems {
				of.Problems = append(of.Problems, string(w))
			}
			one.Pictures = append(one.Pictures, of)
		}
		page.Owners = append(page.Owners, one)
	}
	return page, err
}

// families are a page of products, each with its variants.
func (s *Server) families(ctx context.Context, in *PicturedQuery) (ids []int64, next string, err error) {
	products, err := s.products(ctx, &productsQuery{After: in.After, Most: in.Most, In: in.In, Without: in.Without, Retired: in.Retired, Q: in.Q})
	if err != nil {
		return nil, "", err
	}
	of := make([]int64, len(products.Products))
	for i, p := range products.Products {
		of[i] = p.ID
	}
	variants, err := s.Store.FamilyOf(ctx, of)
	if err != nil {
		return nil, "", err
	}
	below := map[int64][]int64{}
	for _, v := range variants {
		below[v.Parent] = append(below[v.Parent], v.ID)
	}
	for _, id := range of {
		ids = append(append(ids, id), below[id]...)
	}
	return ids, products.Next, nil
}
