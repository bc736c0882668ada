package api

import (
	"ambrosa/internal/store"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"log/slog"
	"net/http"
	"net/netip"
	"runtime/debug"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humafiber"
	"github.com/gofiber/fiber/v2"
)

const requestID = "X-Request-Id"

// slow is how long an answer may take before the log tells of it.
const slow = 2 * time.Second

// identify returns each request an id, which stands in the answer and in the log, and a context of its own that ends with
// it or with the server.
func (s *Server) identify(c *fiber.Ctx) error {
	var b [8]byte
	rand.Read(b[:])
	c.Set(requestID, hex.EncodeToString(b[:]))
	base := s.Base
	if base == nil {
		base = context.Background()
	}
	ctx, cancel := context.WithCancel(context.WithValue(base, callerKey{}, s.Proxies.caller(c)))
	defer cancel()
	c.SetUserContext(ctx)
	begun := time.Now()
	err := c.Next()
	if err != nil {
		// Told here, so that every answer passes the same way out.
		err = answerError(c, err)
	}
	status := c.Response().StatusCode()
	if status >= 400 && c.Request().Header.ContentLength() != 0 {
		c.Context().SetConnectionClose() // what was not read of the body is not to be taken for the next request
	}
	level := slog.LevelDebug
	if took := time.Since(begun); status >= 500 || took > slow {
		level = slog.LevelWarn
	}
	slog.Log(ctx, level, "answered", "request", idOf(c), "method", c.Method(), "path", c.Path(), "status", status, "ms", time.Since(begun).Milliseconds())
	return err
}

type callerKey struct{}

// caller is the address that a request came from.
func caller(ctx context.Context) netip.Addr {
	a, _ := ctx.Value(callerKey{}).(netip.Addr)
	return a
}

func idOf(c *fiber.Ctx) string { return string(c.Response().Header.Peek(requestID)) }

// survive turns a panic into an error, and logs it with its stack and the request's id.
func survive(c *fiber.Ctx) (err error) {
	defer func() {
		if e := recover(); e != nil {
			slog.Error("a handler panicked", "request", idOf(c), "method", c.Method(), "path", c.Path(), "panic", e, "stack", string(debug.Stack()))
			err = errPanic
		}
	}()
	return c.Next()
}

var errPanic = errors.New("a handler panicked")

// told returns the status and the words for an error. What is not the user's is logged with the request's id, not told.
func told(c *fiber.Ctx, err error) (status int, detail string) {
	if f := (*fiber.Error)(nil); errors.As(err, &f) {
		return f.Code, f.Message
	}
	if h := huma.StatusError(nil); errors.As(err, &h) && h.GetStatus() < http.StatusInternalServerError {
		return h.GetStatus(), h.Error()
	}
	if store.TookTooLong(err) && c.UserContext().Err() == nil {
		c.Set(fiber.HeaderRetryAfter, "5")
		return fiber.StatusServiceUnavailable, "This took too long and was ended. Try again in a moment, or ask for less."
	}
	if c.UserContext().Err() != nil || errors.Is(err, context.Canceled) {
		return fiber.StatusServiceUnavailable, "The request was ended: a newer one took its place, or the server stops."
	}
	if !errors.Is(err, errPanic) {
		slog.Error("answering", "request", idOf(c), "method", c.Method(), "path", c.Path(), "error", err)
	}
	return fiber.StatusInternalServerError, "Something went wrong on the server. Its log says what, under request " + idOf(c) + "."
}

// answerError speaks of errors outside the described operations as they do: RFC 9457 problem details.
func answerError(c *fiber.Ctx, err error) error {
	status, detail := told(c, err)
	c.Status(status)
	return c.JSON(huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}, "application/problem+json")
}

// tellErrors has the described operations tell of an error that is not the user's in the same words.
func tellErrors() {
	huma.NewErrorWithContext = func(ctx huma.Context, status int, message string, errs ...error) huma.StatusError {
		if status == http.StatusInternalServerError && len(errs) > 0 {
			status, message = told(humafiber.Unwrap(ctx), errors.Join(errs...))
			errs = nil
		}
		return huma.NewError(status, message, errs...)
	}
}
