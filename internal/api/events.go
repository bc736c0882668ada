package api

import (
	"bufio"
	"context"
	"fmt"
	"time"

	"ambrosa/internal/store"

	"github.com/gofiber/fiber/v2"
)

const (
	eventPause = 200 * time.Millisecond // no more than five words a second to one browser
	heartbeat  = 20 * time.Second       // so that a dead connection is noticed and a proxy keeps a quiet one
)

// events tells a browser what changed, as server-sent events whose data is a topic such as run:5. It ends with the
// session or token that it was opened with.
func (s *Server) events(c *fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set("X-Accel-Buffering", "no")
	p := person(c.UserContext())
	leave, err := s.paces.stream(c, p.ID)
	if err != nil {
		return err
	}
	follower, unfollow := s.Store.Follow()
	still := s.stillGood(c)
	c.Context().SetBodyStreamWriter(func(w *bufio.Writer) {
		defer leave()
		defer unfollow()
		fmt.Fprint(w, "retry: 2000\n\n")
		beat := time.NewTicker(heartbeat)
		defer beat.Stop()
		for w.Flush() == nil {
			select {
			case <-follower.Wake:
				for _, n := range follower.Take() {
					if n.Kind() == store.SessionEnded {
						if !still() {
							return
						}
						continue
					}
					fmt.Fprintf(w, "data: %s\n\n", n)
				}
				if w.Flush() != nil {
					return
				}
				time.Sleep(eventPause)
			case <-beat.C:
				if !still() {
					return
				}
				fmt.Fprint(w, ": still here\n\n")
			case <-s.Stopping:
				return
			case <-s.Store.Gone():
				return
			}
		}
	})
	return nil
}

// stillGood returns a question that can be asked again after the request: is the session or token good as before?
func (s *Server) stillGood(c *fiber.Ctx) func() bool {
	session, authorization := c.Cookies(sessionCookie), c.Get(fiber.HeaderAuthorization)
	ctx := context.WithoutCancel(c.UserContext())
	before := person(ctx)
	return func() bool {
		ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
		defer cancel()
		now, _, err := s.whoAsks(ctx, session, authorization)
		return err == nil && now.ID == before.ID
	}
}
