package hand

import (
	"context"
	"slices"
	"strings"

	"ambrosa/core/wording"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
)

// Brought are pictures at addresses that came by a delivery, for an owner, behind those that it has. Names are what people called them, one an
// address; empty for none. A name becomes the picture's file name in a language.
type Brought struct {
	Owner, Delivery  int64
	Addresses, Names []string
	Language         string
}

// Bring keeps the plan that gives an owner pictures from addresses, and returns its number; see Plan. Those that it has already are let be.
func (h *Hand) Bring(ctx context.Context, person int64, b Brought) (id int64, wrong []Wrong, err error) {
	rows, err := h.Store.ArrivedFrom(ctx, query.ArrivedFromParams{Delivery: b.Delivery, Addresses: b.Addresses})
	if err != nil {
		return 0, nil, err
	}
	came := make(map[string]int64, len(rows))
	for _, r := range rows {
		came[r.Address] = r.Asset
	}
	standing, err := pictures.Placed(ctx, h.Store.Queries, []int64{b.Owner})
	if err != nil {
		return 0, nil, err
	}
	e := Edit{Owner: b.Owner, Pictures: &Pictures{}}
	for _, p := range standing[b.Owner] {
		e.Pictures.Was = append(e.Pictures.Was, p.Asset)
	}
	e.Pictures.Now = slices.Clone(e.Pictures.Was)
	tag, err := wording.Language(b.Language)
	if err != nil {
		return 0, nil, err
	}
	for i, address := range b.Addresses {
		asset := came[address]
		if asset == 0 {
			continue
		}
		if !slices.Contains(e.Pictures.Now, asset) {
			e.Pictures.Now = append(e.Pictures.Now, asset)
		}
		if i < len(b.Names) && strings.TrimSpace(b.Names[i]) != "" {
			at := wording.Place{Asset: asset, Field: wording.FileName, Language: tag.String()}
			e.Texts = append(e.Texts, Text{Place: at, Text: b.Names[i]})
		}
	}
	return h.Plan(ctx, person, []Edit{e})
}
