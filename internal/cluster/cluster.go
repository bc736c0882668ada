// Package cluster runs a private PostgreSQL server on loopback, in a folder of its own, with the programs of
// Debian's package.
package cluster

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrNoServer is returned where Debian's PostgreSQL is not installed.
	ErrNoServer = errors.New("no PostgreSQL server found under /usr/lib/postgresql; install the package postgresql, or name a server in AMBROSA_DATABASE_URL")
	// ErrInUse is returned where another process runs the server of the folder.
	ErrInUse = errors.New("another ambrosa runs with this data folder; stop it or name another with --data")
)

// Cluster is a running server.
type Cluster struct {
	URL    string
	Folder string
	lock   *os.File
	cmd    *exec.Cmd
	exited chan struct{}
}

// Options of a start. Throwaway gives up safety against a power cut for speed; only tests may want it. Join
// uses the server that another process runs in the folder, where one does, instead of ErrInUse.
type Options struct {
	Throwaway bool
	Join      bool
}

// Start starts the server of the folder, making it first where it is not there. As root the server runs as
// the user postgres, since it refuses root; where that user can't reach the folder, a folder under /var/lib
// takes its place. A server that a killed process left behind in the folder is stopped first.
func Start(ctx context.Context, folder string, options Options) (*Cluster, error) {
	bin, err := programs()
	if err != nil {
		return nil, err
	}
	c := &Cluster{exited: make(chan struct{})}
	var user *syscall.Credential
	if c.Folder, user, err = place(folder); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(filepath.Dir(c.Folder), 0o755); err != nil {
		return nil, err
	}
	if c.lock, err = hold(c.Folder + ".lock"); errors.Is(err, ErrInUse) && options.Join {
		return c, c.join()
	} else if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(c.Folder, 0o700); err != nil {
		return nil, err
	}
	if user != nil {
		if err := os.Chown(c.Folder, int(user.Uid), int(user.Gid)); err != nil {
			return nil, err
		}
	}
	command := func(name string, args ...string) *exec.Cmd {
		cmd := exec.Command(filepath.Join(bin, name), args...)
		cmd.Dir = "/"
		// Its own process group: Ctrl-C reaches this program first, which stops the server in order.
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: user, Setpgid: true}
		cmd.Env = append(os.Environ(), "LC_ALL=C.UTF-8", "TZ=UTC")
		return cmd
	}
	if _, err := os.Stat(filepath.Join(c.Folder, "PG_VERSION")); err != nil {
		initdb := command("initdb", "-D", c.Folder, "-U", "ambrosa", "--auth=trust", "--encoding=UTF8", "--locale=C.UTF-8", "--no-sync")
		if out, err := initdb.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("making the database's folder %s: %w: %s", c.Folder, err, bytes.TrimSpace(out))
		}
	}
	if err := stopLeftOver(command("pg_ctl", "-D", c.Folder, "-m", "fast", "-w", "stop"), c.Folder); err != nil {
		return nil, err
	}
	port, err := freePort()
	if err != nil {
		return nil, err
	}
	args := []string{"-D", c.Folder, "-c", "listen_addresses=127.0.0.1", "-p", strconv.Itoa(port),
		"-c", "unix_socket_directories=", "-c", "max_connections=60", "-c", "shared_buffers=128MB",
		"-c", "log_min_messages=warning", "-c", "max_wal_size=2GB"}
	if options.Throwaway {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	c.cmd = command("postgres", args...)
	log := &tail{}
	c.cmd.Stderr = log
	if err := c.cmd.Start(); err != nil {
		return nil, fmt.Errorf("starting PostgreSQL: %w", err)
	}
	go func() {
		_ = c.cmd.Wait() // how it ended is told by its log
		close(c.exited)
	}()
	server := fmt.Sprintf("postgres://ambrosa@127.0.0.1:%d/", port)
	if err := c.await(ctx, server+"postgres", log); err != nil {
		c.Stop()
		return nil, err
	}
	c.URL = server + "ambrosa"
	return c, c.Create(ctx, "ambrosa")
}

// place gives the folder that a cluster asked for in a folder really has, and the user its server runs as,
// nil for this one.
func place(folder string) (string, *syscall.Credential, error) {
	folder, err := filepath.Abs(folder)
	if err != nil || os.Geteuid() != 0 {
		return folder, nil, err
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
	folder, _, err := place(folder)
	if err != nil {
		return err
	}
	if _, err := os.Stat(folder); err != nil {
		return nil
	}
	lock, err := hold(folder + ".lock")
	if err != nil {
		return err
	}
	defer lock.Close()
	return os.RemoveAll(folder)
}

// Create makes a database of the cluster where it is not there.
func (c *Cluster) Create(ctx context.Context, name string) error {
	conn, err := pgx.Connect(ctx, c.Database("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var exists bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&exists); err != nil || exists {
		return err
	}
	_, err = conn.Exec(ctx, "CREATE DATABASE "+pgx.Identifier{name}.Sanitize())
	return err
}

// Database is the address of one database of the cluster.
func (c *Cluster) Database(name string) string {
	return c.URL[:strings.LastIndexByte(c.URL, '/')+1] + name
}

// Stop ends the server in order and waits for it; one that was joined goes on.
func (c *Cluster) Stop() {
	if c.cmd == nil {
		return // another process's
	}
	_ = c.cmd.Process.Signal(syscall.SIGINT) // fails only where it has ended
	select {
	case <-c.exited:
	case <-time.After(20 * time.Second):
		_ = c.cmd.Process.Signal(syscall.SIGQUIT)
		<-c.exited
	}
	c.lock.Close()
}

// join finds the address of the server that runs in the folder: the fourth line of its postmaster.pid.
func (c *Cluster) join() error {
	pid, err := os.ReadFile(filepath.Join(c.Folder, "postmaster.pid"))
	if err != nil {
		return fmt.Errorf("%w, and its server is not up yet: %w", ErrInUse, err)
	}
	lines := strings.Split(string(pid), "\n")
	if len(lines) < 4 {
		return fmt.Errorf("%w, and its server is not up yet", ErrInUse)
	}
	c.URL = "postgres://ambrosa@127.0.0.1:" + strings.TrimSpace(lines[3]) + "/ambrosa"
	return nil
}

// hold takes the folder for this process alone. The system lets go of it however the process ends.
func hold(path string) (*os.File, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o644)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, fmt.Errorf("%w: %s", ErrInUse, strings.TrimSuffix(path, ".lock"))
	}
	return f, nil
}

func (c *Cluster) await(ctx context.Context, url string, log *tail) error {
	deadline := time.Now().Add(60 * time.Second)
	for {
		conn, err := pgx.Connect(ctx, url)
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-c.exited:
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

func programs() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if len(found) == 0 {
		return "", ErrNoServer
	}
	sort.Strings(found)
	return filepath.Dir(found[len(found)-1]), nil
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
type tail struct{ kept []byte }

func (t *tail) Write(p []byte) (int, error) {
	t.kept = append(t.kept, p...)
	if len(t.kept) > 4096 {
		t.kept = t.kept[len(t.kept)-4096:]
	}
	return len(p), nil
}

func (t *tail) String() string { return string(bytes.TrimSpace(t.kept)) }
