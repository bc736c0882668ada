// Package store keeps everything but the pictures' bytes, in PostgreSQL.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"strings"
	"sync/atomic"
	"time"

	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNewer is returned for a database that a newer version of the program has worked with.
var ErrNewer = errors.New("a newer version of the program has worked with this data; use that one, or restore a backup")

// Store is a pool of connections and this process's place among those that share the database.
type Store struct {
	*query.Queries
	Pool   *pgxpool.Pool
	Worker int32 // number of the advisory lock by which others see that this process lives
	url    string
	name   string
	other  *atomic.Pointer[Store] // the one that this is a view beside, or that is one beside this
	hub    *hub
	gone   <-chan struct{}
}

// Connections, so that work and requests never wait for each other; one more listens. An instance uses up to their sum.
const (
	workConnections    = 14
	requestConnections = 10
)

// requestLimit is how long one statement of a request may take, and wait for another's lock.
const requestLimit = 5 * time.Second

// SessionEnded is the kind of notice that tells of a session that was ended.
const SessionEnded = "session"

// Gone is closed when the store's context ends, so that what waits for notices stops waiting.
func (s *Store) Gone() <-chan struct{} { return s.gone }

// Open connects, brings the schema up to date and takes this process's lock, which it holds, listening for
// notices, until ctx ends.
func Open(ctx context.Context, url string) (*Store, error) {
	pool, err := connect(ctx, url, workConnections, 0)
	if err != nil {
		return nil, err
	}
	s := &Store{Queries: query.New(pool), Pool: pool, Worker: rand.Int32N(1<<30) + 1, url: url, name: "work", other: &atomic.Pointer[Store]{}, hub: &hub{}, gone: ctx.Done()}
	if err := s.migrate(ctx); err != nil {
		pool.Close()
		return nil, err
	}
	ready := make(chan error, 1)
	go s.listen(ctx, ready)
	if err := <-ready; err != nil {
		pool.Close()
		return nil, err
	}
	return s, nil
}

// ForRequests returns the same store over connections of its own, on which no statement takes longer than requestLimit.
func (s *Store) ForRequests(ctx context.Context) (*Store, error) {
	pool, err := connect(ctx, s.url, requestConnections, requestLimit)
	if err != nil {
		return nil, err
	}
	requests := *s
	requests.Queries, requests.Pool, requests.name, requests.other = query.New(pool), pool, "requests", &atomic.Pointer[Store]{}
	requests.other.Store(s)
	s.other.Store(&requests)
	return &requests, nil
}

func connect(ctx context.Context, url string, most int32, limit time.Duration) (*pgxpool.Pool, error) {
	config, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	config.MaxConns = most
	config.ConnConfig.RuntimeParams["jit"] = "off" // compiling takes a second, which no statement here wins back
	if limit > 0 {
		config.ConnConfig.RuntimeParams["statement_timeout"] = fmt.Sprint(limit.Milliseconds())
		config.ConnConfig.RuntimeParams["idle_in_transaction_session_timeout"] = fmt.Sprint(10 * limit.Milliseconds())
	} else {
		config.ConnConfig.RuntimeParams["work_mem"] = "32MB" // what goes over all pictures joins them in one pass
	}
	return pgxpool.NewWithConfig(ctx, config)
}

// TookTooLong reports whether the server ended a statement, as it does at its time limit: SQLSTATE 57014, query_canceled. Source:
// PostgreSQL 15, appendix A. A statement whose request has ended looks the same.
func TookTooLong(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "57014"
}

// Close ends the connections.
func (s *Store) Close() {
	s.Pool.Close()
	if other := s.other.Load(); other != nil {
		other.Pool.Close()
	}
}

// Pools are the pools by name, for those who watch the server.
func (s *Store) Pools() map[string]*pgxpool.Stat {
	pools := map[string]*pgxpool.Stat{s.name: s.Pool.Stat()}
	if other := s.other.Load(); other != nil {
		pools[other.name] = other.Pool.Stat()
	}
	return pools
}

func (s *Store) migrate(ctx context.Context) error {
	return s.Migrating(ctx, func() error {
		db := stdlib.OpenDBFromPool(s.Pool)
		defer db.Close()
		provider, err := goose.NewProvider(goose.DialectPostgres, db, Migrations())
		if err != nil {
			return err
		}
		sources := provider.ListSources()
		known := sources[len(sources)-1].Version
		if stands, err := provider.GetDBVersion(ctx); err != nil {
			return fmt.Errorf("reading the version of the schema: %w", err)
		} else if stands > known {
			return fmt.Errorf("%w: it is at %d, this program knows %d", ErrNewer, stands, known)
		}
		if _, err := provider.Up(ctx); err != nil {
			return fmt.Errorf("bringing the schema up to date: %w", err)
		}
		return nil
	})
}

// Migrating does what brings a schema up to date. Several instances may start at once; one does it, the others wait.
func (s *Store) Migrating(ctx context.Context, migrate func() error) error {
	lock, err := s.Pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("connecting to the database: %w", err)
	}
	defer lock.Release()
	if _, err := lock.Exec(ctx, "SELECT pg_advisory_lock(951)"); err != nil {
		return err
	}
	defer lock.Exec(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock(951)")
	return migrate()
}

// Tx does work in one transaction: committed where it returns nil, rolled back otherwise.
func (s *Store) Tx(ctx context.Context, work func(*query.Queries, pgx.Tx) error) error {
	return pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error { return work(s.WithTx(tx), tx) })
}

// Notice is a word between processes that something changed: "run:5", "delivery:3", "bench:3".
type Notice string

// Topic makes a notice of a kind and an id.
func Topic(kind string, id int64) Notice { return Notice(fmt.Sprintf("%s:%d", kind, id)) }

// Kind is the notice's part before the colon.
func (n Notice) Kind() string { kind, _, _ := strings.Cut(string(n), ":"); return kind }

// Notify tells every process. Inside a transaction it is told at commit.
func Notify(ctx context.Context, db query.DBTX, n Notice) error {
	_, err := db.Exec(ctx, "SELECT pg_notify('ambrosa', $1)", string(n))
	return err
}

func (s *Store) listen(ctx context.Context, ready chan<- error) {
	for first := true; ctx.Err() == nil; first = false {
		err := s.listenOnce(ctx, func() {
			if first {
				ready <- nil
			}
		})
		if ctx.Err() != nil {
			return
		}
		if first && err != nil {
			select {
			case ready <- err:
				return
			default:
			}
		}
		slog.Warn("lost the connection that listens", "error", err)
		// Where the server died the others are lost too: none of them is handed out any more.
		s.Pool.Reset()
		if other := s.other.Load(); other != nil {
			other.Pool.Reset()
		}
		select {
		case <-ctx.Done():
		case <-time.After(time.Second):
		}
	}
}

func (s *Store) listenOnce(ctx context.Context, up func()) error {
	conn, err := pgx.Connect(ctx, s.url)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock(952, $1)", s.Worker); err != nil {
		return err
	}
	if _, err := conn.Exec(ctx, "LISTEN ambrosa"); err != nil {
		return err
	}
	up()
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		s.hub.tell(Notice(n.Payload))
	}
}
