package api

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"net/http"

	core "ambrosa/core/catalogue"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

type catalogueBody struct {
	Products   int32 `json:"products"`
	Variants   int32 `json:"variants"`
	Categories int32 `json:"categories"`
	Without    int32 `json:"without" doc:"Products without a picture, of their own or of a variant."`
	Retired    int32 `json:"retired" doc:"Products that are retired; the other counts leave them out."`
}

type productsQuery struct {
	After   string `query:"after" maxLength:"40" pattern:"^[0-9]+\\.[0-9]+$" doc:"Where the page before ended: its next."`
	Most    int32  `query:"most" minimum:"1" maximum:"500" default:"200"`
	In      int64  `query:"in" minimum:"0" doc:"A category: only products in it or below it."`
	Without bool   `query:"without" doc:"Only those without a picture."`
	Ending  bool   `query:"ending" doc:"Only those that show a picture whose rights end within 30 days, or ended; in the whole catalogue."`
	Retired bool   `query:"retired" doc:"Only those that are retired; the others otherwise."`
	Q       string `query:"q" maxLength:"200" doc:"Only those that a search finds, themselves or a variant; there is one page of them."`
}

type productsBody struct {
	Products []productBody `json:"products"`
	Next     string        `json:"next,omitempty" doc:"Where the next page begins; none behind the last."`
}

type productBody struct {
	ID              int64  `json:"id"`
	SKU             string `json:"sku"`
	Title           string `json:"title"`
	Category        int64  `json:"category,omitempty"`
	Variants        int32  `json:"variants"`
	Pictures        int32  `json:"pictures"`
	VariantPictures int32  `json:"variantPictures"`
	Picture         string `json:"picture,omitempty" doc:"Hash of the main image, or of the first variant's."`
}

type categoryBody struct {
	ID       int64  `json:"id"`
	Parent   int64  `json:"parent,omitempty"`
	Code     string `json:"code,omitempty"`
	Title    string `json:"title"`
	Products int32  `json:"products"`
	Order    int32  `json:"order" doc:"Its place among its siblings."`
	Retired  bool   `json:"retired,omitempty"`
}

type cardBody struct {
	ID       int64             `json:"id"`
	Kind     string            `json:"kind"`
	SKU      string            `json:"sku"`
	Barcode  string            `json:"barcode,omitempty"`
	Title    string            `json:"title"`
	Label    string            `json:"label"`
	Parent   int64             `json:"parent,omitempty" doc:"The product, of a variant."`
	Category int64             `json:"category,omitempty"`
	Options  map[string]string `json:"options"`
	Pictures []pictureBody     `json:"pictures"`
	Variants []cardBody        `json:"variants,omitempty"`
}

type pictureBody struct {
	Sha    string `json:"sha"`
	Alt    string `json:"alt"`
	Width  int32  `json:"width"`
	Height int32  `json:"height"`
	Bytes  int64  `json:"bytes"`
	Format string `json:"format"`
}

type foundBody struct {
	ID      int64  `json:"id"`
	Kind    string `json:"kind"`
	SKU     string `json:"sku"`
	Label   string `json:"label"`
	Picture string `json:"picture,omitempty"`
	Exact   bool   `json:"exact,omitempty" doc:"Whether its SKU or barcode is what was asked for."`
}

type trailBody struct {
	Gathering int32 `json:"gathering"`
	ToPair    int32 `json:"toPair"`
	ToPublish int32 `json:"toPublish" doc:"Channels to which something would go that was not published yet."`
	Products  int32 `json:"products"`
	Runs      int32 `json:"runs"`
}

func (s *Server) catalogueRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/trail", "trail",
		"What waits at each station, and the work that goes on"),
		func(ctx context.Context, _ *struct{}) (*body[trailBody], error) {
			n, err := s.Store.TrailCounts(ctx)
			if err != nil {
				return nil, problem(err)
			}
			return answer(trailBody(n)), nil
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/catalogue", "count-catalogue", "How much there is in the catalogue"),
		func(ctx context.Context, _ *struct{}) (*body[catalogueBody], error) {
			n, err := s.Store.CatalogueCounts(ctx)
			return answer(catalogueBody(n)), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/products", "list-products",
		"A page of products in the order of the catalogue"),
		func(ctx context.Context, in *productsQuery) (*body[productsBody], error) {
			page, err := s.products(ctx, in)
			return answer(page), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/categories", "list-categories",
		"A piece of the categories, by their numbers"),
		func(ctx context.Context, in *struct {
			After int64 `query:"after" minimum:"0" doc:"Give the categories behind this one."`
			Most  int32 `query:"most" minimum:"1" maximum:"2000" default:"1000"`
		}) (*body[[]categoryBody], error) {
			rows, err := s.Store.Categories(ctx, query.CategoriesParams{After: in.After, Most: in.Most})
			all := make([]categoryBody, len(rows))
			for i, c := range rows {
				all[i] = categoryBody{ID: c.ID, Parent: orZero(c.Parent), Code: c.Code, Title: c.Title, Products: c.Products, Order: c.Ordinal, Retired: c.Retired}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/products/{id}", "get-product",
		"A product with its variants and their pictures"),
		func(ctx context.Context, in *ByID) (*body[cardBody], error) {
			card, err := s.card(ctx, in.ID)
			return answer(card), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/owners", "search-owners",
		"Find products and variants by SKU, barcode or words, near ones too where few are found"),
		func(ctx context.Context, in *struct {
			Q    string `query:"q" minLength:"1" maxLength:"200" required:"true"`
			Most int32  `query:"most" minimum:"1" maximum:"100" default:"12"`
			Page string `query:"page" maxLength:"40" doc:"A word of the page's own: a newer search with the same word ends this one."`
		}) (*body[[]foundBody], error) {
			ctx, done := s.latest.begin(ctx, person(ctx).ID, in.Page)
			defer done()
			rows, err := catalogue.Search(ctx, s.Store, in.Q, int(in.Most))
			all := make([]foundBody, len(rows))
			for i, o := range rows {
				all[i] = foundBody{ID: o.ID, Kind: o.Kind, SKU: o.SKU, Label: catalogue.Name(o.Title, o.ParentTitle, o.Options), Picture: o.Picture,
					Exact: o.Exact}
			}
			return answer(all), problem(err)
		})
}

