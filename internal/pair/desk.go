package pair

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"sync"

	"ambrosa/core/colour"
	"ambrosa/core/message"
	"ambrosa/core/pairing"
	"ambrosa/core/placement"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/store/query"
)

const mostDesks = 3 // deliveries kept in memory at a time

// Pairing is a delivery's lines in the order they arrived, at one moment. It is shared: nobody changes it.
type Pairing struct {
	Version   string // changes with whatever the lines show
	Catalogue int64  // how often the catalogue's owners had changed
	Lines     []Line
	Unfit     []pairing.UnfitKey
	Choice    pairing.Choice
	Habits    []pairing.Habit
	Counts    Counts
	Series    []Series
	fromZero  bool
	stamp     query.BenchStateRow
}

// moment is a state that a browser may have.
type moment struct {
	version   string
	step      int
	catalogue int64
}

const mostPast = 64

// desk is what is kept of a delivery that somebody works on. Its lock is held while it is brought up to date, so that two
// who ask at once wait for one computation.
type desk struct {
	delivery int64
	mu       sync.Mutex
	snapshot *catalogue.Snapshot
	arrivals []query.ArrivalsRow
	study    *pairing.Study
	photos   photos
	now      *Pairing
	step     int      // counts the states
	changed  []int    // by line, at which step it changed last
	past     []moment // the last states, the newest last, so that a browser that has one is told only what changed
	trials   map[string]pairing.Board
	ready    map[placement.Rule]Readiness
	placed   map[string][]colour.Lab // colours by word, of the pictures that stood at placedAt
	placedAt int64
}

// Pair pairs a delivery with the catalogue as it stands. Where nothing changed since the last call it costs one
// question to the database; after a decision or another ladder one weighing; else the reading of both.
func (b *Pairer) Pair(ctx context.Context, delivery int64) (*Pairing, error) {
	d := b.desk(delivery)
	d.mu.Lock()
	defer d.mu.Unlock()
	return b.update(ctx, d)
}

// News is a piece of what changed on a bench since a version that a browser has.
type News struct {
	*Pairing
	Whole   bool  // it is not known any more what changed: all lines are new
	Changed []int // the lines of this piece that changed
	From    int   // where this piece begins among all lines
	Next    int   // where the next begins; 0 where this is the last
	Renamed bool  // owners changed, and with them perhaps what they are called: those of the lines from From to Next
}

// Since returns so many lines at most, from one on, that changed since a version; where that is not known any more, all lines are
// new. Pieces that are asked for one after the other may be of different versions: who has all of them asks once more for what
// changed since the first.
func (b *Pairer) Since(ctx context.Context, delivery int64, version string, from, most int) (n News, err error) {
	d := b.desk(delivery)
	d.mu.Lock()
	defer d.mu.Unlock()
	p, err := b.update(ctx, d)
	if err != nil {
		return News{}, err
	}
	n = News{Pairing: p, From: from}
	if p.Version == version {
		return n, nil
	}
	known := slices.IndexFunc(d.past, func(m moment) bool { return m.version == version })
	n.Whole = known < 0
	step := 0
	if !n.Whole {
		step, n.Renamed = d.past[known].step, d.past[known].catalogue != p.Catalogue
	}
	for i := from; i < len(p.Lines); i++ {
		if len(n.Changed) == most || n.Renamed && i == from+most {
			n.Next = i
			break
		}
		if n.Whole || d.changed[i] > step {
			n.Changed = append(n.Changed, i)
		}
	}
	return n, nil
}

// keep takes a new state over and notes at which step each line changed. Where pictures of owners or the lines themselves changed,
// nobody is told what did.
func (d *desk) keep(p *Pairing) {
	was := d.now
	d.now = p
	d.step++
	if was == nil || was.stamp.Pictures != p.stamp.Pictures || len(was.Lines) != len(p.Lines) {
		d.past, d.changed = nil, make([]int, len(p.Lines))
	} else {
		for i := range p.Lines {
			if !p.Lines[i].same(&was.Lines[i]) {
				d.changed[i] = d.step
			}
		}
	}
	d.past = append(d.past[max(0, len(d.past)+1-mostPast):], moment{p.Version, d.step, p.Catalogue})
}

// Trial tries every key in every fit on a delivery. The answer is kept until the catalogue or the delivery changes.
func (b *Pairer) Trial(ctx context.Context, delivery int64) (pairing.Board, error) {
	d := b.desk(delivery)
	d.mu.Lock()
	defer d.mu.Unlock()
	p, err := b.update(ctx, d)
	if err != nil {
		return pairing.Board{}, err
	}
	key := fmt.Sprint(p.Choice.Off)
	board, ok := d.trials[key]
	if !ok {
		board = d.study.Trial(p.Choice.Off)
		d.trials[key] = board
	}
	return board, nil
}

func (b *Pairer) desk(delivery int64) *desk {
	b.mu.Lock()
	defer b.mu.Unlock()
	at := slices.IndexFunc(b.desks, func(d *desk) bool { return d.delivery == delivery })
	if at < 0 {
		at = len(b.desks)
		b.desks = append(b.desks, &desk{delivery: delivery})
	}
	d := b.desks[at]
	b.desks = slices.Insert(slices.Delete(b.desks, at, at+1), 0, d)
	b.desks = b.desks[:min(len(b.desks), mostDesks)]
	return d
}

