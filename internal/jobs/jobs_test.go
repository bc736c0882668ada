package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"ambrosa/core/message"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"

	"github.com/jackc/pgx/v5"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

// counter is a made-up kind of work: it counts to its total, a step a transaction. fail says with what it fails at a number.
type counter struct {
	*Jobs
	name  string
	pause time.Duration
	fail  func(at int64) error
	told  func() // called where an error of it is told
	began atomic.Int32
}

// said are the codes of a job's notes.
func said(t *testing.T, j query.Job) (codes []string) {
	var notes []message.Message
	if err := json.Unmarshal(j.Notes, &notes); err != nil {
		t.Fatal(err)
	}
	for _, n := range notes {
		codes = append(codes, n.Code)
	}
	return codes
}

func newCounter(t *testing.T, s *store.Store, name string) *counter {
	t.Helper()
	j, err := New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	c := &counter{Jobs: j, name: name}
	j.Register(Kind{Name: name, Unit: "numbers", Work: c.work, Topic: "counter", Trouble: func(err error) Trouble {
		if c.told != nil {
			c.told()
		}
		if strings.HasPrefix(err.Error(), "final") {
			return Trouble{Says: []message.Message{message.New("vault_full")}, Final: true}
		}
		return Trouble{Says: []message.Message{message.New("vault_slow")}}
	}})
	return c
}

func (c *counter) work(ctx context.Context, subject int64) error {
	c.began.Add(1)
	for {
		stopped, over := false, false
		err := c.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
			job, err := q.LockJob(ctx, query.LockJobParams{Kind: c.name, Subject: subject})
			if err != nil {
				return err
			}
			if c.fail != nil {
				if err := c.fail(job.Done); err != nil {
					return err
				}
			}
			if stopped, err = c.Step(ctx, q, tx, c.name, subject, job.Done+1, job.Total, 10); err != nil || stopped {
				return err
			}
			if over = job.Done+1 == job.Total; over {
				return c.Finish(ctx, q, tx, c.name, subject)
			}
			return nil
		})
		switch {
		case err != nil || over:
			return err
		case stopped:
			return ErrStopped
		}
		time.Sleep(c.pause)
	}
}

func (c *counter) ask(t *testing.T, subject, total int64) {
	t.Helper()
	err := c.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		return c.Ask(ctx, q, tx, Job{Kind: c.name, Subject: subject, Title: "counting", Total: total})
	})
	if err != nil {
		t.Fatal(err)
	}
}

func (c *counter) job(t *testing.T, subject int64) query.Job {
	t.Helper()
	job, err := c.Store.JobOf(ctx, query.JobOfParams{Kind: c.name, Subject: subject})
	if err != nil {
		t.Fatal(err)
	}
	return job
}

// until waits for a job to be as wished.
func (c *counter) until(t *testing.T, subject int64, wish func(query.Job) bool) query.Job {
	t.Helper()
	for begun := time.Now(); ; time.Sleep(20 * time.Millisecond) {
		if job := c.job(t, subject); wish(job) {
			return job
		} else if time.Since(begun) > 30*time.Second {
			t.Fatalf("it stays %+v", job)
		}
	}
}

func (c *counter) start(t *testing.T) (end func()) {
	t.Helper()
	work, stop := context.WithCancel(ctx)
	if err := c.Start(work); err != nil {
		t.Fatal(err)
	}
	return func() { stop(); c.Wait() }
}

func in(states ...State) func(query.Job) bool {
	return func(j query.Job) bool {
		for _, s := range states {
			if State(j.State) == s {
				return true
			}
		}
		return false
	}
}

