package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
)

type photoBody struct {
	Width  int32       `json:"width" doc:"In pixels, as the photo is seen."`
	Height int32       `json:"height"`
	Read   bool        `json:"read" doc:"It was looked for codes in it."`
	Taken  *time.Time  `json:"taken,omitempty" doc:"By the camera's clock, which knows no zone."`
	Camera string      `json:"camera,omitempty" doc:"Its serial number, or what else it says."`
	Codes  []photoCode `json:"codes" maxItems:"32"`
}

type photoCode struct {
	Format string       `json:"format" enum:"EAN-13,EAN-8,UPC-A,UPC-E,ITF-14,Code-128,QR,DataMatrix"`
	Text   string       `json:"text" doc:"As it is encoded."`
	GTIN   string       `json:"gtin,omitempty" doc:"The trade item that it names, in 14 digits."`
	Box    [4]int32     `json:"box" doc:"Left, top, width and height in pixels."`
	Owners []codedOwner `json:"owners" doc:"Who has this barcode."`
}

type codedOwner struct {
	ID      int64  `json:"id"`
	SKU     string `json:"sku"`
	Label   string `json:"label"`
	Barcode string `json:"barcode"`
}

type seriesBody struct {
	Why      string  `json:"why" enum:"slate,slate_nobody,slate_unread,gap,first"`
	Slate    int64   `json:"slate,omitempty" doc:"The arrival that opened it."`
	Owner    int64   `json:"owner,omitempty"`
	Pictures []int64 `json:"pictures" doc:"Its arrivals in the order in which they were taken."`
}

type seriesPage struct {
	Version string       `json:"version" doc:"Of the pairing that these are of."`
	Total   int          `json:"total"`
	Series  []seriesBody `json:"series"`
}

// photoRoutes are about what photos say of themselves.
func (s *Server) photoRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/pictures/{sha}/photo", "get-photo", "What a photo says of itself: its codes, when and by which camera it was taken"),
		func(ctx context.Context, in *ByHash) (*body[photoBody], error) {
			b, err := s.photo(ctx, in.Sha)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/series", "list-series",
		"A page of the series in which a delivery's pictures were taken, each of one product; only pictures whose names say nothing"),
		func(ctx context.Context, in *struct {
			ByID
			From int `query:"from" minimum:"0" doc:"How many to pass over."`
			Most int `query:"most" minimum:"1" maximum:"500" default:"200"`
		}) (*body[seriesPage], error) {
			p, err := s.Pairer.Pair(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			page := seriesPage{Version: p.Version, Total: len(p.Series), Series: []seriesBody{}}
			for _, of := range p.Series[min(in.From, len(p.Series)):min(in.From+in.Most, len(p.Series))] {
				b := seriesBody{Why: string(of.Why), Owner: of.Owner, Pictures: make([]int64, len(of.Pictures))}
				if of.Slate >= 0 {
					b.Slate = p.Lines[of.Slate].Arrival.ID
				}
				for i, line := range of.Pictures {
					b.Pictures[i] = p.Lines[line].Arrival.ID
				}
				page.Series = append(page.Series, b)
			}
			return answer(page), nil
		})
}

func (s *Server) photo(ctx context.Context, sha string) (b photoBody, err error) {
	row, err := s.Store.PhotoBySHA(ctx, sha)
	if errors.Is(err, pgx.ErrNoRows) {
		err = errMissing
	}
	if err != nil {
		return b, err
	}
	b = photoBody{Width: row.Width, Height: row.Height, Read: row.Read, Camera: row.Camera, Codes: []photoCode{}}
	if row.TakenAt.Valid {
		b.Taken = &row.TakenAt.Time
	}
	codes, err := s.Store.PhotoCodes(ctx, []int64{row.ID})
	if err != nil {
		return b, err
	}
	var gtins []string
	for _, c := range codes {
		b.Codes = append(b.Codes, photoCode{Format: c.Format, Text: c.Text, GTIN: c.Gtin, Box: [4]int32{c.X, c.Y, c.Width, c.Height}, Owners: []codedOwner{}})
		if c.Gtin != "" {
			gtins = append(gtins, c.Gtin)
		}
	}
	owners, err := s.Store.OwnersOfGTINs(ctx, gtins)
	for i := range b.Codes {
		for _, o := range owners {
			if o.Gtin == b.Codes[i].GTIN {
				b.Codes[i].Owners = append(b.Codes[i].Owners, codedOwner{ID: o.ID, SKU: o.Sku, Label: o.Title, Barcode: o.Barcode})
			}
		}
	}
	return b, err
}
