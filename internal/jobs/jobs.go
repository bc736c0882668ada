// Package jobs does the work in the background, of every kind: one table, one state machine, one queue that all instances
// share. A kind says what its work is; asking, stopping, going on, trying again and taking over from a process that died are
// the same for all.
package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"ambrosa/core/message"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
)

var (
	// ErrState is returned where a job can't be stopped, resumed or begun again, as it stands.
	ErrState = errors.New("the work is not in a state for this")
	// ErrStopped is returned by Step where somebody asked the job to stop: the work ends, and comes back when it is resumed.
	ErrStopped = errors.New("the work was stopped")
)

// State is where a job stands.
type State string

const (
	Waiting  State = "waiting"
	Working  State = "working"
	Stopping State = "stopping"
	Stopped  State = "stopped"
	Done     State = "done"
	Failed   State = "failed"
)

// Over reports whether nobody works on it or will by itself.
func (s State) Over() bool { return s == Stopped || s == Done || s == Failed }

// Kind is one kind of work.
type Kind struct {
	Name    string
	Unit    string // what its progress counts: "changes", "files"
	Workers int    // so many at once in one process
	// Slow reports whether a job mostly waits for others, as for servers outside; nil where none does. Such jobs have workers of their
	// own, SlowWorkers: the other jobs of the kind do not wait behind them.
	Slow        func(ctx context.Context, q *query.Queries, subject int64) (bool, error)
	SlowWorkers int
	// Work does one job's work in steps, each in its own transaction that ends with Step or Finish, so that it can be ended
	// anywhere and taken up again. It returns nil where it is done, or ErrStopped.
	Work func(ctx context.Context, subject int64) error
	// Trouble says what an error of it means to the user; a zero answer where only the log can tell. Nil for what the error itself says.
	Trouble func(error) Trouble
	Topic   string        // what screens listen for when it moves; empty for nothing
	Every   time.Duration // of the clock's work, how often; its subject is 0
}

// Trouble is what an error of work means.
type Trouble struct {
	Says  []message.Message // for the user
	Wait  time.Duration     // when it is looked at again, if that is no failed attempt
	Final bool              // trying again would not help
}

// Job names one job.
type Job struct {
	Kind    string
	Subject int64
	Title   string
	Total   int64 // 0 where nobody knows it yet
	Person  int64 // who asked for it; 0 for the clock
}

// Jobs are the kinds of work of this process, and the queue.
type Jobs struct {
	Store   *store.Store
	kinds   map[string]Kind
	client  *river.Client[pgx.Tx]
	ended   chan struct{}
	working sync.Map // orders that this process is at
}

// New makes the jobs of a store, bringing the queue's own schema up to date. Each part registers its kinds before Start.
func New(ctx context.Context, s *store.Store) (*Jobs, error) {
	err := s.Migrating(ctx, func() error {
		queue, err := rivermigrate.New(riverpgxv5.New(s.Pool), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
		if err == nil {
			_, err = queue.Migrate(ctx, rivermigrate.DirectionUp, nil)
		}
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("bringing the schema of the queue up to date: %w", err)
	}
	client, err := river.NewClient(riverpgxv5.New(s.Pool), &river.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return nil, err
	}
	return &Jobs{Store: s, kinds: map[string]Kind{}, client: client, ended: make(chan struct{})}, nil
}

// Register adds a kind. Two of one name are a fault of the program.
func (j *Jobs) Register(k Kind) {
	if _, twice := j.kinds[k.Name]; twice {
		panic("the kind of work " + k.Name + " is registered twice")
	}
	k.Workers, k.SlowWorkers = max(k.Workers, 1), max(k.SlowWorkers, 1)
	j.kinds[k.Name] = k
}

// Ask asks for a job within a transaction; asked for again it begins again.
func (j *Jobs) Ask(ctx context.Context, q *query.Queries, tx pgx.Tx, of Job) error {
	kind, known := j.kinds[of.Kind]
	if !known {
		return fmt.Errorf("there is no kind of work %q", of.Kind)
	}
	asked := query.AskJobParams{Kind: of.Kind, Subject: of.Subject, Title: of.Title, Total: of.Total, Unit: kind.Unit}
	if of.Person != 0 {
		asked.AskedBy = &of.Person
	}
	if err := q.AskJob(ctx, asked); err != nil {
		return err
	}
	if err := j.told(ctx, tx, kind, of.Subject); err != nil {
		return err
	}
	return j.enqueue(ctx, tx, of.Kind, of.Subject)
}

// Stop asks a job to end after the step in hand; one that waits stands at once. ErrState where it is over.
func (j *Jobs) Stop(ctx context.Context, kind string, subject int64) error {
	return j.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		stopped, err := q.StopJob(ctx, query.StopJobParams{Kind: kind, Subject: subject})
		return j.moved(ctx, tx, kind, subject, stopped, err)
	})
}

