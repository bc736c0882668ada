package api

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/people"
	"ambrosa/internal/sources"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

// browsedBody is one line of a browse: a folder with what lies in it itself, a file that was searched for, or the end.
type browsedBody struct {
	Folder   *string    `json:"folder,omitempty"`
	Files    int        `json:"files,omitempty"`
	Pictures int        `json:"pictures,omitempty"`
	Bytes    int64      `json:"bytes,omitempty"`
	Here     int        `json:"here,omitempty"`
	File     *entryBody `json:"file,omitempty"`
	Done     bool       `json:"done,omitempty"`
	Why      string     `json:"why,omitempty"` // of an end before all was told
}

// glimpseBytes is the largest file of a drive that a glimpse is taken of.
const glimpseBytes = 64 << 20

func (s *Server) browseRoutes(app *fiber.App, api huma.API) {
	s.plain(app, api, operation(people.Editor, http.MethodGet, "/api/sources/{id}/browse", "browse-drive",
		"All folders of a drive below one (below), with how much lies in each, and the files below whose name holds a text (q), as JSON lines while they are found"), s.browse)
	s.plain(app, api, operation(people.Editor, http.MethodGet, "/api/sources/{id}/glimpse", "glimpse-drive", "A small picture of a file (path) of a drive, as WebP"), s.glimpse)
}

func (s *Server) browse(c *fiber.Ctx) error {
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil {
		return errNoAddress
	}
	below, search := c.Query("below"), c.Query("q")
	c.Set(fiber.HeaderContentType, "application/x-ndjson")
	ctx, cancel := context.WithTimeout(context.WithoutCancel(c.UserContext()), time.Hour)
	stopping := s.Stopping
	go func() {
		select {
		case <-stopping:
			cancel()
		case <-ctx.Done():
		}
	}()
	c.Context().SetBodyStreamWriter(func(out *bufio.Writer) {
		defer cancel()
		lines, flushed := json.NewEncoder(out), time.Now()
		err := s.Sources.Browse(ctx, id, below, search, func(b sources.Browsed) error {
			line := browsedBody{Files: b.Files, Pictures: b.Pictures, Bytes: b.Bytes, Here: b.Here}
			if b.File != nil {
				line = browsedBody{File: &entryBody{Path: b.File.Path, Bytes: b.File.Bytes, Here: b.IsHere}}
			} else {
				line.Folder = &b.Folder
			}
			if err := lines.Encode(line); err != nil {
				return err
			}
			if time.Since(flushed) < 100*time.Millisecond {
				return nil
			}
			flushed = time.Now()
			return out.Flush() // fails where nobody listens any more: that ends the browse
		})
		end := browsedBody{Done: true}
		if err != nil {
			end = browsedBody{Why: sentence(err.Error())}
		}
		if err := errors.Join(lines.Encode(end), out.Flush()); err != nil {
			slog.Debug("a browse ended", "source", id, "error", err)
		}
	})
	return nil
}

func (s *Server) glimpse(c *fiber.Ctx) error {
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil {
		return errNoAddress
	}
	b, err := s.Sources.Glimpse(c.UserContext(), id, c.Query("path"), glimpseBytes)
	if err != nil {
		return problem(err)
	}
	if !assets.Detect(b).Picture {
		return problem(errMissing)
	}
	p, err := assets.Probe(c.UserContext(), assets.Source{Bytes: b}, s.Gatherer.Limits.Pixels)
	if err != nil {
		return problem(errMissing)
	}
	c.Set(fiber.HeaderCacheControl, "private, max-age=600")
	c.Set(fiber.HeaderContentType, "image/webp")
	return c.Send(p.Derivatives[assets.Sizes[0]])
}
