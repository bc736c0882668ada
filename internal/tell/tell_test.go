package tell

import (
	"bytes"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/json"
	"fmt"
	"io"
	"math/big"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net"
	"net/http"
	"net/http/httptest"
	"net/mail"
	"net/netip"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/fetch"
	"ambrosa/internal/jobs"
	"ambrosa/internal/seal"
	"ambrosa/internal/standin"
	"ambrosa/internal/store/storetest"

	"github.com/emersion/go-smtp"
)

var ctx = context.Background()

func TestMain(m *testing.M) { storetest.Main(m) }

type house struct {
	testing.TB
	*Tell
	person int64
	ended  int64
}

func newHouse(t testing.TB) *house {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	keeper, err := seal.New("", filepath.Join(t.TempDir(), "key"))
	if err != nil {
		t.Fatal(err)
	}
	door := &fetch.Door{Allow: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}}
	return &house{TB: t, person: person, Tell: &Tell{Store: s, Jobs: j, Door: door, Keeper: keeper, Site: func(context.Context) (string, error) { return "https://here.example", nil }}}
}

func (h *house) exec(sql string, args ...any) {
	h.Helper()
	if _, err := h.Store.Pool.Exec(ctx, sql, args...); err != nil {
		h.Fatalf("%s: %v", sql, err)
	}
}

func (h *house) one(sql string, args ...any) (text string) {
	h.Helper()
	if err := h.Store.Pool.QueryRow(ctx, sql, args...).Scan(&text); err != nil {
		h.Fatalf("%s: %v", sql, err)
	}
	return text
}

// end has a delivery end in a state, as its job does.
func (h *house) end(title, state string, mail bool) {
	h.Helper()
	h.ended++
	h.exec(`INSERT INTO job (kind, subject, title, state, done, unit, asked_by, began_at, mail) VALUES ('take_in', $1, $2, 'working', 90, 'files', $3, now() - interval '65 seconds', $4)`, h.ended, title, h.person, mail)
	h.exec(`UPDATE job SET state = $2, ended_at = now(), notes = '[{"code": "vault_full"}]' WHERE kind = 'take_in' AND subject = $1`, h.ended, state)
}

// post is a mail server with or without TLS.
func (h *house) post(m *standin.Mail, security string) {
	h.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		h.Fatal(err)
	}
	ctx, cancel := context.WithCancel(ctx)
	h.Cleanup(cancel)
	server := smtp.NewServer(m)
	if security != "none" {
		pool, certificate := certified(h)
		h.trust = pool
		config := &tls.Config{Certificates: []tls.Certificate{certificate}}
		if security == "tls" {
			listener = tls.NewListener(listener, config)
		} else {
			server.TLSConfig = config
		}
	}
	m.Serve(ctx, server, listener)
	_, port, _ := net.SplitHostPort(listener.Addr().String())
	n, _ := strconv.Atoi(port)
	if err := h.SetServer(ctx, h.person, MailServer{Host: "127.0.0.1", Port: n, Security: security, From: "ambrosa@shop.example"}); err != nil {
		h.Fatal(err)
	}
}

// certified is a certificate for loopback that a pool trusts.
func certified(t testing.TB) (*x509.CertPool, tls.Certificate) {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	of := &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}, IsCA: true, BasicConstraintsValid: true}
	der, err := x509.CreateCertificate(rand.Reader, of, of, key.Public(), key)
	if err != nil {
		t.Fatal(err)
	}
	parsed, err := x509.ParseCertificate(der)
	if err != nil {
		t.Fatal(err)
	}
	pool := x509.NewCertPool()
	pool.AddCert(parsed)
	return pool, tls.Certificate{Certificate: [][]byte{der}, PrivateKey: key}
}

