package api

import (
	"context"
	"encoding/hex"
	"net/http"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/placement"
	core "ambrosa/core/wording"
	"ambrosa/internal/hand"
	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

// OwnerEdit is what a person wants of one owner.
type OwnerEdit struct {
	Owner    int64          `json:"owner" doc:"Its number; below 0 for one that is to be made, which others of the same plan may name so."`
	Kind     string         `json:"kind,omitempty" enum:"product,variant,category" doc:"Of one that is to be made."`
	Fields   *OwnerFields   `json:"fields,omitempty"`
	Pictures *OwnerPictures `json:"pictures,omitempty"`
	Texts    []OwnerText    `json:"texts,omitempty" maxItems:"1000"`
}

// OwnerFields are those of an owner that change; what is left out stays.
type OwnerFields struct {
	SKU        *string           `json:"sku,omitempty" maxLength:"400"`
	Barcode    *string           `json:"barcode,omitempty" maxLength:"100"`
	Code       *string           `json:"code,omitempty" maxLength:"400"`
	Title      *string           `json:"title,omitempty" maxLength:"4000"`
	Parent     *int64            `json:"parent,omitempty"`
	Category   *int64            `json:"category,omitempty"`
	Titles     map[string]string `json:"titles,omitempty" doc:"In other languages; an empty one goes."`
	Options    map[string]string `json:"options,omitempty"`
	Attributes map[string]string `json:"attributes,omitempty"`
	Retired    *bool             `json:"retired,omitempty" doc:"A retired owner is not paired with and not listed; its pictures, texts and decisions stay."`
}

// OwnerPictures are all pictures of an owner in their order, by hash: as the person saw them, and as they shall be.
type OwnerPictures struct {
	Was []string `json:"was" maxItems:"1000" maxLength:"64"`
	Now []string `json:"now" maxItems:"1000" maxLength:"64"`
}

// OwnerText is what shall be said of one picture; an empty one goes.
type OwnerText struct {
	Sha      string `json:"sha" minLength:"64" maxLength:"64" pattern:"^[0-9a-f]+$"`
	Field    string `json:"field" enum:"alt,title,caption,description,file_name"`
	Language string `json:"language" minLength:"2" maxLength:"35"`
	Text     string `json:"text" maxLength:"2000"`
}

type handPlanBody struct {
	Plan  int64       `json:"plan,omitempty" doc:"The plan; none where something can't be as wanted."`
	Wrong []wrongBody `json:"wrong,omitempty" doc:"What can't be, and why; then nothing is kept."`
}

func handPlan(id int64, wrong []hand.Wrong) handPlanBody {
	out := handPlanBody{Plan: id}
	for _, w := range wrong {
		out.Wrong = append(out.Wrong, wrongBody{w.Owner, w.Field, w.Message})
	}
	return out
}

type wrongBody struct {
	Owner int64           `json:"owner"`
	Field string          `json:"field,omitempty"`
	Why   message.Message `json:"why"`
}

// SearchedOwners says which owners are meant.
type SearchedOwners struct {
	Kind    string `json:"kind" enum:"product,category"`
	Below   int64  `json:"below,omitempty" minimum:"0" doc:"A category: only what is in it or below it."`
	Q       string `json:"q,omitempty" maxLength:"200"`
	Without bool   `json:"without,omitempty" doc:"Only those without a picture."`
}

type offerBody struct {
	Category int64  `json:"category"`
	Product  int64  `json:"product" doc:"Whose main picture it is."`
	Sha      string `json:"sha"`
}

type ownerRecord struct {
	ID         int64             `json:"id"`
	Kind       string            `json:"kind"`
	Parent     int64             `json:"parent,omitempty"`
	ParentName string            `json:"parentName,omitempty" doc:"SKU of a variant's product."`
	Category   int64             `json:"category,omitempty"`
	SKU        string            `json:"sku,omitempty"`
	Barcode    string            `json:"barcode,omitempty"`
	Code       string            `json:"code,omitempty"`
	Title      string            `json:"title,omitempty"`
	Titles     map[string]string `json:"titles" doc:"In other languages."`
	Options    map[string]string `json:"options"`
	Attributes map[string]string `json:"attributes"`
	Retired    bool              `json:"retired,omitempty"`
}

// owner returns an owner's own fields.
func (s *Server) owner(ctx context.Context, id int64) (out ownerRecord, err error) {
	o, parent, err := s.Hand.Owner(ctx, id)
	if err != nil {
		return out, err
	}
	out = ownerRecord{ID: o.ID, Kind: o.Kind, Parent: o.Parent, ParentName: parent, Category: o.Category, SKU: o.SKU, Barcode: o.Barcode, Code: o.Code, Title: o.Title,
		Titles: o.Titles, Options: o.Options, Attributes: map[string]string{}, Retired: o.Retired}
	for name := range o.Attributes {
		out.Attributes[name] = o.Attribute(name)
	}
	return out, nil
}

func (s *Server) handRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/owners/{id}", "get-owner", "An owner's own fields"),
		func(ctx context.Context, in *ByID) (*body[ownerRecord], error) {
			o, err := s.owner(ctx, in.ID)
			return answer(o), problem(err)
		})
	plan := operation(people.Editor, http.MethodPost, "/api/owners/plans", "plan-by-hand", "Make the plan of what a person changes on a few owners: their fields, pictures and texts")
	plan.MaxBodyBytes, plan.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, plan, func(ctx context.Context, in *struct {
		Body struct {
			Edits []OwnerEdit `json:"edits" minItems:"1" maxItems:"2000"`
		}
	}) (*body[handPlanBody], error) {
		edits, err := s.edits(ctx, in.Body.Edits)
		if err != nil {
			return nil, problem(err)
		}
		id, wrong, err := s.Hand.Plan(ctx, person(ctx).ID, edits)
		return answer(handPlan(id, wrong)), problem(err)
	})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/owners/order", "order-owners", "Make the plan that puts owners which stand side by side into an order"),
		func(ctx context.Context, in *struct {
			Body struct {
				Owners []int64 `json:"owners" minItems:"2" maxItems:"10000" doc:"All that stand side by side, in the order wanted."`
			}
		}) (*body[idBody], error) {
			id, err := s.Hand.Order(ctx, person(ctx).ID, in.Body.Owners)
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/owners/everywhere", "plan-everywhere", "Make the plan that gives one picture to all owners that a search finds"),
		func(ctx context.Context, in *struct {
			Body struct {
				Search SearchedOwners `json:"search"`
				Sha    string         `json:"sha" minLength:"64" maxLength:"64" pattern:"^[0-9a-f]+$"`
				Rule   string         `json:"rule" enum:"only_where_empty,add_after,same_place,whole_set"`
				Title  string         `json:"title" maxLength:"200"`
			}
		}) (*body[idBody], error) {
			b := in.Body
			assets, err := s.assetsOf(ctx, []string{b.Sha})
			if err != nil {
				return nil, problem(err)
			}
			if assets[b.Sha] == 0 {
				return nil, problem(errMissing)
			}
			search := hand.Search{Kind: b.Search.Kind, Below: b.Search.Below, Text: b.Search.Q, Without: b.Search.Without}
			id, err := s.Hand.Everywhere(ctx, person(ctx).ID, b.Title, search, assets[b.Sha], placement.Rule(b.Rule))
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/categories/offers", "list-offers", "Pictures that categories without one could have: the main picture of the product that stands first in them"),
		func(ctx context.Context, in *struct {
			After int64 `query:"after" minimum:"0" doc:"Give the categories behind this one."`
			Most  int   `query:"most" minimum:"1" maximum:"2000" default:"1000"`
		}) (*body[[]offerBody], error) {
			offers, err := s.Hand.Offers(ctx)
			all := []offerBody{}
			for _, o := range offers {
				if o.Category > in.After && len(all) < in.Most {
					all = append(all, offerBody{o.Category, o.Product, o.Sha})
				}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/categories/offered", "plan-offered", "Make the plan that takes what is offered to categories, all or some"),
		func(ctx context.Context, in *struct {
			Body struct {
				Categories []int64 `json:"categories,omitempty" maxItems:"10000"`
				Title      string  `json:"title" maxLength:"200"`
			}
		}) (*body[idBody], error) {
			id, err := s.Hand.Offered(ctx, person(ctx).ID, in.Body.Title, in.Body.Categories)
			return answer(idBody{id}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/pictures/fetch", "fetch-pictures", "Fetch pictures from addresses, as a delivery"),
		func(ctx context.Context, in *struct {
			Body struct {
				Addresses []string `json:"addresses" minItems:"1" maxItems:"100" maxLength:"2000"`
				Title     string   `json:"title" minLength:"1" maxLength:"200"`
			}
		}) (*body[idBody], error) {
			id, err := s.Collecting.Collect(ctx, person(ctx).ID, in.Body.Title, in.Body.Addresses)
			return answer(idBody{id}), problem(err)
		})
}

// edits are a person's edits with the pictures' numbers; 0 for one that is not here.
func (s *Server) edits(ctx context.Context, all []OwnerEdit) ([]hand.Edit, error) {
	var hashes []string
	for _, e := range all {
		if e.Pictures != nil {
			hashes = append(append(hashes, e.Pictures.Was...), e.Pictures.Now...)
		}
		for _, t := range e.Texts {
			hashes = append(hashes, t.Sha)
		}
	}
	assets, err := s.assetsOf(ctx, hashes)
	if err != nil {
		return nil, err
	}
	edits := make([]hand.Edit, len(all))
	for i, e := range all {
		edits[i] = hand.Edit{Owner: e.Owner, Kind: e.Kind}
		if e.Fields != nil {
			fields := hand.Fields(*e.Fields)
			edits[i].Fields = &fields
		}
		if e.Pictures != nil {
			edits[i].Pictures = &hand.Pictures{Was: numbers(e.Pictures.Was, assets), Now: numbers(e.Pictures.Now, assets)}
		}
		for _, t := range e.Texts {
			tag, err := core.Language(t.Language)
			if err != nil {
				return nil, err
			}
			edits[i].Texts = append(edits[i].Texts, hand.Text{Place: core.Place{Asset: assets[t.Sha], Field: core.Field(t.Field), Language: tag.String()}, Text: t.Text})
		}
	}
	return edits, nil
}

func numbers(hashes []string, assets map[string]int64) []int64 {
	ids := make([]int64, len(hashes))
	for i, sha := range hashes {
		ids[i] = assets[sha]
	}
	return ids
}

// assetsOf are the numbers of pictures by their hashes.
func (s *Server) assetsOf(ctx context.Context, hashes []string) (map[string]int64, error) {
	raw := make([][]byte, 0, len(hashes))
	for _, sha := range hashes {
		b, err := hex.DecodeString(sha)
		if err != nil {
			return nil, errMissing
		}
		raw = append(raw, b)
	}
	rows, err := s.Store.AssetsBySha(ctx, raw)
	assets := make(map[string]int64, len(rows))
	for _, r := range rows {
		assets[r.Sha] = r.ID
	}
	return assets, err
}
