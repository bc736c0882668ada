// Package pages reads pages of suppliers' shops: it asks for them through the guarded door, keeps to their robots.txt and a pause, looks at the
// sizes of pictures by their first bytes, and walks listings.
package pages

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"sync"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source/listed"
)

var (
	// ErrRobots is returned for an address that the host's robots.txt does not allow.
	ErrRobots = errors.New("robots.txt does not allow this address")
	// ErrNoPage is returned for what is no page: a picture, a file.
	ErrNoPage = errors.New("there is no web page at this address")
	// ErrNoBrowser is returned where pages are to be read as a browser shows them, and the operator turned none on.
	ErrNoBrowser = errors.New("no browser shows pages here; who runs the server turns one on by AMBROSA_BROWSER")
)

const (
	// mostPage is how large a page may be, in bytes.
	mostPage = 20 << 20
	// Robot is the name by which robots.txt knows Ambrosa.
	Robot = "ambrosa"
)

// Shown shows a page as a browser does, once its scripts have run, and says where it is in the end.
type Shown interface {
	Page(ctx context.Context, address string) (html []byte, at string, err error)
}

// Reader asks for pages and pictures.
type Reader struct {
	Fetch   *fetch.Fetcher
	Pixels  int64 // of a picture, at most
	Browser Shown // nil where no browser shows pages
	robots  known[page.Robots]
	gates   known[*gate]
}

// known remembers something of each host.
type known[T any] struct {
	mu sync.Mutex
	of map[string]entry[T]
}

type entry[T any] struct {
	value T
	at    time.Time
}

// mostHosts is of how many hosts something is remembered, and howLong.
const (
	mostHosts = 1000
	howLong   = 24 * time.Hour // as RFC 9309, section 2.4, has it
)

func (k *known[T]) get(host string) (T, bool) {
	k.mu.Lock()
	defer k.mu.Unlock()
	e, ok := k.of[host]
	return e.value, ok && time.Since(e.at) < howLong
}

func (k *known[T]) set(host string, value T) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.of == nil || len(k.of) >= mostHosts {
		k.of = map[string]entry[T]{}
	}
	k.of[host] = entry[T]{value, time.Now()}
}

// gate lets requests to one host through with a pause between them.
type gate struct {
	mu   sync.Mutex
	next time.Time
}

func (r *Reader) pass(ctx context.Context, host string, pause time.Duration) error {
	if pause <= 0 {
		return ctx.Err()
	}
	g, ok := r.gates.get(host)
	if !ok {
		g = &gate{}
		r.gates.set(host, g)
	}
	g.mu.Lock()
	at := g.next
	if now := time.Now(); at.Before(now) {
		at = now
	}
	g.next = at.Add(pause)
	g.mu.Unlock()
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(time.Until(at)):
		return nil
	}
}

// Raw is a page as it came.
type Raw struct {
	Bytes   []byte
	Type    string // what the server said that it is
	Address string // where it came from in the end
}

// Page asks for a page. Errors: ErrRobots, ErrNoPage, page.ErrPage, and those of fetch.
func (r *Reader) Page(ctx context.Context, address string, pause time.Duration) (*page.Page, error) {
	raw, err := r.Raw(ctx, address, pause)
	if err != nil {
		return nil, err
	}
	return page.Parse(raw.Bytes, raw.Type, raw.Address)
}

// admit waits until an address may be asked for. Errors: ErrRobots, those of fetch for the robots.txt, ctx's.
func (r *Reader) admit(ctx context.Context, address string, pause time.Duration) error {
	if err := r.MayAsk(ctx, address); err != nil {
		return err
	}
	at, err := url.Parse(address)
	if err != nil {
		return fetch.ErrAddress
	}
	return r.pass(ctx, at.Host, pause)
}

// AsShown reads a page as a browser shows it. ErrNoBrowser where none does; else the errors of Page, and of the browser.
func (r *Reader) AsShown(ctx context.Context, address string, pause time.Duration) (*page.Page, error) {
	if r.Browser == nil {
		return nil, ErrNoBrowser
	}
	if err := r.admit(ctx, address, pause); err != nil {
		return nil, err
	}
	b, where, err := r.Browser.Page(ctx, address)
	if err != nil {
		return nil, err
	}
	return page.Parse(b, "text/html; charset=utf-8", where)
}

// Raw asks for a page and returns it as it came. Errors: ErrRobots, ErrNoPage, and those of fetch.
func (r *Reader) Raw(ctx context.Context, address string, pause time.Duration) (raw Raw, err error) {
	if err := r.admit(ctx, address, pause); err != nil {
		return raw, err
	}
	answer, err := r.Fetch.Get(ctx, fetch.Request{URL: address, Bytes: mostPage, Paced: true})
	if err != nil {
		return raw, err
	}
	defer answer.Body.Close()
	if !isPage(answer.Type) {
		return raw, fmt.Errorf("%w: it is %s", ErrNoPage, answer.Type)
	}
	if answer.At != address { // where it leads may be another host
		if err := r.MayAsk(ctx, answer.At); err != nil {
			return raw, err
		}
	}
	raw = Raw{Type: answer.Type, Address: answer.At}
	raw.Bytes, err = io.ReadAll(answer.Body)
	return raw, err
}

// isPage reports whether a server says that something is a page; one that says nothing may be.
func isPage(kind string) bool {
	for _, of := range []string{"text/html", "application/xhtml", "text/plain", "application/xml", "text/xml"} {
		if len(kind) >= len(of) && kind[:len(of)] == of {
			return true
		}
	}
	return kind == ""
}

// Trouble is what an error of asking for an address says to people.
func Trouble(err error, address string) message.Message {
	var robots *refusal
	switch {
	case errors.As(err, &robots):
		return message.New("page_robots", "address", address, "line", robots.line)
	case errors.Is(err, ErrNoPage):
		return message.New("page_none", "address", address)
	case errors.Is(err, ErrNoBrowser):
		return message.New("page_no_browser")
	case errors.Is(err, page.ErrPage):
		return message.New("page_unreadable", "address", address)
	}
	return listed.Failure(err, address)
}
