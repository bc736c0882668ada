package api

import (
	"bufio"
	"context"
	"log/slog"
	"mime"

	"ambrosa/core/names"

	"github.com/gofiber/fiber/v2"
)

// download sends an archive of pictures while it is made. Where that fails in the middle the connection is cut, so that nobody takes
// half an archive for a whole one.
func (s *Server) download(c *fiber.Ctx) error {
	d, err := s.Gatherer.Download(c.UserContext(), c.Params("ticket"), person(c.UserContext()).ID)
	if err != nil {
		return problem(err)
	}
	c.Set(fiber.HeaderContentType, "application/zip")
	c.Set(fiber.HeaderContentDisposition, mime.FormatMediaType("attachment", map[string]string{"filename": names.Portable(d.Title) + ".zip"}))
	ctx, connection := context.WithoutCancel(c.UserContext()), c.Context().Conn() // it is written after this returns
	c.Context().SetBodyStreamWriter(func(w *bufio.Writer) {
		err := d.WriteTo(ctx, w)
		if err == nil {
			err = w.Flush()
		}
		if err != nil {
			slog.Warn("sending pictures", "error", err)
			_ = connection.Close()
		}
	})
	return nil
}
