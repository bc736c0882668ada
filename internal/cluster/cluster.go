// Package cluster runs a private PostgreSQL server on loopback, in a folder of its own, with the programs of
// Debian's package.
package cluster

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrNoServer is returned where Debian's PostgreSQL is not installed.
	ErrNoServer = errors.New("no PostgreSQL server found under /usr/lib/postgresql; install the package postgresql, or name a server in AMBROSA_DATABASE_URL")
	// ErrInUse is returned where another process runs the server of the folder.
	ErrInUse = errors.New("another ambrosa runs with this data folder; stop it or name another with --data")
	// ErrVersion is returned for a data folder of a PostgreSQL that is not installed.
	ErrVersion = errors.New("the data folder belongs to another version of PostgreSQL")
	// ErrGone is told on Gone where the server died and could not be started again.
	ErrGone = errors.New("PostgreSQL died and does not start again")
)

// Cluster is a running server. Should it die it is started again.
type Cluster struct {
	URL    string
	Folder string
	lock   *os.File
	args   []string
	run    func(name string, args ...string) *exec.Cmd

	mu       sync.Mutex // over the process
	cmd      *exec.Cmd
	log      *tail
	exited   chan struct{}
	stopping bool
	gone     chan error
}

// Gone returns an error where the server died and does not start again.
func (c *Cluster) Gone() <-chan error { return c.gone }

// Options of a start. Throwaway gives up safety against a power cut for speed; only tests may want it. Join
// uses the server that another process runs in the folder, where one does, instead of ErrInUse.
type Options struct {
	Throwaway bool
	Join      bool
}

// Start starts the server of the folder, making it first where it is not there. As root the server runs as
// the user postgres, since it refuses root; where that user can't reach the folder, a folder under /var/lib
// takes its place. A server that a killed process left behind in the folder is stopped first. It listens on loopback, to
// who knows the password that is kept beside the folder.
func Start(ctx context.Context, folder string, options Options) (*Cluster, error) {
	c := &Cluster{gone: make(chan error, 1)}
	asked, err := filepath.Abs(folder)
	if err != nil {
		return nil, err
	}
	var user *syscall.Credential
	if c.Folder, user, err = place(asked); err != nil {
		return nil, err
	}
	bin, err := programs(c.Folder)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(c.Folder, 0o700); err != nil {
		return nil, err
	}
	if c.lock, err = hold(c.Folder); errors.Is(err, ErrInUse) && options.Join {
		return c, c.join(asked)
	} else if err != nil {
		return nil, err
	}
	if user != nil {
		if err := os.Chown(c.Folder, int(user.Uid), int(user.Gid)); err != nil {
			return nil, err
		}
	}
	c.run = func(name string, args ...string) *exec.Cmd {
		cmd := exec.Command(filepath.Join(bin, name), args...)
		cmd.Dir = "/"
		// Its own process group: Ctrl-C reaches this program first, which stops the server in order.
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: user, Setpgid: true}
		cmd.Env = append(os.Environ(), "LC_ALL=C.UTF-8", "TZ=UTC")
		return cmd
	}
	if _, err := os.Stat(filepath.Join(c.Folder, "PG_VERSION")); err != nil {
		initdb := c.run("initdb", "-D", c.Folder, "-U", "ambrosa", "--auth=reject", "--encoding=UTF8", "--locale=C.UTF-8", "--no-sync")
		if out, err := initdb.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("making the database's folder %s: %w: %s", c.Folder, err, bytes.TrimSpace(out))
		}
	}
	if err := stopLeftOver(c.run("pg_ctl", "-D", c.Folder, "-m", "fast", "-w", "stop"), c.Folder); err != nil {
		return nil, err
	}
	password, err := c.secure(asked, user)
	if err != nil {
		return nil, err
	}
	port, err := freePort()
	if err != nil {
		return nil, err
	}
	c.args = []string{"-D", c.Folder, "-c", "listen_addresses=127.0.0.1", "-p", strconv.Itoa(port),
		"-c", "unix_socket_directories=", "-c", "max_connections=100", "-c", "random_page_cost=1.1",
		"-c", "log_min_messages=warning", "-c", "max_wal_size=2GB"}
	if options.Throwaway {
		c.args = append(c.args, "-c", "shared_buffers=128MB", "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	} else {
		buffers, cache := share(memory())
		c.args = append(c.args, "-c", fmt.Sprintf("shared_buffers=%dMB", buffers), "-c", fmt.Sprintf("effective_cache_size=%dMB", cache))
	}
	c.URL = address(password, strconv.Itoa(port))
	if err := c.launch(ctx); err != nil {
		c.Stop()
		return nil, err
	}
	go c.watch()
	return c, c.Create(ctx, "ambrosa")
}

