package api

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/people"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

// GuideVersion is a guide as it was kept.
type GuideVersion struct {
	Version int         `json:"version" doc:"0 where none is kept yet."`
	Guide   *page.Guide `json:"guide,omitempty"`
	Person  string      `json:"person,omitempty"`
	At      *time.Time  `json:"at,omitempty"`
}

// ShownPage is a page that is kept for a day, so that what is pointed at is what is shown.
type ShownPage struct {
	ID      string           `json:"id,omitempty"`
	Address string           `json:"address"`
	Title   string           `json:"title"`
	HTML    string           `json:"html" doc:"Made safe for a frame without scripts. Elements carry their numbers as data-n; pictures come through the server."`
	Says    *message.Message `json:"says,omitempty" doc:"Why the page could not be read; then nothing is shown."`
}

// PointedElements are what a selector finds on a page.
type PointedElements struct {
	Selector string   `json:"selector"`
	Found    []int    `json:"found" doc:"Numbers of elements; the first 1000."`
	Count    int      `json:"count"`
	Texts    []string `json:"texts" doc:"What the first few say."`
}

// WalkedItem is one item of a walk.
type WalkedItem struct {
	N        int32           `json:"n"`
	Address  string          `json:"address"`
	State    string          `json:"state" enum:"waiting,read,failed"`
	Title    string          `json:"title"`
	SKU      string          `json:"sku"`
	Barcode  string          `json:"barcode"`
	Kept     int32           `json:"kept"`
	LeftOut  int32           `json:"leftOut"`
	Failed   []string        `json:"failed" doc:"Steps of the guide that found nothing."`
	Message  json.RawMessage `json:"message,omitempty"`
	Pictures json.RawMessage `json:"pictures" doc:"Those that are kept: address, width, height."`
}

// WalkedPicture is one picture of an item.
type WalkedPicture struct {
	N       int32           `json:"n"`
	Address string          `json:"address"`
	From    string          `json:"from"`
	Width   int32           `json:"width"`
	Height  int32           `json:"height"`
	Order   int32           `json:"order" doc:"1…n among those kept; 0 else."`
	Why     string          `json:"why,omitempty"`
	Message json.RawMessage `json:"message,omitempty"`
	Remarks json.RawMessage `json:"remarks"`
}

// WalkState is how far a walk is.
type WalkState struct {
	Version     int32  `json:"version" doc:"Of the guide."`
	Addresses   bool   `json:"addresses" doc:"Only addresses are collected, no pictures."`
	Ended       string `json:"ended,omitempty" doc:"Why no further page was read: last, pages, items, nothing, failed."`
	Pages       int32  `json:"pages"`
	PagesFailed int32  `json:"pagesFailed"`
	Items       int32  `json:"items"`
	Read        int32  `json:"read"`
	Failed      int32  `json:"failed"`
	Without     int32  `json:"without" doc:"Items read without a picture: still to be taken from a saved page."`
	Kept        int32  `json:"kept" doc:"Pictures."`
}

const mostPointed = 1000

