package sources

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"strconv"
	"strings"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Collect asks for a visit to a source and returns its delivery. chosen are the files, and the folders, which end in /, that are wanted;
// none for all. Errors: ErrBusy, ErrNotCollected.
func (s *Sources) Collect(ctx context.Context, person, id int64, chosen []string) (delivery int64, err error) {
	return s.CollectAs(ctx, person, id, chosen, Wish{})
}

// CollectAs asks for a visit to a source of pages, as somebody wishes. Errors: ErrBusy, ErrNotCollected, ErrNoGuide.
func (s *Sources) CollectAs(ctx context.Context, person, id int64, chosen []string, wish Wish) (delivery int64, err error) {
	err = s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		delivery, err = s.collectIn(ctx, q, tx, person, id, chosen, wish)
		return err
	})
	return delivery, err
}

func (s *Sources) collectIn(ctx context.Context, q *query.Queries, tx pgx.Tx, person, id int64, chosen []string, wish Wish) (int64, error) {
	of, err := q.LockSource(ctx, id) // who asks at the same time waits here
	switch {
	case err != nil:
		return 0, err
	case of.RemovedAt != nil:
		return 0, pgx.ErrNoRows
	case !Kind(of.Kind).isVisited() && (of.Kind != string(Lookup) || len(wish.asks) == 0):
		return 0, ErrNotCollected
	}
	if busy, err := q.BusyVisit(ctx, id); err != nil || busy {
		if busy {
			err = ErrBusy
		}
		return 0, err
	}
	says, err := json.Marshal(collected{Kind: of.Kind, Source: id})
	if err != nil {
		return 0, err
	}
	delivery, err := s.Gatherer.CollectIn(ctx, q, tx, of.Name+", "+time.Now().Format(time.DateOnly), says, person)
	if err != nil {
		return 0, err
	}
	if chosen == nil {
		chosen = []string{}
	}
	wanted, err := json.Marshal(chosen)
	if err != nil {
		return 0, err
	}
	if err := q.AddVisit(ctx, query.AddVisitParams{DeliveryID: delivery, SourceID: id, Chosen: wanted}); err != nil {
		return 0, err
	}
	if of.Kind == string(Pages) {
		guide, err := q.GuideOf(ctx, query.GuideOfParams{Source: id})
		if errors.Is(err, pgx.ErrNoRows) {
			return 0, ErrNoGuide
		}
		if err != nil {
			return 0, err
		}
		walk := query.AddWalkParams{DeliveryID: delivery, Version: guide.Version, Most: int32(wish.Most), Fetches: !wish.Addresses}
		if err := q.AddWalk(ctx, walk); err != nil {
			return 0, err
		}
	}
	if of.Kind == string(Lookup) {
		for i := range wish.asks {
			wish.asks[i].DeliveryID = delivery
		}
		if _, err := q.AddLookupAsks(ctx, wish.asks); err != nil {
			return 0, err
		}
	}
	return delivery, q.BindDelivery(ctx, query.BindDeliveryParams{Delivery: delivery, Source: id})
}

// collected is what a delivery says of the source that it came from.
type collected struct {
	Kind   string `json:"kind"`
	Source int64  `json:"source"`
	Folder string `json:"folder,omitempty"` // of a drop folder: where its files lie meanwhile
}

// remote is what a visit reads from.
type remote interface {
	// list tells the files there are, and returns the folders that could not be read.
	list(ctx context.Context, found func(listed) error) (failed []string, err error)
	// ready is told of files before they are opened: their names within the source.
	ready(ctx context.Context, files []string) error
	// open is how a file is opened.
	open(f query.VisitToFetchRow) source.Item
	close()
}

// listed is a file that there is.
type listed struct {
	id       string // its name within the source, for good; empty for one made of its path
	path     string
	bytes    int64 // -1 where nobody knows
	modified time.Time
	sum      string
	sku      string // whose it is, as the source says
}

// visiting is the source of a visit's delivery.
type visiting struct {
	*Sources
	delivery int64
}

var _ source.Source = (*visiting)(nil)

func (s *Sources) open(delivery int64, _ json.RawMessage) (source.Source, error) {
	return &visiting{s, delivery}, nil
}

// Check tells whether there is a visit.
func (v *visiting) Check(ctx context.Context) error {
	_, err := v.Store.VisitOf(ctx, v.delivery)
	return err
}