// read is a mail as Go's net/mail reads it: its headers, and its parts by type.
func read(t testing.TB, b []byte) (mail.Header, map[string]string) {
	t.Helper()
	m, err := mail.ReadMessage(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	kind, params, err := mime.ParseMediaType(m.Header.Get("Content-Type"))
	if err != nil || kind != "multipart/alternative" {
		t.Fatalf("%s: %v", kind, err)
	}
	parts := map[string]string{}
	for r := multipart.NewReader(m.Body, params["boundary"]); ; {
		p, err := r.NextRawPart()
		if err == io.EOF {
			return m.Header, parts
		}
		if err != nil {
			t.Fatal(err)
		}
		body, err := io.ReadAll(quotedprintable.NewReader(p))
		if err != nil {
			t.Fatal(err)
		}
		kind, _, _ := mime.ParseMediaType(p.Header.Get("Content-Type"))
		parts[kind] = string(body)
	}
}

// A mail over each kind of connection, as the stand-in got it and Go's net/mail reads it. What a title holds becomes no header and no markup.
func TestMail(t *testing.T) {
	for _, security := range []string{"none", "starttls", "tls"} {
		h := newHouse(t)
		m := &standin.Mail{}
		h.post(m, security)
		if err := h.SetWish(ctx, h.person, Wish{Address: "mo@shop.example", Tells: "trouble"}); err != nil {
			t.Fatal(err)
		}
		h.end("well", "done", false)
		h.end("Kites\r\nBcc: all@shop.example\r\n\r\n<script>alert(1)</script> ä", "failed", false)
		if err := h.Due(ctx); err != nil {
			t.Fatal(err)
		}
		all := m.All()
		if len(all) != 1 || all[0].To != "mo@shop.example" || all[0].From != "ambrosa@shop.example" {
			t.Fatalf("%s: %d came: %s", security, len(all), h.one("SELECT coalesce(string_agg(trouble, ';'), '') FROM outgoing"))
		}
		header, parts := read(t, all[0].Bytes)
		subject, err := (&mime.WordDecoder{}).DecodeHeader(header.Get("Subject"))
		if err != nil || subject != "Delivery “Kites Bcc: all@shop.example <script>alert(1)</script> ä” failed" || header.Get("Bcc") != "" {
			t.Errorf("%s: the subject is %q, %v; %v", security, subject, err, header)
		}
		if id := header.Get("Message-ID"); id != "<"+h.one("SELECT event::text FROM notice WHERE state = 'failed'")+"@shop.example>" {
			t.Errorf("its Message-ID is %s", id)
		}
		text, marked := parts["text/plain"], parts["text/html"]
		if !strings.Contains(text, "90 files done in 1 min 5 s.") || !strings.Contains(text, "https://here.example/gather?in=2") || strings.Contains(marked, "<script>") ||
			!strings.Contains(marked, "&lt;script&gt;") {
			t.Errorf("%s:\n%s\n%s", security, text, marked)
		}
		if err := h.Due(ctx); err != nil || len(m.All()) != 1 {
			t.Errorf("it is sent again: %d, %v", len(m.All()), err)
		}
	}
}

// Who is told of what: by their wish, and where they ticked it.
func TestWishes(t *testing.T) {
	for _, c := range []struct {
		tells string
		state string
		tick  bool
		want  bool
	}{{"never", "done", false, false}, {"never", "failed", false, false}, {"never", "done", true, true}, {"trouble", "done", false, false}, {"trouble", "failed", false, true},
		{"trouble", "stopped", false, true}, {"trouble", "done", true, true}, {"always", "done", false, true}} {
		h := newHouse(t)
		m := &standin.Mail{}
		h.post(m, "none")
		if err := h.SetWish(ctx, h.person, Wish{Address: "mo@shop.example", Tells: c.tells}); err != nil {
			t.Fatal(err)
		}
		h.end("a", c.state, c.tick)
		if err := h.Due(ctx); err != nil {
			t.Fatal(err)
		}
		if got := len(m.All()) == 1; got != c.want {
			t.Errorf("%+v: %v", c, got)
		}
	}
	h := newHouse(t)
	for _, bad := range []Wish{{"mo", "never"}, {"mo@shop.example\r\nBcc: a@b.example", "never"}, {"Mo <mo@shop.example>", "never"}, {"a@b.example, c@d.example", "always"}, {"mo@shop.example", "often"}} {
		if h.SetWish(ctx, h.person, bad) == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
}

// A server that defers is asked again, one that refuses a recipient is not, one that hangs keeps nobody for ever; and those who can be reached are.
func TestMailInTrouble(t *testing.T) {
	h := newHouse(t)
	deferring := true
	m := &standin.Mail{Refuse: func(to string) error {
		switch {
		case strings.HasPrefix(to, "nobody@"):
			return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "nobody of this name"}
		case deferring:
			return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "come again later"}
		}
		return nil
	}}
	h.post(m, "none")
	var other int64
	if err := h.Store.Pool.QueryRow(ctx, "INSERT INTO person (name, password_hash, role) VALUES ('nobody', '', 'viewer') RETURNING id").Scan(&other); err != nil {
		t.Fatal(err)
	}
	for person, address := range map[int64]string{h.person: "mo@shop.example", other: "nobody@shop.example"} {
		if err := h.SetWish(ctx, person, Wish{Address: address, Tells: "always"}); err != nil {
			t.Fatal(err)
		}
	}
	me := h.person
	h.end("deferred", "done", false)
	h.person = other
	h.end("refused", "done", false)
	h.person = me
	if err := h.Due(ctx); err != nil {
		t.Fatal(err)
	}
	state := func() string {
		return h.one(`SELECT string_agg(n.title || ' ' || o.tries || ' ' || (o.ended_at IS NOT NULL) || ' ' || (o.sent_at IS NOT NULL), ', ' ORDER BY o.id) FROM outgoing o JOIN notice n ON n.id = o.notice_id`)
	}
	if got := state(); got != "deferred 1 false false, refused 1 true false" {
		t.Fatalf("after a try: %s", got)
	}
	deferring = false
	h.exec("UPDATE outgoing SET next_at = now() WHERE ended_at IS NULL")
	if err := h.Due(ctx); err != nil {
		t.Fatal(err)
	}
	if got := state(); got != "deferred 2 true true, refused 1 true false" || len(m.All()) != 1 {
		t.Errorf("later: %s", got)
	}

	// One that hangs.
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer listener.Close()
	_, port, _ := net.SplitHostPort(listener.Addr().String())
	n, _ := strconv.Atoi(port)
	if err := h.SetServer(ctx, h.person, MailServer{Host: "127.0.0.1", Port: n, Security: "none", From: "ambrosa@shop.example"}); err != nil {
		t.Fatal(err)
	}
	h.end("hanging", "done", false)
	short, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	if err := h.Due(short); err == nil {
		t.Error("it hung and nobody said so")
	}
	if got := h.one("SELECT (ended_at IS NULL)::text FROM outgoing ORDER BY id DESC LIMIT 1"); got != "true" {
		t.Error("what was not sent is lost")
	}
}