func address(password, port string) string {
	return fmt.Sprintf("postgres://ambrosa:%s@127.0.0.1:%s/ambrosa", password, port)
}

// share is how much of a machine's memory, in MiB, the database takes for its buffers, and how much it may expect of the system's
// cache: an eighth, up to 1 GiB, as this is not the only program here; and a half. PostgreSQL's handbook, 20.4.1, has a quarter for
// a machine of its own.
func share(memory int64) (buffers, cache int64) {
	return max(128, min(memory/8, 1024)), max(512, memory/2)
}

// memory is how much this machine has, in MiB; what most have where it does not say.
func memory() (mib int64) {
	text, err := os.ReadFile("/proc/meminfo")
	if err == nil {
		_, err = fmt.Sscanf(string(text), "MemTotal: %d kB", &mib)
	}
	if err != nil {
		return 4096
	}
	return mib / 1024
}

// launch starts the server's process and waits until it answers.
func (c *Cluster) launch(ctx context.Context) error {
	c.mu.Lock()
	if c.stopping {
		c.mu.Unlock()
		return context.Canceled
	}
	log, exited := &tail{}, make(chan struct{})
	cmd := c.run("postgres", c.args...)
	cmd.Stderr = log
	if err := cmd.Start(); err != nil {
		c.mu.Unlock()
		return fmt.Errorf("starting PostgreSQL: %w", err)
	}
	c.cmd, c.log, c.exited = cmd, log, exited
	c.mu.Unlock()
	go func() {
		_ = cmd.Wait() // how it ended is told by its log
		close(exited)
	}()
	return c.await(ctx, exited, log)
}

// restarts is how often in a row a server that died is started again, and pause how long is waited before each: what a
// killed one leaves behind needs a moment to end.
const (
	restarts = 5
	pause    = time.Second
)

// watch starts the server again where it dies. Who uses it connects again by itself.
func (c *Cluster) watch() {
	for {
		c.mu.Lock()
		exited, log := c.exited, c.log
		c.mu.Unlock()
		<-exited
		var err error
		for range restarts {
			if c.isStopping() {
				return
			}
			slog.Error("PostgreSQL died; it is started again", "log", log.String())
			time.Sleep(pause)
			if err = c.launch(context.Background()); err == nil {
				break
			}
		}
		if c.isStopping() {
			return
		}
		if err != nil {
			c.gone <- fmt.Errorf("%w: %w", ErrGone, err)
			return
		}
	}
}

func (c *Cluster) isStopping() bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.stopping
}

// place returns the folder that a cluster asked for in a folder really has, and the user its server runs as,
// nil for this one.
func place(folder string) (string, *syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return folder, nil, nil
	}
	postgres, err := user.Lookup("postgres")
	if err != nil {
		return "", nil, fmt.Errorf("PostgreSQL refuses to run as root and there is no user postgres: %w", err)
	}
	uid, _ := strconv.ParseUint(postgres.Uid, 10, 32)
	gid, _ := strconv.ParseUint(postgres.Gid, 10, 32)
	if !reachable(filepath.Dir(folder)) {
		folder = filepath.Join("/var/lib/ambrosa", fmt.Sprintf("%x", sha256.Sum256([]byte(folder)))[:16])
	}
	return folder, &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

// Remove removes the cluster of a folder. ErrInUse where its server runs.
func Remove(folder string) error {
	asked, err := filepath.Abs(folder)
	if err != nil {
		return err
	}
	if folder, _, err = place(asked); err != nil {
		return err
	}
	if _, err := os.Stat(folder); err != nil {
		return nil
	}
	lock, err := hold(folder)
	if err != nil {
		return err
	}
	defer lock.Close()
	return errors.Join(os.RemoveAll(folder), os.RemoveAll(passwordFile(asked)))
}

// Create makes a database of the cluster where it is not there.
func (c *Cluster) Create(ctx context.Context, name string) error {
	return c.CreateFrom(ctx, name, "template1")
}

