package tell

import (
	"bytes"
	"context"
	"crypto/tls"
	"crypto/x509"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net"
	"strings"

	"ambrosa/internal/store/query"

	"github.com/wneessen/go-mail"
)

// MailServer is the house's mail server.
type MailServer struct {
	Host     string `json:"host" maxLength:"253"`
	Port     int    `json:"port" minimum:"1" maximum:"65535"`
	Security string `json:"security" enum:"starttls,tls,none"`
	User     string `json:"user,omitempty" maxLength:"254"`
	Secret   string `json:"secret,omitempty" maxLength:"200" doc:"It is never told again; empty keeps it."`
	From     string `json:"from" maxLength:"254"`
	// Kept says that a secret is kept.
	Kept bool `json:"kept,omitempty" readOnly:"true"`
}

// keptServer is how it is kept.
type keptServer struct {
	MailServer
	Sealed []byte `json:"sealed,omitempty"`
}

// serverName is what it is kept under.
const serverName = "mail"

// Server is what an admin named, without the secret; Host is empty where none did.
func (t *Tell) Server(ctx context.Context) (MailServer, error) {
	k, err := t.server(ctx)
	k.Kept = len(k.Sealed) > 0
	return k.MailServer, err
}

func (t *Tell) server(ctx context.Context) (k keptServer, err error) {
	_, err = t.setting(ctx, serverName, &k)
	return k, err
}

// SetServer names it. Errors: ErrServer, ErrAddress.
func (t *Tell) SetServer(ctx context.Context, person int64, s MailServer) error {
	s.Host, s.From, s.Kept = strings.TrimSpace(s.Host), strings.TrimSpace(s.From), false
	if s.Host == "" || strings.ContainsAny(s.Host, " /\r\n") || s.Port < 1 || s.Port > 65535 || s.Security != "starttls" && s.Security != "tls" && s.Security != "none" {
		return ErrServer
	}
	if !isAddress(s.From) {
		return ErrAddress
	}
	before, err := t.server(ctx)
	if err != nil {
		return err
	}
	k := keptServer{MailServer: s, Sealed: before.Sealed}
	switch {
	case s.User == "":
		k.Sealed = nil
	case s.Secret != "":
		k.Sealed = t.Keeper.Seal([]byte(s.Secret), serverName)
	case s.Host != before.Host || s.User != before.User:
		k.Sealed = nil // the secret of one server is not told to another
	}
	k.Secret = ""
	value, err := json.Marshal(k)
	if err != nil {
		return err
	}
	return t.Store.SetHouseSetting(ctx, query.SetHouseSettingParams{Name: serverName, Value: value, Person: person})
}

// trust are the certificates that are trusted; nil for the system's.
type trust = *x509.CertPool

// client is a client of the house's mail server. It dials through the door for hosts that an admin named.
func (t *Tell) client(k keptServer) (*mail.Client, error) {
	options := []mail.Option{mail.WithPort(k.Port), mail.WithTimeout(sendTime), mail.WithHELO("ambrosa.invalid"), mail.WithTLSConfig(&tls.Config{ServerName: k.Host, RootCAs: t.trust, MinVersion: tls.VersionTLS12})}
	dial := t.Door.Inside().Dial
	switch k.Security {
	case "starttls":
		options = append(options, mail.WithTLSPolicy(mail.TLSMandatory))
	case "none":
		options = append(options, mail.WithTLSPolicy(mail.NoTLS))
	default:
		options = append(options, mail.WithTLSPolicy(mail.NoTLS))
		plain := dial
		dial = func(ctx context.Context, network, address string) (net.Conn, error) {
			c, err := plain(ctx, network, address)
			if err != nil {
				return nil, err
			}
			return tls.Client(c, &tls.Config{ServerName: k.Host, RootCAs: t.trust, MinVersion: tls.VersionTLS12}), nil
		}
	}
	options = append(options, mail.WithDialContextFunc(dial))
	if k.User != "" {
		secret, err := t.Keeper.Open(k.Sealed, serverName)
		if err != nil {
			return nil, err
		}
		options = append(options, mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(k.User), mail.WithPassword(string(secret)))
	}
	return mail.NewClient(k.Host, options...)
}

// mail sends an event to an address. A final error where the server refuses it for good.
func (t *Tell) mail(ctx context.Context, to string, e Event) error {
	k, err := t.server(ctx)
	if err != nil {
		return err
	}
	switch {
	case k.Host == "":
		return ErrNoServer
	case to == "":
		return final{ErrNoAddress}
	}
	m, err := compose(k.From, to, e)
	if err != nil {
		return final{err}
	}
	c, err := t.client(k)
	if err != nil {
		return err
	}
	err = c.DialAndSendWithContext(ctx, m)
	var refused *mail.SendError
	if errors.As(err, &refused) && !refused.IsTemp() && refused.ErrorCode() >= 500 {
		return final{err}
	}
	return err
}

// compose writes the mail: plain text, and HTML that says the same. Its Message-ID is that of the event, so that who gets it twice sees it once
// (RFC 5322, 3.6.4).
func compose(from, to string, e Event) (*mail.Msg, error) {
	m := mail.NewMsg()
	if err := m.FromFormat("Ambrosa", from); err != nil {
		return nil, err
	}
	if err := m.To(to); err != nil {
		return nil, err
	}
	m.Subject(line(e.subjectLine()))
	m.SetMessageIDWithValue(e.ID + "@" + from[strings.LastIndexByte(from, '@')+1:])
	m.SetDateWithValue(e.At)
	m.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834, 5
	text := e.subjectLine() + "\n\n" + strings.Join(e.lines(), "\n") + "\n\n" + e.Link + "\n"
	m.SetBodyString(mail.TypeTextPlain, text)
	var marked bytes.Buffer
	if err := page.Execute(&marked, map[string]any{"Title": e.subjectLine(), "Lines": e.lines(), "Link": e.Link}); err != nil {
		return nil, err
	}
	m.AddAlternativeString(mail.TypeTextHTML, marked.String())
	return m, nil
}

var page = template.Must(template.New("mail").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>{{.Title}}</title>
<body style="font-family:sans-serif;color:#23201a;background:#faf6ee;padding:16px"><h1 style="font-size:18px">{{.Title}}</h1>
{{range .Lines}}<p>{{.}}</p>
{{end}}<p><a href="{{.Link}}" style="color:#a55a00">{{.Link}}</a></p></body></html>
`))

// Try sends a person a mail now, so that an admin sees whether the server takes it.
func (t *Tell) Try(ctx context.Context, person int64) error {
	w, err := t.WishOf(ctx, person)
	if err != nil {
		return err
	}
	if w.Address == "" {
		return ErrNoAddress
	}
	site, err := t.Site(ctx)
	if err != nil {
		return err
	}
	now := t.now()
	e := Event{ID: fmt.Sprintf("try-%d-%d", person, now.UnixNano()), At: now, Title: "A try", State: "done", Notes: []string{"This is a try. Mail from Ambrosa reaches you."}, Unit: "mail", Done: 1, Link: site}
	if err := t.mail(ctx, w.Address, e); err != nil {
		return fmt.Errorf("%w: %w", ErrTry, err)
	}
	return nil
}
