package api

import (
	"context"
	"sync"
)

// latest ends what a newer request takes the place of: a server is not told that a browser hung up while it works, so
// the next letter of a search says so.
type latest struct {
	mu sync.Mutex
	of map[latestKey]*context.CancelFunc
}

type latestKey struct {
	person int64
	page   string
}

// begin returns the context of a page's newest request and ends the one before; done is called when it has answered.
// Without a page nothing is ended.
func (l *latest) begin(ctx context.Context, person int64, page string) (_ context.Context, done func()) {
	if page == "" {
		return ctx, func() {}
	}
	ctx, cancel := context.WithCancel(ctx)
	key := latestKey{person, page}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.of == nil {
		l.of = map[latestKey]*context.CancelFunc{}
	}
	if before := l.of[key]; before != nil {
		(*before)()
	}
	l.of[key] = &cancel
	return ctx, func() {
		cancel()
		l.mu.Lock()
		defer l.mu.Unlock()
		if l.of[key] == &cancel {
			delete(l.of, key)
		}
	}
}