// A job is asked for, tells how far it is, is stopped and goes on where it was; what it can't do in its state it refuses.
func TestOneJob(t *testing.T) {
	s, person := storetest.New(t)
	c := newCounter(t, s, "count")
	c.pause = 10 * time.Millisecond
	defer c.start(t)()
	c.ask(t, 1, 200)
	c.until(t, 1, func(j query.Job) bool { return j.Done > 5 && j.State == string(Working) })
	rows, err := s.JobsAtWork(ctx, query.JobsAtWorkParams{Most: 10})
	if err != nil || len(rows) != 1 || rows[0].Title != "counting" || rows[0].Unit != "numbers" || rows[0].Rate <= 0 || rows[0].Bytes < 50 {
		t.Fatalf("what is told of it: %+v, %v", rows, err)
	}
	if err := c.Stop(ctx, "count", 1); err != nil {
		t.Fatal(err)
	}
	stopped := c.until(t, 1, in(Stopped))
	if stopped.Done == 0 || stopped.Done == 200 || stopped.EndedAt == nil {
		t.Errorf("stopped: %+v", stopped)
	}
	if err := c.Stop(ctx, "count", 1); !errors.Is(err, ErrState) {
		t.Errorf("stopping what is stopped: %v", err)
	}
	resume := func() error {
		return s.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error { return c.Resume(ctx, q, tx, "count", 1) })
	}
	c.pause = 0
	if err := resume(); err != nil {
		t.Fatal(err)
	}
	if done := c.until(t, 1, in(Done)); done.Done != 200 || done.Bytes != 10*(200+1) && done.Bytes != 10*200 {
		t.Errorf("done: %+v", done)
	}
	if err := resume(); !errors.Is(err, ErrState) {
		t.Errorf("resuming what is done: %v", err)
	}
	if rows, err := s.JobsAtWork(ctx, query.JobsAtWorkParams{Most: 10}); err != nil || len(rows) > 0 {
		t.Errorf("what is told when it is done: %+v, %v", rows, err)
	}
	// Asked for by somebody within a transaction that fails, it was never asked for.
	_ = s.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		return errors.Join(c.Ask(ctx, q, tx, Job{Kind: "count", Subject: 2, Person: person}), errors.New("no"))
	})
	if _, err := s.JobOf(ctx, query.JobOfParams{Kind: "count", Subject: 2}); !errors.Is(err, pgx.ErrNoRows) {
		t.Errorf("a job that was taken back: %v", err)
	}
	if err := s.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error { return c.Ask(ctx, q, tx, Job{Kind: "nothing"}) }); err == nil {
		t.Error("a kind that there is not was asked for")
	}
}

// Trouble is told in words of the kind: until when it waits, and when trying again would not help.
func TestTrouble(t *testing.T) {
	s, _ := storetest.New(t)
	c := newCounter(t, s, "count")
	c.fail = func(at int64) error {
		if at == 3 && c.began.Load() == 1 {
			return errors.New("the secret path /var/x")
		}
		return nil
	}
	defer c.start(t)()
	c.ask(t, 1, 5)
	if j := c.until(t, 1, func(j query.Job) bool { return len(said(t, j)) > 0 }); j.State != string(Waiting) || j.Done != 3 ||
		!strings.HasPrefix(strings.Join(said(t, j), " "), "vault_slow tried_again") {
		t.Errorf("after an error: %+v", j)
	}
	// While it waits nobody is at it, so that it stands at once; resumed, it goes on at once.
	if err := c.Stop(ctx, "count", 1); err != nil {
		t.Fatal(err)
	}
	if j := c.job(t, 1); j.State != string(Stopped) || j.Done != 3 {
		t.Errorf("stopped while it waits: %+v", j)
	}
	if err := s.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error { return c.Resume(ctx, q, tx, "count", 1) }); err != nil {
		t.Fatal(err)
	}
	if j := c.until(t, 1, in(Done)); j.Done != 5 || len(said(t, j)) > 0 {
		t.Errorf("gone on with: %+v", j)
	}
	c.fail = func(int64) error { return errors.New("final") }
	c.ask(t, 2, 5)
	if j := c.until(t, 2, in(Failed)); !slices.Equal(said(t, j), []string{"vault_full"}) || j.EndedAt == nil {
		t.Errorf("what can't be helped: %+v", j)
	}
}

