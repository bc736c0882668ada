package standin

import (
	"context"
	"io"
	"net"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Arrived is a mail as it came.
type Arrived struct {
	At       time.Time
	From, To string
	Bytes    []byte
}

// Mail answers as a mail server does, on loopback, until ctx ends, and keeps the last mails that came, the newest first.
type Mail struct {
	mu  sync.Mutex
	all []Arrived
	// Refuse says why a recipient is not taken; nil takes all.
	Refuse func(to string) error
}

// mostMails is how many are kept, and mostMail how large one may be.
const (
	mostMails = 100
	mostMail  = 1 << 20
)

// Begin begins to answer and returns where it listens.
func (m *Mail) Begin(ctx context.Context) (address string, err error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	m.Serve(ctx, smtp.NewServer(m), listener)
	return listener.Addr().String(), nil
}

// Serve answers on a listener as a server that is set up already, until ctx ends.
func (m *Mail) Serve(ctx context.Context, server *smtp.Server, listener net.Listener) {
	server.Domain, server.ReadTimeout, server.WriteTimeout, server.MaxMessageBytes = "mail.example", time.Minute, time.Minute, mostMail
	go func() {
		<-ctx.Done()
		server.Close()
	}()
	go func() { _ = server.Serve(listener) }() // it ends when it is closed
}

// NewSession begins a session.
func (m *Mail) NewSession(*smtp.Conn) (smtp.Session, error) { return &delivering{m: m}, nil }

// All are the mails that came, the newest first.
func (m *Mail) All() []Arrived {
	m.mu.Lock()
	defer m.mu.Unlock()
	return append([]Arrived(nil), m.all...)
}

type delivering struct {
	m        *Mail
	from, to string
}

func (s *delivering) Reset()        { s.from, s.to = "", "" }
func (s *delivering) Logout() error { return nil }

func (s *delivering) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

func (s *delivering) Rcpt(to string, _ *smtp.RcptOptions) error {
	if s.m.Refuse != nil {
		if err := s.m.Refuse(to); err != nil {
			return err
		}
	}
	s.to = to
	return nil
}

func (s *delivering) Data(r io.Reader) error {
	b, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	s.m.mu.Lock()
	defer s.m.mu.Unlock()
	s.m.all = append([]Arrived{{At: time.Now(), From: s.from, To: s.to, Bytes: b}}, s.m.all...)
	s.m.all = s.m.all[:min(len(s.m.all), mostMails)]
	return nil
}
