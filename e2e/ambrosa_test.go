// Package e2e drives the real program: the built binary with its own PostgreSQL, and its interface in headless
// Chromium.
package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/jackc/pgx/v5"

	"ambrosa/core/message"
)

// program is a running ambrosa with its own data folder.
type program struct {
	t    testing.TB
	data string
	port int
	env  []string
	args []string // beside data and port
	cmd  *exec.Cmd
	out  *bytes.Buffer
	me   *client
}

const (
	adminName     = "ines"
	adminPassword = "kites-over-pellmoor"
)

// dataFolder is one that the database's user can reach, unlike the testing package's own.
func dataFolder(t testing.TB) string {
	t.Helper()
	folder, err := os.MkdirTemp("", "ambrosa-e2e-")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.Chmod(folder, 0o755); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(folder) })
	return folder
}

// serve starts ambrosa on an empty data folder with an admin who is signed in; env is added to its environment.
func serve(t testing.TB, env ...string) *program {
	t.Helper()
	return (&program{t: t, env: env}).served()
}

// served makes its first admin in a new folder, starts it and signs in.
func (p *program) served() *program {
	t := p.t
	t.Helper()
	p.data = dataFolder(t)
	add := exec.Command("../bin/ambrosa", "user", "add", adminName, "--role", "admin", "--data", p.data)
	add.Stdin = strings.NewReader(adminPassword + "\n")
	if out, err := add.CombinedOutput(); err != nil {
		t.Fatalf("adding the first admin (is bin/ambrosa built? make build): %v\n%s", err, out)
	}
	p.start("serve")
	t.Cleanup(p.stop)
	p.me = signIn(t, p.url(), adminName, adminPassword)
	return p
}

// demo starts the demo world. AMBROSA_DEMO_DATA names a data folder to keep from one time to the next.
func demo(t *testing.T) *program {
	t.Helper()
	p := &program{t: t, data: os.Getenv("AMBROSA_DEMO_DATA")}
	if p.data == "" {
		p.data = dataFolder(t)
	}
	p.start("demo")
	t.Cleanup(p.stop)
	return p
}

func (p *program) url() string { return fmt.Sprintf("http://127.0.0.1:%d", p.port) }

// start starts the program and waits until it answers.
func (p *program) start(command string) {
	p.t.Helper()
	if p.port == 0 {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			p.t.Fatal(err)
		}
		p.port = l.Addr().(*net.TCPAddr).Port
		l.Close()
	}
	p.out = &bytes.Buffer{}
	p.cmd = exec.Command("../bin/ambrosa", append([]string{command, "--data", p.data, "--port", fmt.Sprint(p.port)}, p.args...)...)
	p.cmd.Env = append(os.Environ(), p.env...)
	p.cmd.Stdout, p.cmd.Stderr = p.out, p.out
	if err := p.cmd.Start(); err != nil {
		p.t.Fatal(err)
	}
	await(p.t, 5*time.Minute, "the program to answer", func() bool {
		r, err := http.Get(p.url() + "/readyz")
		if err != nil {
			return false
		}
		r.Body.Close()
		return r.StatusCode == http.StatusOK && (command != "demo" || strings.Contains(p.out.String(), "Ambrosa is at"))
	})
}

// lives reports whether the program has not ended by itself.
func (p *program) lives() bool {
	r, err := http.Get(p.url() + "/healthz")
	if err == nil {
		r.Body.Close()
	}
	return err == nil
}

func (p *program) stop() {
	if p.cmd == nil || p.cmd.ProcessState != nil {
		return
	}
	p.cmd.Process.Signal(os.Interrupt)
	p.cmd.Wait()
}

// kill ends the program as a power cut would: nothing is tidied up.
func (p *program) kill() {
	p.t.Helper()
	if err := p.cmd.Process.Signal(syscall.SIGKILL); err != nil {
		p.t.Fatal(err)
	}
	p.cmd.Wait()
}

// database connects to the program's own server.
func (p *program) database() *pgx.Conn {
	p.t.Helper()
	pid, err := os.ReadFile(filepath.Join(p.data, "postgres", "postmaster.pid"))
	if err != nil {
		p.t.Fatal(err)
	}
	password, err := os.ReadFile(filepath.Join(p.data, "postgres.password"))
	if err != nil {
		p.t.Fatal(err)
	}
	conn, err := pgx.Connect(context.Background(), fmt.Sprintf("postgres://ambrosa:%s@127.0.0.1:%s/ambrosa", bytes.TrimSpace(password), strings.Split(string(pid), "\n")[3]))
	if err != nil {
		p.t.Fatal(err)
	}
	return conn
}

