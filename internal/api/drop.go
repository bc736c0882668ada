package api

import (
	"encoding/base64"
	"errors"
	"io"
	"net/http"
	"strings"
	"sync"
	"time"

	"ambrosa/internal/drop"
	"ambrosa/internal/people"

	"github.com/gofiber/fiber/v2"
)

// dropPath is where drop folders are: behind it comes a folder's name. They are no operations of the interface, and have passwords of their own.
const dropPath = "/drop/"

// drops are the drop folders that are open in this process, each with its locks.
type drops struct {
	mu   sync.Mutex
	open map[int64]*openDrop
}

type openDrop struct {
	handler http.Handler
	folder  *drop.Folder
}

// of returns the handler of a folder.
func (d *drops) of(id int64, dir, prefix string, quota int64, room func() error) (http.Handler, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.open == nil {
		d.open = map[int64]*openDrop{}
	}
	if known := d.open[id]; known != nil && known.folder.Quota == quota {
		return known.handler, nil
	}
	folder, err := drop.NewFolder(dir, quota, room)
	if err != nil {
		return nil, err
	}
	d.open[id] = &openDrop{drop.Handler(prefix, folder), folder}
	return d.open[id].handler, nil
}

// idleDrop is how long a sender may send nothing.
const idleDrop = time.Minute

// drop serves drop folders over WebDAV.
func (s *Server) drop(c *fiber.Ctx) error {
	name, _, _ := strings.Cut(strings.TrimPrefix(c.Path(), dropPath), "/")
	login, password, ok := basic(c.Get(fiber.HeaderAuthorization))
	if !ok || login != name {
		return s.askDrop(c)
	}
	at, err := s.Sources.EnterDrop(c.UserContext(), name, password)
	switch {
	case errors.Is(err, people.ErrSignIn):
		return s.askDrop(c)
	case err != nil:
		return problem(err)
	}
	handler, err := s.drops.of(at.ID, at.Dir, dropPath+name, at.Quota, s.Gatherer.Room)
	if err != nil {
		return err
	}
	return bridgeStreamed(c, handler)
}

// askDrop asks for name and password (RFC 7617). What is being sent is not read: the connection ends.
func (s *Server) askDrop(c *fiber.Ctx) error {
	c.Set(fiber.HeaderWWWAuthenticate, `Basic realm="Ambrosa drop folder", charset="UTF-8"`)
	if c.Request().Header.ContentLength() != 0 {
		c.Context().SetConnectionClose()
	}
	return c.SendStatus(fiber.StatusUnauthorized)
}

// basic reads name and password of an Authorization header.
func basic(header string) (name, password string, ok bool) {
	scheme, coded, _ := strings.Cut(header, " ")
	if !strings.EqualFold(scheme, "Basic") {
		return "", "", false
	}
	plain, err := base64.StdEncoding.DecodeString(strings.TrimSpace(coded))
	if err != nil {
		return "", "", false
	}
	return strings.Cut(string(plain), ":")
}

// bridgeStreamed is bridge for what may be large both ways: the answer of a GET is streamed, too, and a sender that sends nothing for long is
// given up.
func bridgeStreamed(c *fiber.Ctx, handler http.Handler) error {
	if c.Method() == fiber.MethodGet {
		return streamAnswer(c, handler)
	}
	conn := c.Context().Conn()
	err := bridge(c, handler, nil, func(r io.Reader) io.Reader {
		return &impatient{r, func() error { return conn.SetReadDeadline(time.Now().Add(idleDrop)) }}
	})
	if status := c.Response().StatusCode(); status >= 400 && c.Request().Header.ContentLength() != 0 {
		c.Context().SetConnectionClose() // what was not read would be taken for the next request
	}
	return err
}

// impatient gives each piece of a body so long to come.
type impatient struct {
	r      io.Reader
	extend func() error
}

func (i *impatient) Read(p []byte) (int, error) {
	if err := i.extend(); err != nil {
		return 0, err
	}
	return i.r.Read(p)
}

// streamAnswer serves a request without a body, and sends its answer while it is written.
func streamAnswer(c *fiber.Ctx, handler http.Handler) error {
	r, cancel, err := requestOf(c, nil)
	if err != nil {
		return err
	}
	reading, writing := io.Pipe()
	w := &pipedAnswer{header: http.Header{}, status: http.StatusOK, begun: make(chan struct{}), out: writing}
	go func() {
		defer cancel()
		handler.ServeHTTP(w, r)
		w.begin()
		writing.Close()
	}()
	<-w.begun
	c.Status(w.status)
	bytes := -1
	for key, values := range w.header {
		for _, v := range values {
			c.Response().Header.Add(key, v)
		}
	}
	if n := c.Response().Header.ContentLength(); n > 0 {
		bytes = n
	}
	c.Response().SetBodyStream(reading, bytes) // it is closed when all is sent, or the client is gone
	return nil
}

// pipedAnswer is an http.ResponseWriter whose answer is read from the other side.
type pipedAnswer struct {
	header http.Header
	status int
	once   sync.Once
	begun  chan struct{}
	out    *io.PipeWriter
}

func (w *pipedAnswer) begin()              { w.once.Do(func() { close(w.begun) }) }
func (w *pipedAnswer) Header() http.Header { return w.header }
func (w *pipedAnswer) WriteHeader(status int) {
	w.status = status
	w.begin()
}

func (w *pipedAnswer) Write(p []byte) (int, error) {
	w.begin()
	return w.out.Write(p)
}
