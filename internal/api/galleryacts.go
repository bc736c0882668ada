package api

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"ambrosa/core/gallery"
	"ambrosa/core/placement"
	core "ambrosa/core/tidy"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

// ownerLabel is how an owner is shown.
var ownerLabel = catalogue.Name

// actBody is what is done with pictures: a plan.
type actBody struct {
	Act      string      `json:"act" enum:"bin,restore,placeholder,no_placeholder,tag,untag,note,rights,no_rights,replace,place"`
	Title    string      `json:"title,omitempty" maxLength:"200" doc:"Of the plan."`
	Pictures []int64     `json:"pictures" minItems:"1" maxItems:"100000"`
	Text     string      `json:"text,omitempty" maxLength:"4000" doc:"The tag, or the note."`
	Rights   *RightsBody `json:"rights,omitempty"`
	By       int64       `json:"by,omitempty" minimum:"0" doc:"The picture that comes in the place of the others."`
	Bin      bool        `json:"bin,omitempty" doc:"Whether those that are replaced go into the bin."`
	Owners   []int64     `json:"owners,omitempty" maxItems:"10000"`
	SKUs     []pathText  `json:"skus,omitempty" maxItems:"10000" doc:"Owners by their SKUs, besides."`
	Rule     string      `json:"rule,omitempty" enum:"only_where_empty,add_after,same_place,whole_set" doc:"What to do where owners have pictures; add_after where it is left out."`
}

type plannedBody struct {
	Plan    int64    `json:"plan"`
	Unknown []string `json:"unknown" doc:"SKUs that nobody has."`
}

func (s *Server) galleryActs(api huma.API) {
	act := operation(people.Editor, http.MethodPost, "/api/gallery/plans", "plan-pictures", "Make a plan of what is done with pictures")
	act.MaxBodyBytes, act.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, act, func(ctx context.Context, in *struct{ Body actBody }) (*body[plannedBody], error) {
		b, err := s.planPictures(ctx, &in.Body)
		return answer(b), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/gallery/numbers", "list-picture-numbers", "The numbers of all pictures that a search finds, at most 100000, the newest first: for acts on all of them"),
		func(ctx context.Context, in *struct {
			PictureSearch
			Most int `query:"most" minimum:"1" maximum:"100000" default:"100000"`
		}) (*body[[]int64], error) {
			find, err := in.query(in.Most)
			if err != nil {
				return nil, err
			}
			shelf, err := s.Gallery.Now(ctx)
			if err != nil {
				return nil, problem(err)
			}
			return answer(shelf.Find(find).IDs), nil
		})
	pack := operation(people.Viewer, http.MethodPost, "/api/gallery/zip", "zip-found-pictures", "Ask for pictures as one archive, to be fetched at /api/downloads/ and the ticket within an hour")
	pack.MaxBodyBytes, pack.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, pack, func(ctx context.Context, in *struct {
		Body struct {
			Pictures []int64 `json:"pictures" minItems:"1" maxItems:"100000"`
		}
	}) (*body[ticketBody], error) {
		ticket, err := s.Gatherer.PictureTicket(ctx, person(ctx).ID, "pictures", in.Body.Pictures)
		return answer(ticketBody{ticket}), problem(err)
	})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/owners/{id}/offers", "offer-pictures", "Pictures whose names, codes, words or likeness speak for an owner, the best first"),
		func(ctx context.Context, in *struct {
			ByID
			Most int `query:"most" minimum:"1" maximum:"100" default:"40"`
		}) (*body[[]PictureCard], error) {
			cards, err := s.offers(ctx, in.ID, in.Most)
			return answer(cards), problem(err)
		})
}

