package sources

import (
	"context"
	"encoding/json"
	"net/url"
	"path"
	"strconv"
	"strings"

	"ambrosa/core/colour"
	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	list "ambrosa/internal/gather/source/listed"
	"ambrosa/internal/store/query"
)

// pointed are the pictures that a walk keeps, or that a lookup service named, as what a visit fetches.
type pointed struct {
	*Sources
	paced bool // no pause is asked for
	// kept tells the pictures.
	kept func(ctx context.Context, found func(listed) error) error
	// says is what is said of files by their names within the source.
	says func(ctx context.Context, files []string) (map[string]saidOf, error)
	said map[string]saidOf
}

// saidOf is what is said of a picture: by a page or a service, of an item.
type saidOf struct {
	page, licence string
	said          []source.Said
}

func (*pointed) close() {}

func (p *pointed) list(ctx context.Context, found func(listed) error) ([]string, error) {
	return nil, p.kept(ctx, found)
}

func (p *pointed) ready(ctx context.Context, files []string) (err error) {
	p.said, err = p.says(ctx, files)
	return err
}

// walked are the pictures that a walk keeps.
func (s *Sources) walked(ctx context.Context, delivery int64) (*pointed, error) {
	walk, err := s.Store.WalkOf(ctx, delivery)
	if err != nil {
		return nil, err
	}
	var guide page.Guide
	if err := json.Unmarshal(walk.Guide, &guide); err != nil {
		return nil, err
	}
	p := &pointed{Sources: s, paced: guide.Limits.Rest() == 0, says: func(ctx context.Context, files []string) (map[string]saidOf, error) {
		rows, err := s.Store.WalkSaid(ctx, query.WalkSaidParams{DeliveryID: delivery, Files: files})
		said := make(map[string]saidOf, len(rows))
		for _, r := range rows {
			of := saidOf{page: r.Item}
			for _, s := range []source.Said{{Field: "sku", Text: r.Sku}, {Field: "barcode", Text: r.Barcode}, {Field: "title", Text: r.Title}, {Field: "number", Text: strconv.Itoa(int(r.Ordinal))}} {
				if s.By = r.Item; s.Text != "" {
					of.said = append(of.said, s)
				}
			}
			said[r.File] = of
		}
		return said, err
	}}
	p.kept = func(ctx context.Context, found func(listed) error) error {
		for item, after := int32(0), int32(0); walk.Fetches; {
			rows, err := s.Store.WalkKept(ctx, query.WalkKeptParams{DeliveryID: delivery, Item: item, After: after, Most: portion})
			if err != nil || len(rows) == 0 {
				return err
			}
			for _, r := range rows {
				item, after = r.Item, r.Ordinal
				if err := found(listed{id: r.File, path: r.Address, bytes: -1, sku: r.Sku}); err != nil {
					return err
				}
			}
		}
		return nil
	}
	return p, nil
}

// open asks for a picture, only if what is there changed since it was asked for last.
func (p *pointed) open(of query.VisitToFetchRow) source.Item {
	said := p.said[of.Item]
	it := source.Item{Path: list.PathOf(of.Path), Bytes: -1, Version: of.Sum, Said: said.said}
	if said.page != "" {
		it.Path = walkedPath(said.page, of.Path)
	}
	from := cameFrom{Address: of.Path, Page: said.page, Licence: said.licence}
	if b, err := json.Marshal(from); err == nil {
		it.From = b
	}
	ask := fetch.Request{URL: of.Path, Bytes: p.Gatherer.Limits.EntryBytes, ETag: strings.TrimPrefix(of.Sum, etag), Paced: p.paced}
	if of.Modified != nil {
		ask.Since = *of.Modified
	}
	it.Open = p.opening(ask, from)
	return it
}

// walkedPath is what a picture of an item is called: its own name, in a folder named for the item, in one named for the server.
func walkedPath(item, address string) string {
	name := list.PathOf(address)
	u, err := url.Parse(item)
	if err != nil {
		return name
	}
	folder := strings.TrimSuffix(path.Base(path.Clean("/"+u.Path)), path.Ext(u.Path))
	if folder == "/" || folder == "" {
		return name
	}
	host, _, _ := strings.Cut(name, "/")
	return list.PathOf("http://" + host + "/" + url.PathEscape(folder) + "/" + url.PathEscape(path.Base(name)))
}

// twins leaves out what came twice by a walk: pictures of one item that look the same, in another size or compression. The larger stays.
func twins(ctx context.Context, q *query.Queries, delivery int64) error {
	marked := query.MarkTwinsParams{}
	for after := int32(0); ; {
		rows, err := q.WalkLooks(ctx, query.WalkLooksParams{DeliveryID: delivery, After: after, Most: portion})
		if err != nil {
			return err
		}
		if len(rows) == portion { // the last item may go on behind the page; one with more pictures than a page is taken as it is
			last := rows[len(rows)-1].Item
			for n := len(rows); n > 0 && rows[0].Item != last && rows[n-1].Item == last; n-- {
				rows = rows[:n-1]
			}
		}
		if len(rows) == 0 {
			break
		}
		for first := 0; first < len(rows); {
			end := first
			for end < len(rows) && rows[end].Item == rows[first].Item {
				end++
			}
			if err := markTwins(rows[first:end], &marked); err != nil {
				return err
			}
			first = end
		}
		after = rows[len(rows)-1].Item
	}
	if len(marked.Ids) == 0 {
		return nil
	}
	if err := q.MarkTwins(ctx, marked); err != nil {
		return err
	}
	if err := q.LeaveTwins(ctx, delivery); err != nil {
		return err
	}
	return q.RenumberWalk(ctx, delivery)
}

// markTwins compares the pictures of one item with each other.
func markTwins(rows []query.WalkLooksRow, marked *query.MarkTwinsParams) error {
	seen := make([]page.Seen, len(rows))
	for i, r := range rows {
		seen[i] = page.Seen{Width: int(r.Width), Height: int(r.Height), Likeness: new(uint64(*r.Likeness)), Palette: colour.Unpack(r.Palette)}
	}
	gone := map[int]bool{}
	for i := range rows {
		for j := range i {
			if gone[i] || gone[j] || !seen[j].LooksLike(seen[i]) {
				continue
			}
			stays, goes := j, i
			if seen[i].Width*seen[i].Height > seen[j].Width*seen[j].Height {
				stays, goes = i, j
			}
			gone[goes] = true
			says, err := json.Marshal(message.New("left_twin", "address", rows[stays].Path))
			if err != nil {
				return err
			}
			marked.Ids, marked.Messages = append(marked.Ids, rows[goes].ID), append(marked.Messages, string(says))
		}
	}
	return nil
}
