package sources

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/pages"
	"ambrosa/internal/store/query"
)

// Glance is what a page by eye tells, piece by piece: first the page, then its pictures as their sizes are known.
type Glance struct {
	Address, Title, SKU string
	Pictures            int
	Taken               []query.EyeSetRow // what people took from this page before
	Picture             *page.Chosen
	Says                message.Message
}

// glances is how many pictures are looked at before they are told.
const glances = 16

// Glance reads a page without a guide and tells all its pictures, those that the markup leaves out, too, each at its largest.
func (s *Sources) Glance(ctx context.Context, address string, tell func(Glance) error) error {
	first := Glance{Address: address}
	p, err := s.Pages.Page(ctx, address, 0)
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		first.Says = pages.Trouble(err, address)
		return tell(first)
	}
	it := page.Guide{}.Item(p)
	first = Glance{Address: p.Address, Title: it.Title, SKU: it.SKU, Pictures: len(it.Pictures)}
	if first.Taken, err = s.Store.EyeSet(ctx, pageKey(p.Address)); err != nil {
		return err
	}
	if err := tell(first); err != nil {
		return err
	}
	sizes := &pages.Sizes{}
	for len(it.Pictures) > 0 {
		some := it.Pictures[:min(len(it.Pictures), glances)]
		it.Pictures = it.Pictures[len(some):]
		chosen, err := s.Pages.Glance(ctx, some, sizes)
		if err != nil {
			return err
		}
		for i := range chosen {
			if err := tell(Glance{Picture: &chosen[i]}); err != nil {
				return err
			}
		}
	}
	return nil
}

// pageKey is by what a page is known again: its address without its fragment, hashed.
func pageKey(address string) string {
	address, _, _ = strings.Cut(address, "#")
	sum := sha256.Sum256([]byte(address))
	return hex.EncodeToString(sum[:16])
}

// KeepGlance keeps which pictures of a page were taken for an owner, so that the page adds to them when it is read again. names are those that
// people gave them, one an address, empty for none.
func (s *Sources) KeepGlance(ctx context.Context, person int64, address string, owner int64, addresses, names []string) error {
	return s.Store.KeepEye(ctx, query.KeepEyeParams{Page: pageKey(address), Addresses: addresses, Names: names, Owner: owner, By: person})
}
