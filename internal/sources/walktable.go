package sources

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"io"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/pages"
	"ambrosa/internal/store/query"

	"golang.org/x/sync/errgroup"
)

// WalkTable takes a walk's items in hand as a table, to which the walk's pictures belong, and returns its number. Errors: pgx.ErrNoRows, those of
// tables.Bring.
func (s *Sources) WalkTable(ctx context.Context, person, delivery int64) (table int64, err error) {
	of, err := s.Store.VisitOf(ctx, delivery)
	if err != nil {
		return 0, err
	}
	if _, err := s.Store.WalkOf(ctx, delivery); err != nil {
		return 0, err
	}
	read, write := io.Pipe()
	go func() { write.CloseWithError(s.writeWalk(ctx, delivery, write)) }()
	table, err = s.Tables.Bring(ctx, of.Title+".csv", read, person)
	read.CloseWithError(io.ErrClosedPipe)
	if err != nil {
		return 0, err
	}
	return table, s.Tables.Attach(ctx, table, delivery, false)
}

// writeWalk writes a walk's items as CSV. Several pictures stand with | between them, the main one first.
func (s *Sources) writeWalk(ctx context.Context, delivery int64, to io.Writer) error {
	w := csv.NewWriter(to)
	if err := w.Write([]string{"item", "title", "sku", "barcode", "pictures"}); err != nil {
		return err
	}
	for after := int32(0); ; {
		rows, err := s.Store.WalkItems(ctx, query.WalkItemsParams{DeliveryID: delivery, After: after, Most: portion})
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			w.Flush()
			return w.Error()
		}
		for _, r := range rows {
			after = r.N
			if r.State != "read" {
				continue
			}
			var some []struct{ Address string }
			if err := json.Unmarshal(r.Pictures, &some); err != nil {
				return err
			}
			addresses := make([]string, len(some))
			for i, p := range some {
				addresses[i] = strings.ReplaceAll(p.Address, "|", "%7C")
			}
			if err := w.Write([]string{r.Address, r.Title, r.Sku, r.Barcode, strings.Join(addresses, "|")}); err != nil {
				return err
			}
		}
	}
}

// ShownPage is a page that people can look at and point at. Says is why it could not be read.
type ShownPage struct {
	ID, Address, Title, HTML string
	Says                     message.Message
}

// ShowPage reads a page and keeps it for a day. What is wrong with it, or at its address, is in what it returns.
func (s *Sources) ShowPage(ctx context.Context, address string) (shown ShownPage, err error) {
	shown.Address = address
	raw, err := s.Pages.Raw(ctx, address, 0)
	if err != nil {
		return s.unread(ctx, shown, err)
	}
	if shown.ID, err = s.Kept.Keep(raw); err != nil {
		return shown, err
	}
	p, err := s.Kept.Page(shown.ID)
	if err != nil {
		return s.unread(ctx, shown, err)
	}
	shown.Address, shown.Title = p.Address, p.Title
	shown.HTML, err = s.Pages.Shown(ctx, p)
	return shown, err
}

func (s *Sources) unread(ctx context.Context, shown ShownPage, why error) (ShownPage, error) {
	if ctx.Err() != nil {
		return shown, ctx.Err()
	}
	shown.ID, shown.Says = "", pages.Trouble(why, shown.Address)
	return shown, nil
}

// Trial is what a try of a guide tells, piece by piece: a page of the listing, or an item.
type Trial struct {
	Page  string // its address
	Items int    // that it leads to
	Next  string // the page behind it; empty for none
	Item  *pages.Result
	Says  message.Message
}

// TryGuide reads the first page of a guide, and the first few items, most of them, or one item at an address, and tells what they would bring.
// page.ErrGuide for a guide that can't be.
func (s *Sources) TryGuide(ctx context.Context, g page.Guide, address string, most int, tell func(Trial) error) error {
	if err := g.Check(); err != nil {
		return err
	}
	how := pages.How{Looks: true, Sizes: &pages.Sizes{}, Pause: g.Limits.Rest()}
	items := []string{address}
	if address == "" {
		first := Trial{Page: g.Start[0]}
		p, err := s.Pages.Page(ctx, first.Page, how.Pause)
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil:
			first.Says = pages.Trouble(err, first.Page)
			return tell(first)
		}
		listing := false
		if items, listing = g.Leads(p); listing {
			first.Next, _ = g.NextPage(p, 1)
		}
		if first.Items = len(items); first.Items == 0 {
			first.Says = message.New("walk_no_items", "address", first.Page)
		}
		if err := tell(first); err != nil {
			return err
		}
	}
	for _, item := range items[:min(len(items), most)] {
		result, err := s.Pages.Item(ctx, g, item, how)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			result.Says = pages.Trouble(err, item)
		}
		if err == nil && !g.Shown && s.Pages.Browser != nil {
			if err := s.holdsMore(ctx, g, how, &result); err != nil {
				return err
			}
		}
		if err := tell(Trial{Item: &result}); err != nil {
			return err
		}
	}
	return nil
}

// holdsMore says of an item that its page as a browser shows it holds more pictures than as it is fetched, where it does. An error is ctx's.
func (s *Sources) holdsMore(ctx context.Context, g page.Guide, how pages.How, fetched *pages.Result) error {
	g.Shown = true
	shown, err := s.Pages.Item(ctx, g, fetched.Item, how)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err == nil && shown.Kept() > fetched.Kept() {
		fetched.Says = message.New("page_shown_more", "fetched", fetched.Kept(), "shown", shown.Kept())
	}
	return nil
}

// PictureSize is how large a picture is, in pixels; nothing where there is none.
type PictureSize struct {
	Width  int `json:"width"`
	Height int `json:"height"`
}

// mostLed is of how many addresses the sizes are looked at.
const mostLed = 24

// SizesAt looks how large the pictures at the first of some addresses are; empty ones are left out. An error is ctx's.
func (s *Sources) SizesAt(ctx context.Context, addresses []string) ([]PictureSize, error) {
	all := make([]PictureSize, min(len(addresses), mostLed))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(connections)
	for i := range all {
		if addresses[i] == "" {
			continue
		}
		group.Go(func() error {
			seen := s.Pages.Size(ctx, addresses[i], false)
			all[i] = PictureSize{seen.Width, seen.Height}
			return ctx.Err()
		})
	}
	return all, group.Wait()
}
