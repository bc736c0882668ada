// Package pair is the Pair station's knowledge: a delivery's lines, what the engine says of them, and what
// people decided, together.
package pair

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sync"

	"ambrosa/core/message"
	"ambrosa/core/pairing"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrForeign is returned for a decision on a line of another delivery, or for an owner that is gone.
	ErrForeign = errors.New("a line is not of this delivery, or its owner is no longer in the catalogue")
	// ErrNoPicture is returned for a decision on a line that holds no picture.
	ErrNoPicture = errors.New("a line holds no picture, so nobody can have it")
	// ErrDoubled is returned for decisions that say two things of one line, or name an owner twice or none.
	ErrDoubled = errors.New("a line is decided twice, or an owner is named twice or not at all")
	// ErrRank is returned for a place that is none.
	ErrRank = fmt.Errorf("a place by hand is between 1 and %d, or 0 for none", MaxRank)
	// ErrRule is returned for an unknown house rule.
	ErrRule = errors.New("there is no such house rule")
	// ErrNotReady is returned for a plan of a delivery that is not taken in to its end.
	ErrNotReady = errors.New("the delivery is still being read; wait until it is ready, then plan")
)

// MaxRank is the last place that can be given by hand.
const MaxRank = 1_000_000

// Pairer pairs deliveries. What it reads of the deliveries last worked on it keeps in memory, and asks the database at each call
// whether that still stands.
type Pairer struct {
	Store     *store.Store
	Ledger    *ledger.Ledger
	Snapshots *catalogue.Snapshots

	mu    sync.Mutex
	desks []*desk // the last used first
}

// Decision is what a person says of one line. Without owners and not aside it keeps what the engine found and returns a rank.
type Decision struct {
	Arrival int64
	Owners  []Share
	Aside   bool
	Rank    int
}

// Share is a picture's part in one owner. Rank is the order given by hand, 0 where the names say it; Place is 1…n
// among the delivery's pictures for the owner.
type Share struct {
	Owner int64
	Rank  int
	Place int
}

// Decide keeps decisions, all or none, and tells who looks on. What was decided of these lines before is forgotten. Errors:
// ErrForeign, ErrNoPicture, ErrDoubled, ErrRank.
func (b *Pairer) Decide(ctx context.Context, delivery, person int64, decisions []Decision) error {
	says := message.New("step_accepted", "count", len(decisions))
	if !slices.ContainsFunc(decisions, func(d Decision) bool { return !d.Aside }) {
		says = message.New("step_aside", "count", len(decisions))
	}
	return b.decide(ctx, delivery, person, says, decisions)
}

func (b *Pairer) decide(ctx context.Context, delivery, person int64, says message.Message, decisions []Decision) error {
	if err := sound(decisions); err != nil {
		return err
	}
	var arrivals []int64
	add := query.AddDecisionsParams{PersonID: person}
	for _, d := range decisions {
		arrivals = append(arrivals, d.Arrival)
		shares := d.Owners
		if len(shares) == 0 {
			shares = []Share{{Rank: d.Rank}}
		}
		for i, s := range shares {
			add.Arrivals, add.Owners, add.Asides = append(add.Arrivals, d.Arrival), append(add.Owners, s.Owner), append(add.Asides, d.Aside)
			add.Ranks, add.Seqs = append(add.Ranks, int32(s.Rank)), append(add.Seqs, int32(i))
		}
	}
	return b.step(ctx, delivery, person, says, arrivals, func(q *query.Queries) error {
		foreign, err := q.ForeignDecisions(ctx, query.ForeignDecisionsParams{Arrivals: add.Arrivals, Owners: add.Owners, DeliveryID: delivery})
		if err != nil {
			return err
		}
		if foreign.Foreign > 0 {
			return ErrForeign
		}
		if foreign.Pictureless > 0 {
			return ErrNoPicture
		}
		if _, err := q.TakeBackDecisions(ctx, query.TakeBackDecisionsParams{DeliveryID: delivery, Arrivals: arrivals}); err != nil {
			return err
		}
		return q.AddDecisions(ctx, add)
	})
}

// sound refuses decisions that contradict themselves, before anything is asked of the database.
func sound(decisions []Decision) error {
	lines := make(map[int64]bool, len(decisions))
	for _, d := range decisions {
		if lines[d.Arrival] {
			return ErrDoubled
		}
		lines[d.Arrival] = true
		if d.Rank < 0 || d.Rank > MaxRank {
			return ErrRank
		}
		for i, s := range d.Owners {
			if s.Owner <= 0 || slices.ContainsFunc(d.Owners[:i], func(o Share) bool { return o.Owner == s.Owner }) {
				return ErrDoubled
			}
			if s.Rank < 0 || s.Rank > MaxRank {
				return ErrRank
			}
		}
	}
	return nil
}

// TakeBack forgets decisions: what the engine found counts again.
func (b *Pairer) TakeBack(ctx context.Context, delivery, person int64, arrivals []int64) error {
	says := message.New("step_forgotten", "count", len(arrivals))
	return b.step(ctx, delivery, person, says, arrivals, func(q *query.Queries) error {
		_, err := q.TakeBackDecisions(ctx, query.TakeBackDecisionsParams{DeliveryID: delivery, Arrivals: arrivals})
		return err
	})
}

// For says what kinds of owners a delivery is for: catalogue.Everything, Products or Categories. pgx.ErrNoRows.
func (b *Pairer) For(ctx context.Context, delivery int64, which string) error {
	return b.change(ctx, delivery, func(q *query.Queries) error {
		n, err := q.SetPairsWith(ctx, query.SetPairsWithParams{ID: delivery, PairsWith: which})
		if err == nil && n == 0 {
			err = pgx.ErrNoRows
		}
		return err
	})
}

// Choose keeps the cells by which a delivery is paired, none for every one, and the habits that don't count. What was
// decided by hand stays.
func (b *Pairer) Choose(ctx context.Context, delivery int64, choice pairing.Choice) error {
	if choice.Ladder == nil {
		choice.Ladder = pairing.Ladder{}
	}
	if choice.Off == nil {
		choice.Off = []pairing.HabitKind{}
	}
	ladder, err := json.Marshal(choice.Ladder)
	if err != nil {
		return err
	}
	off, err := json.Marshal(choice.Off)
	if err != nil {
		return err
	}
	return b.change(ctx, delivery, func(q *query.Queries) error {
		n, err := q.SetChoice(ctx, query.SetChoiceParams{ID: delivery, Ladder: ladder, HabitsOff: off})
		if err == nil && n == 0 {
			err = pgx.ErrNoRows
		}
		return err
	})
}

// change does something to a bench in one transaction, counts it, and tells who looks on.
func (b *Pairer) change(ctx context.Context, delivery int64, do func(q *query.Queries) error) error {
	return b.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if err := q.TouchBench(ctx, delivery); err != nil {
			return err
		}
		if err := do(q); err != nil {
			return err
		}
		return store.Notify(ctx, tx, store.Topic("bench", delivery))
	})
}
