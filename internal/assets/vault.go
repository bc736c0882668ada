// Package assets keeps the pictures' bytes: the originals under their SHA-256, the derivatives beside them,
// in a folder or an S3-compatible bucket.
package assets

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"ambrosa/core/message"

	"gocloud.dev/blob"
	_ "gocloud.dev/blob/fileblob" // file:// buckets
	_ "gocloud.dev/blob/s3blob"   // s3:// buckets
	"gocloud.dev/gcerrors"
)

// ErrVault is returned where the place for pictures does not do what it should.
var ErrVault = errors.New("the picture storage does not work")

// Vault is where bytes lie.
type Vault struct {
	bucket *blob.Bucket

	mu      sync.Mutex // over what Ready found last
	tried   time.Time
	outcome error
}

// OpenVault opens a folder by its path or a bucket by its address, such as
// s3://pictures?endpoint=https://storage.example&region=eu.
func OpenVault(ctx context.Context, address string) (*Vault, error) {
	if !strings.Contains(address, "://") {
		path, err := filepath.Abs(address)
		if err != nil {
			return nil, err
		}
		if err := os.MkdirAll(path, 0o755); err != nil {
			return nil, err
		}
		// Without the sidecar files: a blob's name says its type, and its hash is its name.
		address = (&url.URL{Scheme: "file", Path: path, RawQuery: "metadata=skip&no_tmp_dir=true"}).String()
	}
	bucket, err := blob.OpenBucket(ctx, address)
	if err != nil {
		return nil, fmt.Errorf("opening the place for pictures: %w", err)
	}
	return &Vault{bucket: bucket}, nil
}

// Close lets go of the bucket.
func (v *Vault) Close() error { return v.bucket.Close() }

// putTime is how long storing one picture may take; the largest has 2 GB.
const putTime = 15 * time.Minute

// Put stores a picture and its derivatives. Doing it twice changes nothing: names are content.
func (v *Vault) Put(ctx context.Context, sha []byte, format Format, src Source, p *Picture) error {
	ctx, cancel := context.WithTimeout(ctx, putTime)
	defer cancel()
	if err := v.PutDerivatives(ctx, hex.EncodeToString(sha), p); err != nil {
		return err
	}
	options := &blob.WriterOptions{ContentType: format.MIME}
	key := OriginalKey(hex.EncodeToString(sha))
	if src.File == "" {
		if err := v.bucket.WriteAll(ctx, key, src.Bytes, options); err != nil {
			return unwell(err)
		}
		return nil
	}
	f, err := os.Open(src.File)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := v.bucket.Upload(ctx, key, f, options); err != nil {
		return unwell(err)
	}
	return nil
}

// PutDerivatives stores a picture's derivatives; sha in hex.
func (v *Vault) PutDerivatives(ctx context.Context, sha string, p *Picture) error {
	for size, webp := range p.Derivatives {
		if err := v.bucket.WriteAll(ctx, DerivativeKey(sha, size), webp, &blob.WriterOptions{ContentType: "image/webp"}); err != nil {
			return unwell(err)
		}
	}
	return nil
}

// HasDerivatives reports whether all of a picture's derivatives lie here; sha in hex.
func (v *Vault) HasDerivatives(ctx context.Context, sha string) (bool, error) {
	for _, size := range Sizes {
		if there, err := v.bucket.Exists(ctx, DerivativeKey(sha, size)); err != nil {
			return false, unwell(err)
		} else if !there {
			return false, nil
		}
	}
	return true, nil
}

// Open opens what lies under a key; the caller closes it. Size is in bytes.
func (v *Vault) Open(ctx context.Context, key string) (r io.ReadCloser, size int64, err error) {
	reader, err := v.bucket.NewReader(ctx, key, nil)
	if err != nil {
		return nil, 0, err
	}
	return reader, reader.Size(), nil
}

// Each calls use with every key under which a picture or a derivative lies, and its size in bytes.
func (v *Vault) Each(ctx context.Context, use func(key string, size int64) error) error {
	return v.EachBlob(ctx, func(key string, size int64, _ time.Time) error { return use(key, size) })
}