// CreateFrom makes a database as a copy of another, to which nobody is connected, unless it is there.
func (c *Cluster) CreateFrom(ctx context.Context, name, template string) error {
	conn, err := pgx.Connect(ctx, c.Database("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var exists bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&exists); err != nil || exists {
		return err
	}
	_, err = conn.Exec(ctx, "CREATE DATABASE "+pgx.Identifier{name}.Sanitize()+" TEMPLATE "+pgx.Identifier{template}.Sanitize())
	return err
}

// Database is the address of one database of the cluster.
func (c *Cluster) Database(name string) string {
	return c.URL[:strings.LastIndexByte(c.URL, '/')+1] + name
}

// Stop ends the server in order and waits for it; one that was joined goes on.
func (c *Cluster) Stop() {
	c.mu.Lock()
	c.stopping = true
	cmd, exited := c.cmd, c.exited
	c.mu.Unlock()
	if cmd == nil {
		return // another process's
	}
	_ = cmd.Process.Signal(syscall.SIGINT) // fails only where it has ended
	select {
	case <-exited:
	case <-time.After(20 * time.Second):
		_ = cmd.Process.Signal(syscall.SIGQUIT)
		<-exited
	}
	c.lock.Close()
}

// join finds the address of the server that runs in the folder: the fourth line of its postmaster.pid.
func (c *Cluster) join(asked string) error {
	pid, err := os.ReadFile(filepath.Join(c.Folder, "postmaster.pid"))
	if err != nil {
		return fmt.Errorf("%w, and its server is not up yet: %w", ErrInUse, err)
	}
	lines := strings.Split(string(pid), "\n")
	if len(lines) < 4 {
		return fmt.Errorf("%w, and its server is not up yet", ErrInUse)
	}
	password, err := os.ReadFile(passwordFile(asked))
	if err != nil {
		return fmt.Errorf("%w, and its password can't be read: %w", ErrInUse, err)
	}
	c.URL = address(strings.TrimSpace(string(password)), strings.TrimSpace(lines[3]))
	return nil
}

// hold takes the folder for this process alone. The system lets go of it however the process ends. It is the folder itself
// that is held, so nothing can be taken away beneath it.
func hold(folder string) (*os.File, error) {
	f, err := os.Open(folder)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, fmt.Errorf("%w: %s", ErrInUse, folder)
	}
	return f, nil
}

func (c *Cluster) await(ctx context.Context, exited <-chan struct{}, log *tail) error {
	deadline := time.Now().Add(60 * time.Second)
	for {
		conn, err := pgx.Connect(ctx, c.Database("postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-exited:
			return fmt.Errorf("PostgreSQL ended while starting: %s", log)
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
		if time.Now().After(deadline) {
			return fmt.Errorf("PostgreSQL did not answer within a minute: %w", err)
		}
	}
}

// programs is the folder of the server's programs: of the version that made the cluster, or the newest for a new one.
func programs(folder string) (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if len(found) == 0 {
		return "", ErrNoServer
	}
	version := func(program string) int {
		n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(program))))
		return n
	}
	slices.SortFunc(found, func(a, b string) int { return version(a) - version(b) })
	newest := found[len(found)-1]
	made, err := os.ReadFile(filepath.Join(folder, "PG_VERSION"))
	if err != nil {
		return filepath.Dir(newest), nil
	}
	want := strings.TrimSpace(string(made))
	for _, program := range found {
		if strconv.Itoa(version(program)) == want {
			return filepath.Dir(program), nil
		}
	}
	return "", fmt.Errorf("%w: %s is of version %s, installed is %d; install postgresql-%s, or move the data with pg_dump and pg_restore",
		ErrVersion, folder, want, version(newest), want)
}

func stopLeftOver(stop *exec.Cmd, folder string) error {
	if _, err := os.Stat(filepath.Join(folder, "postmaster.pid")); err != nil {
		return nil
	}
	if out, err := stop.CombinedOutput(); err != nil && !bytes.Contains(out, []byte("server is not running")) && !bytes.Contains(out, []byte("does not exist")) && !bytes.Contains(out, []byte("No such process")) {
		return fmt.Errorf("stopping the server left behind in %s: %w: %s", folder, err, bytes.TrimSpace(out))
	}
	return nil
}

// reachable reports whether every user may pass through the folder and all above it.
func reachable(folder string) bool {
	for {
		info, err := os.Stat(folder)
		if err == nil && info.Mode().Perm()&1 == 0 {
			return false
		}
		if folder == "/" {
			return true
		}
		folder = filepath.Dir(folder)
	}
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// tail keeps the end of what is written to it.
type tail struct {
	mu   sync.Mutex
	kept []byte
}

func (t *tail) Write(p []byte) (int, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.kept = append(t.kept, p...)
	if len(t.kept) > 4096 {
		t.kept = t.kept[len(t.kept)-4096:]
	}
	return len(p), nil
}

func (t *tail) String() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return string(bytes.TrimSpace(t.kept))
}
