package api

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"os"
	"strconv"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/people"
	"ambrosa/internal/publish"
	"ambrosa/internal/tables"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

// packageRoutes send packages, and read examples of lists.
func (s *Server) packageRoutes(app *fiber.App, api huma.API) {
	s.plain(app, api, operation(people.Viewer, http.MethodGet, "/api/channels/{id}/package", "get-package", "What stands in a channel that is downloaded, as a zip"), s.sendPackage)
	op := operation(people.Editor, http.MethodPost, "/api/channel-lists", "read-list-example", "Read an example of a shop's table, which is the body: what list would be like it")
	op.Parameters = []*huma.Param{{Name: "name", In: "query", Schema: &huma.Schema{Type: huma.TypeString, MaxLength: new(200)}, Description: "Of the file."}}
	s.plain(app, api, op, s.listExample)
}

func (s *Server) sendPackage(c *fiber.Ctx) error {
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil {
		return problem(errMissing)
	}
	of, err := s.Publish.ByID(c.UserContext(), id)
	if err != nil {
		return problem(err)
	}
	row, err := s.Store.ChannelByID(c.UserContext(), id)
	if err == nil && (!of.IsPackage() || row.Files == 0) {
		err = publish.ErrNoPackage
	}
	if err != nil {
		return problem(err)
	}
	return s.stream(c, of.Name+".zip", func(ctx context.Context, to io.Writer) error { return s.Publish.Package(ctx, id, to) })
}

// largestExample is how large an example may be, in bytes.
const largestExample = 32 << 20

func (s *Server) listExample(c *fiber.Ctx) error {
	from := c.Context().RequestBodyStream()
	if from == nil {
		from = bytes.NewReader(nil)
	}
	f, err := os.CreateTemp("", "ambrosa-example-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	n, err := io.Copy(f, io.LimitReader(&checkedBody{r: from, check: s.Gatherer.Room}, largestExample+1))
	if err := errors.Join(err, f.Close()); err != nil {
		return err
	}
	if n > largestExample {
		return problem(tables.ErrLarge)
	}
	l, err := publish.ReadExample(f.Name(), c.Query("name"))
	if err != nil {
		return problem(err)
	}
	return c.JSON(l)
}

// publicPath is where files have public addresses. They are no operations of the interface: who knows one may read it.
const publicPath = "/r/"

// publicKept is for how long others keep a file before they ask whether it is still the same: its address is lasting, what is there may change.
const publicKept = "public, max-age=300, must-revalidate"

// public sends a file at a public address, with ranges and whether it changed (RFC 9110, 13 and 14).
func (s *Server) public(c *fiber.Ctx) error {
	f, err := s.Publish.At(c.UserContext(), c.Params("address"))
	if errors.Is(err, publish.ErrNoAddress) {
		return fiber.NewError(fiber.StatusNotFound, sentence(err.Error()))
	}
	if err != nil {
		return err
	}
	r, _, err := s.Vault.Open(c.UserContext(), assets.RenditionKey(f.Key))
	if assets.IsMissing(err) {
		return fiber.NewError(fiber.StatusNotFound, "the file is being made again; ask later")
	}
	if err != nil {
		return err
	}
	defer r.Close()
	b, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	return bridge(c, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("ETag", `"`+f.Key+`"`)
		w.Header().Set("Cache-Control", publicKept)
		w.Header().Set("Content-Security-Policy", "default-src 'none'; sandbox")
		http.ServeContent(w, r, f.Path, time.Time{}, bytes.NewReader(b))
	}), nil)
}
