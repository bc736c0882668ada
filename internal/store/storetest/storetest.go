// Package storetest gives tests a real PostgreSQL: one throwaway cluster a test binary, one database a test.
package storetest

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"ambrosa/internal/cluster"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	running *cluster.Cluster
	count   atomic.Int32
)

// Main runs a package's tests with a cluster.
func Main(m *testing.M) {
	os.Exit(func() int {
		folder, err := os.MkdirTemp("", "ambrosa-test-")
		if err != nil {
			panic(err)
		}
		defer os.RemoveAll(folder)
		if err := os.Chmod(folder, 0o755); err != nil { // so that the database's user may pass
			panic(err)
		}
		if running, err = cluster.Start(context.Background(), filepath.Join(folder, "postgres"), cluster.Options{Throwaway: true}); err != nil {
			panic(err)
		}
		defer running.Stop()
		return m.Run()
	}())
}

// New opens a fresh database with one editor in it, and returns the editor's number.
func New(t testing.TB) (*store.Store, int64) {
	t.Helper()
	if err := template(); err != nil {
		t.Fatal(err)
	}
	name := fmt.Sprintf("t%d", count.Add(1))
	if err := running.CreateFrom(context.Background(), name, "ready"); err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	s, err := store.Open(ctx, running.Database(name))
	if err != nil {
		cancel()
		t.Fatal(err)
	}
	t.Cleanup(func() { cancel(); s.Pool.Close() })
	person, err := s.AddPerson(ctx, query.AddPersonParams{Name: "mo", PasswordHash: "-", Role: "editor"})
	if err != nil {
		t.Fatal(err)
	}
	return s, person
}

// template makes, once, the database with the schema of which New makes copies.
var template = sync.OnceValue(func() error {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	if err := running.Create(ctx, "ready"); err != nil {
		return err
	}
	s, err := store.Open(ctx, running.Database("ready"))
	if err != nil {
		return err
	}
	cancel()
	s.Close()
	return left("ready")
})

// left waits until nobody is connected to a database.
func left(name string) error {
	conn, err := pgx.Connect(context.Background(), running.Database("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(context.Background())
	for range 500 {
		var busy bool
		err := conn.QueryRow(context.Background(), "SELECT EXISTS (SELECT FROM pg_stat_activity WHERE datname = $1)", name).Scan(&busy)
		if err != nil || !busy {
			return err
		}
		time.Sleep(20 * time.Millisecond)
	}
	return fmt.Errorf("somebody stays connected to %s", name)
}

// Empty makes a database without a schema and returns its address.
func Empty(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("t%d", count.Add(1))
	if err := running.Create(context.Background(), name); err != nil {
		t.Fatal(err)
	}
	return running.Database(name)
}
