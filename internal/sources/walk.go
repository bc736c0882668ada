package sources

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"sync"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/pages"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"
)

// Wish says what a visit to pages is to bring.
type Wish struct {
	Most      int                         // items; 0 for all
	Addresses bool                        // only the addresses of pictures, no picture
	asks      []query.AddLookupAsksParams // of a lookup: what is asked, which somebody was told before
}

// Why no further page of a listing is read.
const (
	endedLast    = "last"
	endedPages   = "pages"   // the limit of pages
	endedItems   = "items"   // the limit of items
	endedNothing = "nothing" // pages came that had nothing new: an endless listing
	endedFailed  = "failed"
)

// walking is a walk at work.
type walking struct {
	*visiting
	guide page.Guide
	of    query.WalkOfRow
	how   pages.How
	mu    sync.Mutex // of tell
	tell  func(source.Progress) error
}

// walk reads a source's listing and its items, those that are not read yet. What is read is kept at once, so that a walk that was ended goes on.
func (v *visiting) walk(ctx context.Context, together int, tell func(source.Progress) error) error {
	of, err := v.Store.WalkOf(ctx, v.delivery)
	if err != nil {
		return err
	}
	w := &walking{visiting: v, of: of, tell: tell}
	if err := json.Unmarshal(of.Guide, &w.guide); err != nil {
		return err
	}
	w.how = pages.How{Sizes: &pages.Sizes{}, Pause: w.guide.Limits.Rest()}
	if err := v.Store.ReopenWalk(ctx, v.delivery); err != nil {
		return err
	}
	group, at := errgroup.WithContext(ctx)
	items := make(chan query.WalkItemsWaitingRow)
	for range together {
		group.Go(func() error {
			for it := range items {
				if err := w.item(at, it); err != nil {
					return err
				}
			}
			return nil
		})
	}
	group.Go(func() error {
		defer close(items)
		return w.listing(at, items)
	})
	if err := group.Wait(); err != nil {
		return err
	}
	return v.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		// What was just written has no statistics yet, and without them it is joined row by row.
		if _, err := tx.Exec(ctx, "ANALYZE walk_item, walk_picture"); err != nil {
			return err
		}
		if w.guide.Pictures.Selector == "" {
			if err := q.LeaveRepeated(ctx, v.delivery); err != nil {
				return err
			}
		}
		return q.RenumberWalk(ctx, v.delivery)
	})
}

// listing reads the pages of a listing one after the other, and hands on the items that they lead to.
func (w *walking) listing(ctx context.Context, items chan<- query.WalkItemsWaitingRow) error {
	after := int32(0)
	hand := func() error {
		rows, err := w.Store.WalkItemsWaiting(ctx, query.WalkItemsWaitingParams{DeliveryID: w.delivery, After: after, Most: 1_000_000})
		if err != nil {
			return err
		}
		for _, r := range rows {
			select {
			case items <- r:
				after = r.N
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		return nil
	}
	for i, start := range w.guide.Start {
		if err := w.Store.AddWalkPage(ctx, query.AddWalkPageParams{DeliveryID: w.delivery, N: int32(i + 1), Address: start}); err != nil {
			return err
		}
	}
	for ended := w.of.Ended; ended == ""; {
		all, err := w.Store.WalkPages(ctx, w.delivery)
		if err != nil {
			return err
		}
		if ended, err = w.page(ctx, all); err != nil {
			return err
		}
		if ended != "" {
			if err := w.Store.EndWalk(ctx, query.EndWalkParams{DeliveryID: w.delivery, Ended: ended}); err != nil {
				return err
			}
		}
		if err := hand(); err != nil {
			return err
		}
	}
	return hand()
}

// barren is after how many pages without a new item a listing is taken for endless.
const barren = 2

// page reads the first page that waits, and says why it was the last; empty where it was not.
func (w *walking) page(ctx context.Context, all []query.WalkPage) (ended string, err error) {
	at := slices.IndexFunc(all, func(p query.WalkPage) bool { return p.State == "waiting" })
	if at < 0 {
		return endedLast, nil
	}
	most := w.guide.Limits.Pages
	if most == 0 {
		most = page.UsualPages
	}
	if at >= most {
		return endedPages, nil
	}
	p, err := w.Pages.Page(ctx, all[at].Address, w.how.Pause)
	if err != nil {
		return w.pageFailed(ctx, all, at, err)
	}
	links, more := w.guide.Leads(p)
	next := ""
	if more {
		next, more = w.guide.NextPage(p, at+1)
	}
	room := w.guide.Limits.Items
	if room == 0 {
		room = page.UsualItems
	}
	if w.of.Most > 0 {
		room = min(room, int(w.of.Most))
	}
	counts, err := w.Store.WalkCounts(ctx, w.delivery)
	if err != nil {
		return "", err
	}
	room -= int(counts.Items)
	fresh := int64(0)
	err = w.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) (err error) {
		if fresh, err = q.AddWalkItems(ctx, query.AddWalkItemsParams{DeliveryID: w.delivery, Page: all[at].N, Addresses: links, Room: int32(max(0, room))}); err != nil {
			return err
		}
		set := query.SetWalkPageParams{DeliveryID: w.delivery, N: all[at].N, State: "read", Items: int32(fresh)}
		if len(links) == 0 {
			if set.Message, err = json.Marshal(message.New("walk_no_items", "address", all[at].Address)); err != nil {
				return err
			}
		}
		if more && !slices.ContainsFunc(all, func(o query.WalkPage) bool { return o.Address == next }) {
			err = q.AddWalkPage(ctx, query.AddWalkPageParams{DeliveryID: w.delivery, N: int32(len(all) + 1), Address: next})
		}
		return errors.Join(err, q.SetWalkPage(ctx, set))
	})
	if err != nil {
		return "", err
	}
	if fresh >= int64(room) {
		return endedItems, w.told()
	}
	empty := 0
	for i := at; i >= 0 && i > at-barren; i-- {
		if i == at && fresh == 0 || i < at && all[i].State == "read" && all[i].Items == 0 {
			empty++
		}
	}
	if empty == barren && at >= len(w.guide.Start) {
		return endedNothing, w.told()
	}
	return "", w.told()
}

