// Package behind does work on every picture behind the taking in: one after the other, so that other work goes on beside it, and giving way while
// pictures come in.
package behind

import (
	"context"
	"errors"

	"ambrosa/internal/assets"
	"ambrosa/internal/jobs"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// atOnce is how many pictures are worked on before what came of them is kept.
const atOnce = 16

// Picture is one that is to be worked on.
type Picture struct {
	ID  int64
	Sha string
}

// Work is what is done with each picture; T is what comes of one.
type Work[T any] struct {
	Jobs *jobs.Jobs
	Kind string // of the job, which the clock asks for
	// Beside is how many are worked on, each time the clock asks, while pictures come in: those come first, and this goes on all the same.
	Beside int
	Left   func(ctx context.Context) (int64, error)
	// Next are the next pictures behind one that was done; behind 0 the first.
	Next func(ctx context.Context, done int64, most int32) ([]Picture, error)
	// One works on one. An error is one of the storage or of ctx, and ends the work: what is wrong with a picture is kept.
	One func(ctx context.Context, p Picture) (T, error)
	// Keep keeps what came of some, in the step's transaction; last where none are left behind them.
	Keep func(ctx context.Context, q *query.Queries, tx pgx.Tx, some []T, last bool) error
}

// Do does it with all that are left; with a few only while pictures come in. jobs.ErrStopped where somebody asked it to stop.
func (w Work[T]) Do(ctx context.Context) error {
	left, err := w.Left(ctx)
	if err != nil || left == 0 {
		return err
	}
	done, at := int64(0), int64(0)
	for {
		comesIn, err := w.Jobs.Store.PicturesComeIn(ctx)
		if err != nil || comesIn && done > 0 {
			return err
		}
		most := atOnce
		if comesIn {
			most = w.Beside
		}
		rows, err := w.Next(ctx, at, int32(most))
		if err != nil || len(rows) == 0 {
			return err
		}
		some, last, err := w.some(ctx, rows)
		if err != nil {
			return err
		}
		at = rows[len(some)-1].ID
		done += int64(len(some))
		err = w.Jobs.StepWith(ctx, w.Kind, 0, done, left, func(q *query.Queries, tx pgx.Tx) error {
			return w.Keep(ctx, q, tx, some, last && len(rows) < most)
		})
		if err != nil {
			return err
		}
	}
}

// some works on some pictures; whole is false where it gave way to pictures that come in.
func (w Work[T]) some(ctx context.Context, rows []Picture) (some []T, whole bool, err error) {
	for i, p := range rows {
		if i >= w.Beside {
			if comesIn, err := w.Jobs.Store.PicturesComeIn(ctx); err != nil || comesIn {
				return some, false, err
			}
		}
		one, err := w.One(ctx, p)
		if err != nil {
			return nil, false, err
		}
		some = append(some, one)
	}
	return some, true, nil
}

// Open opens a picture of the vault for use, and says in a word what is wrong with it: missing, too_large, damaged; empty for nothing. An error is
// one of the storage or of ctx.
func Open(ctx context.Context, v *assets.Vault, sha string, use func(assets.Source) error) (trouble string, err error) {
	src, drop, err := v.Fetch(ctx, sha)
	if assets.IsMissing(err) {
		return "missing", nil
	}
	if err != nil {
		return "", err
	}
	defer drop()
	switch err = use(src); {
	case errors.Is(err, assets.ErrTooLarge):
		return "too_large", nil
	case errors.Is(err, assets.ErrDamaged):
		return "damaged", nil
	}
	return "", err
}
