package upload

import (
	"context"
	"crypto/sha256"
	"io"
	"os"
)

// hash is the SHA-256 of a file; it ends with ctx.
func hash(ctx context.Context, f *os.File) ([]byte, error) {
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	sum := sha256.New()
	buf := make([]byte, 1<<20)
	for ctx.Err() == nil {
		n, err := f.Read(buf)
		sum.Write(buf[:n])
		if err == io.EOF {
			return sum.Sum(nil), nil
		}
		if err != nil {
			return nil, err
		}
	}
	return nil, ctx.Err()
}
