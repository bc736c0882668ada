// Package tell tells people and programs what ended: by mail and by webhook, from an outbox in which it is written with the bell's notice. Each is
// sent at least once; one that is sent twice has the same id.
package tell

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/mail"
	"net/url"
	"strings"
	"time"

	"ambrosa/internal/fetch"
	"ambrosa/internal/jobs"
	"ambrosa/internal/seal"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrAddress is returned for an address that is none.
	ErrAddress = errors.New("a mail address is written as name@shop.example")
	// ErrWish is returned for a wish that there is not.
	ErrWish = errors.New("one is told never, of trouble only, or always")
	// ErrServer is returned for a mail server that can't be.
	ErrServer = errors.New("a mail server has a host, a port, and speaks starttls, tls or none")
	// ErrWebhook is returned for a webhook that can't be.
	ErrWebhook = errors.New("a webhook has an address of http or https, and a secret of at least 16 characters")
	// ErrNoServer is returned where no admin named a mail server.
	ErrNoServer = errors.New("no admin has named a mail server")
	// ErrNoAddress is returned for a mail to somebody who gave no address.
	ErrNoAddress = errors.New("you gave no mail address")
)

// Tell sends what is due.
type Tell struct {
	Store  *store.Store
	Jobs   *jobs.Jobs
	Door   *fetch.Door
	Keeper *seal.Keeper
	// Site is where this house is reached; links begin with it.
	Site func(context.Context) (string, error)
	// trust are certificates that tests trust besides the system's.
	trust trust
}

// Register registers its work.
func (t *Tell) Register() {
	t.Jobs.Register(jobs.Kind{Name: "messages_due", Every: 10 * time.Second, Work: func(ctx context.Context, _ int64) error { return t.Due(ctx) }})
}

// Wish is how a person wants to be told.
type Wish struct {
	Address string `json:"address" maxLength:"254"`
	Tells   string `json:"tells" enum:"never,trouble,always"`
}

// WishOf is a person's.
func (t *Tell) WishOf(ctx context.Context, person int64) (Wish, error) {
	w, err := t.Store.MailWish(ctx, person)
	if errors.Is(err, pgx.ErrNoRows) {
		return Wish{Tells: "never"}, nil
	}
	return Wish{w.Address, w.Tells}, err
}

// SetWish sets it. Errors: ErrAddress, ErrWish.
func (t *Tell) SetWish(ctx context.Context, person int64, w Wish) error {
	w.Address = strings.TrimSpace(w.Address)
	if w.Address != "" && !isAddress(w.Address) {
		return ErrAddress
	}
	if w.Tells != "never" && w.Tells != "trouble" && w.Tells != "always" {
		return ErrWish
	}
	return t.Store.SetMailWish(ctx, query.SetMailWishParams{Person: person, Address: w.Address, Tells: w.Tells})
}

// isAddress reports whether a text is a mail address and nothing else: no name, no line end (RFC 5322, 3.4.1).
func isAddress(text string) bool {
	a, err := mail.ParseAddress(text)
	return err == nil && a.Address == text && a.Name == "" && !strings.ContainsAny(text, "\r\n\t \x00")
}

// Due sends what is due, one after the other, until nothing is.
func (t *Tell) Due(ctx context.Context) error {
	for {
		more := false
		err := t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
			o, err := q.NextOutgoing(ctx)
			if errors.Is(err, pgx.ErrNoRows) {
				return nil
			}
			if err != nil {
				return err
			}
			more = true
			return t.send(ctx, q, o)
		})
		if err != nil || !more {
			return err
		}
	}
}

const (
	// sendTime is how long sending one may take: a server that hangs keeps no other waiting for long.
	sendTime = 30 * time.Second
	// mostTries is how often one is tried: over about two days.
	mostTries = 14
	// mostTrouble is how much of what went wrong is kept.
	mostTrouble = 500
)

// pause is how long to wait after the n-th try: 30 s, 1 min, 2 min … up to 6 hours.
func pause(n int32) time.Duration { return min(6*time.Hour, 30*time.Second<<min(n, 12)) }

// final marks an error after which trying again would not help.
type final struct{ error }

func (f final) Unwrap() error { return f.error }

func (t *Tell) send(ctx context.Context, q *query.Queries, o query.NextOutgoingRow) error {
	sending, cancel := context.WithTimeout(ctx, sendTime)
	defer cancel()
	var err error
	e, err := t.event(sending, o)
	switch {
	case err != nil:
		return err
	case o.Webhook == 0:
		err = t.mail(sending, o.Mail, e)
	case o.Removed:
		err = final{errors.New("the webhook was removed")}
	default:
		err = t.post(sending, o, e)
	}
	if err == nil {
		return q.OutgoingSent(ctx, o.ID)
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	slog.Warn("a message could not be sent", "event", e.ID, "try", o.Tries+1, "error", err)
	var f final
	says := strings.ToValidUTF8(strings.Join(strings.Fields(err.Error()), " "), "")
	return q.OutgoingFailed(ctx, query.OutgoingFailedParams{ID: o.ID, Trouble: says[:min(len(says), mostTrouble)], Seconds: pause(o.Tries).Seconds(),
		Final: errors.As(err, &f) || o.Tries+1 >= mostTries})
}

// Webhook is a program that is told.
type Webhook struct {
	Address string `json:"address" maxLength:"2000"`
	Secret  string `json:"secret" maxLength:"200"`
	Tells   string `json:"tells" enum:"trouble,always"`
}

const leastSecret = 16

// AddWebhook adds one and returns its number. Errors: ErrWebhook, ErrWish.
func (t *Tell) AddWebhook(ctx context.Context, person int64, w Webhook) (id int64, err error) {
	u, err := url.Parse(w.Address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || u.User != nil || len(w.Secret) < leastSecret {
		return 0, ErrWebhook
	}
	if w.Tells != "trouble" && w.Tells != "always" {
		return 0, ErrWish
	}
	err = t.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if id, err = q.AddWebhook(ctx, query.AddWebhookParams{Address: w.Address, Secret: []byte{}, Tells: w.Tells, Person: person}); err != nil {
			return err
		}
		return q.SealWebhook(ctx, query.SealWebhookParams{ID: id, Secret: t.Keeper.Seal([]byte(w.Secret), sealedFor(id))})
	})
	return id, err
}

func sealedFor(id int64) string { return fmt.Sprintf("webhook %d", id) }

// RemoveWebhook ends one. pgx.ErrNoRows.
func (t *Tell) RemoveWebhook(ctx context.Context, id int64) error {
	n, err := t.Store.RemoveWebhook(ctx, id)
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}

// setting reads what an admin set under a name; ok is false where nobody did.
func (t *Tell) setting(ctx context.Context, name string, into any) (ok bool, err error) {
	value, err := t.Store.HouseSetting(ctx, name)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	return true, json.Unmarshal(value, into)
}