// pageFailed keeps why a page could not be read. Where it is the first, the walk fails; where it is a later one, it goes on with what there is.
func (w *walking) pageFailed(ctx context.Context, all []query.WalkPage, at int, why error) (string, error) {
	if ctx.Err() != nil {
		return "", ctx.Err()
	}
	says := pages.Trouble(why, all[at].Address)
	if at == 0 && len(w.guide.Start) == 1 {
		return "", &source.Trouble{Says: says, Final: errors.Is(why, pages.ErrRobots) || errors.Is(why, pages.ErrNoPage), Of: why}
	}
	kept, err := json.Marshal(says)
	if err != nil {
		return "", err
	}
	err = w.Store.SetWalkPage(ctx, query.SetWalkPageParams{DeliveryID: w.delivery, N: all[at].N, State: "failed", Message: kept})
	if err == nil && at >= len(w.guide.Start) {
		return endedFailed, nil
	}
	return "", err
}

// told tells that something was read, and hears whether somebody asked to stop.
func (w *walking) told() error {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.tell(source.Progress{})
}

// mostLeft is how many pictures that are left out are kept of one item, for people to see why.
const mostLeft = 200

// item reads one item and keeps what it found.
func (w *walking) item(ctx context.Context, it query.WalkItemsWaitingRow) error {
	result, err := w.Pages.Item(ctx, w.guide, it.Address, w.how)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	set := query.SetWalkItemParams{DeliveryID: w.delivery, N: it.N, State: "read", Title: plain(result.Title), Sku: plain(result.SKU), Barcode: plain(result.Barcode), Failed: []string{}}
	if err != nil {
		result.Says = pages.Trouble(err, it.Address)
		set.State = "failed"
	}
	for _, step := range result.Failed {
		set.Failed = append(set.Failed, string(step))
	}
	if result.Says.Code != "" {
		if set.Message, err = json.Marshal(result.Says); err != nil {
			return err
		}
	}
	var rows []query.AddWalkPicturesParams
	for i, c := range result.Pictures {
		if c.Kept {
			set.Kept++
		} else if set.LeftOut++; set.LeftOut > mostLeft {
			continue
		}
		row, err := w.picture(it, i, c)
		if err != nil {
			return err
		}
		rows = append(rows, row)
	}
	err = w.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if err := q.ClearWalkPictures(ctx, query.ClearWalkPicturesParams{DeliveryID: w.delivery, Item: it.N}); err != nil {
			return err
		}
		if _, err := q.AddWalkPictures(ctx, rows); err != nil {
			return err
		}
		return q.SetWalkItem(ctx, set)
	})
	if err != nil {
		return err
	}
	return w.told()
}

func (w *walking) picture(it query.WalkItemsWaitingRow, i int, c page.Chosen) (row query.AddWalkPicturesParams, err error) {
	row = query.AddWalkPicturesParams{DeliveryID: w.delivery, Item: it.N, N: int32(i + 1), File: itemOf(it.Address + "\n" + c.Taken.Address), Address: plain(c.Taken.Address),
		Key: itemOf(page.SizeFree(c.Taken.Address)), FoundBy: string(c.Taken.From), Width: int32(c.Size.Width), Height: int32(c.Size.Height), Ordinal: int32(c.Order), Why: string(c.Why)}
	if !c.Kept {
		if row.Message, err = json.Marshal(c.Says); err != nil {
			return row, err
		}
	}
	remarks := c.Remarks
	if remarks == nil {
		remarks = []message.Message{}
	}
	row.Remarks, err = json.Marshal(remarks)
	return row, err
}