// Work that failed waits out its pause, also where a process looks for abandoned work at the moment between the two.
func TestPauseHolds(t *testing.T) {
	s, _ := storetest.New(t)
	c := newCounter(t, s, "count")
	c.fail = func(int64) error { return errors.New("now and then") }
	c.told = func() {
		if err := c.adopt(ctx); err != nil {
			t.Error(err)
		}
	}
	defer c.start(t)()
	c.ask(t, 1, 5)
	c.until(t, 1, func(j query.Job) bool { return len(said(t, j)) > 0 })
	var asked int
	if err := s.Pool.QueryRow(ctx, "SELECT count(*) FROM river_job").Scan(&asked); err != nil || asked != 1 {
		t.Errorf("it stands in the queue %d times, %v", asked, err)
	}
}

// Work that a process left behind is taken up by another as soon as the first one's lock is gone, not before.
func TestTakenOver(t *testing.T) {
	s, _ := storetest.New(t)
	c := newCounter(t, s, "count")
	c.ask(t, 1, 5)
	other, end := context.WithCancel(ctx)
	killed, err := store.Open(other, s.Pool.Config().ConnString())
	if err != nil {
		t.Fatal(err)
	}
	defer killed.Pool.Close()
	for _, sql := range []string{"DELETE FROM river_job", fmt.Sprintf("UPDATE job SET state = 'working', worker = %d", killed.Worker)} {
		if _, err := killed.Pool.Exec(ctx, sql); err != nil {
			t.Fatal(err)
		}
	}
	defer c.start(t)()
	time.Sleep(300 * time.Millisecond)
	if j := c.job(t, 1); j.Done != 0 {
		t.Errorf("taken from a living process: %+v", j)
	}
	end()
	c.until(t, 1, func(j query.Job) bool {
		if err := c.adopt(ctx); err != nil {
			t.Fatal(err)
		}
		return j.State == string(Done)
	})
}

// The clock's work is done once, by whichever process comes first, and again when its time has come.
func TestClock(t *testing.T) {
	s, _ := storetest.New(t)
	var done atomic.Int32
	var all []*Jobs
	for range 2 {
		j, err := New(ctx, s)
		if err != nil {
			t.Fatal(err)
		}
		j.Register(Kind{Name: "tick", Every: time.Hour, Work: func(context.Context, int64) error { done.Add(1); return nil }})
		all = append(all, j)
	}
	for _, j := range all {
		work, stop := context.WithCancel(ctx)
		if err := j.Start(work); err != nil {
			t.Fatal(err)
		}
		defer func() { stop(); j.Wait() }()
	}
	ticked := func(times int32) {
		t.Helper()
		for begun := time.Now(); done.Load() != times; time.Sleep(20 * time.Millisecond) {
			if time.Since(begun) > 20*time.Second || done.Load() > times {
				t.Fatalf("it was done %d times, want %d", done.Load(), times)
			}
		}
	}
	ticked(1)
	for range 3 {
		for _, j := range all {
			if err := j.clock(ctx); err != nil {
				t.Fatal(err)
			}
		}
	}
	time.Sleep(500 * time.Millisecond)
	ticked(1)
	if _, err := s.Pool.Exec(ctx, "UPDATE job SET ended_at = ended_at - interval '2 hours'"); err != nil {
		t.Fatal(err)
	}
	if err := all[0].clock(ctx); err != nil {
		t.Fatal(err)
	}
	ticked(2)
}

// What is sent to ourselves does not wait behind what comes slowly from elsewhere.
func TestSlow(t *testing.T) {
	s, _ := storetest.New(t)
	j, err := New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	c := &counter{Jobs: j, name: "slow_count", pause: 50 * time.Millisecond}
	j.Register(Kind{Name: c.name, Work: c.work, Slow: func(_ context.Context, _ *query.Queries, subject int64) (bool, error) { return subject > 100, nil }})
	defer c.start(t)()
	for subject := int64(101); subject < 104; subject++ {
		c.ask(t, subject, 100_000)
	}
	c.until(t, 101, func(job query.Job) bool { return job.Done > 0 })
	c.ask(t, 1, 2)
	c.until(t, 1, func(job query.Job) bool { return job.State == string(Done) })
	if job := c.job(t, 101); job.State != string(Working) {
		t.Errorf("the slow one is %s", job.State)
	}
}
