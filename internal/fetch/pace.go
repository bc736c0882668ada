package fetch

import (
	"context"
	"math/rand/v2"
	"net/http"
	"strconv"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// hosts hold back requests to one host, so that no server there is overrun.
type hosts struct {
	rate  float64
	burst int
	mu    sync.Mutex
	of    map[string]*rate.Limiter
}

// mostHosts is how many hosts are remembered; then all are forgotten, which lets each go fast once more.
const mostHosts = 10_000

func (h *hosts) wait(ctx context.Context, host string) error {
	h.mu.Lock()
	if h.of == nil || len(h.of) > mostHosts {
		h.of = map[string]*rate.Limiter{}
	}
	limiter := h.of[host]
	if limiter == nil {
		limiter = rate.NewLimiter(rate.Limit(h.rate), max(h.burst, 1))
		h.of[host] = limiter
	}
	h.mu.Unlock()
	return limiter.Wait(ctx)
}

// retryAfter is how long a server that refuses asks to wait (RFC 9110, section 10.2.3), -1 where asking again would not help.
func retryAfter(resp *http.Response) time.Duration {
	switch resp.StatusCode {
	case http.StatusTooManyRequests, http.StatusServiceUnavailable, http.StatusBadGateway, http.StatusGatewayTimeout, http.StatusRequestTimeout:
	default:
		return -1
	}
	asked := resp.Header.Get("Retry-After")
	if seconds, err := strconv.Atoi(asked); err == nil && seconds >= 0 {
		return time.Duration(min(seconds, 86_400)) * time.Second
	}
	if at, err := http.ParseTime(asked); err == nil {
		return max(0, time.Until(at))
	}
	return 0
}

// backOff is how long to wait after the n-th attempt where nobody says: half a second, one, two, give or take a quarter.
func backOff(attempt int) time.Duration {
	wait := 500 * time.Millisecond << min(attempt-1, 6)
	return wait*3/4 + time.Duration(rand.Int64N(int64(wait/2)))
}