func (s *Server) planPictures(ctx context.Context, in *actBody) (b plannedBody, err error) {
	b.Unknown = []string{}
	who := person(ctx).ID
	describe := func(becomes func(core.Asset) core.Asset) {
		b.Plan, err = s.Tidy.Describe(ctx, who, in.Title, in.Pictures, becomes)
	}
	text := strings.TrimSpace(in.Text)
	switch in.Act {
	case "bin":
		b.Plan, err = s.Tidy.Bin(ctx, who, in.Title, in.Pictures)
	case "restore":
		b.Plan, err = s.Tidy.Restore(ctx, who, in.Title, in.Pictures)
	case "placeholder", "no_placeholder":
		describe(func(a core.Asset) core.Asset { a.Placeholder = in.Act == "placeholder"; return a })
	case "tag", "untag":
		if text == "" || len(text) > mostTag {
			return b, huma.Error422UnprocessableEntity("a tag has 1 to 60 bytes")
		}
		describe(func(a core.Asset) core.Asset { return a.Tagged(text, in.Act == "tag") })
	case "note":
		describe(func(a core.Asset) core.Asset { a.Note = text; return a })
	case "rights", "no_rights":
		var of *core.Rights
		if in.Act == "rights" {
			if in.Rights == nil {
				return b, huma.Error422UnprocessableEntity("rights are missing")
			}
			of = &core.Rights{May: in.Rights.May, Until: in.Rights.Until, Holder: in.Rights.Holder, Proof: in.Rights.Proof}
		}
		if !person(ctx).Role.May(people.Admin) {
			return b, huma.Error403Forbidden("This needs the role admin.")
		}
		describe(func(a core.Asset) core.Asset { a.Rights = of; return a })
	case "replace":
		by := map[int64]int64{}
		for _, id := range in.Pictures {
			by[id] = in.By
		}
		b.Plan, err = s.Tidy.Replace(ctx, who, in.Title, by, in.Bin)
	case "place":
		return s.planPlaces(ctx, in)
	}
	return b, err
}

const mostTag = 60

// planPlaces makes the plan that puts pictures on owners, named by their numbers and SKUs.
func (s *Server) planPlaces(ctx context.Context, in *actBody) (b plannedBody, err error) {
	owners, unknown, err := s.Tidy.OwnersBySKU(ctx, plainTexts(in.SKUs))
	if err != nil {
		return b, err
	}
	b.Unknown = unknown
	rule := placement.Rule(in.Rule)
	if rule == "" {
		rule = placement.AddAfter
	}
	b.Plan, err = s.Tidy.Place(ctx, person(ctx).ID, in.Title, append(in.Owners, owners...), in.Pictures, rule)
	return b, err
}

// offers are pictures that speak for an owner: each of its keys is searched, and those that more of it finds come first.
func (s *Server) offers(ctx context.Context, owner int64, most int) ([]PictureCard, error) {
	keys, err := s.Tidy.KeysOf(ctx, owner)
	if err != nil {
		return nil, err
	}
	looks, own, err := s.Tidy.LooksOf(ctx, owner)
	if err != nil {
		return nil, err
	}
	shown, err := s.Store.PicturesShowing(ctx, query.PicturesShowingParams{Owner: owner, Most: mostOffers})
	if err != nil {
		return nil, err
	}
	shelf, err := s.Gallery.Now(ctx)
	if err != nil {
		return nil, err
	}
	return s.cards(ctx, core.BestOffers(slices.Concat(keys, looks, []core.OfferKey{core.CodeKey(shown)}), most, func(k core.OfferKey) []int64 {
		if len(k.Words) == 0 && k.Looks == nil {
			return k.Shown
		}
		find := gallery.Query{Words: k.Words, Facets: []gallery.Facets{gallery.Placed | gallery.Unplaced}, Most: mostOffers}
		if k.Looks == nil {
			return shelf.Find(find).IDs
		}
		find.Like = &gallery.Look{Likeness: *k.Looks, Within: nearEnough}
		return slices.DeleteFunc(shelf.Find(find).IDs, func(id int64) bool { return slices.Contains(own, id) })
	}))
}

// nearEnough is in how many bits a picture may differ from one of the family, and be offered.
const nearEnough = 8

// mostOffers is how many pictures are looked at for one key.
const mostOffers = 500
