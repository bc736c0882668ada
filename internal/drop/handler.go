package drop

import (
	"context"
	"errors"
	"io"
	"net/http"

	"golang.org/x/net/webdav"
)

// Methods are those that RFC 4918 adds to HTTP's.
var Methods = []string{"PROPFIND", "PROPPATCH", "MKCOL", "COPY", "MOVE", "LOCK", "UNLOCK"}

// Handler serves a folder below a prefix of addresses.
func Handler(prefix string, folder *Folder) http.Handler {
	served := &webdav.Handler{Prefix: prefix, FileSystem: folder, LockSystem: webdav.NewMemLS()}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodPut {
			served.ServeHTTP(w, r)
			return
		}
		if err := folder.Room(); err != nil {
			http.Error(w, err.Error(), http.StatusInsufficientStorage)
			return
		}
		if r.ContentLength > 0 && r.ContentLength > folder.room(r.ContentLength) {
			http.Error(w, ErrQuota.Error(), http.StatusInsufficientStorage)
			return
		}
		of := &state{}
		r = r.WithContext(context.WithValue(r.Context(), stateKey{}, of))
		r.Body = &body{ReadCloser: r.Body, of: of, bytes: r.ContentLength}
		served.ServeHTTP(&answer{ResponseWriter: w, of: of}, r)
	})
}

// body notes whether all of it came.
type body struct {
	io.ReadCloser
	of    *state
	bytes int64 // -1 where nobody knows
	read  int64
}

func (b *body) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	b.read += int64(n)
	b.of.whole = errors.Is(err, io.EOF) && (b.bytes < 0 || b.read == b.bytes) || b.bytes >= 0 && b.read == b.bytes
	return n, err
}

// answer says that there is no room where that is why a file was not kept: the library has one answer for all.
type answer struct {
	http.ResponseWriter
	of *state
}

func (a *answer) WriteHeader(status int) {
	if status >= http.StatusBadRequest && a.of.err != nil {
		status = http.StatusInsufficientStorage
	}
	a.ResponseWriter.WriteHeader(status)
}
