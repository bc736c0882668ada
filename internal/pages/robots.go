package pages

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/url"

	"ambrosa/core/page"
	"ambrosa/internal/fetch"
)

// refusal is what robots.txt says against an address.
type refusal struct{ line string }

func (r *refusal) Error() string { return ErrRobots.Error() + " (" + r.line + ")" }
func (r *refusal) Unwrap() error { return ErrRobots }

// mostRobots is how much of a robots.txt is asked for.
const mostRobots = 500 << 10

// MayAsk returns ErrRobots for an address that its host's robots.txt does not allow. A robots.txt that is not there allows all; one that can't be
// had because the server there is in trouble, none (RFC 9309, section 2.3.1).
func (r *Reader) MayAsk(ctx context.Context, address string) error {
	at, err := url.Parse(address)
	if err != nil || at.Hostname() == "" {
		return fetch.ErrAddress
	}
	host := at.Scheme + "://" + at.Host
	robots, ok := r.robots.get(host)
	if !ok {
		if robots, err = r.askRobots(ctx, host); err != nil {
			return err
		}
		r.robots.set(host, robots)
	}
	if ok, line := robots.Allows(at.RequestURI()); !ok {
		return &refusal{line}
	}
	return nil
}

func (r *Reader) askRobots(ctx context.Context, host string) (page.Robots, error) {
	answer, err := r.Fetch.Get(ctx, fetch.Request{URL: host + "/robots.txt", Bytes: mostRobots, Part: mostRobots, Paced: true})
	if err != nil {
		var status *fetch.StatusError
		if errors.As(err, &status) && status.Status >= 400 && status.Status < 500 && status.Status != http.StatusTooManyRequests {
			return page.Robots{}, nil
		}
		return page.Robots{}, err
	}
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	if err != nil {
		return page.Robots{}, err
	}
	return page.ReadRobots(b, Robot), nil
}
