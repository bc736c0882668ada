package wording

import (
	"cmp"
	"context"
	"iter"
	"slices"

	"ambrosa/core/change"
	"ambrosa/core/wording"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
)

// PlanKind is the kind of plans that change texts alone.
const PlanKind = "wording"

// Scope is which owners are meant: all that have pictures and are not retired, or those of some kinds, in and below a category, among some.
type Scope struct {
	Category int64
	Kinds    []string
	Owners   []int64
}

// atOnce is how many owners are read together.
const atOnce = 5000

// scope are the owners that are meant, by their numbers. pgx.ErrNoRows where the category is not there.
func (w *Wording) scope(ctx context.Context, s Scope) ([]int64, error) {
	categories, err := catalogue.Below(ctx, w.Store, s.Category)
	if err != nil {
		return nil, err
	}
	return w.Store.WordedScope(ctx, query.WordedScopeParams{Kinds: append([]string{}, s.Kinds...), Owners: append([]int64{}, s.Owners...),
		Categories: categories})
}

// Plan keeps a plan that does something with the texts of the pictures on owners, and returns its number. Errors: those of Act,
// pgx.ErrNoRows, ledger.ErrNothingToDo. Cost: by the pictures; the changes stand in memory, about 300 bytes each.
func (w *Wording) Plan(ctx context.Context, person int64, title string, s Scope, act Act) (id int64, err error) {
	do, err := act.ready()
	if err != nil {
		return 0, err
	}
	if act.Kind == "texts" {
		for _, t := range act.Texts {
			s.Owners = append(s.Owners, t.Owner)
		}
	}
	owners, err := w.scope(ctx, s)
	if err != nil {
		return 0, err
	}
	var changes []change.Change
	texts := 0
	for p := range w.pieces(ctx, owners) {
		if p.err != nil {
			return 0, p.err
		}
		more, n, err := w.changes(ctx, p, do)
		if err != nil {
			return 0, err
		}
		changes, texts = append(changes, more...), texts+n
	}
	return w.Ledger.Keep(ctx, ledger.Draft{Kind: PlanKind, Title: title, Person: person, Source: do.act.source(),
		Counts: map[string]int{"reworded": texts}}, changes)
}

// source is what a plan says of where it comes from.
func (a Act) source() any {
	return struct {
		Act      string        `json:"act"`
		Field    wording.Field `json:"field,omitempty"`
		Language string        `json:"language,omitempty"`
		Pattern  string        `json:"pattern,omitempty"`
		Find     string        `json:"find,omitempty"`
		By       string        `json:"by,omitempty"`
	}{a.Kind, a.Field, a.Language, a.Pattern, a.Find, a.By}
}

// piece is some owners with their pictures and what their texts are made of.
type piece struct {
	owners []int64
	placed map[int64][]int64 // pictures by owner, in their order
	filler *filler
	err    error
}

// pieces reads owners, the next ones while some are worked on. The last piece may be an error.
func (w *Wording) pieces(ctx context.Context, owners []int64) iter.Seq[piece] {
	return func(yield func(piece) bool) {
		ctx, cancel := context.WithCancel(ctx)
		defer cancel()
		read := make(chan piece, 1)
		go func() {
			defer close(read)
			for some := range slices.Chunk(owners, atOnce) {
				p := w.piece(ctx, some)
				select {
				case read <- p:
				case <-ctx.Done():
					return
				}
				if p.err != nil {
					return
				}
			}
		}()
		for p := range read {
			if !yield(p) {
				return
			}
		}
	}
}

func (w *Wording) piece(ctx context.Context, owners []int64) piece {
	p := piece{owners: owners, placed: make(map[int64][]int64, len(owners))}
	rows, err := w.Store.PlacedOn(ctx, owners)
	if err != nil {
		p.err = err
		return p
	}
	assets := make([]int64, 0, len(rows))
	for _, r := range rows {
		if r.AssetID != nil {
			p.placed[r.ID] = append(p.placed[r.ID], *r.AssetID)
			assets = append(assets, *r.AssetID)
		}
	}
	p.filler, p.err = w.fillerOf(ctx, w.Store.Queries, owners, assets, nil)
	return p
}

// changes are what is done to some owners' texts, and to how many.
func (w *Wording) changes(ctx context.Context, p piece, do *doing) (changes []change.Change, texts int, err error) {
	f, owners := p.filler, p.owners
	after := make(map[int64]wording.OwnerTexts, len(owners))
	for _, id := range owners {
		o := f.owners[id]
		if o == nil {
			continue
		}
		for i, asset := range p.placed[id] {
			before := len(f.names)
			for at, text := range do.texts(f, o, i+1, asset) {
				if after[id] == nil {
					after[id] = wording.OwnerTexts{}
				}
				after[id][at] = text
				if text != nil && at.Field == wording.FileName {
					f.names = append(f.names, fileName{id, at, text.Text, func(name string) { text.Text = name }})
				}
			}
			slices.SortFunc(f.names[before:], func(a, b fileName) int { return cmp.Compare(a.Language, b.Language) })
		}
	}
	f.taken = do.taken // of the owners before them
	if err := f.number(ctx, w.Store.Queries); err != nil {
		return nil, 0, err
	}
	do.taken = f.taken
	for _, id := range owners {
		if c, n := wording.Change(id, f.standing[id], after[id]); n > 0 {
			changes, texts = append(changes, c), texts+n
		}
	}
	return changes, texts, nil
}