// Walk finds what is new or changed since the last visit, and shows that. What is found is kept, so that a visit that was ended goes on with
// the files. A cursor is the number of a file.
func (v *visiting) Walk(ctx context.Context, from source.Cursor, tell func(source.Progress) error, visit func(source.Item) error) error {
	at, err := v.Store.VisitOf(ctx, v.delivery)
	if err != nil {
		return err
	}
	of, err := v.Store.SourceByID(ctx, at.SourceID)
	if err != nil {
		return err
	}
	if of.RemovedAt != nil {
		return &source.Trouble{Says: message.New("source_removed", "source", of.Name), Final: true}
	}
	var chosen []string
	if err := json.Unmarshal(at.Chosen, &chosen); err != nil {
		return err
	}
	var filters Filters
	if err := json.Unmarshal(of.Filters, &filters); err != nil {
		return err
	}
	set, err := settingsOf(of)
	if err != nil {
		return err
	}
	together := set.Connections
	if together == 0 {
		together = connections
	}
	if !at.Listed {
		switch Kind(of.Kind) {
		case Pages:
			err = v.walk(ctx, together, tell)
		case Lookup:
			err = v.lookUp(ctx, of, set, tell)
		}
		if err != nil {
			return err
		}
	}
	there, err := v.reach(ctx, of, chosen)
	if err != nil {
		return err
	}
	defer there.close()
	if !at.Listed {
		if err := v.find(ctx, of, there, filters, chosen, tell); err != nil {
			return err
		}
		if at, err = v.Store.VisitOf(ctx, v.delivery); err != nil {
			return err
		}
	}
	if err := tell(source.Progress{Items: at.Wanted}); err != nil {
		return err
	}
	return source.Ahead(ctx, together, func(ctx context.Context, show func(source.Item) error) error {
		return v.fetch(ctx, from, there, filters.Least, show)
	}, visit)
}

// reach opens what a source reads from.
func (v *visiting) reach(ctx context.Context, of query.Source, chosen []string) (remote, error) {
	switch Kind(of.Kind) {
	case Addresses:
		return &addresses{Sources: v.Sources, of: of}, nil
	case Pages:
		return v.walked(ctx, v.delivery)
	case Lookup:
		return v.lookedUp(of, v.delivery), nil
	}
	d, err := v.Sources.drive(ctx, of)
	if err != nil {
		return nil, trouble(err, of.Name)
	}
	return &folder{d, of.Name, chosen}, nil
}

// portion is how many files are asked of the database at once, and put there.
const portion = 2000

// find lists what there is, a piece at a time, and compares it as a whole with what there was.
func (v *visiting) find(ctx context.Context, of query.Source, there remote, filters Filters, chosen []string, tell func(source.Progress) error) error {
	earlier, err := v.Store.UnsettledVisits(ctx, query.UnsettledVisitsParams{SourceID: of.ID, Before: v.delivery})
	if err != nil {
		return err
	}
	for _, e := range earlier { // of those that were ended before all had come, what came is known
		if err := v.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error { return settle(ctx, q, e, false) }); err != nil {
			return err
		}
	}
	found, failed, err := v.enlist(ctx, v.delivery, there, filters.match(), func(found int64) error {
		if err := v.Store.SetVisitFound(ctx, query.SetVisitFoundParams{DeliveryID: v.delivery, Found: found}); err != nil {
			return err
		}
		return tell(source.Progress{})
	})
	if err != nil {
		return err
	}
	if failed == nil {
		failed = []string{}
	}
	below := make([]string, len(chosen))
	for i, c := range chosen {
		below[i] = strings.TrimSuffix(c, "/")
	}
	return v.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "ANALYZE listing"); err != nil {
			return err
		}
		if err := q.ClearVisitFiles(ctx, v.delivery); err != nil {
			return err
		}
		if err := q.FindFresh(ctx, query.FindFreshParams{Delivery: v.delivery, Source: of.ID, Always: of.Kind != string(Drive)}); err != nil {
			return err
		}
		whole, err := wholeVisit(ctx, q, v.delivery, of)
		if err == nil && whole { // nothing is known of what was not looked for
			err = q.FindGone(ctx, query.FindGoneParams{Delivery: v.delivery, Source: of.ID, Failed: failed, Chosen: below})
		}
		if err != nil {
			return err
		}
		if err := q.SetVisitListed(ctx, query.SetVisitListedParams{Delivery: v.delivery, Found: found, Failed: int64(len(failed))}); err != nil {
			return err
		}
		return q.ClearListing(ctx, v.delivery)
	})
}

// enlist puts what there is into a listing, a piece at a time. It returns how many files there are, and the folders that could not be read.
func (s *Sources) enlist(ctx context.Context, listing int64, there remote, wanted func(listed) bool, tell func(found int64) error) (found int64, failed []string, err error) {
	if err := s.Store.ClearListing(ctx, listing); err != nil {
		return 0, nil, err
	}
	var rows []query.AddListingParams
	put := func() error {
		if _, err := s.Store.AddListing(ctx, rows); err != nil {
			return err
		}
		rows = rows[:0]
		return tell(found)
	}
	failed, err = there.list(ctx, func(l listed) error {
		found++
		row := query.AddListingParams{DeliveryID: listing, Item: cmp.Or(l.id, itemOf(l.path)), Path: plain(l.path), Bytes: l.bytes, Sum: plain(l.sum), Sku: plain(l.sku), Wanted: wanted(l)}
		if !l.modified.IsZero() && l.modified.Year() > 0 && l.modified.Year() < 9999 { // a clock may be anything
			row.Modified = new(l.modified.Truncate(time.Microsecond))
		}
		if rows = append(rows, row); len(rows) == portion {
			return put()
		}
		return nil
	})
	if err == nil {
		err = put()
	}
	return found, failed, err
}

