package browser

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"sync"
	"sync/atomic"
	"time"

	"ambrosa/internal/fetch"
)

// proxy is what the browser connects to: it dials through the guarded door, and counts.
type proxy struct {
	address  string
	door     *fetch.Door
	limits   Limits
	stop     context.CancelCauseFunc
	requests atomic.Int64
	bytes    atomic.Int64
	mu       sync.Mutex
	refused  map[string]error // by host and port
}

// openProxy listens on loopback until ctx ends.
func openProxy(ctx context.Context, door *fetch.Door, limits Limits, stop context.CancelCauseFunc) (*proxy, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	p := &proxy{address: listener.Addr().String(), door: door, limits: limits, stop: stop, refused: map[string]error{}}
	server := &http.Server{Handler: p, ReadHeaderTimeout: 20 * time.Second}
	go func() {
		<-ctx.Done()
		server.Close()
	}()
	go func() { _ = server.Serve(listener) }() // it ends with ctx
	return p, nil
}

// refusal is why the door refused the host of an address; nil where it did not.
func (p *proxy) refusal(address string) error {
	at, err := url.Parse(address)
	if err != nil {
		return nil
	}
	port := at.Port()
	if port == "" {
		port = map[string]string{"http": "80", "https": "443"}[at.Scheme]
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.refused[net.JoinHostPort(at.Hostname(), port)]
}

func (p *proxy) dial(ctx context.Context, network, address string) (net.Conn, error) {
	c, err := p.door.Dial(ctx, network, address)
	if errors.Is(err, fetch.ErrRefused) {
		p.mu.Lock()
		p.refused[address] = err
		p.mu.Unlock()
	}
	return c, err
}

func (p *proxy) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if p.requests.Add(1) > int64(p.limits.Requests) {
		p.stop(fmt.Errorf("%w: more than %d requests", ErrLimit, p.limits.Requests))
		http.Error(w, "too many", http.StatusTooManyRequests)
		return
	}
	if r.Method == http.MethodConnect {
		p.tunnel(w, r)
		return
	}
	out := r.Clone(r.Context())
	out.RequestURI = ""
	for _, hop := range []string{"Proxy-Connection", "Connection", "Proxy-Authorization", "Te", "Trailer", "Upgrade"} {
		out.Header.Del(hop)
	}
	client := fetch.RoundTripper(p.dial)
	resp, err := client.RoundTrip(out)
	if err != nil {
		http.Error(w, "refused", http.StatusBadGateway)
		return
	}
	defer resp.Body.Close()
	for name, values := range resp.Header {
		w.Header()[name] = values
	}
	w.WriteHeader(resp.StatusCode)
	_, _ = io.Copy(w, p.counted(resp.Body)) // a browser that hangs up has its reasons
}

// tunnel connects the browser with a server that it speaks to in secret.
func (p *proxy) tunnel(w http.ResponseWriter, r *http.Request) {
	there, err := p.dial(r.Context(), "tcp", r.Host)
	if err != nil {
		http.Error(w, "refused", http.StatusBadGateway)
		return
	}
	defer there.Close()
	here, _, err := http.NewResponseController(w).Hijack()
	if err != nil {
		return
	}
	defer here.Close()
	if _, err := io.WriteString(here, "HTTP/1.1 200 OK\r\n\r\n"); err != nil {
		return
	}
	go func() {
		_, _ = io.Copy(there, here) // either side ends it
		there.Close()
	}()
	_, _ = io.Copy(here, p.counted(there))
}

func (p *proxy) counted(from io.Reader) io.Reader { return &counter{from, p} }

type counter struct {
	from  io.Reader
	proxy *proxy
}

func (c *counter) Read(b []byte) (int, error) {
	n, err := c.from.Read(b)
	if c.proxy.bytes.Add(int64(n)) > c.proxy.limits.Bytes {
		c.proxy.stop(fmt.Errorf("%w: more than %d bytes", ErrLimit, c.proxy.limits.Bytes))
		return n, io.ErrUnexpectedEOF
	}
	return n, err
}