// Resume goes on with a job that was stopped or failed, within a transaction. ErrState where it is at work or done.
func (j *Jobs) Resume(ctx context.Context, q *query.Queries, tx pgx.Tx, kind string, subject int64) error {
	if err := j.move(ctx, q, tx, kind, subject, Waiting, Stopped, Failed); err != nil {
		return err
	}
	return j.enqueue(ctx, tx, kind, subject)
}

// Step ends one step of a job's work, in the step's own transaction: how much is done of how much, and bytes more. ErrStopped,
// with the step kept, where somebody asked it to stop.
func (j *Jobs) Step(ctx context.Context, q *query.Queries, tx pgx.Tx, kind string, subject, done, total, bytes int64) (stop bool,
	err error) {
	if err := q.SetJobProgress(ctx, query.SetJobProgressParams{Kind: kind, Subject: subject, Done: done, Total: total,
		MoreBytes: bytes}); err != nil {
		return false, err
	}
	moved, err := q.MoveJob(ctx, query.MoveJobParams{Kind: kind, Subject: subject, Next: string(Stopped), Now: []string{string(Stopping)}})
	if err != nil {
		return false, err
	}
	return moved > 0, j.told(ctx, tx, j.kinds[kind], subject)
}

// StepWith does a step of a job's work in a transaction of its own, and tells how much is done of how much; do is nil where there is only that to tell.
// ErrStopped, with the step kept, where somebody asked it to stop.
func (j *Jobs) StepWith(ctx context.Context, kind string, subject, done, total int64, do func(*query.Queries, pgx.Tx) error) error {
	stopped := false
	err := j.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) (err error) {
		if do != nil {
			if err := do(q, tx); err != nil {
				return err
			}
		}
		stopped, err = j.Step(ctx, q, tx, kind, subject, done, total, 0)
		return err
	})
	if err == nil && stopped {
		err = ErrStopped
	}
	return err
}

// Finish ends a job's work for good, in the transaction of its last step.
func (j *Jobs) Finish(ctx context.Context, q *query.Queries, tx pgx.Tx, kind string, subject int64) error {
	return j.move(ctx, q, tx, kind, subject, Done, Waiting, Working, Stopping)
}

func (j *Jobs) move(ctx context.Context, q *query.Queries, tx pgx.Tx, kind string, subject int64, next State, now ...State) error {
	from := make([]string, len(now))
	for i, s := range now {
		from[i] = string(s)
	}
	moved, err := q.MoveJob(ctx, query.MoveJobParams{Kind: kind, Subject: subject, Next: string(next), Now: from})
	return j.moved(ctx, tx, kind, subject, moved, err)
}

// moved is what a move of so many jobs comes to: ErrState where it found none that stood so.
func (j *Jobs) moved(ctx context.Context, tx pgx.Tx, kind string, subject, moved int64, err error) error {
	if err == nil && moved == 0 {
		err = ErrState
	}
	if err != nil {
		return err
	}
	return j.told(ctx, tx, j.kinds[kind], subject)
}

// told tells listening screens that a job moved.
func (j *Jobs) told(ctx context.Context, db query.DBTX, kind Kind, subject int64) error {
	if kind.Topic == "" {
		return nil
	}
	if err := store.Notify(ctx, db, store.Topic(kind.Topic, subject)); err != nil {
		return err
	}
	return store.Notify(ctx, db, store.Topic("job", 0))
}
