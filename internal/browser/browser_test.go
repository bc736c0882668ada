package browser_test

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"os/user"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"ambrosa/internal/browser"
	"ambrosa/internal/fetch"
)

const chromium = "/usr/bin/chromium"

// asNobody runs a test of this package again as a user without any rights, where it runs as root.
func asNobody(t *testing.T) bool {
	t.Helper()
	if os.Geteuid() != 0 {
		return true
	}
	nobody, err := user.Lookup("nobody")
	if err != nil {
		t.Skip("there is no user nobody")
	}
	uid, _ := strconv.Atoi(nobody.Uid)
	gid, _ := strconv.Atoi(nobody.Gid)
	program := t.TempDir() + "/test"
	b, err := os.ReadFile(os.Args[0])
	if err == nil {
		err = os.WriteFile(program, b, 0o755)
	}
	if err != nil {
		t.Fatal(err)
	}
	for at := program; at != os.TempDir() && at != "/"; at = at[:strings.LastIndexByte(at, '/')] {
		if err := os.Chmod(at, 0o755); err != nil {
			t.Fatal(err)
		}
	}
	cmd := exec.Command(program, "-test.run", "^"+t.Name()+"$", "-test.v", "-test.count=1")
	cmd.Dir = os.TempDir()
	cmd.Env = append(os.Environ(), "HOME="+os.TempDir())
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("as nobody: %v\n%s", err, out)
	}
	return false
}

func TestRoot(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("this is not root")
	}
	if _, err := browser.New(chromium, &fetch.Door{}, browser.DefaultLimits); !errors.Is(err, browser.ErrRoot) {
		t.Errorf("as root: %v", err)
	}
}

// TestShown shows pages that only come to be by their scripts, and pages that would do harm.
func TestShown(t *testing.T) {
	if !asNobody(t) {
		return
	}
	secret := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "secret of the house") }))
	defer secret.Close()
	shop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		switch r.URL.Path {
		case "/late":
			fmt.Fprint(w, `<body><script>setTimeout(() => { document.body.innerHTML = '<img src="/large.jpg">' }, 300)</script>`)
		case "/inside":
			fmt.Fprintf(w, `<body>begun<script>fetch('%s', {mode: 'no-cors'}).then(r => r.text()).then(t => document.body.append('got ' + t), e => document.body.append(' refused'))</script>`, secret.URL)
		case "/away":
			http.Redirect(w, r, secret.URL, http.StatusFound)
		case "/endless":
			fmt.Fprint(w, `<body><script>for (;;) {}</script>`)
		case "/many":
			fmt.Fprint(w, `<body><script>for (let i = 0; i < 1000; i++) new Image().src = '/x' + i</script>`)
		case "/hungry":
			fmt.Fprint(w, `<body><script>window.all = []; setInterval(() => all.push(new Uint8Array(64 << 20).fill(7)), 20)</script>`)
		}
	}))
	defer shop.Close()
	// The shop is a host that leads to loopback; nothing else there may be reached.
	door := &fetch.Door{Hosts: map[string]string{"shop.example": shop.Listener.Addr().String()}}
	limits := browser.DefaultLimits
	limits.Time, limits.Requests, limits.Memory, limits.Settle = 8*time.Second, 100, 700<<20, time.Second
	b, err := browser.New(chromium, door, limits)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		path, holds string
		err         error
	}{{"/late", `src="/large.jpg"`, nil}, {"/inside", "begun", nil}, {"/away", "", fetch.ErrRefused}, {"/endless", "", browser.ErrLimit}, {"/many", "", browser.ErrLimit}, {"/hungry", "", browser.ErrLimit}} {
		if c.path == "/hungry" {
			b.Limits.Settle, b.Limits.Time = 20*time.Second, 30*time.Second
		}
		html, at, err := b.Page(t.Context(), "http://shop.example"+c.path)
		if !errors.Is(err, c.err) || !strings.Contains(string(html), c.holds) || strings.Contains(string(html), "secret of the house") {
			t.Errorf("%s: %.300s at %s, %v", c.path, html, at, err)
		}
	}
	ctx, cancel := context.WithTimeout(t.Context(), 500*time.Millisecond)
	defer cancel()
	if _, _, err := b.Page(ctx, "http://shop.example/endless"); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("stopped: %v", err)
	}
	left, _ := os.ReadDir(os.TempDir())
	for _, e := range left {
		if info, err := e.Info(); err == nil && strings.HasPrefix(e.Name(), "ambrosa-browser-") && info.Sys().(*syscall.Stat_t).Uid == uint32(os.Getuid()) {
			t.Errorf("%s is left", e.Name())
		}
	}
	if _, err := net.Dial("tcp", strings.TrimPrefix(shop.URL, "http://")); err != nil {
		t.Fatal(err)
	}
}
