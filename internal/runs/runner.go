package runs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"ambrosa/internal/gather"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"
)

// Runner does the background work of this process: takings in and runs, from the queue that all instances
// share.
type Runner struct {
	Store    *store.Store
	Gatherer *gather.Gatherer
	client   *river.Client[pgx.Tx]
	ended    chan struct{}
}

// attempts is how often work is tried again after an error before it is shown as failed.
const attempts = 4

type runArgs struct {
	Run int64 `json:"run"`
}

func (runArgs) Kind() string { return "run" }

type takeInArgs struct {
	Delivery int64 `json:"delivery"`
}

func (takeInArgs) Kind() string { return "take_in" }

// New makes a runner and gives the gatherer its queue.
func New(s *store.Store, g *gather.Gatherer) (*Runner, error) {
	r := &Runner{Store: s, Gatherer: g, ended: make(chan struct{})}
	workers := river.NewWorkers()
	river.AddWorker(workers, &runWorker{runner: r})
	river.AddWorker(workers, &takeInWorker{runner: r})
	client, err := river.NewClient(riverpgxv5.New(s.Pool), &river.Config{
		Queues:            map[string]river.QueueConfig{"runs": {MaxWorkers: 4}, "take_in": {MaxWorkers: 1}},
		Workers:           workers,
		Logger:            slog.New(slog.DiscardHandler),
		FetchPollInterval: time.Second,
	})
	if err != nil {
		return nil, err
	}
	r.client = client
	g.Enqueue = func(ctx context.Context, tx pgx.Tx, delivery int64) error {
		_, err := client.InsertTx(ctx, tx, takeInArgs{delivery}, &river.InsertOpts{Queue: "take_in", MaxAttempts: attempts})
		return err
	}
	return r, nil
}

// Start begins to work until ctx ends; Wait waits for the end. Work that a killed process left behind is
// taken up within seconds: the process's lock is gone with it.
func (r *Runner) Start(ctx context.Context) error {
	if err := r.Gatherer.CleanSpool(); err != nil {
		return fmt.Errorf("clearing half unpacked files: %w", err)
	}
	if err := r.client.Start(ctx); err != nil {
		return err
	}
	go func() {
		defer close(r.ended)
		for {
			if err := r.adopt(ctx); err != nil && ctx.Err() == nil {
				slog.Error("looking for abandoned work", "error", err)
			}
			select {
			case <-ctx.Done():
				<-r.client.Stopped()
				return
			case <-time.After(10 * time.Second):
			}
		}
	}()
	return nil
}

// Wait waits until all work in hand has ended.
func (r *Runner) Wait() { <-r.ended }

// abandoned finds work that is not done, that no living process has claimed and nothing in the queue will
// take up.
const abandoned = `SELECT id FROM %[1]s w WHERE state = ANY ($1) AND NOT process_alive(worker) AND NOT EXISTS (
	SELECT 1 FROM river_job j WHERE j.kind = $2 AND j.state IN ('available', 'pending', 'retryable', 'scheduled') AND (j.args->>'%[1]s')::bigint = w.id)`

// adopt asks anew for work whose process is gone. Asking twice is harmless: work is claimed first.
func (r *Runner) adopt(ctx context.Context) error {
	return r.Store.Tx(ctx, func(_ *query.Queries, tx pgx.Tx) error {
		for _, work := range []struct {
			table, kind string
			states      []string
			enqueue     func(context.Context, pgx.Tx, int64) error
		}{
			{"run", runArgs{}.Kind(), []string{"waiting", "running", "stopping"}, r.enqueueRun},
			{"delivery", takeInArgs{}.Kind(), []string{"waiting", "taking_in", "stopping"}, r.Gatherer.Enqueue},
		} {
			rows, err := tx.Query(ctx, fmt.Sprintf(abandoned, work.table), work.states, work.kind)
			if err != nil {
				return err
			}
			ids, err := pgx.CollectRows(rows, pgx.RowTo[int64])
			if err != nil {
				return err
			}
			for _, id := range ids {
				if err := work.enqueue(ctx, tx, id); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

func (r *Runner) enqueueRun(ctx context.Context, tx pgx.Tx, run int64) error {
	_, err := r.client.InsertTx(ctx, tx, runArgs{run}, &river.InsertOpts{Queue: "runs", MaxAttempts: attempts})
	return err
}

type runWorker struct {
	river.WorkerDefaults[runArgs]
	runner *Runner
}

func (w *runWorker) Timeout(*river.Job[runArgs]) time.Duration { return -1 }

func (w *runWorker) Work(ctx context.Context, job *river.Job[runArgs]) error {
	return w.runner.tell(ctx, job.JobRow, w.runner.apply(ctx, job.Args.Run), func(ctx context.Context, note string) error {
		if err := w.runner.Store.FailRun(ctx, query.FailRunParams{ID: job.Args.Run, Note: note}); err != nil {
			return err
		}
		return store.Notify(ctx, w.runner.Store.Pool, store.Topic("run", job.Args.Run))
	})
}

type takeInWorker struct {
	river.WorkerDefaults[takeInArgs]
	runner *Runner
}

func (w *takeInWorker) Timeout(*river.Job[takeInArgs]) time.Duration { return -1 }

func (w *takeInWorker) Work(ctx context.Context, job *river.Job[takeInArgs]) error {
	return w.runner.tell(ctx, job.JobRow, w.runner.Gatherer.TakeIn(ctx, job.Args.Delivery), func(ctx context.Context, note string) error {
		if err := w.runner.Store.SetDeliveryState(ctx, query.SetDeliveryStateParams{ID: job.Args.Delivery, State: "failed", Note: note}); err != nil {
			return err
		}
		return store.Notify(ctx, w.runner.Store.Pool, store.Topic("delivery", job.Args.Delivery))
	})
}

// tell logs an error of work and, when it will not be tried again, shows it to the user. Being told to stop
// with the process is no error of the work: it is taken up again.
func (r *Runner) tell(ctx context.Context, job *rivertype.JobRow, err error, fail func(context.Context, string) error) error {
	if err == nil || ctx.Err() != nil || errors.Is(err, context.Canceled) {
		return err
	}
	slog.Error("background work", "kind", job.Kind, "args", string(job.EncodedArgs), "attempt", job.Attempt, "error", err)
	if job.Attempt < job.MaxAttempts {
		return err
	}
	return errors.Join(err, fail(context.WithoutCancel(ctx), err.Error()))
}