// update brings a desk up to date; its lock is held.
func (b *Pairer) update(ctx context.Context, d *desk) (*Pairing, error) {
	state, err := b.Store.BenchState(ctx, d.delivery)
	if err != nil {
		return nil, err
	}
	version := fmt.Sprintf("%d.%d.%d.%d.%d", state.BenchVersion, state.Owners, state.Pictures, state.Arrivals, state.Crossed)
	if d.now != nil && d.now.Version == version {
		return d.now, nil
	}
	if d.now == nil || d.now.stamp.Owners != state.Owners || d.now.stamp.Arrivals != state.Arrivals ||
		d.now.stamp.Crossed != state.Crossed || d.now.stamp.PhotosVersion != state.PhotosVersion || d.now.stamp.Source != state.Source || d.now.stamp.PairsWith != state.PairsWith {
		if err := b.read(ctx, d, state); err != nil {
			return nil, err
		}
	}
	p := &Pairing{Version: version, Catalogue: state.Owners, Unfit: d.snapshot.Index.Unfit, Habits: d.study.Habits(), stamp: state}
	if err := json.Unmarshal(state.Ladder, &p.Choice.Ladder); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(state.HabitsOff, &p.Choice.Off); err != nil {
		return nil, err
	}
	p.fromZero = d.study.StartsAtZero() && !slices.Contains(p.Choice.Off, pairing.NumberStart)
	decided, err := b.Store.Decisions(ctx, d.delivery)
	if err != nil {
		return nil, err
	}
	byArrival := make(map[int64][]query.DecisionsRow, len(decided))
	for _, row := range decided {
		byArrival[row.ArrivalID] = append(byArrival[row.ArrivalID], row)
	}
	marks, err := b.Store.Checked(ctx, d.delivery)
	if err != nil {
		return nil, err
	}
	checked := make(map[int64]string, len(marks))
	for _, m := range marks {
		checked[m.ArrivalID] = m.Owners
	}
	p.Lines = make([]Line, len(d.arrivals))
	claims := d.study.Claims(p.Choice)
	series := d.series(claims)
	for i, c := range claims {
		p.Lines[i] = claimed(d.arrivals[i], c)
		if rows := byArrival[d.arrivals[i].ID]; len(rows) > 0 {
			p.Lines[i].decide(rows, d.snapshot.Has)
		}
		owners, marked := checked[d.arrivals[i].ID]
		p.Lines[i].checked = marked && owners == p.Lines[i].ownersNow()
	}
	p.Series = moved(series, p.Lines)
	p.order()
	present, err := b.look(ctx, d, p)
	if err != nil {
		return nil, err
	}
	p.sort(present)
	d.keep(p)
	return p, nil
}

// read reads the delivery and, where it changed, the catalogue.
func (b *Pairer) read(ctx context.Context, d *desk, state query.BenchStateRow) (err error) {
	if d.snapshot, err = b.Snapshots.At(ctx, state.Owners); err != nil {
		return err
	}
	d.snapshot = d.snapshot.Of(state.PairsWith)
	if state.Crossed > 0 {
		if err := b.cross(ctx, d, state.Source); err != nil {
			return err
		}
	}
	if d.arrivals, err = b.Store.Arrivals(ctx, query.ArrivalsParams{Delivery: d.delivery}); err != nil {
		return err
	}
	if d.photos, err = b.readPhotos(ctx, d.delivery); err != nil {
		return err
	}
	files := make([]pairing.File, len(d.arrivals))
	for i, a := range d.arrivals {
		files[i].Path = a.Path
		if files[i].Said, err = statements(a.Said); err != nil {
			return err
		}
		files[i].Said = append(files[i].Said, d.photos.statements(a.AssetID)...)
		if a.AssetID == nil || a.Problem == string(source.Twin) || a.Problem == string(source.LeftOut) {
			files[i].Ignored = unusable(a)
		}
	}
	d.study = pairing.NewStudy(d.snapshot.Index, files)
	d.trials = map[string]pairing.Board{}
	return nil
}

// cross reads names for the codes of the source's cross-reference, too.
func (b *Pairer) cross(ctx context.Context, d *desk, source int64) error {
	rows, err := b.Store.CrossKeys(ctx, source)
	if err != nil || len(rows) == 0 {
		return err
	}
	keys := map[int64][]string{}
	for _, r := range rows {
		keys[r.OwnerID] = append(keys[r.OwnerID], r.Code)
	}
	d.snapshot = d.snapshot.Crossed(keys)
	return nil
}

// statements are what is said of an arrival beside its name.
func statements(said json.RawMessage) (all []pairing.Statement, err error) {
	if len(said) <= len("[]") {
		return nil, nil
	}
	var some []source.Said
	if err := json.Unmarshal(said, &some); err != nil {
		return nil, err
	}
	for _, s := range some {
		all = append(all, pairing.Statement{Field: pairing.Field(s.Field), Text: s.Text, By: s.By, Weak: s.Weak})
	}
	return all, nil
}

// unusable says why an arrival is no picture.
func unusable(a query.ArrivalsRow) message.Message {
	var m message.Message
	if json.Unmarshal(a.Message, &m) != nil || m.Code == "" {
		return message.New("no_picture")
	}
	return m
}

func (p *Pairing) order() {
	var placed []pairing.Placed
	type at struct{ line, share int }
	var where []at
	for i := range p.Lines {
		l := &p.Lines[i]
		if !l.Ready() {
			continue
		}
		for n, s := range l.Shares {
			where = append(where, at{i, n})
			placed = append(placed, pairing.Placed{File: i, Owner: s.Owner, Rank: s.Rank, Number: l.Number, Role: l.Role, Path: l.Arrival.Path})
		}
	}
	for i, place := range pairing.Places(placed) {
		p.Lines[where[i].line].Shares[where[i].share].Place = place
	}
}
