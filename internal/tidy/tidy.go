// Package tidy finds what nothing uses, what is there twice, what is unfit, missing or broken, and makes plans of it.
package tidy

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"sync/atomic"
	"time"

	core "ambrosa/core/tidy"
	"ambrosa/internal/assets"
	"ambrosa/internal/gallery"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/singleflight"
)

// The kinds of work, and of plans.
const (
	LookWork  = "look"  // looks at pictures that came
	FindWork  = "find"  // finds what is to tidy
	ScrubWork = "scrub" // reads all stored bytes again
	RuleWork  = "tidy_rules"
	BinWork   = "empty_bin_by_clock"

	Plan  = "tidy"
	Empty = "empty_bin" // its run is final
)

var (
	// ErrCount is returned for emptying the bin with another number than lies in it.
	ErrCount = errors.New("the number is not that of the pictures in the bin; look again")
	// ErrLimits is returned for limits that mean nothing.
	ErrLimits = errors.New("a limit is out of its range")
	// ErrFinding is returned for something to find that there is not.
	ErrFinding = errors.New("there is nothing of this name to find")
)

// Tidy does it.
type Tidy struct {
	Store     *store.Store
	Jobs      *jobs.Jobs
	Ledger    *ledger.Ledger
	Vault     *assets.Vault
	Gallery   *gallery.Gallery
	MaxPixels int64

	counting singleflight.Group
	counted  atomic.Pointer[counted]
}

// Register makes its work known.
func (t *Tidy) Register() {
	clock := func(name, unit string, every time.Duration, work func(context.Context) error) {
		t.Jobs.Register(jobs.Kind{Name: name, Unit: unit, Every: every, Work: func(ctx context.Context, _ int64) error { return work(ctx) }})
	}
	clock(LookWork, "pictures", 15*time.Second, t.Look)
	clock(FindWork, "", time.Minute, t.Find)
	clock(ScrubWork, "pictures", time.Hour, t.Scrub)
	clock(RuleWork, "", time.Minute, t.Rules)
	clock(BinWork, "", time.Hour, t.EmptyByClock)
}

const limitsName = "tidy"

// Limits are the house's, or what is usual where nobody set any.
func (t *Tidy) Limits(ctx context.Context) (core.Limits, error) {
	l := core.Usual
	value, err := t.Store.HouseSetting(ctx, limitsName)
	if errors.Is(err, pgx.ErrNoRows) {
		return l, nil
	}
	if err == nil {
		err = json.Unmarshal(value, &l)
	}
	return l, err
}

// SetLimits sets them, and has everything judged again.
func (t *Tidy) SetLimits(ctx context.Context, person int64, l core.Limits) error {
	if !l.Valid() {
		return ErrLimits
	}
	value, err := json.Marshal(l)
	if err != nil {
		return err
	}
	if err := t.Store.SetHouseSetting(ctx, query.SetHouseSettingParams{Name: limitsName, Value: value, Person: person}); err != nil {
		return err
	}
	return t.FindSoon(ctx)
}

// FindSoon has what is to tidy found again as soon as somebody is free.
func (t *Tidy) FindSoon(ctx context.Context) error {
	return t.ask(ctx, FindWork)
}

// Find judges all pictures by the limits, finds those that are there twice, and what owners miss, where anything changed since it did so last.
// Cost: reading what is known of all pictures and owners.
func (t *Tidy) Find(ctx context.Context) error {
	l, err := t.Limits(ctx)
	if err != nil {
		return err
	}
	stands, err := t.Store.EverythingStands(ctx)
	if err != nil {
		return err
	}
	of, err := json.Marshal(l)
	if err != nil {
		return err
	}
	same, err := t.stands(ctx, stands, of)
	if err != nil || same {
		return err
	}
	begun := time.Now()
	for _, find := range []func(context.Context, core.Limits) error{t.judge, t.findTwice, t.findGaps} {
		if err := find(ctx, l); err != nil {
			return err
		}
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if err := q.SetTidyState(ctx, query.SetTidyStateParams{Owners: stands.Owners, Pictures: stands.Pictures, Snapshot: stands.Snapshot, Limits: of}); err != nil {
			return err
		}
		return store.Notify(ctx, tx, store.Topic("assets", 0))
	})
	slog.Info("found what is to tidy", "ms", time.Since(begun).Milliseconds())
	return err
}

// agesIn is how long finds stand where nothing changes: some depend on the day.
const agesIn = 24 * time.Hour

// stands reports whether what was found last is of what stands now.
func (t *Tidy) stands(ctx context.Context, now query.EverythingStandsRow, limits []byte) (bool, error) {
	last, err := t.Store.TidyState(ctx)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, nil
	}
	if err != nil || time.Since(last.At) > agesIn || last.Owners != now.Owners || last.Pictures != now.Pictures || !sameJSON(last.Limits, limits) {
		return false, err
	}
	changed, err := t.Gallery.Changed(ctx, last.Snapshot)
	return !changed, err
}

func sameJSON(a, b []byte) bool {
	var x, y core.Limits
	return json.Unmarshal(a, &x) == nil && json.Unmarshal(b, &y) == nil && x == y
}
