package store

import (
	"io/fs"
	"sync"
)

// hub hands notices to whoever follows. A follower that is slow misses repeats, never the last word: what
// it has not taken yet is kept once.
type hub struct {
	mu        sync.Mutex
	followers map[*Follower]struct{}
}

// Follower collects notices until they are taken.
type Follower struct {
	Wake    chan struct{}
	mu      sync.Mutex
	pending map[Notice]struct{}
}

// Follow begins to collect every notice; leave ends it.
func (s *Store) Follow() (f *Follower, leave func()) {
	f = &Follower{Wake: make(chan struct{}, 1), pending: map[Notice]struct{}{}}
	s.hub.mu.Lock()
	defer s.hub.mu.Unlock()
	if s.hub.followers == nil {
		s.hub.followers = map[*Follower]struct{}{}
	}
	s.hub.followers[f] = struct{}{}
	return f, func() {
		s.hub.mu.Lock()
		defer s.hub.mu.Unlock()
		delete(s.hub.followers, f)
	}
}

// Take returns the notices since the last call.
func (f *Follower) Take() []Notice {
	f.mu.Lock()
	defer f.mu.Unlock()
	notices := make([]Notice, 0, len(f.pending))
	for n := range f.pending {
		notices = append(notices, n)
	}
	clear(f.pending)
	return notices
}

func (h *hub) tell(n Notice) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for f := range h.followers {
		f.mu.Lock()
		f.pending[n] = struct{}{}
		f.mu.Unlock()
		select {
		case f.Wake <- struct{}{}:
		default:
		}
	}
}

func Migrations() fs.FS {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		panic(err) // the folder is embedded
	}
	return sub
}
