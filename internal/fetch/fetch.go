package fetch

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"
)

var (
	// ErrAddress is returned for what is no http or https address, or holds a name and password.
	ErrAddress = errors.New("this is no address of a web server")
	// ErrRedirects is returned where one address leads to the next too often, or to what is no address.
	ErrRedirects = errors.New("the address redirects too often")
	// ErrLarge is returned where more bytes come than were asked for at most.
	ErrLarge = errors.New("more comes than may be")
	// ErrSlow is returned where nothing, or too little, comes for too long.
	ErrSlow = errors.New("the server is too slow")
	// ErrStatus is returned where the server there refuses.
	ErrStatus = errors.New("the server answered")
)

// StatusError is an ErrStatus with the server's answer.
type StatusError struct {
	Status int
	Line   string // as the server has it: 404 Not Found
}

func (e *StatusError) Error() string { return ErrStatus.Error() + " " + e.Line }
func (e *StatusError) Unwrap() error { return ErrStatus }

// Limits hold one request.
type Limits struct {
	Redirects int
	Header    time.Duration // until the answer begins
	Idle      time.Duration // without a byte
	Whole     time.Duration // all in all, waiting to try again included
	Attempts  int           // where the server there is busy or gone
	Wait      time.Duration // that a server may ask for before the next attempt
	Rate      float64       // requests a second to one host
	Burst     int
}

// DefaultLimits are those that hold where nothing else is said.
var DefaultLimits = Limits{Redirects: 5, Header: 20 * time.Second, Idle: 30 * time.Second, Whole: 30 * time.Minute, Attempts: 3, Wait: time.Minute, Rate: 4, Burst: 8}

// agent is what servers there are told of who asks.
const agent = "Ambrosa"

// Fetcher asks for things at addresses that come from outside.
type Fetcher struct {
	Door   *Door
	Limits Limits
	client *http.Client
	hosts  hosts
}

// New makes a fetcher behind a door.
func New(door *Door, limits Limits) *Fetcher {
	f := &Fetcher{Door: door, Limits: limits, hosts: hosts{rate: limits.Rate, burst: limits.Burst}}
	f.client = &http.Client{
		Transport: &http.Transport{
			Proxy:                  nil, // one of the environment would be dialled past the door
			DialContext:            door.Dial,
			ResponseHeaderTimeout:  limits.Header,
			TLSHandshakeTimeout:    limits.Header,
			MaxResponseHeaderBytes: 256 << 10,
			MaxIdleConnsPerHost:    32, // as many as look at one host at once: a new connection costs more than what is asked over it
			IdleConnTimeout:        30 * time.Second,
			DisableCompression:     true, // so that bytes are counted as they come, and ranges mean what they say
			ForceAttemptHTTP2:      true,
		},
		CheckRedirect: f.follow,
	}
	return f
}

// Request is what is asked for.
type Request struct {
	URL    string
	Header http.Header // credentials in it stay with the host
	Bytes  int64       // at most so many come
	ETag   string      // only if it is not this any more
	Since  time.Time   // only if it changed since; zero for always
	From   int64       // from this byte on
	Part   int64       // only so many bytes are wanted; that there are more is no error
	Paced  bool        // who asks keeps the pace themselves
}

// Response is what came. Its body is closed by whoever reads it.
type Response struct {
	URL       string // where it came from in the end, to be shown
	At        string // the same, whole
	Body      io.ReadCloser
	Type      string
	Bytes     int64 // of what comes; -1 where nobody says
	Whole     int64 // of all there is; -1 where nobody says
	From      int64 // the first byte that comes; 0 where the server there does not do parts
	ETag      string
	Modified  time.Time
	Unchanged bool // there is nothing new, and no body
}

// Get asks for something, and again where the server there is busy. The body streams: nothing is held. Errors: ErrAddress,
// ErrRefused, ErrRedirects, ErrLarge, ErrSlow, ErrStatus; each names the address without its secrets.
func (f *Fetcher) Get(ctx context.Context, ask Request) (*Response, error) {
	at, err := parse(ask.URL)
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeoutCause(ctx, f.Limits.Whole, ErrSlow)
	for attempt := 1; ; attempt++ {
		answer, wait, err := f.once(ctx, cancel, at, ask)
		if err == nil {
			return answer, nil
		}
		if wait < 0 || attempt >= f.Limits.Attempts || wait > f.Limits.Wait {
			err = plain(ctx, err) // before it is cancelled, which is not why it failed
			cancel()
			return nil, fmt.Errorf("%s: %w", shown(at), err)
		}
		select {
		case <-ctx.Done():
			cancel()
			return nil, fmt.Errorf("%s: %w", shown(at), plain(ctx, ctx.Err()))
		case <-time.After(max(wait, backOff(attempt))):
		}
	}
}

