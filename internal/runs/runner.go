package runs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"ambrosa/internal/assets"
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

// attempts is how often work is tried after errors before it is shown as failed.
const attempts = 8

// noRoomPause is how long work that found the disk nearly full waits before it looks again.
var noRoomPause = 20 * time.Second

// pause is how long work waits after its n-th failed attempt: 5 s, 10 s, 20 s … up to 5 minutes.
func pause(n int) time.Duration { return min(5*time.Minute, 5*time.Second<<min(n-1, 10)) }

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
	if err := r.Gatherer.CleanFolder(ctx); err != nil {
		return fmt.Errorf("clearing what was left of uploads: %w", err)
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

func (w *runWorker) NextRetry(job *river.Job[runArgs]) time.Time {
	return time.Now().Add(pause(job.Attempt))
}

func (w *runWorker) Work(ctx context.Context, job *river.Job[runArgs]) error {
	return w.runner.tell(ctx, job.JobRow, w.runner.apply(ctx, job.Args.Run), func(ctx context.Context, state, note string) error {
		if err := w.runner.Store.NoteRun(ctx, query.NoteRunParams{ID: job.Args.Run, State: state, Note: note}); err != nil {
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

func (w *takeInWorker) NextRetry(job *river.Job[takeInArgs]) time.Time {
	return time.Now().Add(pause(job.Attempt))
}

func (w *takeInWorker) Work(ctx context.Context, job *river.Job[takeInArgs]) error {
	return w.runner.tell(ctx, job.JobRow, w.runner.Gatherer.TakeIn(ctx, job.Args.Delivery), func(ctx context.Context, state, note string) error {
		if err := w.runner.Store.NoteDelivery(ctx, query.NoteDeliveryParams{ID: job.Args.Delivery, State: state, Note: note}); err != nil {
			return err
		}
		return store.Notify(ctx, w.runner.Store.Pool, store.Topic("delivery", job.Args.Delivery))
	})
}

// tell logs an error of work and shows it to the user: why it waits and until when, or that it failed. Being told to stop
// with the process is no error of the work: it is taken up again.
func (r *Runner) tell(ctx context.Context, job *rivertype.JobRow, err error, note func(ctx context.Context, state, note string) error) error {
	if err == nil {
		return nil
	}
	if ctx.Err() != nil || errors.Is(err, context.Canceled) {
		return river.JobSnooze(0) // as if it had not begun
	}
	slog.Error("background work", "kind", job.Kind, "args", string(job.EncodedArgs), "attempt", job.Attempt, "error", err)
	ctx = context.WithoutCancel(ctx)
	switch {
	case errors.Is(err, gather.ErrNoRoom):
		if err := note(ctx, "waiting", words(err)+" It goes on by itself when there is room."); err != nil {
			return err
		}
		return river.JobSnooze(noRoomPause)
	case errors.Is(err, gather.ErrBytesGone):
		return river.JobCancel(errors.Join(err, note(ctx, "failed", words(err)))) // trying again would not bring them back
	case job.Attempt < job.MaxAttempts:
		next := time.Now().Add(pause(job.Attempt)).UTC().Format("15:04:05")
		return errors.Join(err, note(ctx, "waiting", fmt.Sprintf("%s It is tried again at %s UTC (try %d of %d).", words(err), next, job.Attempt+1, job.MaxAttempts)))
	}
	return errors.Join(err, note(ctx, "failed", words(err)))
}

// told are the errors whose words are the user's; of others the log tells, as they may name what is the server's.
var told = []error{gather.ErrNoRoom, gather.ErrBytesGone, assets.ErrVault}

// words say what went wrong with work, without the server's paths and addresses.
func words(err error) string {
	text := "Something went wrong on the server. Its log says what."
	for _, t := range told {
		if errors.Is(err, t) {
			text = err.Error()
			text = strings.ToUpper(text[:1]) + text[1:] + "."
		}
	}
	return text
}
