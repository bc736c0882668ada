// Package browser reads a page as a browser shows it, for pages that only come to be by their scripts: Debian's Chromium without a window, without
// a profile, in its own sandbox, whose every connection goes through the guarded door. It is off unless an operator turns it on.
package browser

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"syscall"
	"time"

	"ambrosa/internal/fetch"

	"github.com/chromedp/chromedp"
)

var (
	// ErrRoot is returned where the program runs as root: a browser that shows strangers' pages does not.
	ErrRoot = errors.New("a browser is not run as root; start Ambrosa as another user, or leave AMBROSA_BROWSER out")
	// ErrMissing is returned where there is no such program.
	ErrMissing = errors.New("there is no browser at AMBROSA_BROWSER; install Debian's chromium and give its path")
	// ErrLimit is returned for a page that takes too long, too much memory, or asks for too much.
	ErrLimit = errors.New("the page takes more than it may")
)

// Limits hold one page.
type Limits struct {
	Time     time.Duration
	Memory   int64 // bytes, of all processes together
	Requests int
	Bytes    int64 // that come, all in all
	Settle   time.Duration
}

// DefaultLimits leave room for any honest page.
var DefaultLimits = Limits{Time: 45 * time.Second, Memory: 1536 << 20, Requests: 600, Bytes: 200 << 20, Settle: 1500 * time.Millisecond}

// Browser shows pages, one at a time.
type Browser struct {
	Path   string
	Door   *fetch.Door
	Limits Limits
	turn   chan struct{}
}

// New makes a browser of a program. Errors: ErrRoot, ErrMissing.
func New(path string, door *fetch.Door, limits Limits) (*Browser, error) {
	if os.Geteuid() == 0 {
		return nil, ErrRoot
	}
	if _, err := exec.LookPath(path); err != nil {
		return nil, fmt.Errorf("%w: %s", ErrMissing, path)
	}
	return &Browser{Path: path, Door: door, Limits: limits, turn: make(chan struct{}, 1)}, nil
}

// Page shows a page and returns what is there once its scripts have run, and where it is in the end. Errors: ErrLimit, those of the door, ctx's.
func (b *Browser) Page(ctx context.Context, address string) (html []byte, at string, err error) {
	select { // one browser is enough for a machine
	case b.turn <- struct{}{}:
		defer func() { <-b.turn }()
	case <-ctx.Done():
		return nil, "", ctx.Err()
	}
	ctx, cancel := context.WithTimeoutCause(ctx, b.Limits.Time, ErrLimit)
	defer cancel()
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	folder, err := os.MkdirTemp("", "ambrosa-browser-")
	if err != nil {
		return nil, "", err
	}
	defer os.RemoveAll(folder)
	through, err := openProxy(ctx, b.Door, b.Limits, stop)
	if err != nil {
		return nil, "", err
	}
	running, end := chromedp.NewExecAllocator(ctx, append(chromedp.DefaultExecAllocatorOptions[:], b.flags(folder, through.address)...)...)
	defer end()
	tab, end := chromedp.NewContext(running)
	defer end()
	go b.weigh(ctx, folder, stop)
	var out, where string
	if _, err = chromedp.Run(tab, chromedp.Navigate(address)); err == nil {
		_, err = chromedp.Run(tab, chromedp.Sleep(b.Limits.Settle))
	}
	if err == nil {
		out, err = chromedp.Run(tab, chromedp.Evaluate[string]("document.documentElement.outerHTML.slice(0, 20000000)"))
	}
	if err == nil {
		where, err = chromedp.Run(tab, chromedp.Evaluate[string]("location.href"))
	}
	if cause := context.Cause(ctx); cause != nil {
		return nil, "", cause
	}
	for _, of := range []string{where, address} {
		if refused := through.refusal(of); refused != nil {
			return nil, "", refused
		}
	}
	if err != nil {
		return nil, "", fmt.Errorf("the browser can't show the page: %w", err)
	}
	return []byte("<!doctype html>" + out), where, nil
}

// flags are those by which the browser asks for nothing but through the door, and keeps nothing.
func (b *Browser) flags(folder, proxy string) []chromedp.ExecAllocatorOption {
	return []chromedp.ExecAllocatorOption{
		chromedp.ExecPath(b.Path), chromedp.UserDataDir(folder), chromedp.DisableGPU, chromedp.WindowSize(1280, 2000), chromedp.UserAgent("Ambrosa"),
		chromedp.ProxyServer("http://" + proxy), chromedp.Flag("proxy-bypass-list", "<-loopback>"), chromedp.Flag("host-resolver-rules", "MAP * ~NOTFOUND , EXCLUDE 127.0.0.1"),
		chromedp.Flag("force-webrtc-ip-handling-policy", "disable_non_proxied_udp"), chromedp.Flag("disable-quic", true), chromedp.Flag("incognito", true),
		chromedp.Flag("js-flags", "--max-old-space-size=512"), chromedp.Flag("disable-component-update", true), chromedp.Flag("deny-permission-prompts", true),
		chromedp.Flag("disable-file-system", true), chromedp.Flag("block-new-web-contents", true),
		chromedp.NoInheritEnv, chromedp.Env("HOME="+folder, "TMPDIR="+folder, "PATH=/usr/bin:/bin", "LANG=C.UTF-8"),
		chromedp.ModifyCmdFunc(func(cmd *exec.Cmd) {
			cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
			cmd.Cancel = func() error { // with all that it began
				return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL)
			}
		}),
	}
}