// wholeVisit reports whether a visit looked at all that its source has. A walk that was kept to some items, or ended at a limit, did not.
func wholeVisit(ctx context.Context, q *query.Queries, delivery int64, of query.Source) (bool, error) {
	if of.Kind != string(Pages) {
		return of.Kind != string(Lookup), nil
	}
	walk, err := q.WalkOf(ctx, delivery)
	if err != nil || walk.Ended != endedLast || walk.Most > 0 || !walk.Fetches {
		return false, err
	}
	counts, err := q.WalkCounts(ctx, delivery)
	return counts.Failed+counts.PagesFailed == 0, err
}

// itemOf is a file's name within its source, for good: a path may be longer than a key of the database.
func itemOf(path string) string {
	sum := sha256.Sum256([]byte(path))
	return hex.EncodeToString(sum[:16])
}

// plain is a text as the database takes it.
func plain(text string) string {
	return strings.ReplaceAll(strings.ToValidUTF8(text, "\uFFFD"), "\x00", "\uFFFD")
}

// fetch shows the files that are to come, in their order.
func (v *visiting) fetch(ctx context.Context, from source.Cursor, there remote, least int, show func(source.Item) error) error {
	after, _ := strconv.Atoi(string(from)) // the empty cursor is the beginning
	for {
		rows, err := v.Store.VisitToFetch(ctx, query.VisitToFetchParams{DeliveryID: v.delivery, After: int32(after), Most: portion})
		if err != nil || len(rows) == 0 {
			return err
		}
		items := make([]string, len(rows))
		for i, f := range rows {
			items[i] = f.Item
		}
		if err := there.ready(ctx, items); err != nil {
			return err
		}
		for _, f := range rows {
			after = int(f.N)
			it := there.open(f)
			it.ID, it.Least, it.Next = f.Item, least, source.Cursor(strconv.Itoa(after))
			if source.ClimbsOut(it.Path) || names.Read(it.Path).Litter != "" {
				it.Open = nil // what is wrong with it is seen without its bytes
			}
			if err := show(it); err != nil {
				return err
			}
		}
	}
}

// settle takes over what came by a visit as what the source has, and counts what the visit found. whole says that all has come.
func settle(ctx context.Context, q *query.Queries, delivery int64, whole bool) error {
	steps := []func(context.Context, int64) error{q.KeepRemote, q.KeepGone, q.FindTouched, q.FindRenamed, q.DropMoved}
	if whole {
		steps = append(steps, q.FindUnasked)
	}
	for _, step := range append(steps, q.CountVisit) {
		if err := step(ctx, delivery); err != nil {
			return err
		}
	}
	return nil
}

// Arrived takes over what came by a visit, in the transaction that ends it. One that brought nothing is closed: people have nothing to do
// with it.
func (s *Sources) Arrived(ctx context.Context, q *query.Queries, tx pgx.Tx, delivery int64) error {
	of, err := q.SourceOf(ctx, delivery)
	if err != nil {
		return err
	}
	var says collected
	if err := json.Unmarshal(of.Source, &says); err != nil || says.Source == 0 {
		return err
	}
	if says.Kind == string(Drop) {
		if err := s.compareDrop(ctx, q, delivery, says.Source); err != nil {
			return err
		}
	}
	if err := settle(ctx, q, delivery, true); err != nil {
		return err
	}
	if says.Kind == string(Pages) {
		if err := twins(ctx, q, delivery); err != nil {
			return err
		}
	}
	if says.Kind == string(Lookup) {
		if err := q.LicensedRights(ctx, delivery); err != nil {
			return err
		}
	}
	lines, err := q.CountArrivals(ctx, delivery)
	if err == nil && lines == 0 {
		_, err = q.DescribeDelivery(ctx, query.DescribeDeliveryParams{ID: delivery, Closed: new(true)})
	}
	return err
}

// match says which files a source's filters let through.
func (f Filters) match() func(listed) bool {
	glob := newGlob(f.Names)
	newer, _ := time.Parse(time.DateOnly, f.Newer) // checked when it was kept; the zero time lets all through
	types := map[string]bool{}
	for _, t := range f.Types {
		types["."+strings.ToLower(strings.TrimPrefix(strings.TrimSpace(t), "."))] = true
	}
	return func(l listed) bool {
		if !glob.Matches(l.path) || !l.modified.IsZero() && l.modified.Before(newer) {
			return false
		}
		return len(types) == 0 || types[names.Read(l.path).Extension]
	}
}
