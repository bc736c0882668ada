package api

import (
	"context"
	"net/http"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

type packBody struct {
	Owner    int64  `json:"owner"`
	Kind     string `json:"kind"`
	SKU      string `json:"sku"`
	Label    string `json:"label"`
	Barcode  string `json:"barcode,omitempty" doc:"In the catalogue."`
	Shows    string `json:"shows" doc:"In its pictures."`
	Pictures int32  `json:"pictures" doc:"That show it."`
	Sha      string `json:"sha" doc:"The first of them."`
	Clear    bool   `json:"clear" doc:"Its pictures show no other, so that this one can be proposed."`
}

// packRoutes are about owners whose pictures show another barcode than the catalogue has.
func (s *Server) packRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/barcodes", "list-pack-barcodes", "Owners whose pictures show a barcode that nobody has, and not their own"),
		func(ctx context.Context, in *FindPage) (*body[findsBody[packBody]], error) {
			all, next, err := s.Photos.Packs(ctx, in.After, int32(in.Most))
			b := findsBody[packBody]{Finds: []packBody{}, Next: next}
			for _, p := range all {
				b.Finds = append(b.Finds, packBody{Owner: p.ID, Kind: p.Kind, SKU: p.Sku, Label: p.Label, Barcode: p.Barcode, Shows: p.Shows, Pictures: p.Pictures, Sha: p.Sha, Clear: p.Alone})
			}
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/tidy/barcodes/plans", "plan-pack-barcodes", "Make the plan that gives owners the barcode that their pictures show, where that is clear"),
		func(ctx context.Context, in *struct {
			Body struct {
				Owners []int64 `json:"owners" minItems:"1" maxItems:"500"`
			}
		}) (*body[handPlanBody], error) {
			id, wrong, err := s.Photos.Correct(ctx, s.Hand, person(ctx).ID, in.Body.Owners)
			if err != nil {
				return nil, problem(err)
			}
			return answer(handPlan(id, wrong)), nil
		})
}