// A webhook is signed, tried again where it answers with trouble, and follows no redirect; it leads into no private network.
func TestWebhook(t *testing.T) {
	h := newHouse(t)
	const secret = "a secret of the house"
	var got []string
	answer := http.StatusInternalServerError
	inside := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { t.Error("the redirect was followed") }))
	defer inside.Close()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		at, _ := strconv.ParseInt(r.Header.Get(HeaderTime), 10, 64)
		var e Event
		if json.Unmarshal(body, &e) != nil || r.Header.Get(HeaderSignature) != Sign([]byte(secret), at, body) || r.Header.Get(HeaderEvent) != e.ID {
			t.Errorf("%v %s", r.Header, body)
		}
		got = append(got, fmt.Sprintf("%s %s %d", e.ID, e.State, e.Done))
		if answer == http.StatusFound {
			w.Header().Set("Location", inside.URL)
		}
		w.WriteHeader(answer)
	}))
	defer server.Close()
	for _, bad := range []Webhook{{"ftp://a.example", secret, "always"}, {"http://a:b@c.example/", secret, "always"}, {"http://a.example/", "short", "always"}, {"http://a.example/", secret, "never"}, {"", secret, "always"}} {
		if _, err := h.AddWebhook(ctx, h.person, bad); err == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
	id, err := h.AddWebhook(ctx, h.person, Webhook{server.URL + "/in?x=1", secret, "always"})
	if err != nil {
		t.Fatal(err)
	}
	h.end("a", "done", false)
	for range 2 {
		if err := h.Due(ctx); err != nil {
			t.Fatal(err)
		}
		h.exec("UPDATE outgoing SET next_at = now() WHERE ended_at IS NULL")
		answer = http.StatusNoContent
	}
	if event := h.one("SELECT event::text FROM notice"); len(got) != 2 || got[0] != event+" done 90" || got[1] != got[0] {
		t.Fatalf("it was told %q", got)
	}
	if left := h.one("SELECT count(*)::text FROM outgoing WHERE ended_at IS NULL"); left != "0" {
		t.Errorf("%s are still to be sent", left)
	}
	trouble := func() string { return h.one("SELECT trouble FROM outgoing ORDER BY id DESC LIMIT 1") }
	answer = http.StatusFound
	h.end("b", "done", false)
	if err := h.Due(ctx); err != nil || !strings.Contains(trouble(), "redirects are not followed") {
		t.Errorf("%v, %s", err, trouble())
	}
	h.Door.Allow = nil
	h.end("c", "done", false)
	if err := h.Due(ctx); err != nil || !strings.Contains(trouble(), "not allowed") {
		t.Errorf("into loopback: %v, %s", err, trouble())
	}
	if err := h.RemoveWebhook(ctx, id); err != nil {
		t.Fatal(err)
	}
	before := h.one("SELECT count(*)::text FROM outgoing")
	h.end("d", "done", false)
	if after := h.one("SELECT count(*)::text FROM outgoing"); after != before {
		t.Error("a removed webhook is told")
	}
}

