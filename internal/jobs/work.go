package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"ambrosa/core/message"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"
)

// attempts is how often work is tried after errors before it is shown as failed.
const attempts = 8

// pause is how long work waits after its n-th failed attempt: 5 s, 10 s, 20 s … up to 5 minutes.
func pause(n int) time.Duration { return min(5*time.Minute, 5*time.Second<<min(n-1, 10)) }

// cooldown is how long a process waits after it took work before it takes more: a person waits for it.
const cooldown = 20 * time.Millisecond

// order is a job in the queue.
type order struct {
	Of      string `json:"kind"`
	Subject int64  `json:"subject"`
}

func (order) Kind() string { return "job" }

func (j *Jobs) enqueue(ctx context.Context, tx pgx.Tx, kind string, subject int64) error {
	queue := kind
	if slow := j.kinds[kind].Slow; slow != nil {
		is, err := slow(ctx, query.New(tx), subject)
		if err != nil {
			return err
		}
		if is {
			queue += slowQueue
		}
	}
	_, err := j.client.InsertTx(ctx, tx, order{kind, subject}, &river.InsertOpts{Queue: queue, MaxAttempts: attempts})
	return err
}

// slowQueue ends the name of a kind's queue of slow jobs.
const slowQueue = "_slow"

// Start begins to work until ctx ends; Wait waits for the end. Work that a killed process left behind is taken up within
// seconds: the process's lock is gone with it.
func (j *Jobs) Start(ctx context.Context) error {
	workers := river.NewWorkers()
	river.AddWorker(workers, &worker{jobs: j})
	queues := map[string]river.QueueConfig{}
	for name, kind := range j.kinds {
		queues[name] = river.QueueConfig{MaxWorkers: kind.Workers}
		if kind.Slow != nil {
			queues[name+slowQueue] = river.QueueConfig{MaxWorkers: kind.SlowWorkers}
		}
	}
	client, err := river.NewClient(riverpgxv5.New(j.Store.Pool), &river.Config{ID: fmt.Sprint(j.Store.Worker), Queues: queues, Workers: workers,
		Logger: slog.New(slog.DiscardHandler), FetchPollInterval: time.Second, FetchCooldown: cooldown})
	if err != nil {
		return err
	}
	if err := client.Start(ctx); err != nil {
		return err
	}
	go func() {
		defer close(j.ended)
		for {
			if err := errors.Join(j.adopt(ctx), j.clock(ctx)); err != nil && ctx.Err() == nil {
				slog.Error("looking for abandoned work", "error", err)
			}
			select {
			case <-ctx.Done():
				<-client.Stopped()
				return
			case <-time.After(10 * time.Second):
			}
		}
	}()
	return nil
}

// Wait waits until all work in hand has ended.
func (j *Jobs) Wait() { <-j.ended }

// queued finds which jobs the queue will take up by itself, or a living process has just taken from it: that one also says when
// work that failed is tried again.
const queued = `SELECT (args->>'subject')::bigint FROM river_job WHERE kind = 'job' AND args->>'kind' = $1 AND
	(state IN ('available', 'pending', 'retryable', 'scheduled') OR
	state = 'running' AND process_alive(attempted_by[array_upper(attempted_by, 1)]::int))`

// adopt asks again for work whose process is gone. Asking twice is harmless: work is claimed first.
func (j *Jobs) adopt(ctx context.Context) error {
	return j.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		abandoned, err := q.AbandonedJobs(ctx)
		if err != nil || len(abandoned) == 0 {
			return err
		}
		waiting := map[order]bool{}
		for name := range j.kinds {
			rows, err := tx.Query(ctx, queued, name)
			if err != nil {
				return err
			}
			subjects, err := pgx.CollectRows(rows, pgx.RowTo[int64])
			if err != nil {
				return err
			}
			for _, s := range subjects {
				waiting[order{name, s}] = true
			}
		}
		for _, a := range abandoned {
			if _, known := j.kinds[a.Kind]; !known || waiting[order{a.Kind, a.Subject}] {
				continue
			}
			if err := j.enqueue(ctx, tx, a.Kind, a.Subject); err != nil {
				return err
			}
		}
		return nil
	})
}

