// Package bench is the Pair station's knowledge: a delivery's lines, what the engine says of them, and what
// people decided, together.
package bench

import (
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/pairing"
	"ambrosa/internal/runs"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrForeign is returned for a decision on a line of another delivery, or for an owner that is gone.
	ErrForeign = errors.New("a line is not of this delivery, or its owner is no longer in the catalogue")
	// ErrRule is returned for an unknown house rule.
	ErrRule = errors.New("there is no such house rule")
)

// Bench pairs deliveries.
type Bench struct {
	Store  *store.Store
	Runner *runs.Runner
}

// Line is one arrival with its claim, overlaid with what a person decided.
type Line struct {
	Arrival query.ArrivalsRow
	Claim   pairing.Claim
	Owner   int64 // who gets the picture; 0 where nobody does
	Number  *int
	Role    string
	Rank    int // order given by hand
	Place   int // 1…n among the delivery's pictures for the owner
	Aside   bool
	Person  string // who decided by hand; empty where nobody did
}

// Ready reports whether the line goes into a plan.
func (l *Line) Ready() bool { return l.Owner != 0 && !l.Aside && l.Arrival.AssetID != nil }

// Pairing is a delivery's lines in the order they arrived.
type Pairing struct {
	Lines  []Line
	Unfit  []pairing.UnfitKey
	Ladder pairing.Ladder // empty for every cell
	index  *pairing.Index
	files  []pairing.File
}

// Trial tries every key in every fit on the delivery.
func (p *Pairing) Trial() pairing.Board { return pairing.NewStudy(p.index, p.files).Trial(nil) }

// candidates are the owners that a name can be read for.
func candidates(owners []query.Owner) ([]pairing.Owner, error) {
	var all []pairing.Owner
	for _, o := range owners {
		if o.Kind == "category" {
			continue
		}
		c, err := store.CatalogueOwner(o)
		if err != nil {
			return nil, err
		}
		p := pairing.Owner{ID: c.ID, Kind: pairing.Kind(c.Kind), Parent: c.Parent, Keys: []pairing.Key{
			{Field: pairing.SKU, Text: c.SKU}, {Field: pairing.Barcode, Text: c.Barcode}, {Field: pairing.Title, Text: c.Title}}}
		for _, value := range c.Options {
			p.Also = append(p.Also, value)
		}
		all = append(all, p)
	}
	return all, nil
}

// SetLadder keeps the cells by which a delivery is paired; none for every one. What was decided by hand stays.
func (b *Bench) SetLadder(ctx context.Context, delivery int64, ladder pairing.Ladder) error {
	if ladder == nil {
		ladder = pairing.Ladder{}
	}
	stored, err := json.Marshal(ladder)
	if err != nil {
		return err
	}
	return b.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if n, err := q.SetLadder(ctx, query.SetLadderParams{ID: delivery, Ladder: stored}); err != nil || n == 0 {
			return errors.Join(err, pgx.ErrNoRows)
		}
		return store.Notify(ctx, tx, store.Topic("bench", delivery))
	})
}

// Pair pairs a delivery with the catalogue as it stands. The cost is that of reading both once.
func (b *Bench) Pair(ctx context.Context, delivery int64) (*Pairing, error) {
	arrivals, err := b.Store.Arrivals(ctx, delivery)
	if err != nil {
		return nil, err
	}
	owners, err := b.Store.AllOwners(ctx)
	if err != nil {
		return nil, err
	}
	decided, err := b.Store.Decisions(ctx, delivery)
	if err != nil {
		return nil, err
	}
	files := make([]pairing.File, len(arrivals))
	for i, a := range arrivals {
		files[i].Path = a.Path
		if a.AssetID == nil {
			files[i].Ignored = unusable(a)
		}
	}
	var ladder pairing.Ladder
	stored, err := b.Store.Ladder(ctx, delivery)
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(stored, &ladder); err != nil {
		return nil, err
	}
	candidates, err := candidates(owners)
	if err != nil {
		return nil, err
	}
	index := pairing.NewIndex(candidates)
	p := &Pairing{Lines: make([]Line, len(arrivals)), Unfit: index.Unfit, Ladder: ladder, index: index, files: files}
	byArrival := make(map[int64]query.DecisionsRow, len(decided))
	for _, d := range decided {
		byArrival[d.ArrivalID] = d
	}
	for i, claim := range pairing.Pair(index, files, ladder) {
		line := Line{Arrival: arrivals[i], Claim: claim}
		if r := claim.Reading; r != nil {
			line.Owner, line.Number, line.Role = r.Owner, r.Number, r.Role
		}
		if d, ok := byArrival[arrivals[i].ID]; ok {
			line.decide(d)
		}
		p.Lines[i] = line
	}
	p.order()
	return p, nil
}

func unusable(a query.ArrivalsRow) string {
	if a.Detail == "" {
		return "this can't be used as a picture"
	}
	return a.Detail[:len(a.Detail)-1]
}

