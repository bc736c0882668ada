package tidy

import (
	"context"
	"errors"
	"log/slog"
	"maps"
	"slices"

	core "ambrosa/core/tidy"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/asset"
)

// mostEmptied is how many pictures one run deletes.
const mostEmptied = 1_000_000

// EmptyBin deletes for good what lies in the bin, or some of it where they are named, in a run that is final, and returns the run's number. count
// is how many whoever asks has seen; ErrCount where it is not that many. ledger.ErrNothingToDo.
func (t *Tidy) EmptyBin(ctx context.Context, person int64, title string, some []int64, count int) (int64, error) {
	ids := some
	if len(ids) == 0 {
		var err error
		if ids, err = t.Store.BinnedAll(ctx, mostEmptied); err != nil {
			return 0, err
		}
	}
	if len(ids) != count {
		return 0, ErrCount
	}
	return t.delete(ctx, person, title, ids)
}

// delete keeps and applies the plan that deletes pictures in the bin, and returns its run. ledger.ErrNothingToDo.
func (t *Tidy) delete(ctx context.Context, person int64, title string, ids []int64) (int64, error) {
	bytes, err := t.Store.BytesOf(ctx, ids)
	if err != nil {
		return 0, err
	}
	standing := map[int64]core.Asset{}
	for some := range slices.Chunk(ids, readAtOnce) {
		part, err := asset.Standing(ctx, t.Store.Queries, some)
		if err != nil {
			return 0, err
		}
		maps.Copy(standing, part)
	}
	counts := map[string]int{"deleted": len(ids), "bytes": int(bytes)}
	plan, err := t.Ledger.Keep(ctx, ledger.Draft{Kind: Empty, Title: title, Person: person, Counts: counts}, core.Deletions(ids, standing))
	if err != nil {
		return 0, err
	}
	return t.Ledger.Apply(ctx, plan, person)
}

// emptiedByClock is how many the clock deletes at once; the next time it goes on.
const emptiedByClock = 20_000

// byClock is what runs of the clock are called: nobody's language is known there.
const byClock = "Bin, by the clock"

// EmptyByClock deletes what lies in the bin for longer than the house keeps it, where an admin said that the clock may, in the name of who said
// so.
func (t *Tidy) EmptyByClock(ctx context.Context) error {
	l, err := t.Limits(ctx)
	if err != nil || !l.EmptiesByClock {
		return err
	}
	ids, err := t.Store.BinDue(ctx, query.BinDueParams{Days: int32(l.BinDays), Most: emptiedByClock})
	if err != nil || len(ids) == 0 {
		return err
	}
	who, err := t.Store.HouseSettingBy(ctx, limitsName)
	if err != nil || who == nil {
		return err
	}
	run, err := t.delete(ctx, *who, byClock, ids)
	switch {
	case errors.Is(err, ledger.ErrNothingToDo):
		return nil
	case err != nil:
		return err
	}
	slog.Info("the bin is emptied by the clock", "pictures", len(ids), "run", run)
	return nil
}

// Broken is a run that could not be taken back whole.
type Broken = query.UndosBrokenRow

// Breaks says which runs could not be taken back whole once the bin is emptied; the newest first, so many at most.
func (t *Tidy) Breaks(ctx context.Context, most int) ([]Broken, error) {
	return t.Store.UndosBroken(ctx, int32(most))
}
