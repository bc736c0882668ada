package tidy

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"log/slog"
	"slices"
	"strings"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"golang.org/x/time/rate"
)

// The slow look through all stored bytes.
const (
	scrubBytes = 20 << 20 // a second
	scrubAgain = 7 * 24 * time.Hour
	scrubPage  = 200
	strayAge   = 24 * time.Hour // a younger one may be of a batch that is not committed yet
	strayPage  = 1000
)

// What is wrong with stored bytes.
const (
	BytesMissing = "missing"
	BytesDiffer  = "differs"
)

// Scrub reads all stored bytes again, once a week and slowly, and says which are missing or differ from their SHA-256; derivatives that are
// missing are made again. Then it looks for blobs that no picture knows. It goes on where it was ended.
func (t *Tidy) Scrub(ctx context.Context) error {
	at, err := t.Store.ScrubState(ctx)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && at.EndedAt != nil && time.Since(*at.EndedAt) > scrubAgain {
		if err := t.Store.BeginScrub(ctx); err != nil {
			return err
		}
		at, err = t.Store.ScrubState(ctx)
	}
	if err != nil || at.EndedAt != nil {
		return err
	}
	return t.scrub(ctx, at.LastAsset, rate.NewLimiter(scrubBytes, scrubBytes))
}

// ScrubNow has it begin anew, whenever it was done last.
func (t *Tidy) ScrubNow(ctx context.Context) error {
	if err := t.Store.BeginScrub(ctx); err != nil {
		return err
	}
	return t.ask(ctx, ScrubWork)
}

func (t *Tidy) scrub(ctx context.Context, after int64, pace *rate.Limiter) error {
	for {
		rows, err := t.Store.AssetsBehind(ctx, query.AssetsBehindParams{After: after, Most: scrubPage})
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			break
		}
		result := query.StepScrubParams{Last: rows[len(rows)-1].ID, Looked: int64(len(rows))}
		for _, r := range rows {
			wrong, remade, err := t.scrubOne(ctx, r.Sha, pace)
			if err != nil {
				return err
			}
			if wrong != r.Broken {
				result.Ids, result.Wrongs = append(result.Ids, r.ID), append(result.Wrongs, wrong)
			}
			switch {
			case wrong == BytesMissing:
				result.Missing++
			case wrong == BytesDiffer:
				result.Differing++
			case remade:
				result.Remade++
			}
		}
		if err := t.Store.StepScrub(ctx, result); err != nil {
			return err
		}
		after = result.Last
	}
	if err := t.findStrays(ctx); err != nil {
		return err
	}
	return t.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		return errors.Join(q.EndScrub(ctx), store.Notify(ctx, tx, store.Topic("assets", 0)))
	})
}

// scrubOne reads one picture's bytes, and makes its derivatives again where they are missing. An error is one of the storage as a whole, or of
// ctx.
func (t *Tidy) scrubOne(ctx context.Context, sha string, pace *rate.Limiter) (wrong string, remade bool, err error) {
	if wrong, err = t.readThrough(ctx, sha, pace); err != nil || wrong != "" {
		return wrong, false, err
	}
	has, err := t.Vault.HasDerivatives(ctx, sha)
	if err != nil || has {
		return "", false, err
	}
	return "", true, t.remake(ctx, sha)
}

// readThrough reads one picture's bytes and says what is wrong with them; empty for nothing.
func (t *Tidy) readThrough(ctx context.Context, sha string, pace *rate.Limiter) (wrong string, err error) {
	r, _, err := t.Vault.Open(ctx, assets.OriginalKey(sha))
	if assets.IsMissing(err) {
		return BytesMissing, nil
	}
	if err != nil {
		return "", err
	}
	defer r.Close()
	sum := sha256.New()
	if _, err := io.Copy(sum, &paced{ctx, r, pace}); err != nil {
		return "", err
	}
	if hex.EncodeToString(sum.Sum(nil)) != sha {
		return BytesDiffer, nil
	}
	return "", nil
}

// remake makes a picture's derivatives again.
func (t *Tidy) remake(ctx context.Context, sha string) error {
	src, drop, err := t.Vault.Fetch(ctx, sha)
	if err != nil {
		return err
	}
	defer drop()
	p, err := assets.Probe(ctx, src, t.MaxPixels)
	if err != nil {
		slog.Warn("making the small pictures again", "picture", sha, "error", err)
		return nil
	}
	return t.Vault.PutDerivatives(ctx, sha, p)
}

// paced reads no faster than it may.
type paced struct {
	ctx  context.Context
	from io.Reader
	pace *rate.Limiter
}

func (p *paced) Read(b []byte) (int, error) {
	n, err := p.from.Read(b[:min(len(b), 256<<10)])
	if n > 0 {
		if e := p.pace.WaitN(p.ctx, n); e != nil {
			return n, e
		}
	}
	return n, err
}

// findStrays keeps which blobs no picture knows.
func (t *Tidy) findStrays(ctx context.Context) error {
	if err := t.Store.DropStrays(ctx); err != nil {
		return err
	}
	derived, err := t.eachStray(ctx, func(some []blob) error {
		var p query.AddStraysParams
		for _, b := range some {
			p.Keys, p.Bytes = append(p.Keys, b.key), append(p.Bytes, b.bytes)
		}
		return t.Store.AddStrays(ctx, p)
	})
	if err != nil {
		return err
	}
	return t.Store.SetDerivedBytes(ctx, derived)
}

// blob is something that is stored.
type blob struct {
	key   string
	bytes int64
}

// eachStray calls use for blobs that no picture knows, some at a time, and returns how many bytes all small pictures have. Cost: a list of all, and
// of each thousand one question.
func (t *Tidy) eachStray(ctx context.Context, use func([]blob) error) (derived int64, err error) {
	var some []blob
	look := func() error {
		shas := make([][]byte, 0, len(some))
		for _, b := range some {
			if sha, err := hex.DecodeString(shaOf(b.key)); err == nil {
				shas = append(shas, sha)
			}
		}
		known, err := t.Store.ShasThere(ctx, shas)
		if err != nil {
			return err
		}
		is := make(map[string]bool, len(known))
		for _, sha := range known {
			is[hex.EncodeToString(sha)] = true
		}
		stray := slices.DeleteFunc(some, func(b blob) bool { return is[shaOf(b.key)] })
		some = nil
		if len(stray) == 0 {
			return nil
		}
		return use(stray)
	}
	err = t.Vault.EachBlob(ctx, func(key string, size int64, at time.Time) error {
		if strings.HasPrefix(key, "derived/") {
			derived += size
		}
		if time.Since(at) < strayAge {
			return nil
		}
		if some = append(some, blob{key, size}); len(some) < strayPage {
			return nil
		}
		return look()
	})
	if err != nil {
		return 0, err
	}
	return derived, look()
}

// shaOf is the SHA-256 that a key names.
func shaOf(key string) string {
	return strings.TrimSuffix(key[strings.LastIndexByte(key, '/')+1:], ".webp")
}

// DeleteStrays deletes the blobs that no picture knew when it was looked for them, and knows now, and returns how many they were.
func (t *Tidy) DeleteStrays(ctx context.Context) (n int, err error) {
	for {
		keys, err := t.Store.StillStray(ctx, strayPage)
		if err != nil || len(keys) == 0 {
			return n, err
		}
		for _, key := range keys {
			if err := t.Vault.DeleteKey(ctx, key); err != nil {
				return n, err
			}
		}
		if err := t.Store.RemoveStrays(ctx, keys); err != nil {
			return n, err
		}
		n += len(keys)
	}
}
