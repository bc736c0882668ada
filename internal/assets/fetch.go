package assets

import (
	"context"
	"errors"
	"io"
	"os"

	"gocloud.dev/blob"
)

// inMemory is up to how many bytes of a picture are read into memory to be worked on; of a larger one a file is made.
const inMemory = 64 << 20

// Fetch brings a picture's own bytes here, to be decoded; sha in hex. drop removes what was made for it.
func (v *Vault) Fetch(ctx context.Context, sha string) (src Source, drop func(), err error) {
	r, size, err := v.Open(ctx, OriginalKey(sha))
	if err != nil {
		return src, nil, err
	}
	defer r.Close()
	if size <= inMemory {
		src.Bytes, err = io.ReadAll(r)
		return src, func() {}, err
	}
	f, err := os.CreateTemp("", "ambrosa-look-*")
	if err != nil {
		return src, nil, err
	}
	drop = func() { os.Remove(f.Name()) }
	_, err = io.Copy(f, r)
	if err = errors.Join(err, f.Close()); err != nil {
		drop()
		return src, nil, err
	}
	return Source{File: f.Name()}, drop, nil
}

// RenditionKey is where lies what was made for channels; key in hex.
func RenditionKey(key string) string { return "rendition/" + key[:2] + "/" + key }

// PutBlob stores what was made, under a key of this package. Doing it twice changes nothing.
func (v *Vault) PutBlob(ctx context.Context, key string, r io.Reader) error {
	ctx, cancel := context.WithTimeout(ctx, putTime)
	defer cancel()
	if err := v.bucket.Upload(ctx, key, r, &blob.WriterOptions{ContentType: "application/octet-stream"}); err != nil {
		return unwell(err)
	}
	return nil
}

// HasBlob reports whether something lies under a key.
func (v *Vault) HasBlob(ctx context.Context, key string) (bool, error) {
	there, err := v.bucket.Exists(ctx, key)
	if err != nil {
		return false, unwell(err)
	}
	return there, nil
}
