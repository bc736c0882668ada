package demo

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/mail"
	"slices"
	"time"

	"ambrosa/internal/api"
	"ambrosa/internal/program"
	"ambrosa/internal/standin"
	"ambrosa/internal/tell"
)

// Hosts of the house's mail server and of a program that is told of what ended.
const (
	MailHost = "mail.pellmoorkites.example"
	HookHost = "hooks.pellmoorkites.example"
)

// hookSecret is that of the demo's webhook.
const hookSecret = "the-wind-keeps-no-secret"

const (
	mostTold = 100
	mostBody = 64 << 10
)

// hook is the program that is told: it checks the signature, and says on the page whether it is right.
func (o *Outside) hook(r *http.Request) *standin.Page {
	b, err := io.ReadAll(io.LimitReader(r.Body, mostBody))
	if err != nil {
		return nil
	}
	var at int64
	_, _ = fmt.Sscan(r.Header.Get(tell.HeaderTime), &at) // of no time the signature is wrong
	signed := "the signature is wrong"
	if r.Header.Get(tell.HeaderSignature) == tell.Sign([]byte(hookSecret), at, b) {
		signed = "the signature is right"
	}
	o.mu.Lock()
	defer o.mu.Unlock()
	o.told = append([]api.OutsideMessage{{At: time.Now(), To: "https://" + HookHost + r.URL.Path, Says: "Webhook: " + signed, All: string(b)}}, o.told...)
	o.told = o.told[:min(len(o.told), mostTold)]
	return &standin.Page{Status: http.StatusNoContent}
}

// Arrived are the mails and the events that came, the newest first.
func (o *Outside) Arrived() []api.OutsideMessage {
	o.mu.Lock()
	all := slices.Clone(o.told)
	o.mu.Unlock()
	for _, m := range o.mail.All() {
		says := "A mail that can't be read"
		if read, err := mail.ReadMessage(bytes.NewReader(m.Bytes)); err == nil {
			if subject, err := (&mime.WordDecoder{}).DecodeHeader(read.Header.Get("Subject")); err == nil {
				says = subject
			}
		}
		all = append(all, api.OutsideMessage{At: m.At, To: m.To, Says: says, All: string(m.Bytes)})
	}
	slices.SortStableFunc(all, func(a, b api.OutsideMessage) int { return b.At.Compare(a.At) })
	return all
}

// bringMessages names the demo's mail server and webhook, and has mo told of everything, where nobody said anything yet.
func bringMessages(ctx context.Context, s *program.Program, person, admin int64) error {
	k, err := s.Tell.Server(ctx)
	if err != nil || k.Host != "" {
		return err
	}
	if err := s.Tell.SetServer(ctx, admin, tell.MailServer{Host: MailHost, Port: 25, Security: "none", From: "ambrosa@pellmoorkites.example"}); err != nil {
		return err
	}
	if _, err := s.Tell.AddWebhook(ctx, admin, tell.Webhook{Address: "http://" + HookHost + "/ambrosa", Secret: hookSecret, Tells: "always"}); err != nil {
		return err
	}
	return s.Tell.SetWish(ctx, person, tell.Wish{Address: "mo@pellmoorkites.example", Tells: "always"})
}