// EachBlob is Each with when each was stored.
func (v *Vault) EachBlob(ctx context.Context, use func(key string, size int64, at time.Time) error) error {
	for _, part := range []string{"original/", "derived/"} {
		list := v.bucket.List(&blob.ListOptions{Prefix: part})
		for {
			object, err := list.Next(ctx)
			if err == io.EOF {
				break
			}
			if err != nil {
				return unwell(err)
			}
			if err := use(object.Key, object.Size, object.ModTime); err != nil {
				return err
			}
		}
	}
	return nil
}

// Has reports whether a picture's own bytes and its large derivative lie here; sha as bytes. It asks twice.
func (v *Vault) Has(ctx context.Context, sha []byte) (bool, error) {
	name := hex.EncodeToString(sha)
	for _, key := range []string{OriginalKey(name), DerivativeKey(name, Sizes[0])} {
		if there, err := v.bucket.Exists(ctx, key); err != nil {
			return false, unwell(err)
		} else if !there {
			return false, nil
		}
	}
	return true, nil
}

// Delete deletes what lies here of a picture; sha in hex. What is gone already is no trouble.
func (v *Vault) Delete(ctx context.Context, sha string) error {
	keys := []string{OriginalKey(sha)}
	for _, size := range Sizes {
		keys = append(keys, DerivativeKey(sha, size))
	}
	for _, key := range keys {
		if err := v.bucket.Delete(ctx, key); err != nil && !IsMissing(err) {
			return unwell(err)
		}
	}
	return nil
}

// DeleteKey deletes what lies under one key.
func (v *Vault) DeleteKey(ctx context.Context, key string) error {
	if err := v.bucket.Delete(ctx, key); err != nil && !IsMissing(err) {
		return unwell(err)
	}
	return nil
}

const (
	probeTime = 10 * time.Second // how long the place for pictures may take to answer
	probeKept = 15 * time.Second // how long an answer counts, so that asking often costs nothing
)

// Ready writes a few bytes, reads them and removes them; the last answer counts for a while. ErrVault says what did not work.
func (v *Vault) Ready(ctx context.Context) error {
	v.mu.Lock()
	defer v.mu.Unlock()
	if time.Since(v.tried) > probeKept {
		v.outcome, v.tried = v.probe(ctx), time.Now()
	}
	return v.outcome
}

func (v *Vault) probe(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, probeTime)
	defer cancel()
	key, want := "probe/"+rand.Text(), []byte("ambrosa")
	if err := v.bucket.WriteAll(ctx, key, want, &blob.WriterOptions{ContentType: "text/plain"}); err != nil {
		return unwell(err)
	}
	got, err := v.bucket.ReadAll(ctx, key)
	if err != nil {
		return unwell(err)
	}
	if !bytes.Equal(got, want) {
		return &message.Error{Message: message.New("vault_other_bytes"), Of: ErrVault}
	}
	if err := v.bucket.Delete(ctx, key); err != nil {
		return unwell(err)
	}
	return nil
}

// unwell says in words what the place for pictures answered, without addresses, keys or paths; the whole is for the log.
func unwell(err error) error {
	if errors.Is(err, context.Canceled) {
		return err
	}
	slog.Warn("the place for pictures", "error", err)
	var m message.Message
	var network *net.OpError
	switch code := gcerrors.Code(err); {
	case errors.As(err, &network):
		m = message.New("vault_unreachable", "why", network.Err.Error())
	case code == gcerrors.NotFound:
		m = message.New("vault_missing")
	case code == gcerrors.PermissionDenied, errors.Is(err, fs.ErrPermission):
		m = message.New("vault_refused")
	case errors.Is(err, syscall.ENOSPC):
		m = message.New("vault_full")
	case code == gcerrors.DeadlineExceeded, errors.Is(err, context.DeadlineExceeded):
		m = message.New("vault_slow")
	default:
		m = message.New("vault_trouble")
	}
	return &message.Error{Message: m, Of: ErrVault}
}

// IsMissing reports whether an error of Open says that nothing lies there.
func IsMissing(err error) bool { return gcerrors.Code(err) == gcerrors.NotFound }

// OriginalKey is where a picture's own bytes lie; sha in hex.
func OriginalKey(sha string) string { return "original/" + sha[:2] + "/" + sha }

// DerivativeKey is where a derivative lies; size is one of Sizes.
func DerivativeKey(sha string, size int) string {
	return fmt.Sprintf("derived/%d/%s/%s.webp", size, sha[:2], sha)
}