func TestServer(t *testing.T) {
	h := newHouse(t)
	good := MailServer{Host: "mail.shop.example", Port: 587, Security: "starttls", User: "mo", Secret: "s3cret", From: "a@shop.example"}
	if err := h.SetServer(ctx, h.person, good); err != nil {
		t.Fatal(err)
	}
	if text := h.one("SELECT value::text FROM house_setting WHERE name = 'mail'"); strings.Contains(text, "s3cret") {
		t.Error("the secret is kept in the open")
	}
	k, err := h.Server(ctx)
	if err != nil || k.Secret != "" || !k.Kept {
		t.Errorf("%+v, %v", k, err)
	}
	good.Secret, good.Port = "", 25
	if err := h.SetServer(ctx, h.person, good); err != nil {
		t.Fatal(err)
	}
	if k, _ := h.Server(ctx); !k.Kept {
		t.Error("the secret went")
	}
	good.Host = "elsewhere.example"
	if err := h.SetServer(ctx, h.person, good); err != nil {
		t.Fatal(err)
	}
	if k, _ := h.Server(ctx); k.Kept {
		t.Error("the secret of one server is kept for another")
	}
	for _, change := range []func(*MailServer){func(s *MailServer) { s.Host = "a b" }, func(s *MailServer) { s.Port = 0 }, func(s *MailServer) { s.Security = "some" }, func(s *MailServer) { s.From = "a\r\nb@c.example" }} {
		s := good
		change(&s)
		if h.SetServer(ctx, h.person, s) == nil {
			t.Errorf("%+v was taken", s)
		}
	}
}