// once asks once. wait is how long to wait before the next attempt, -1 where it would not help.
func (f *Fetcher) once(ctx context.Context, cancel context.CancelFunc, at *url.URL, ask Request) (answer *Response, wait time.Duration, err error) {
	if !ask.Paced {
		if err := f.hosts.wait(ctx, at.Hostname()); err != nil {
			return nil, -1, err
		}
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
	if err != nil {
		return nil, -1, ErrAddress
	}
	for name, values := range ask.Header {
		req.Header[name] = values
	}
	req.Header.Set("User-Agent", agent)
	req.Header.Set("Accept-Encoding", "identity")
	if ask.ETag != "" {
		req.Header.Set("If-None-Match", ask.ETag)
	}
	if !ask.Since.IsZero() {
		req.Header.Set("If-Modified-Since", ask.Since.UTC().Format(http.TimeFormat))
	}
	switch {
	case ask.Part > 0:
		req.Header.Set("Range", fmt.Sprintf("bytes=%d-%d", ask.From, ask.From+ask.Part-1))
	case ask.From > 0:
		req.Header.Set("Range", fmt.Sprintf("bytes=%d-", ask.From))
	}
	resp, err := f.client.Do(req)
	if err != nil {
		if errors.Is(err, ErrRefused) || errors.Is(err, ErrRedirects) || errors.Is(err, ErrAddress) {
			return nil, -1, err
		}
		return nil, 0, err
	}
	out := &Response{URL: shown(resp.Request.URL), At: resp.Request.URL.String(), Type: resp.Header.Get("Content-Type"), Bytes: resp.ContentLength, ETag: resp.Header.Get("ETag")}
	out.Whole = out.Bytes
	out.Modified, _ = http.ParseTime(resp.Header.Get("Last-Modified"))
	switch resp.StatusCode {
	case http.StatusOK:
	case http.StatusPartialContent:
		if out.From, out.Whole = contentRange(resp.Header.Get("Content-Range")); out.From != ask.From {
			resp.Body.Close()
			return nil, -1, fmt.Errorf("%w with another part than was asked for", ErrStatus)
		}
	case http.StatusNotModified:
		resp.Body.Close()
		cancel()
		out.Unchanged, out.Body = true, http.NoBody
		return out, 0, nil
	default:
		resp.Body.Close()
		return nil, retryAfter(resp), &StatusError{resp.StatusCode, resp.Status}
	}
	if ask.Part > 0 {
		out.Body = watched(ctx, cancel, &partly{resp.Body, ask.Part}, ask.Part, f.Limits.Idle)
		return out, 0, nil
	}
	if out.Bytes > ask.Bytes {
		resp.Body.Close()
		return nil, -1, fmt.Errorf("%w: %d bytes; the limit is %d", ErrLarge, out.Bytes, ask.Bytes)
	}
	out.Body = watched(ctx, cancel, resp.Body, ask.Bytes, f.Limits.Idle)
	return out, 0, nil
}

// follow allows so many redirects, and takes credentials along only where host and scheme stay.
func (f *Fetcher) follow(req *http.Request, before []*http.Request) error {
	if len(before) > f.Limits.Redirects {
		return fmt.Errorf("%w: more than %d times", ErrRedirects, f.Limits.Redirects)
	}
	if _, err := parse(req.URL.String()); err != nil {
		return fmt.Errorf("%w, to what is no address", ErrRedirects)
	}
	if last := before[len(before)-1].URL; last.Host != req.URL.Host || last.Scheme != req.URL.Scheme {
		for _, name := range []string{"Authorization", "Cookie", "Www-Authenticate", "Referer"} {
			req.Header.Del(name)
		}
	}
	return nil
}

func parse(text string) (*url.URL, error) {
	at, err := url.Parse(strings.TrimSpace(text))
	if err != nil || at.Scheme != "http" && at.Scheme != "https" || at.Hostname() == "" || at.User != nil {
		return nil, ErrAddress
	}
	return at, nil
}

// shown is an address without what may be secret in it: name and password, and what stands behind the question mark.
func shown(at *url.URL) string {
	plain := url.URL{Scheme: at.Scheme, Host: at.Host, Path: at.Path}
	if at.RawQuery != "" {
		return plain.String() + "?…"
	}
	return plain.String()
}

// plain is an error without the address that the library puts before it.
func plain(ctx context.Context, err error) error {
	var of *url.Error
	if errors.As(err, &of) {
		timeout := of.Timeout()
		if err = of.Err; timeout {
			err = fmt.Errorf("%w (%w)", ErrSlow, err)
		}
	}
	if cause := context.Cause(ctx); cause != nil && !errors.Is(err, cause) {
		err = fmt.Errorf("%w (%w)", cause, err)
	}
	return err
}

// contentRange reads the first byte and the whole of Content-Range: bytes 100-199/200 (RFC 9110, section 14.4); -1 for what it does not say.
func contentRange(header string) (from, whole int64) {
	part, _ := strings.CutPrefix(header, "bytes ")
	first, rest, cut := strings.Cut(part, "-")
	from, err := strconv.ParseInt(first, 10, 64)
	if !cut || err != nil {
		return -1, -1
	}
	_, total, _ := strings.Cut(rest, "/")
	if whole, err = strconv.ParseInt(total, 10, 64); err != nil {
		whole = -1
	}
	return from, whole
}