// one asks the database for one value.
func one[T any](p *program, sql string, args ...any) (v T) {
	p.t.Helper()
	conn := p.database()
	defer conn.Close(context.Background())
	if err := conn.QueryRow(context.Background(), sql, args...).Scan(&v); err != nil {
		p.t.Fatal(sql, err)
	}
	return v
}

func await(t testing.TB, limit time.Duration, what string, done func() bool) {
	t.Helper()
	for end := time.Now().Add(limit); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if done() {
			return
		}
	}
	t.Fatalf("waited %v in vain for %s", limit, what)
}

// client speaks HTTP as a program does, by session.
type client struct {
	t      testing.TB
	url    string
	cookie string
	csrf   string
}

func signIn(t testing.TB, url, name, password string) *client {
	t.Helper()
	c := &client{t: t, url: url}
	var session struct{ CSRF string }
	c.do("POST", "/api/session", map[string]string{"name": name, "password": password}, &session)
	c.csrf = session.CSRF
	return c
}

// try asks and returns the status; out, where it is not nil, takes the answer's JSON.
func (c *client) try(method, path string, in, out any) (int, string) {
	c.t.Helper()
	var body io.Reader
	contentType := "application/json"
	switch v := in.(type) {
	case nil:
	case string:
		body, contentType = strings.NewReader(v), "text/csv"
	default:
		b, err := json.Marshal(v)
		if err != nil {
			c.t.Fatal(err)
		}
		body = bytes.NewReader(b)
	}
	r, err := http.NewRequest(method, c.url+path, body)
	if err != nil {
		c.t.Fatal(err)
	}
	r.Header.Set("Content-Type", contentType)
	r.Header.Set("X-Ambrosa-CSRF", c.csrf)
	r.Header.Set("Cookie", c.cookie)
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		return 0, err.Error()
	}
	defer answer.Body.Close()
	for _, k := range answer.Cookies() {
		c.cookie = k.Name + "=" + k.Value
	}
	text, err := io.ReadAll(answer.Body)
	if err != nil {
		c.t.Fatal(err)
	}
	if out != nil && answer.StatusCode < 300 {
		if err := json.Unmarshal(text, out); err != nil {
			c.t.Fatalf("%s %s: %v in %s", method, path, err, text)
		}
	}
	return answer.StatusCode, string(text)
}

func (c *client) do(method, path string, in, out any) {
	c.t.Helper()
	if status, text := c.try(method, path, in, out); status >= 300 || status == 0 {
		c.t.Fatalf("%s %s: %d %s", method, path, status, text)
	}
}

type id struct{ ID int64 }

type delivery struct {
	ID       int64
	State    string
	Notes    []message.Message
	Lines    int
	Pictures int
	Problems int
	Seen     int
}

// upload sends a file by tus in pieces; it may be cut off after some of them.
func (c *client) upload(delivery int64, path string, content []byte, pieces int) {
	c.t.Helper()
	address := c.announce(delivery, path, len(content))
	size := max(1, (len(content)+pieces-1)/pieces)
	for at := 0; at < len(content); at += size {
		c.patch(address, at, content[at:min(at+size, len(content))])
	}
}

func (c *client) announce(delivery int64, path string, length int) string {
	c.t.Helper()
	r, _ := http.NewRequest("POST", c.url+"/api/uploads/", nil)
	c.tus(r)
	r.Header.Set("Upload-Length", fmt.Sprint(length))
	r.Header.Set("Upload-Metadata", "delivery "+base64(fmt.Sprint(delivery))+",path "+base64(path))
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		c.t.Fatal(err)
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusCreated {
		text, _ := io.ReadAll(answer.Body)
		c.t.Fatalf("announcing %s: %d %s", path, answer.StatusCode, text)
	}
	return c.url + "/api/uploads/" + filepath.Base(answer.Header.Get("Location"))
}

func (c *client) patch(address string, at int, piece []byte) {
	c.t.Helper()
	r, _ := http.NewRequest("PATCH", address, bytes.NewReader(piece))
	c.tus(r)
	r.Header.Set("Upload-Offset", fmt.Sprint(at))
	r.Header.Set("Content-Type", "application/offset+octet-stream")
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		c.t.Fatal(err)
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusNoContent {
		text, _ := io.ReadAll(answer.Body)
		c.t.Fatalf("sending to %s at %d: %d %s", address, at, answer.StatusCode, text)
	}
}

