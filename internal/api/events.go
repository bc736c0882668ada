package api

import (
	"bufio"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v2"
)

const (
	eventPause = 200 * time.Millisecond // no more than five words a second to one browser
	heartbeat  = 20 * time.Second       // so that a dead connection is noticed and a proxy keeps a quiet one
)

// events tells a browser what changed, as server-sent events whose data is a topic such as run:5.
func (s *Server) events(c *fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Accel-Buffering", "no")
	follower, leave := s.Store.Follow()
	c.Context().SetBodyStreamWriter(func(w *bufio.Writer) {
		defer leave()
		fmt.Fprint(w, "retry: 2000\n\n")
		for w.Flush() == nil {
			select {
			case <-follower.Wake:
				for _, n := range follower.Take() {
					fmt.Fprintf(w, "data: %s\n\n", n)
				}
				if w.Flush() != nil {
					return
				}
				time.Sleep(eventPause)
			case <-time.After(heartbeat):
				fmt.Fprint(w, ": still here\n\n")
			case <-s.Store.Gone():
				return
			}
		}
	})
	return nil
}
