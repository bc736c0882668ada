// Package assets keeps the pictures' bytes: the originals under their SHA-256, the derivatives beside them,
// in a folder or an S3-compatible bucket.
package assets

import (
	"context"
	"encoding/hex"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"gocloud.dev/blob"
	_ "gocloud.dev/blob/fileblob" // file:// buckets
	_ "gocloud.dev/blob/s3blob"   // s3:// buckets
	"gocloud.dev/gcerrors"
)

// Vault is where bytes lie.
type Vault struct{ bucket *blob.Bucket }

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
	return &Vault{bucket}, nil
}

// Close lets go of the bucket.
func (v *Vault) Close() error { return v.bucket.Close() }

// Put stores a picture and its derivatives. Doing it twice changes nothing: names are content.
func (v *Vault) Put(ctx context.Context, sha []byte, format Format, src Source, p *Picture) error {
	for size, webp := range p.Derivatives {
		if err := v.bucket.WriteAll(ctx, DerivativeKey(hex.EncodeToString(sha), size), webp, &blob.WriterOptions{ContentType: "image/webp"}); err != nil {
			return fmt.Errorf("storing a derivative: %w", err)
		}
	}
	options := &blob.WriterOptions{ContentType: format.MIME}
	key := OriginalKey(hex.EncodeToString(sha))
	if src.File == "" {
		if err := v.bucket.WriteAll(ctx, key, src.Bytes, options); err != nil {
			return fmt.Errorf("storing a picture: %w", err)
		}
		return nil
	}
	f, err := os.Open(src.File)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := v.bucket.Upload(ctx, key, f, options); err != nil {
		return fmt.Errorf("storing a picture: %w", err)
	}
	return nil
}

// Open opens what lies under a key; the caller closes it. Size is in bytes.
func (v *Vault) Open(ctx context.Context, key string) (r io.ReadCloser, size int64, err error) {
	reader, err := v.bucket.NewReader(ctx, key, nil)
	if err != nil {
		return nil, 0, err
	}
	return reader, reader.Size(), nil
}

// IsMissing reports whether an error of Open says that nothing lies there.
func IsMissing(err error) bool { return gcerrors.Code(err) == gcerrors.NotFound }

// OriginalKey is where a picture's own bytes lie; sha in hex.
func OriginalKey(sha string) string { return "original/" + sha[:2] + "/" + sha }

// DerivativeKey is where a derivative lies; size is one of Sizes.
func DerivativeKey(sha string, size int) string {
	return fmt.Sprintf("derived/%d/%s/%s.webp", size, sha[:2], sha)
}