// offset asks how much of an upload has arrived.
func (c *client) offset(address string) (at int) {
	c.t.Helper()
	r, _ := http.NewRequest("HEAD", address, nil)
	c.tus(r)
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		c.t.Fatal(err)
	}
	answer.Body.Close()
	if _, err := fmt.Sscan(answer.Header.Get("Upload-Offset"), &at); err != nil {
		c.t.Fatalf("asking for the offset: %d, %v", answer.StatusCode, err)
	}
	return at
}

func (c *client) tus(r *http.Request) {
	r.Header.Set("Tus-Resumable", "1.0.0")
	r.Header.Set("X-Ambrosa-CSRF", c.csrf)
	r.Header.Set("Cookie", c.cookie)
}

// deliver brings files in as one delivery and waits until it is taken in.
func (c *client) deliver(title string, files map[string][]byte) delivery {
	c.t.Helper()
	var d id
	c.do("POST", "/api/deliveries", map[string]string{"title": title}, &d)
	for path, content := range files {
		c.upload(d.ID, path, content, 1)
	}
	c.do("POST", fmt.Sprintf("/api/deliveries/%d/close", d.ID), nil, nil)
	return c.taken(d.ID)
}

func (c *client) taken(id int64) (d delivery) {
	c.t.Helper()
	await(c.t, 10*time.Minute, "the delivery to be taken in", func() bool {
		c.do("GET", fmt.Sprintf("/api/deliveries/%d", id), nil, &d)
		if d.State == "failed" {
			c.t.Fatalf("taking in failed: %s", message.Texts(d.Notes))
		}
		return d.State == "ready"
	})
	return d
}

type run struct {
	ID, Plan                          int64
	State                             string
	Notes                             []message.Message
	Changes, Done, Applied, LeftAlone int
}

// apply applies a plan and waits for the run's end.
func (c *client) apply(plan int64) run {
	c.t.Helper()
	var r id
	c.do("POST", fmt.Sprintf("/api/plans/%d/apply", plan), nil, &r)
	return c.finished(r.ID)
}

func (c *client) finished(id int64) (r run) {
	c.t.Helper()
	await(c.t, 5*time.Minute, "the run to end", func() bool {
		c.do("GET", fmt.Sprintf("/api/runs/%d", id), nil, &r)
		if r.State == "failed" {
			c.t.Fatalf("the run failed: %s", message.Texts(r.Notes))
		}
		return r.State == "done"
	})
	return r
}

// plan sends a products table, waits until it is checked, and has its plan made.
func (c *client) plan(table string) int64 {
	c.t.Helper()
	var sent, made id
	var now struct {
		State string
		Notes []message.Message
	}
	c.do("POST", "/api/tables?name=products.csv", table, &sent)
	await(c.t, 5*time.Minute, "the table to be checked", func() bool {
		c.do("GET", fmt.Sprintf("/api/tables/%d", sent.ID), nil, &now)
		if now.State == "failed" {
			c.t.Fatalf("reading the table failed: %s", message.Texts(now.Notes))
		}
		return now.State == "done"
	})
	c.do("POST", fmt.Sprintf("/api/tables/%d/plans", sent.ID), map[string]string{"rule": "only_where_empty"}, &made)
	c.do("PATCH", fmt.Sprintf("/api/tables/%d", sent.ID), map[string]bool{"closed": true}, nil)
	return made.ID
}

// load brings a products table into the catalogue.
func (c *client) load(table string) run {
	c.t.Helper()
	return c.apply(c.plan(table))
}

// browser opens headless Chromium at 1280×800.
func browser(t testing.TB) context.Context {
	t.Helper()
	return browserFor(t, 80*time.Second)
}

// browserFor starts a browser for at most so long.
func browserFor(t testing.TB, most time.Duration) context.Context {
	t.Helper()
	ctx, cancel := chromedp.NewExecAllocator(context.Background(), append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath("/usr/bin/chromium"), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("force-color-profile", "srgb"))...)
	t.Cleanup(cancel)
	ctx, cancel = chromedp.NewContext(ctx)
	t.Cleanup(cancel)
	ctx, cancel = context.WithTimeout(ctx, most)
	t.Cleanup(cancel)
	return ctx
}
