package api

import (
	"math"
	"strconv"
	"sync"
	"time"

	"github.com/gofiber/fiber/v2"
	"golang.org/x/time/rate"
)

// How much one person may ask for. Pictures and pieces of uploads come by the thousand and are not counted: they cost
// little, and their own limits hold them.
const (
	paceSecond  = 100 // requests a second, for long
	paceBurst   = 400 // at once
	mostStreams = 12  // event streams open at a time: one a browser, and some to spare
)

// paces counts each person's requests and open event streams. It holds one small entry a person.
type paces struct {
	mu sync.Mutex
	of map[int64]*pace
}

type pace struct {
	requests *rate.Limiter
	streams  int
}

// uncounted are the operations that come by the thousand.
var uncounted = map[string]bool{"get-picture": true, "create-upload": true, "send-upload": true, "ask-upload": true, "pair-delivery": true}

// take counts a request; the error is a 429 that says when to try again.
func (p *paces) take(c *fiber.Ctx, person int64, operation string) error {
	if uncounted[operation] {
		return nil
	}
	p.mu.Lock()
	at := p.get(person)
	p.mu.Unlock()
	r := at.requests.Reserve()
	if wait := r.Delay(); wait > 0 {
		r.Cancel()
		return tooMany(c, wait, "You ask for more than "+strconv.Itoa(paceSecond)+" things a second; wait a moment.")
	}
	return nil
}

// stream counts an event stream until leave is called.
func (p *paces) stream(c *fiber.Ctx, person int64) (leave func(), err error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	at := p.get(person)
	if at.streams >= mostStreams {
		return nil, tooMany(c, 10*time.Second, "You have "+strconv.Itoa(mostStreams)+" event streams open; close one.")
	}
	at.streams++
	return func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		at.streams--
	}, nil
}

func (p *paces) get(person int64) *pace {
	if p.of == nil {
		p.of = map[int64]*pace{}
	}
	if p.of[person] == nil {
		p.of[person] = &pace{requests: rate.NewLimiter(paceSecond, paceBurst)}
	}
	return p.of[person]
}

func tooMany(c *fiber.Ctx, wait time.Duration, detail string) error {
	c.Set(fiber.HeaderRetryAfter, strconv.Itoa(int(math.Ceil(wait.Seconds()))))
	return fiber.NewError(fiber.StatusTooManyRequests, detail)
}