func (l *Line) decide(d query.DecisionsRow) {
	l.Person, l.Rank, l.Aside = d.Person, int(d.Rank), d.Aside
	if d.Aside {
		l.Owner = 0
		return
	}
	if d.OwnerID == nil {
		return
	}
	l.Owner = *d.OwnerID
	// The name may still say the number, read by the candidate the person chose.
	for _, c := range l.Claim.Candidates {
		if c.Owner == l.Owner {
			l.Number, l.Role = c.Number, c.Role
		}
	}
}

func (p *Pairing) order() {
	var placed []pairing.Placed
	for i := range p.Lines {
		if l := &p.Lines[i]; l.Ready() {
			placed = append(placed, pairing.Placed{File: i, Owner: l.Owner, Rank: l.Rank, Number: l.Number, Role: l.Role, Path: l.Arrival.Path})
		}
	}
	for file, place := range pairing.Order(placed) {
		p.Lines[file].Place = place
	}
}

// Decision is what a person says of one line. Owner 0 and not aside keeps the engine's word and gives a rank.
type Decision struct {
	Arrival int64
	Owner   int64
	Aside   bool
	Rank    int
}

// Decide keeps decisions, all or none, and tells who looks on.
func (b *Bench) Decide(ctx context.Context, delivery, person int64, decisions []Decision) error {
	arg := query.DecideParams{PersonID: person, DeliveryID: delivery}
	for _, d := range decisions {
		arg.Arrivals, arg.Owners = append(arg.Arrivals, d.Arrival), append(arg.Owners, d.Owner)
		arg.Asides, arg.Ranks = append(arg.Asides, d.Aside), append(arg.Ranks, int32(d.Rank))
	}
	return b.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		kept, err := q.Decide(ctx, arg)
		if err != nil {
			return err
		}
		if int(kept) != len(decisions) {
			return ErrForeign
		}
		return store.Notify(ctx, tx, store.Topic("bench", delivery))
	})
}

// TakeBack forgets decisions: the engine's word counts again.
func (b *Bench) TakeBack(ctx context.Context, delivery int64, arrivals []int64) error {
	return b.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if _, err := q.TakeBackDecisions(ctx, query.TakeBackDecisionsParams{DeliveryID: delivery, Arrivals: arrivals}); err != nil {
			return err
		}
		return store.Notify(ctx, tx, store.Topic("bench", delivery))
	})
}

// Plan makes the plan of a delivery under a house rule and gives its number. Nothing is changed.
func (b *Bench) Plan(ctx context.Context, delivery, person int64, title string, rule change.Rule) (int64, error) {
	if !slices.Contains(change.Rules, rule) {
		return 0, fmt.Errorf("%w: %q", ErrRule, rule)
	}
	p, err := b.Pair(ctx, delivery)
	if err != nil {
		return 0, err
	}
	ready := make([]*Line, 0, len(p.Lines))
	for i := range p.Lines {
		if l := &p.Lines[i]; l.Ready() {
			ready = append(ready, l)
		}
	}
	slices.SortStableFunc(ready, func(x, y *Line) int {
		if x.Owner != y.Owner {
			return int(x.Owner - y.Owner)
		}
		return x.Place - y.Place
	})
	var owners []int64
	for _, l := range ready {
		if len(owners) == 0 || owners[len(owners)-1] != l.Owner {
			owners = append(owners, l.Owner)
		}
	}
	labels, err := b.Labels(ctx, owners)
	if err != nil {
		return 0, err
	}
	wishes := map[int64][]change.Wish{}
	for _, l := range ready {
		wishes[l.Owner] = append(wishes[l.Owner], change.Wish{
			Picture: change.Picture{Asset: *l.Arrival.AssetID, Alt: catalogue.Alt(labels[l.Owner].Label, l.Role)}, Number: l.Number})
	}
	standing, err := b.Runner.Standing(ctx, owners)
	if err != nil {
		return 0, err
	}
	return b.Runner.KeepPictures(ctx, runs.Draft{Kind: "pairing", Title: title, Delivery: &delivery, Rule: rule, Person: person},
		change.Plan(owners, standing, wishes, rule))
}

// Label is how an owner is shown.
type Label struct {
	ID      int64
	Kind    string
	SKU     string
	Barcode string
	Label   string
}

// Labels names owners; those that are gone are missing.
func (b *Bench) Labels(ctx context.Context, ids []int64) (map[int64]Label, error) {
	rows, err := b.Store.OwnerLabels(ctx, ids)
	labels := make(map[int64]Label, len(rows))
	for _, o := range rows {
		labels[o.ID] = Label{o.ID, o.Kind, o.Sku, o.Barcode, Name(o.Title, o.ParentTitle, o.Options)}
	}
	return labels, err
}

// Name is an owner's label from what the database keeps of it.
func Name(title, parentTitle string, options json.RawMessage) string {
	var values map[string]string
	_ = json.Unmarshal(options, &values) // the column holds only what this program wrote
	return catalogue.Label(title, parentTitle, values)
}

// Sha is an arrival's picture in hex; empty where it has none.
func Sha(a query.ArrivalsRow) string { return hex.EncodeToString(a.Sha256) }
