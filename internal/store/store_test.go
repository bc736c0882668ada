package store_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"ambrosa/internal/store"
	"ambrosa/internal/store/storetest"

	"github.com/jackc/pgx/v5/pgconn"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// Requests have connections and a time limit of their own: what takes long in one ends, and work goes on beside it.
func TestRequests(t *testing.T) {
	ctx := context.Background()
	work, _ := storetest.New(t)
	requests, err := work.ForRequests(ctx)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(requests.Pool.Close)
	begun := time.Now()
	_, err = requests.Pool.Exec(ctx, "SELECT pg_sleep(60)")
	if pg := (*pgconn.PgError)(nil); !errors.As(err, &pg) || pg.Code != "57014" || time.Since(begun) > 10*time.Second {
		t.Errorf("a long statement of a request: %v after %v", err, time.Since(begun))
	}
	var limit string
	if err := work.Pool.QueryRow(ctx, "SHOW statement_timeout").Scan(&limit); err != nil || limit != "0" {
		t.Errorf("work is limited to %q, %v", limit, err)
	}
	// All of the requests' connections are taken, and work still gets one.
	for range requests.Pool.Config().MaxConns {
		conn, err := requests.Pool.Acquire(ctx)
		if err != nil {
			t.Fatal(err)
		}
		defer conn.Release()
	}
	if err := work.Pool.Ping(ctx); err != nil {
		t.Error(err)
	}
	if pools := work.Pools(); pools["requests"].AcquiredConns() != requests.Pool.Config().MaxConns || pools["work"] == nil {
		t.Errorf("%v", pools)
	}
	// What is told over one is heard over the other.
	follower, leave := requests.Follow()
	defer leave()
	if err := store.Notify(ctx, work.Pool, store.Topic("run", 5)); err != nil {
		t.Fatal(err)
	}
	select {
	case <-follower.Wake:
		if n := follower.Take(); len(n) != 1 || n[0] != "run:5" {
			t.Errorf("heard %v", n)
		}
	case <-time.After(10 * time.Second):
		t.Error("nothing was heard")
	}
}
