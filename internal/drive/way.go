package drive

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"io"
	"net"
	"strconv"
	"sync"
	"time"

	"ambrosa/internal/fetch"
)

// The library's backends dial by themselves. So they are told of a SOCKS server on loopback (RFC 1928, with the names and passwords of
// RFC 1929) that dials for them, through the guarded door.

// route is where the connections of one drive go.
type route struct {
	secret string
	dial   func(ctx context.Context, address string) (net.Conn, error)
	mu     sync.Mutex
	failed error // why the last dialling failed; the protocol has numbers only
}

func (r *route) note(err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.failed = err
}

// refused is the door's refusal, where that was what ended the last dialling.
func (r *route) refused() error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if errors.Is(r.failed, fetch.ErrRefused) || errors.Is(r.failed, ErrCertificate) {
		return r.failed
	}
	return nil
}

// ways are the routes of a process, and the server that serves them.
var ways struct {
	mu      sync.Mutex
	address string
	routes  map[string]*route
}

// open adds a route and returns its name and where the server is.
func (r *route) open() (name, address string, err error) {
	var id [16]byte
	rand.Read(id[:])
	r.secret = rand.Text()
	ways.mu.Lock()
	defer ways.mu.Unlock()
	if ways.address == "" {
		listener, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return "", "", err
		}
		ways.address, ways.routes = listener.Addr().String(), map[string]*route{}
		go accept(listener, socks)
	}
	name = hex.EncodeToString(id[:])
	ways.routes[name] = r
	return name, ways.address, nil
}

func closeRoute(name string) {
	ways.mu.Lock()
	defer ways.mu.Unlock()
	delete(ways.routes, name)
}

func accept(listener net.Listener, serve func(net.Conn)) {
	for {
		c, err := listener.Accept()
		if err != nil {
			return
		}
		go serve(c)
	}
}

// socks serves one connection.
func socks(c net.Conn) {
	defer c.Close()
	if c.SetDeadline(time.Now().Add(answer)) != nil {
		return
	}
	r, address, ok := greet(c)
	if !ok {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), answer)
	defer cancel()
	out, err := r.dial(ctx, address)
	r.note(err)
	said := byte(0)
	switch {
	case errors.Is(err, fetch.ErrRefused):
		said = 2 // not allowed
	case err != nil:
		said = 4 // host unreachable
	}
	if _, werr := c.Write([]byte{5, said, 0, 1, 0, 0, 0, 0, 0, 0}); werr != nil || err != nil {
		if out != nil {
			out.Close()
		}
		return
	}
	if c.SetDeadline(time.Time{}) == nil {
		join(c, out)
	}
	out.Close()
}

// greet reads who asks for which address.
func greet(c net.Conn) (r *route, address string, ok bool) {
	read := func(n int) []byte {
		b := make([]byte, n)
		if _, err := io.ReadFull(c, b); err != nil {
			return nil
		}
		return b
	}
	text := func() []byte { // a byte of length, and as many bytes
		if n := read(1); n != nil {
			return read(int(n[0]))
		}
		return nil
	}
	if head := read(1); head == nil || head[0] != 5 || text() == nil {
		return nil, "", false
	}
	if _, err := c.Write([]byte{5, 2}); err != nil {
		return nil, "", false
	}
	if head := read(1); head == nil || head[0] != 1 {
		return nil, "", false
	}
	name, password := text(), text()
	ways.mu.Lock()
	r = ways.routes[string(name)]
	ways.mu.Unlock()
	if r == nil || subtle.ConstantTimeCompare(password, []byte(r.secret)) != 1 {
		_, _ = c.Write([]byte{1, 1}) // it is closed either way
		return nil, "", false
	}
	if _, err := c.Write([]byte{1, 0}); err != nil {
		return nil, "", false
	}
	head := read(4)
	if head == nil || head[0] != 5 || head[1] != 1 { // to connect is all that is served
		return nil, "", false
	}
	host := ""
	switch head[3] {
	case 1:
		host = net.IP(read(net.IPv4len)).String()
	case 3:
		host = string(text())
	case 4:
		host = net.IP(read(net.IPv6len)).String()
	}
	port := read(2)
	if host == "" || port == nil {
		return nil, "", false
	}
	return r, net.JoinHostPort(host, strconv.Itoa(int(binary.BigEndian.Uint16(port)))), true
}

// join carries bytes both ways until one side ends.
func join(a, b net.Conn) {
	done := make(chan struct{}, 2)
	carry := func(to, from net.Conn) {
		_, _ = io.Copy(to, from) // whoever reads it sees the end
		if half, ok := to.(interface{ CloseWrite() error }); ok {
			_ = half.CloseWrite()
		} else {
			to.Close()
		}
		done <- struct{}{}
	}
	go carry(a, b)
	go carry(b, a)
	<-done
	<-done
}

// forward listens on loopback and carries each connection to one address: for a backend that can't be told of another server to dial for it.
func (r *route) forward(address string) (net.Listener, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	go accept(listener, func(c net.Conn) {
		defer c.Close()
		ctx, cancel := context.WithTimeout(context.Background(), answer)
		defer cancel()
		out, err := r.dial(ctx, address)
		r.note(err)
		if err == nil {
			join(c, out)
			out.Close()
		}
	})
	return listener, nil
}
