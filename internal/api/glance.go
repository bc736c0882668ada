package api

import (
	"context"
	"io"
	"net/http"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/assets"
	"ambrosa/internal/fetch"
	"ambrosa/internal/hand"
	"ambrosa/internal/people"
	"ambrosa/internal/sources"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

// FoundPicture is a picture of a page, and what becomes of it.
type FoundPicture struct {
	Address string            `json:"address"`
	Shown   string            `json:"shown" doc:"The one that the page shows, mostly a small one."`
	Element int               `json:"element,omitempty"`
	Alt     string            `json:"alt,omitempty"`
	From    page.From         `json:"from"`
	Width   int               `json:"width"`
	Height  int               `json:"height"`
	Bytes   int64             `json:"bytes"`
	Order   int               `json:"order"`
	Why     page.Reason       `json:"why,omitempty"`
	Says    *message.Message  `json:"says,omitempty"`
	Remarks []message.Message `json:"remarks,omitempty"`
}

func foundPicture(c page.Chosen) *FoundPicture {
	p := &FoundPicture{Address: c.Taken.Address, Shown: c.Shown, Element: c.Element, Alt: c.Alt, From: c.Taken.From, Width: c.Size.Width, Height: c.Size.Height, Bytes: c.Size.Bytes,
		Order: c.Order, Why: c.Why, Remarks: c.Remarks}
	if c.Says.Code != "" {
		p.Says = &c.Says
	}
	return p
}

// triedLine is one line of a try: a page of the listing, an item, or the end.
type triedLine struct {
	Page     string           `json:"page,omitempty"`
	Items    int              `json:"items,omitempty"`
	Next     string           `json:"next,omitempty"`
	Item     string           `json:"item,omitempty"`
	Title    string           `json:"title,omitempty"`
	SKU      string           `json:"sku,omitempty"`
	Barcode  string           `json:"barcode,omitempty"`
	Failed   []page.GuideStep `json:"failed,omitempty"`
	Rules    []InferredRule   `json:"rules,omitempty"`
	Pictures []*FoundPicture  `json:"pictures,omitempty"`
	Says     *message.Message `json:"says,omitempty"`
	Done     bool             `json:"done,omitempty"`
	Why      string           `json:"why,omitempty"`
}

// glanceLine is one line of a page by eye: the page, a picture, or the end.
type glanceLine struct {
	Address string           `json:"address,omitempty"`
	Title   string           `json:"title,omitempty"`
	SKU     string           `json:"sku,omitempty"`
	Count   int              `json:"count,omitempty"`
	Taken   []takenLine      `json:"taken,omitempty"`
	Picture *FoundPicture    `json:"picture,omitempty"`
	Says    *message.Message `json:"says,omitempty"`
	Done    bool             `json:"done,omitempty"`
	Why     string           `json:"why,omitempty"`
}

type takenLine struct {
	Address string    `json:"address"`
	Name    string    `json:"name,omitempty"`
	Owner   int64     `json:"owner"`
	Title   string    `json:"title"`
	SKU     string    `json:"sku,omitempty"`
	Person  string    `json:"person"`
	At      time.Time `json:"at"`
}

// TakenPictures are pictures of a page that a person took for an owner.
type TakenPictures struct {
	Page     string   `json:"page" maxLength:"4000" doc:"The page's address."`
	Owner    int64    `json:"owner" minimum:"1"`
	Delivery int64    `json:"delivery" minimum:"1" doc:"By which the pictures came."`
	Language string   `json:"language" minLength:"2" maxLength:"35" doc:"Of the names."`
	Pictures []string `json:"pictures" minItems:"1" maxItems:"100" maxLength:"4000" doc:"Their addresses."`
	Names    []string `json:"names" maxItems:"100" maxLength:"400" doc:"One an address; empty for none."`
}

const (
	bodyTrial    = 256 << 10
	mostTried    = 10
	mostProxied  = 32 << 20
	proxiedAging = "private, max-age=600"
)

func (s *Server) glanceRoutes(app *fiber.App, api huma.API) {
	s.plain(app, api, operation(people.Editor, http.MethodPost, "/api/pages/try", "try-guide",
		"Try a guide on its first items, as JSON lines: the body holds guide, items (1 to 10) and perhaps the address of one item"), s.tryGuide)
	s.plain(app, api, operation(people.Editor, http.MethodGet, "/api/pages/glance", "glance-page",
		"All pictures of a page (address), each at its largest, as JSON lines while their sizes become known"), s.glance)
	s.plain(app, api, operation(people.Editor, http.MethodGet, "/api/pages/picture", "page-picture", "A picture of a page (address), through the server"), s.pagePicture)
}

func (s *Server) tryGuide(c *fiber.Ctx) error {
	var in struct {
		Guide   page.Guide `json:"guide"`
		Items   int        `json:"items"`
		Address string     `json:"address"`
	}
	from := c.Context().RequestBodyStream()
	if from == nil {
		return fiber.NewError(fiber.StatusUnprocessableEntity, "The body holds a guide as JSON.")
	}
	b, err := io.ReadAll(io.LimitReader(from, bodyTrial))
	if err == nil {
		err = textJSON.Unmarshal(b, &in)
	}
	if err != nil {
		return fiber.NewError(fiber.StatusUnprocessableEntity, "The body holds a guide as JSON.")
	}
	if err := in.Guide.Check(); err != nil {
		return problem(err)
	}
	return s.lines(c, func(ctx context.Context, tell func(any) error) error {
		err := s.Sources.TryGuide(ctx, in.Guide, in.Address, min(max(in.Items, 1), mostTried), func(t sources.Trial) error {
			line := triedLine{Page: t.Page, Items: t.Items, Next: t.Next}
			says := t.Says
			if it := t.Item; it != nil {
				line.Item, line.Title, line.SKU, line.Barcode, line.Failed, says = it.Item, it.Title, it.SKU, it.Barcode, it.Failed, it.Says
				for _, r := range it.Rules {
					line.Rules = append(line.Rules, InferredRule{Rule: r, Says: r.String(), Leads: []string{}})
				}
				for _, p := range it.Pictures {
					line.Pictures = append(line.Pictures, foundPicture(p))
				}
			}
			if says.Code != "" {
				line.Says = &says
			}
			return tell(line)
		})
		end := triedLine{Done: true}
		if err != nil {
			end = triedLine{Why: sentence(err.Error())}
		}
		return tell(end)
	})
}

func (s *Server) glance(c *fiber.Ctx) error {
	address := c.Query("address")
	return s.lines(c, func(ctx context.Context, tell func(any) error) error {
		err := s.Sources.Glance(ctx, address, func(g sources.Glance) error {
			line := glanceLine{Address: g.Address, Title: g.Title, SKU: g.SKU, Count: g.Pictures}
			if g.Picture != nil {
				line.Picture = foundPicture(*g.Picture)
			}
			if g.Says.Code != "" {
				line.Says = &g.Says
			}
			for _, t := range g.Taken {
				line.Taken = append(line.Taken, takenLine{Address: t.Address, Name: t.Name, Owner: t.OwnerID, Title: t.Title, SKU: t.Sku, Person: t.Person, At: t.At})
			}
			return tell(line)
		})
		end := glanceLine{Done: true}
		if err != nil {
			end = glanceLine{Why: sentence(err.Error())}
		}
		return tell(end)
	})
}

// pagePicture sends a picture of a page on, so that no browser asks the page's host. What is no picture is not sent.
func (s *Server) pagePicture(c *fiber.Ctx) error {
	got, err := s.Sources.Fetch.Get(c.UserContext(), fetch.Request{URL: c.Query("address"), Bytes: mostProxied, Paced: true})
	if err != nil {
		return problem(errMissing)
	}
	defer got.Body.Close()
	b, err := io.ReadAll(got.Body)
	format := assets.Detect(b)
	if err != nil || !format.Picture {
		return problem(errMissing)
	}
	c.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	c.Set(fiber.HeaderCacheControl, proxiedAging)
	c.Set(fiber.HeaderContentType, format.MIME)
	return c.Send(b)
}

func (s *Server) takenRoutes(api huma.API) {
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/pages/taken", "plan-taken",
		"Make the plan that gives an owner pictures of a page, which were fetched; it is remembered, so that the page adds to them when it is read again"),
		func(ctx context.Context, in *body[TakenPictures]) (*body[handPlanBody], error) {
			b := in.Body
			names := append(b.Names, make([]string, len(b.Pictures))...)[:len(b.Pictures)]
			id, wrong, err := s.Hand.Bring(ctx, person(ctx).ID, hand.Brought{Owner: b.Owner, Delivery: b.Delivery, Addresses: b.Pictures, Names: names, Language: b.Language})
			if err == nil && len(wrong) == 0 {
				err = s.Sources.KeepGlance(ctx, person(ctx).ID, b.Page, b.Owner, b.Pictures, names)
			}
			return answer(handPlan(id, wrong)), problem(err)
		})
}
