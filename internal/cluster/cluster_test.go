package cluster

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
)

var ctx = context.Background()

// folder is one that the database's user can reach.
func folder(t *testing.T) string {
	t.Helper()
	f, err := os.MkdirTemp("", "ambrosa-cluster-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(f) })
	if err := os.Chmod(f, 0o755); err != nil {
		t.Fatal(err)
	}
	return filepath.Join(f, "postgres")
}

func start(t *testing.T, f string, o Options) *Cluster {
	t.Helper()
	o.Throwaway = true
	c, err := Start(ctx, f, o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(c.Stop)
	return c
}

// Nobody on the machine gets in without the password, which only this program's user can read; an older folder that trusted
// everybody is closed at its next start, and what is in it stays.
func TestPassword(t *testing.T) {
	f := folder(t)
	c := start(t, f, Options{})
	refused := func(url string) {
		t.Helper()
		conn, err := pgx.Connect(ctx, url)
		if err == nil {
			conn.Close(ctx)
			t.Errorf("%s lets in", strings.ReplaceAll(url, c.URL, "the address"))
		}
	}
	open := func(c *Cluster, sql string) {
		t.Helper()
		conn, err := pgx.Connect(ctx, c.URL)
		if err != nil {
			t.Fatal(err)
		}
		defer conn.Close(ctx)
		if _, err := conn.Exec(ctx, sql); err != nil {
			t.Fatal(err)
		}
	}
	without := func(c *Cluster) string {
		at := strings.LastIndex(c.URL, "@")
		return "postgres://ambrosa" + c.URL[at:]
	}
	open(c, "CREATE TABLE kept AS SELECT 1 AS n")
	refused(without(c))
	refused(strings.Replace(without(c), "ambrosa@", "ambrosa:guess@", 1))
	refused(strings.Replace(c.URL, "ambrosa:", "postgres:", 1))
	info, err := os.Stat(passwordFile(f))
	if err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the password's file: %v, %v", info.Mode(), err)
	}
	joined := start(t, f, Options{Join: true})
	open(joined, "SELECT n FROM kept")
	c.Stop()

	// As an earlier version left it: everybody is trusted, there is no password.
	if err := errors.Join(os.Remove(passwordFile(f)), os.WriteFile(filepath.Join(c.Folder, "pg_hba.conf"), []byte("host all all 127.0.0.1/32 trust\n"), 0o644)); err != nil {
		t.Fatal(err)
	}
	c = start(t, f, Options{})
	open(c, "SELECT n FROM kept")
	refused(without(c))
}

// One program a folder, also where somebody takes files away beside it; another version's folder is named, not started.
func TestInUse(t *testing.T) {
	f := folder(t)
	c := start(t, f, Options{})
	others, _ := filepath.Glob(f + ".*")
	for _, o := range others {
		os.Remove(o)
	}
	if _, err := Start(ctx, f, Options{}); !errors.Is(err, ErrInUse) {
		t.Errorf("a second start: %v", err)
	}
	if err := Remove(f); !errors.Is(err, ErrInUse) {
		t.Errorf("removing what runs: %v", err)
	}
	conn, err := pgx.Connect(ctx, c.URL)
	if err != nil {
		t.Fatalf("the running one was hurt: %v", err)
	}
	conn.Close(ctx)
	c.Stop()
	version := filepath.Join(c.Folder, "PG_VERSION")
	if err := os.WriteFile(version, []byte("9.6\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := Start(ctx, f, Options{}); !errors.Is(err, ErrVersion) || !strings.Contains(err.Error(), "9.6") {
		t.Errorf("another version's folder: %v", err)
	}
	if b, err := os.ReadFile(version); err != nil || string(b) != "9.6\n" {
		t.Errorf("it was touched: %q, %v", b, err)
	}
}
