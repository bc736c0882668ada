package api

import (
	"context"
	"net/http"
	"strconv"

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
	return s.lines(c, func(ctx context.Context, tell func(any) error) error {
		err := s.Sources.Browse(ctx, id, below, search, func(b sources.Browsed) error {
			line := browsedBody{Files: b.Files, Pictures: b.Pictures, Bytes: b.Bytes, Here: b.Here}
			if b.File != nil {
				line = browsedBody{File: &entryBody{Path: b.File.Path, Bytes: b.File.Bytes, Here: b.IsHere}}
			} else {
				line.Folder = &b.Folder
			}
			return tell(line)
		})
		end := browsedBody{Done: true}
		if err != nil {
			end = browsedBody{Why: sentence(err.Error())}
		}
		return tell(end)
	})
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
