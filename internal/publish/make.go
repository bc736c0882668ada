package publish

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"hash/crc32"
	"io"
	"runtime"
	"sync"

	"ambrosa/core/channel"
	"ambrosa/core/message"
	"ambrosa/core/rendition"
	"ambrosa/internal/assets"
	"ambrosa/internal/store/query"

	"golang.org/x/sync/errgroup"
)

// store stores what was made under its key, and notes it.
func (p *Publish) store(ctx context.Context, key string, r io.Reader) error {
	sum, crc := sha256.New(), crc32.NewIEEE()
	n := &counted{}
	if err := p.Vault.PutBlob(ctx, assets.RenditionKey(key), io.TeeReader(r, io.MultiWriter(sum, crc, n))); err != nil {
		return err
	}
	return p.Store.RenditionMade(ctx, query.RenditionMadeParams{Key: key, Sum: hex.EncodeToString(sum.Sum(nil)), Crc: int64(crc.Sum32()), Bytes: n.bytes})
}

// counted counts what is written to it.
type counted struct{ bytes int64 }

func (c *counted) Write(b []byte) (int, error) {
	c.bytes += int64(len(b))
	return len(b), nil
}

// made makes what is not there yet of some keys: all sizes of a picture from one decoding, on all cores. What can't be made of a picture is
// told by its key; an error is one of the storage or the database.
func (p *Publish) made(ctx context.Context, c Channel, keys []string) (trouble map[string]message.Message, err error) {
	rows, err := p.Store.Renditions(ctx, keys)
	if err != nil {
		return nil, err
	}
	trouble = map[string]message.Message{}
	known := map[string]bool{}
	for _, r := range rows {
		known[r.Key] = true
	}
	for _, k := range keys {
		if !known[k] {
			trouble[k] = message.New("publish_gone")
		}
	}
	of, err := p.missing(ctx, rows)
	if err != nil {
		return nil, err
	}
	var mu sync.Mutex
	say := func(key string, m message.Message) {
		mu.Lock()
		defer mu.Unlock()
		trouble[key] = m
	}
	group, inner := errgroup.WithContext(ctx)
	group.SetLimit(runtime.GOMAXPROCS(0))
	for from, some := range of {
		group.Go(func() error {
			if from.sha == "" {
				for _, r := range some {
					if err := p.writeList(inner, c, r.key); err != nil {
						return err
					}
				}
				return nil
			}
			return p.render(inner, from, some, say)
		})
	}
	return trouble, group.Wait()
}

// origin is what renditions are made of together: a picture, scaled to a size.
type origin struct {
	sha  string
	size rendition.Size
}

// making is one that is to be made: its key, and how.
type making struct {
	key  string
	wish rendition.Wish
}

// missing are those that are to be made, by what they are made of; lists of nothing.
func (p *Publish) missing(ctx context.Context, rows []query.RenditionsRow) (map[origin][]making, error) {
	there := make([]bool, len(rows))
	group, inner := errgroup.WithContext(ctx)
	group.SetLimit(32) // it mostly waits for the network
	for i, r := range rows {
		if r.Made {
			group.Go(func() (err error) {
				there[i], err = p.Vault.HasBlob(inner, assets.RenditionKey(r.Key))
				return err
			})
		}
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	of := map[origin][]making{}
	for i, r := range rows {
		if there[i] {
			continue
		}
		var recipe channel.Recipe
		if err := json.Unmarshal(r.Recipe, &recipe); err != nil {
			return nil, err
		}
		from := origin{recipe.SHA, recipe.From}
		of[from] = append(of[from], making{r.Key, recipe.Wish})
	}
	return of, nil
}

// render makes renditions of one picture. Where one of several can't be made, the others are.
func (p *Publish) render(ctx context.Context, from origin, some []making, say func(string, message.Message)) error {
	src, drop, err := p.Vault.Fetch(ctx, from.sha)
	if assets.IsMissing(err) {
		for _, m := range some {
			say(m.key, message.New("publish_picture_gone"))
		}
		return nil
	}
	if err != nil {
		return err
	}
	defer drop()
	wishes := make([]rendition.Wish, len(some))
	for i, m := range some {
		wishes[i] = m.wish
	}
	made, err := assets.Render(ctx, src, from.size, wishes, p.MaxPixels)
	switch {
	case err == nil:
		for i, m := range made {
			if err := p.store(ctx, some[i].key, bytes.NewReader(m.Bytes)); err != nil {
				return err
			}
		}
		return nil
	case ctx.Err() != nil:
		return ctx.Err()
	case len(some) > 1:
		for _, m := range some {
			if err := p.render(ctx, from, []making{m}, say); err != nil {
				return err
			}
		}
		return nil
	}
	says, ok := message.Of(err)
	if !ok || errors.Is(err, assets.ErrTooManyBytes) {
		says = message.New("publish_not_made", "why", err.Error())
	}
	say(some[0].key, says)
	return nil
}
