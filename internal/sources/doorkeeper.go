package sources

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"sync"
	"time"

	"ambrosa/internal/people"
)

// doorkeeper remembers which passwords were right: a file manager sends one with each of a thousand requests, and comparing takes long by
// design. What it remembers is of the hash that stands: a password that was taken back is right no more.
type doorkeeper struct {
	mu    sync.Mutex
	key   []byte
	known map[string]remembered // by hash
}

type remembered struct {
	mac   [sha256.Size]byte
	until time.Time
}

// rememberedFor is how long a password is remembered.
const rememberedFor = 5 * time.Minute

// right returns people.ErrSignIn for a wrong password.
func (d *doorkeeper) right(ctx context.Context, password, hash string) error {
	d.mu.Lock()
	if d.key == nil {
		d.key, d.known = make([]byte, 32), map[string]remembered{}
		rand.Read(d.key)
	}
	mac := hmac.New(sha256.New, d.key)
	mac.Write([]byte(password))
	sum := [sha256.Size]byte(mac.Sum(nil))
	known := d.known[hash]
	d.mu.Unlock()
	if known.mac == sum && time.Now().Before(known.until) {
		return nil
	}
	same, err := people.Compare(ctx, password, hash)
	if err != nil {
		return err
	}
	if !same {
		return people.ErrSignIn
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if len(d.known) > 1000 {
		clear(d.known)
	}
	d.known[hash] = remembered{sum, time.Now().Add(rememberedFor)}
	return nil
}
