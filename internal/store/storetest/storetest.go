// Package storetest gives tests a real PostgreSQL: one throwaway cluster a test binary, one database a test.
package storetest

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"

	"ambrosa/internal/cluster"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
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

// New opens a fresh database with one editor in it, and gives the editor's number.
func New(t testing.TB) (*store.Store, int64) {
	t.Helper()
	name := fmt.Sprintf("t%d", count.Add(1))
	if err := running.Create(context.Background(), name); err != nil {
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

// Empty makes a database without a schema and gives its address.
func Empty(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("t%d", count.Add(1))
	if err := running.Create(context.Background(), name); err != nil {
		t.Fatal(err)
	}
	return running.Database(name)
}
