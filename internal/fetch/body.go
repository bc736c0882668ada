package fetch

import (
	"context"
	"errors"
	"fmt"
	"io"
	"sync"
	"time"
)

// body is an answer that streams, and ends where more comes than may be, or nothing for too long.
type body struct {
	ctx    context.Context
	cancel context.CancelFunc
	from   io.ReadCloser
	left   int64
	most   int64
	idle   time.Duration
	timer  *time.Timer
	ended  sync.Once
	late   sync.Once
	slow   chan struct{} // closed where nothing came for too long
}

func watched(ctx context.Context, cancel context.CancelFunc, from io.ReadCloser, most int64, idle time.Duration) *body {
	b := &body{ctx: ctx, cancel: cancel, from: from, left: most, most: most, idle: idle, slow: make(chan struct{})}
	b.timer = time.AfterFunc(idle, func() {
		b.late.Do(func() { close(b.slow) })
		cancel()
	})
	return b
}

func (b *body) Read(p []byte) (int, error) {
	if b.left < 0 {
		return 0, b.large()
	}
	// One byte more than may come tells that more would.
	n, err := b.from.Read(p[:min(int64(len(p)), b.left+1)])
	if b.left -= int64(n); b.left < 0 {
		return n + int(b.left), b.large()
	}
	if n > 0 {
		b.timer.Reset(b.idle)
	}
	if err != nil && !errors.Is(err, io.EOF) {
		select {
		case <-b.slow:
			err = fmt.Errorf("%w: nothing came for %s", ErrSlow, b.idle)
		default:
			err = plain(b.ctx, err)
		}
	}
	return n, err
}

func (b *body) large() error { return fmt.Errorf("%w: the limit is %d bytes", ErrLarge, b.most) }

func (b *body) Close() error {
	b.ended.Do(func() {
		b.timer.Stop()
		b.cancel()
	})
	return b.from.Close()
}

// partly reads the first bytes of an answer and takes what is behind them for its end.
type partly struct {
	io.ReadCloser
	left int64
}

func (p *partly) Read(b []byte) (int, error) {
	if p.left <= 0 {
		return 0, io.EOF
	}
	n, err := p.ReadCloser.Read(b[:min(int64(len(b)), p.left)])
	p.left -= int64(n)
	return n, err
}