// products returns a page of products. Its place is the last one's ordinal and number.
func (s *Server) products(ctx context.Context, in *productsQuery) (page productsBody, err error) {
	page.Products = []productBody{}
	show := query.ProductsParams{Without: in.Without}
	if show.Categories, err = catalogue.Below(ctx, s.Store, in.In); err != nil {
		return page, err
	}
	if show.Ids, err = s.pageOf(ctx, in, show.Categories); err != nil {
		return page, err
	}
	rows, err := s.Store.Products(ctx, show)
	for _, r := range rows {
		page.Products = append(page.Products, productBody{ID: r.ID, SKU: r.Sku, Title: r.Title, Category: orZero(r.Category), Variants: r.Variants,
			Pictures: r.Pictures, VariantPictures: r.VariantPictures, Picture: r.Picture})
	}
	if last := len(rows) - 1; in.Q == "" && len(show.Ids) == int(in.Most) && last >= 0 {
		page.Next = fmt.Sprintf("%d.%d", rows[last].Ordinal, rows[last].ID)
	}
	return page, err
}

// pageOf returns the numbers of the products of a page, each kind of page by its own index.
func (s *Server) pageOf(ctx context.Context, in *productsQuery, categories []int64) ([]int64, error) {
	if in.Q != "" {
		return catalogue.SearchProducts(ctx, s.Store, in.Q)
	}
	after := query.ProductPageParams{Retired: in.Retired, AfterOrdinal: math.MinInt32, Most: in.Most}
	if in.After != "" {
		if _, err := fmt.Sscanf(in.After, "%d.%d", &after.AfterOrdinal, &after.AfterID); err != nil {
			return nil, huma.Error422UnprocessableEntity("after is not a position in the catalogue")
		}
	}
	switch {
	case in.Ending:
		return s.Store.ProductPageEnding(ctx, query.ProductPageEndingParams{Days: endsSoon, AfterOrdinal: after.AfterOrdinal, AfterID: after.AfterID, Most: after.Most})
	case len(categories) > 0:
		return s.Store.ProductPageIn(ctx, query.ProductPageInParams{Categories: categories, Without: in.Without, AfterOrdinal: after.AfterOrdinal,
			AfterID: after.AfterID, Most: after.Most})
	case in.Without:
		return s.Store.ProductPageWithout(ctx, query.ProductPageWithoutParams{AfterOrdinal: after.AfterOrdinal, AfterID: after.AfterID, Most: after.Most})
	}
	return s.Store.ProductPage(ctx, after)
}

// endsSoon is within how many days rights end soon.
const endsSoon = 30

func (s *Server) card(ctx context.Context, id int64) (cardBody, error) {
	family, err := s.Store.OwnerWithFamily(ctx, id)
	if err == nil && (len(family) == 0 || family[0].ID != id) {
		err = pgx.ErrNoRows
	}
	if err != nil {
		return cardBody{}, err
	}
	ids := make([]int64, len(family))
	for i, o := range family {
		ids[i] = o.ID
	}
	placements, err := s.Store.Placements(ctx, query.PlacementsParams{Owners: ids, Language: core.Language})
	if err != nil {
		return cardBody{}, err
	}
	pictures := map[int64][]pictureBody{}
	for _, p := range placements {
		pictures[p.OwnerID] = append(pictures[p.OwnerID], pictureBody{p.Sha, p.Alt, p.Width, p.Height, p.Bytes, p.Format})
	}
	var card cardBody
	for i, o := range family {
		one := cardBody{ID: o.ID, Kind: o.Kind, SKU: o.Sku, Barcode: o.Barcode, Title: o.Title, Parent: orZero(o.Parent), Category: orZero(o.Category), Pictures: pictures[o.ID]}
		if err := json.Unmarshal(o.Options, &one.Options); err != nil {
			return card, err
		}
		one.Label = core.Label(o.Title, family[0].Title, one.Options)
		if one.Pictures == nil {
			one.Pictures = []pictureBody{}
		}
		if i == 0 {
			card = one
		} else {
			card.Variants = append(card.Variants, one)
		}
	}
	return card, nil
}

func orZero(p *int64) int64 {
	if p == nil {
		return 0
	}
	return *p
}