func (s *Server) pageRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/guide", "get-guide", "How a source's pages are read: the latest version of its guide, or a certain one"),
		func(ctx context.Context, in *struct {
			ByID
			Version int `query:"version" minimum:"0"`
		}) (*body[GuideVersion], error) {
			g, err := s.Sources.GuideOf(ctx, in.ID, in.Version)
			if errors.Is(err, pgx.ErrNoRows) {
				return answer(GuideVersion{}), nil
			}
			return answer(GuideVersion{g.Version, &g.Guide, g.Person, &g.At}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/sources/{id}/guides", "list-guides", "The versions of a source's guide, the newest first; a page"),
		func(ctx context.Context, in *struct {
			ByID
			Before int32 `query:"before" minimum:"0"`
			Most   int32 `query:"most" minimum:"1" maximum:"200" default:"50"`
		}) (*body[[]GuideVersion], error) {
			rows, err := s.Store.Guides(ctx, query.GuidesParams{Source: in.ID, Before: in.Before, Most: in.Most})
			all := make([]GuideVersion, len(rows))
			for i, r := range rows {
				all[i] = GuideVersion{Version: int(r.Version), Person: r.Person, At: &r.At}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/sources/{id}/guide", "set-guide", "Keep a new version of a source's guide; those before stay"),
		func(ctx context.Context, in *struct {
			ByID
			Body page.Guide
		}) (*body[idBody], error) {
			version, err := s.Sources.SetGuide(ctx, askedBy(ctx), in.ID, in.Body)
			return answer(idBody{int64(version)}), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/pages", "read-page", "Read a page, so that it can be pointed at; robots.txt is kept to"),
		func(ctx context.Context, in *struct {
			Body struct {
				Address string `json:"address" minLength:"1" maxLength:"4000"`
			}
		}) (*body[ShownPage], error) {
			shown, err := s.Sources.ShowPage(ctx, in.Body.Address)
			if err != nil {
				return nil, problem(err)
			}
			return answer(shownPage(shown)), nil
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/pages/{page}/points", "point", "Infer a selector from elements of a page that were pointed at, or look at what a selector finds"),
		func(ctx context.Context, in *struct {
			Page string `path:"page" maxLength:"32"`
			Body struct {
				Numbers  []int  `json:"numbers,omitempty" maxItems:"10" doc:"Of the elements: one or two."`
				Many     bool   `json:"many,omitempty" doc:"There are several such elements on the page, as items and pictures are."`
				Selector string `json:"selector,omitempty" maxLength:"1000" doc:"In the place of numbers: what this one finds."`
			}
		}) (*body[PointedElements], error) {
			p, err := s.Sources.Kept.Page(in.Page)
			if err != nil {
				return nil, problem(err)
			}
			selector := in.Body.Selector
			if selector == "" {
				pointed, err := p.Point(in.Body.Numbers, in.Body.Many)
				if err != nil {
					return nil, problem(err)
				}
				selector = pointed.Selector
			} else if err := page.CheckSelector(selector); err != nil {
				return nil, problem(err)
			}
			out := PointedElements{Selector: selector, Found: []int{}, Texts: []string{}}
			for _, n := range p.Select(selector) {
				if out.Count++; out.Count > mostPointed {
					continue
				}
				out.Found = append(out.Found, p.Number(n))
				if len(out.Texts) < 5 {
					out.Texts = append(out.Texts, page.Text(n))
				}
			}
			return answer(out), nil
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/pages/rules", "infer-rule", "Infer the rule that leads from the addresses of small pictures to those of large ones, and say it in words"),
		func(ctx context.Context, in *struct {
			Body struct {
				Examples []page.Example `json:"examples" minItems:"1" maxItems:"20"`
				Small    []string       `json:"small,omitempty" maxItems:"500" maxLength:"4000" doc:"Addresses to try it on."`
			}
		}) (*body[InferredRule], error) {
			rule, err := page.Infer(in.Body.Examples)
			if err != nil {
				return nil, problem(err)
			}
			out := InferredRule{Rule: rule, Says: rule.String(), Leads: make([]string, len(in.Body.Small))}
			for i, small := range in.Body.Small {
				out.Leads[i], _ = rule.Apply(small)
			}
			out.Sizes, err = s.Sources.SizesAt(ctx, out.Leads)
			return answer(out), problem(err)
		})
	s.walkRoutes(api)
}

// InferredRule is a rule over addresses, and where it leads from others.
type InferredRule struct {
	Rule  page.Rule `json:"rule"`
	Says  string    `json:"says"`
	Leads []string  `json:"leads" doc:"For each small address the large one; empty where the rule does not fit."`
	Sizes []LedTo   `json:"sizes,omitempty" doc:"How large what is there is, for the first of them; nothing where there is no picture."`
}

// LedTo is how large a picture is that a rule leads to.
type LedTo = sources.PictureSize

func shownPage(p sources.ShownPage) ShownPage {
	out := ShownPage{ID: p.ID, Address: p.Address, Title: p.Title, HTML: p.HTML}
	if p.Says.Code != "" {
		out.Says = &p.Says
	}
	return out
}

func (s *Server) walkRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/walks/{id}", "get-walk", "How far a walk is; by the number of its delivery"),
		func(ctx context.Context, in *ByID) (*body[WalkState], error) {
			of, err := s.Store.WalkOf(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			c, err := s.Store.WalkCounts(ctx, in.ID)
			return answer(WalkState{Version: of.Version, Addresses: !of.Fetches, Ended: of.Ended, Pages: c.Pages, PagesFailed: c.PagesFailed, Items: c.Items, Read: c.Read, Failed: c.Failed,
				Without: c.Without, Kept: c.Kept}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/walks/{id}/items", "list-walk-items", "A page of what a walk read, in the order of the listing"),
		func(ctx context.Context, in *struct {
			ByID
			Of    string `query:"of" enum:"without,problem" doc:"Only those without a picture, or with a problem."`
			After int32  `query:"after" minimum:"0"`
			Most  int32  `query:"most" minimum:"1" maximum:"1000" default:"500"`
		}) (*body[[]WalkedItem], error) {
			rows, err := s.Store.WalkItems(ctx, query.WalkItemsParams{DeliveryID: in.ID, Of: in.Of, After: in.After, Most: in.Most})
			all := make([]WalkedItem, len(rows))
			for i, r := range rows {
				all[i] = WalkedItem{N: r.N, Address: r.Address, State: r.State, Title: r.Title, SKU: r.Sku, Barcode: r.Barcode, Kept: r.Kept, LeftOut: r.LeftOut, Failed: r.Failed,
					Message: r.Message, Pictures: r.Pictures}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/walks/{id}/items/{n}/pictures", "list-walk-pictures", "The pictures of one item of a walk, those kept first; at most 1000"),
		func(ctx context.Context, in *struct {
			ByID
			N int32 `path:"n" minimum:"1"`
		}) (*body[[]WalkedPicture], error) {
			rows, err := s.Store.WalkPicturesOf(ctx, query.WalkPicturesOfParams{DeliveryID: in.ID, Item: in.N})
			all := make([]WalkedPicture, len(rows))
			for i, r := range rows {
				all[i] = WalkedPicture{N: r.N, Address: r.Address, From: r.FoundBy, Width: r.Width, Height: r.Height, Order: r.Ordinal, Why: r.Why, Message: r.Message, Remarks: r.Remarks}
			}
			return answer(all), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/walks/{id}/table", "walk-to-table", "Take a walk's items in hand as a table: item, title, SKU, barcode, and its pictures in order"),
		func(ctx context.Context, in *ByID) (*body[idBody], error) {
			id, err := s.Sources.WalkTable(ctx, person(ctx).ID, in.ID)
			return answer(idBody{id}), problem(err)
		})
}
