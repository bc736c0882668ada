package tell

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"

	"ambrosa/internal/fetch"
	"ambrosa/internal/store/query"
)

// ErrTry is returned for a mail that could not be sent when somebody tried.
var ErrTry = errors.New("the mail was not sent")

// Headers of a webhook's request.
const (
	HeaderEvent     = "Event-Id"
	HeaderTime      = "Event-Time" // seconds since 1970 when it was signed
	HeaderSignature = "Event-Signature"
)

// Sign is the signature of a body that was sent at a time: HMAC-SHA256 (RFC 2104, FIPS 180-4) over the time, a line end, and the body, in hex.
func Sign(secret []byte, at int64, body []byte) string {
	h := hmac.New(sha256.New, secret)
	fmt.Fprintf(h, "%d\n", at)
	h.Write(body)
	return "hmac-sha256=" + hex.EncodeToString(h.Sum(nil))
}

// mostAnswer is how much of an answer is read.
const mostAnswer = 64 << 10

// post sends an event to a webhook, through the guarded door. A redirect is followed nowhere: who moved says so to an admin.
func (t *Tell) post(ctx context.Context, o query.NextOutgoingRow, e Event) error {
	secret, err := t.Keeper.Open(o.Secret, sealedFor(o.Webhook))
	if err != nil {
		return err
	}
	body, err := json.Marshal(e)
	if err != nil {
		return err
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, o.Address, bytes.NewReader(body))
	if err != nil {
		return final{err}
	}
	at := t.now().Unix()
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("User-Agent", "Ambrosa")
	r.Header.Set(HeaderEvent, e.ID)
	r.Header.Set(HeaderTime, strconv.FormatInt(at, 10))
	r.Header.Set(HeaderSignature, Sign(secret, at, body))
	answer, err := fetch.RoundTripper(t.Door.Dial).RoundTrip(r)
	if err != nil {
		if errors.Is(err, fetch.ErrRefused) {
			return final{err}
		}
		return err
	}
	defer answer.Body.Close()
	_, _ = io.Copy(io.Discard, io.LimitReader(answer.Body, mostAnswer))
	switch status := answer.StatusCode; {
	case status >= 200 && status < 300:
		return nil
	case status >= 300 && status < 400:
		return final{fmt.Errorf("it answers %d and leads elsewhere; redirects are not followed, name the new address", status)}
	case status == http.StatusGone:
		return final{fmt.Errorf("it answers %d: it is gone", status)}
	default:
		return fmt.Errorf("it answers %d", status)
	}
}

func (t *Tell) now() time.Time { return time.Now().UTC() }