// clock asks for the clock's work that is due.
func (j *Jobs) clock(ctx context.Context) error {
	for name, kind := range j.kinds {
		if kind.Every == 0 {
			continue
		}
		err := j.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
			asked, err := q.AskClock(ctx, query.AskClockParams{Kind: name, Seconds: kind.Every.Seconds()})
			if err != nil || asked == 0 {
				return err
			}
			return j.enqueue(ctx, tx, name, 0)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

type worker struct {
	river.WorkerDefaults[order]
	jobs *Jobs
}

func (w *worker) Timeout(*river.Job[order]) time.Duration { return -1 }

func (w *worker) NextRetry(job *river.Job[order]) time.Time {
	return time.Now().Add(pause(job.Attempt))
}

func (w *worker) Work(ctx context.Context, job *river.Job[order]) error {
	return w.jobs.tell(ctx, job.JobRow, job.Args, w.jobs.Do(ctx, job.Args.Of, job.Args.Subject))
}

// Do works on a job in this process until it is done, stopped or fails. It returns nil at once where it is over, or another
// process is at it.
func (j *Jobs) Do(ctx context.Context, kind string, subject int64) error {
	of := order{kind, subject}
	if _, busy := j.working.LoadOrStore(of, true); busy { // asked for twice, as after a crash
		return nil
	}
	defer j.working.Delete(of)
	claimed, err := j.Store.ClaimJob(ctx, query.ClaimJobParams{Kind: kind, Subject: subject, Worker: j.Store.Worker})
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	defer j.Store.LeaveJob(context.WithoutCancel(ctx), query.LeaveJobParams{ID: claimed.ID, Worker: j.Store.Worker})
	if State(claimed.State).Over() {
		return nil
	}
	if err := j.Store.BeginJob(ctx, claimed.ID); err != nil {
		return err
	}
	work := j.kinds[kind]
	err = work.Work(ctx, subject)
	if errors.Is(err, ErrStopped) {
		return nil
	}
	if err == nil && work.Every > 0 {
		return j.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error { return j.Finish(ctx, q, tx, kind, subject) })
	}
	return err
}

// Finished works on a job in this process, or waits for the one that is at it, until it is over, and returns how it ended.
func (j *Jobs) Finished(ctx context.Context, kind string, subject int64) (query.Job, error) {
	for {
		if err := j.Do(ctx, kind, subject); err != nil {
			return query.Job{}, err
		}
		job, err := j.Store.JobOf(ctx, query.JobOfParams{Kind: kind, Subject: subject})
		if err != nil || State(job.State).Over() {
			return job, err
		}
		select {
		case <-ctx.Done():
			return job, ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
}

// tell logs an error of work and shows it to the user: why it waits and until when, or that it failed. Being told to stop
// with the process is no error of the work: it is taken up again.
func (j *Jobs) tell(ctx context.Context, row *rivertype.JobRow, of order, err error) error {
	if err == nil {
		return nil
	}
	if ctx.Err() != nil || errors.Is(err, context.Canceled) {
		return river.JobSnooze(0) // as if it had not begun
	}
	slog.Error("background work", "kind", of.Of, "subject", of.Subject, "attempt", row.Attempt, "error", err)
	ctx = context.WithoutCancel(ctx)
	kind := j.kinds[of.Of]
	trouble := Trouble{}
	if kind.Trouble != nil {
		trouble = kind.Trouble(err)
	} else if says, ok := message.Of(err); ok {
		trouble.Says = []message.Message{says}
	}
	if len(trouble.Says) == 0 {
		trouble.Says = []message.Message{message.New("server_trouble")}
	}
	switch {
	case trouble.Wait > 0:
		if err := j.note(ctx, kind, of.Subject, Waiting, trouble.Says); err != nil {
			return err
		}
		return river.JobSnooze(trouble.Wait)
	case trouble.Final:
		return river.JobCancel(errors.Join(err, j.note(ctx, kind, of.Subject, Failed, trouble.Says)))
	case row.Attempt < row.MaxAttempts:
		next := time.Now().Add(pause(row.Attempt)).UTC().Format("15:04:05")
		says := append(trouble.Says, message.New("tried_again", "at", next, "try", row.Attempt+1, "most", row.MaxAttempts))
		return errors.Join(err, j.note(ctx, kind, of.Subject, Waiting, says))
	}
	return errors.Join(err, j.note(ctx, kind, of.Subject, Failed, trouble.Says))
}

func (j *Jobs) note(ctx context.Context, kind Kind, subject int64, state State, says []message.Message) error {
	job, err := j.Store.JobOf(ctx, query.JobOfParams{Kind: kind.Name, Subject: subject})
	if err != nil {
		return err
	}
	notes, err := json.Marshal(says)
	if err != nil {
		return err
	}
	if err := j.Store.NoteJob(ctx, query.NoteJobParams{ID: job.ID, State: string(state), Notes: notes}); err != nil {
		return err
	}
	return j.told(ctx, j.Store.Pool, kind, subject)
}
