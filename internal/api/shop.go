package api

import (
	"context"
	"net/http"

	core "ambrosa/core/catalogue"
	"ambrosa/core/wording"
	"ambrosa/internal/people"
	"ambrosa/internal/shop"

	"github.com/danielgtaylor/huma/v2"
)

type shopBody struct {
	ShopItem
	Path     []shopCategory `json:"path" doc:"The categories above, the uppermost first."`
	Variants []ShopItem     `json:"variants,omitempty"`
	Tiles    []ShopItem     `json:"tiles,omitempty" doc:"Of a category: those below it, then its products."`
	More     bool           `json:"more,omitempty" doc:"There are more than these tiles."`
	Changed  bool           `json:"changed,omitempty" doc:"The plan changes something that is seen here."`
}

type shopCategory struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
}

// ShopItem is an owner on a page.
type ShopItem struct {
	ID       int64             `json:"id"`
	Kind     string            `json:"kind"`
	SKU      string            `json:"sku,omitempty"`
	Barcode  string            `json:"barcode,omitempty"`
	Title    string            `json:"title"`
	Options  map[string]string `json:"options,omitempty"`
	Pictures []shopPicture     `json:"pictures"`
}

type shopPicture struct {
	Sha      string `json:"sha"`
	Alt      string `json:"alt,omitempty"`
	Title    string `json:"title,omitempty"`
	Caption  string `json:"caption,omitempty"`
	Describe string `json:"description,omitempty"`
	FileName string `json:"fileName,omitempty" doc:"Its published file name, without extension."`
}

func (s *Server) shopRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/shop/{id}", "show-in-shop", "An owner's page as a customer would see it, now or before or after a plan; of a variant its product's"),
		func(ctx context.Context, in *struct {
			ByID
			Plan     int64  `query:"plan" minimum:"0"`
			Side     string `query:"side" enum:"now,before,after" default:"now"`
			Language string `query:"language" maxLength:"35" default:"en"`
		}) (*body[shopBody], error) {
			tag, err := wording.Language(in.Language)
			if err != nil {
				return nil, problem(err)
			}
			page, err := (&shop.Shop{Store: s.Store}).Page(ctx, shop.Ask{Owner: in.ID, Plan: in.Plan, Side: shop.Side(in.Side), Language: tag.String()})
			if err != nil {
				return nil, problem(err)
			}
			base, _ := tag.Base()
			lang := base.String()
			out := shopBody{ShopItem: inShop(page.Item, lang, ""), Path: []shopCategory{}, Variants: allInShop(page.Variants, lang, page.Title), Tiles: allInShop(page.Tiles, lang, ""),
				More: page.More, Changed: page.Changed}
			for _, c := range page.Path {
				out.Path = append(out.Path, shopCategory{c.ID, titleIn(c, lang)})
			}
			return answer(out), nil
		})
}

func titleIn(o core.Owner, lang string) string {
	if title := o.Titles[lang]; title != "" {
		return title
	}
	return o.Title
}

func allInShop(items []shop.Item, lang, parent string) []ShopItem {
	all := make([]ShopItem, len(items))
	for i, it := range items {
		all[i] = inShop(it, lang, parent)
	}
	return all
}

func inShop(it shop.Item, lang, parent string) ShopItem {
	out := ShopItem{ID: it.ID, Kind: it.Kind, SKU: it.SKU, Barcode: it.Barcode, Title: titleIn(it.Owner, lang), Options: it.Options, Pictures: []shopPicture{}}
	if out.Title == "" {
		out.Title = core.Label("", parent, it.Options)
	}
	for _, p := range it.Pictures {
		out.Pictures = append(out.Pictures, shopPicture{Sha: p.Sha, Alt: p.Texts[wording.Alt], Title: p.Texts[wording.Title], Caption: p.Texts[wording.Caption],
			Describe: p.Texts[wording.Description], FileName: p.Texts[wording.FileName]})
	}
	return out
}
