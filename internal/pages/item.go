package pages

import (
	"context"
	"sync"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/page"

	"golang.org/x/sync/errgroup"
)

// Result is one item of a listing, or one page, as it will be.
type Result struct {
	Item     string // the address of its page
	Title    string
	SKU      string
	Barcode  string
	Pictures []page.Chosen
	Failed   []page.GuideStep // steps of the guide that found nothing
	Rules    []page.Rule      // that the page itself shows
	Says     message.Message  // why it could not be read; none where it was
}

// Kept is how many pictures are kept.
func (r Result) Kept() (n int) {
	for _, p := range r.Pictures {
		if p.Kept {
			n++
		}
	}
	return n
}

// How says how an item is read.
type How struct {
	Looks bool // compare whole pictures, too
	// Here tells what is known of an address without asking for it, as of a picture that came along with its page; nil for nothing.
	Here  func(address string) (seen page.Seen, ok bool)
	All   bool // look at the sizes of those that the markup leaves out, too
	Sizes *Sizes
	Pause time.Duration // between two pages; without one pictures are asked for as fast as they come
}

// Sizes remembers what was seen at addresses, so that what stands on every page is asked for once.
type Sizes struct {
	mu sync.Mutex
	of map[string]page.Seen
}

// mostSizes is how many addresses are remembered; then all are forgotten.
const mostSizes = 50_000

func (s *Sizes) get(address string) (page.Seen, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	seen, ok := s.of[address]
	return seen, ok
}

func (s *Sizes) set(address string, seen page.Seen) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.of == nil || len(s.of) >= mostSizes {
		s.of = map[string]page.Seen{}
	}
	s.of[address] = seen
}

const (
	atOnce    = 8   // pictures that are asked for at the same time
	mostAsked = 400 // pictures of one page that are asked for
)

// Item reads an item's page by a guide and looks at its pictures. Errors: those of Page.
func (r *Reader) Item(ctx context.Context, guide page.Guide, address string, how How) (Result, error) {
	ask := r.Page
	if guide.Shown {
		ask = r.AsShown
	}
	p, err := ask(ctx, address, how.Pause)
	if err != nil {
		return Result{Item: address}, err
	}
	return r.Read(ctx, guide, p, how)
}

// Read reads an item's page that came already. An error is ctx's.
func (r *Reader) Read(ctx context.Context, guide page.Guide, p *page.Page, how How) (Result, error) {
	it := guide.Item(p)
	result := Result{Item: p.Address, Title: it.Title, SKU: it.SKU, Barcode: it.Barcode, Failed: it.Failed, Rules: it.Rules}
	if how.Sizes == nil {
		how.Sizes = &Sizes{}
	}
	seen := map[string]page.Seen{}
	guided := guide.Pictures.Selector != ""
	if err := r.look(ctx, it.Pictures, how, seen, false); err != nil {
		return result, err
	}
	result.Pictures = page.Choose(it.Pictures, seen, guide.Not, guided)
	if how.Looks {
		var kept []page.Picture
		for _, c := range result.Pictures {
			if c.Kept {
				kept = append(kept, page.Picture{Candidates: []page.Candidate{c.Taken}})
			}
		}
		if err := r.look(ctx, kept, how, seen, true); err != nil {
			return result, err
		}
		result.Pictures = page.Choose(it.Pictures, seen, guide.Not, guided)
	}
	return result, nil
}

// look looks at the addresses of pictures, several at once.
func (r *Reader) look(ctx context.Context, pictures []page.Picture, how How, seen map[string]page.Seen, whole bool) error {
	var mu sync.Mutex
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(atOnce)
	asked := map[string]bool{}
	paced := how.Pause <= 0
	for _, p := range pictures {
		tries := p.Tries()
		if how.All && p.Why != "" {
			tries = p.Candidates[:1]
		}
		for _, c := range tries {
			if asked[c.Address] || len(asked) >= mostAsked {
				continue
			}
			asked[c.Address] = true
			group.Go(func() error {
				s, known := how.Sizes.get(c.Address)
				if !known && how.Here != nil {
					s, known = how.Here(c.Address)
				}
				switch {
				case whole:
					mu.Lock()
					s = seen[c.Address]
					mu.Unlock()
					s = r.whole(ctx, c.Address, s, paced)
				case !known:
					s = r.Size(ctx, c.Address, paced)
				}
				if ctx.Err() != nil {
					return ctx.Err()
				}
				if s.Failed != page.Unreached {
					how.Sizes.set(c.Address, s)
				}
				mu.Lock()
				defer mu.Unlock()
				seen[c.Address] = s
				return nil
			})
		}
	}
	return group.Wait()
}

// Glance looks at pictures of a page, each at its largest, those too that the markup leaves out. An error is ctx's.
func (r *Reader) Glance(ctx context.Context, pictures []page.Picture, sizes *Sizes) ([]page.Chosen, error) {
	seen := map[string]page.Seen{}
	if err := r.look(ctx, pictures, How{All: true, Sizes: sizes}, seen, false); err != nil {
		return nil, err
	}
	return page.Choose(pictures, seen, page.Not{Widest: 1000}, true), nil
}
