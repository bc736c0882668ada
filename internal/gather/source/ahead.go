package source

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"sync"
)

// aheadBytes is how much of a file is read ahead; of a larger one the rest comes when it is visited.
const aheadBytes = 4 << 20

// Ahead shows the items of a walk to visit, in their order, while the next few are opened and read, so many at once: for sources that
// are far away. Memory is aheadBytes for each.
func Ahead(ctx context.Context, together int, walk func(ctx context.Context, show func(Item) error) error, visit func(Item) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	line := make(chan *begun, max(together-1, 0))
	walked := make(chan error, 1)
	var reading sync.WaitGroup
	go func() {
		defer close(line)
		walked <- walk(ctx, func(it Item) error {
			b := &begun{Item: it, ready: make(chan struct{})}
			if it.Open == nil || it.Problem != nil {
				close(b.ready)
			} else {
				open := it.Open
				reading.Go(func() { b.read(ctx, open) })
			}
			select {
			case line <- b:
				return nil
			case <-ctx.Done():
				<-b.ready
				b.end()
				return ctx.Err()
			}
		})
	}()
	var failed error
	for b := range line {
		if failed == nil {
			<-b.ready
			failed = visit(b.Item)
			if failed != nil {
				cancel()
			}
		}
		<-b.ready
		b.end()
	}
	err := <-walked
	reading.Wait()
	if failed != nil {
		return failed
	}
	return err
}

// begun is an item whose bytes are being read.
type begun struct {
	Item
	ready chan struct{}
	in    io.ReadCloser
}

// read opens an item and reads its first bytes; then it can be opened once more, which gives those and the rest.
func (b *begun) read(ctx context.Context, open func(context.Context) (io.ReadCloser, error)) {
	defer close(b.ready)
	in, err := open(ctx)
	var head bytes.Buffer
	if err == nil {
		b.in = in
		_, err = io.CopyN(&head, in, aheadBytes)
		if errors.Is(err, io.EOF) {
			err = nil
		}
	}
	b.Open = func(context.Context) (io.ReadCloser, error) {
		if err != nil {
			return nil, err
		}
		return &opened{Reader: io.MultiReader(&head, in), in: in}, nil
	}
}

func (b *begun) end() {
	if b.in != nil {
		b.in.Close()
	}
}

// opened is what was read ahead, and what is behind it.
type opened struct {
	io.Reader
	in io.ReadCloser
}

func (*opened) Close() error { return nil } // it is closed when the visit is over

// Origin is that of the source's bytes, where they tell one.
func (o *opened) Origin() json.RawMessage {
	if told, ok := o.in.(Origin); ok {
		return told.Origin()
	}
	return nil
}
