package api

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"time"

	"github.com/gofiber/fiber/v2"
)

// lines answers with JSON lines as they are told. What tells them ends where nobody listens any more, the server stops, or after an hour.
func (s *Server) lines(c *fiber.Ctx, write func(ctx context.Context, tell func(any) error) error) error {
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
	path := c.Path()
	c.Context().SetBodyStreamWriter(func(out *bufio.Writer) {
		defer cancel()
		lines, flushed := json.NewEncoder(out), time.Time{}
		err := write(ctx, func(line any) error {
			if err := lines.Encode(line); err != nil {
				return err
			}
			if time.Since(flushed) < 100*time.Millisecond {
				return nil
			}
			flushed = time.Now()
			return out.Flush() // fails where nobody listens any more: that ends it
		})
		if err := errors.Join(err, out.Flush()); err != nil {
			slog.Debug("lines ended", "path", path, "error", err)
		}
	})
	return nil
}
