package api

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"net/url"
	"time"

	"github.com/gofiber/fiber/v2"
)

// bridge serves a net/http handler behind Fiber: the request's body is streamed, the answer, which is small, is held. The
// request has a context of its own that ends with it: the framework's ends only when the server stops. check, where there is
// one, is asked again and again while the body comes, and ends it by its error. Each of around wraps the body.
func bridge(c *fiber.Ctx, handler http.Handler, check func() error, around ...func(io.Reader) io.Reader) error {
	body := c.Context().RequestBodyStream()
	if body == nil {
		body = bytes.NewReader(nil)
	}
	if check != nil {
		body = &checkedBody{r: body, check: check}
	}
	for _, wrap := range around {
		body = wrap(body)
	}
	r, cancel, err := requestOf(c, body)
	if err != nil {
		return err
	}
	defer cancel()
	w := &heldAnswer{c: c, header: http.Header{}, status: http.StatusOK}
	handler.ServeHTTP(w, r)
	c.Status(w.status)
	for key, values := range w.header {
		for _, v := range values {
			c.Response().Header.Add(key, v)
		}
	}
	c.Response().SetBody(w.body.Bytes())
	return nil
}

// requestOf is a request as net/http has it.
func requestOf(c *fiber.Ctx, body io.Reader) (*http.Request, context.CancelFunc, error) {
	address, err := url.ParseRequestURI(string(c.Request().RequestURI()))
	if err != nil {
		return nil, nil, errNoAddress
	}
	ctx, cancel := context.WithCancel(c.UserContext())
	r, err := http.NewRequestWithContext(ctx, c.Method(), address.String(), body)
	if err != nil {
		cancel()
		return nil, nil, errNoAddress
	}
	r.Host, r.RemoteAddr, r.RequestURI = c.Hostname(), c.Context().RemoteAddr().String(), address.RequestURI()
	for key, value := range c.Request().Header.All() {
		r.Header.Add(string(key), string(value))
	}
	r.Header.Del("X-HTTP-Method-Override") // the method that was checked is the one that is served
	r.ContentLength = int64(c.Request().Header.ContentLength())
	return r, cancel, nil
}

// checkedBody asks once in so many bytes whether more may come.
type checkedBody struct {
	r     io.Reader
	check func() error
	since int
}

const checkEvery = 32 << 20

func (b *checkedBody) Read(p []byte) (int, error) {
	if b.since >= checkEvery {
		if err := b.check(); err != nil {
			return 0, err
		}
		b.since = 0
	}
	n, err := b.r.Read(p)
	b.since += n
	return n, err
}

// heldAnswer is an http.ResponseWriter that keeps what is written until the handler has ended.
type heldAnswer struct {
	c      *fiber.Ctx
	header http.Header
	status int
	body   bytes.Buffer
}

func (w *heldAnswer) Header() http.Header         { return w.header }
func (w *heldAnswer) WriteHeader(status int)      { w.status = status }
func (w *heldAnswer) Write(p []byte) (int, error) { return w.body.Write(p) }

// SetReadDeadline lets http.ResponseController bound how long the next piece of the body may take.
func (w *heldAnswer) SetReadDeadline(t time.Time) error {
	return w.c.Context().Conn().SetReadDeadline(t)
}

// SetWriteDeadline is its twin for the answer.
func (w *heldAnswer) SetWriteDeadline(t time.Time) error {
	return w.c.Context().Conn().SetWriteDeadline(t)
}
