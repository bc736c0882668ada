package standin

import (
	"context"
	"crypto/subtle"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"os"
	"time"

	"golang.org/x/net/webdav"
)

// WebDAV answers as a supplier's drive does, on loopback, until ctx ends: a folder that can be read by one name and password. It returns where
// it listens.
func WebDAV(ctx context.Context, folder, name, password string) (address string, err error) {
	return webDAV(ctx, readOnly{webdav.Dir(folder)}, name, password)
}

// WebDAVShop is WebDAV as a shop has it, into which one writes.
func WebDAVShop(ctx context.Context, folder, name, password string) (address string, err error) {
	return webDAV(ctx, webdav.Dir(folder), name, password)
}

func webDAV(ctx context.Context, files webdav.FileSystem, name, password string) (address string, err error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	served := &webdav.Handler{FileSystem: files, LockSystem: webdav.NewMemLS()}
	serve(ctx, listener, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		n, p, _ := r.BasicAuth()
		if subtle.ConstantTimeCompare([]byte(n+"\n"+p), []byte(name+"\n"+password)) != 1 {
			w.Header().Set("WWW-Authenticate", `Basic realm="drive"`)
			http.Error(w, "who asks?", http.StatusUnauthorized)
			return
		}
		served.ServeHTTP(w, r)
	}))
	return listener.Addr().String(), nil
}

// serve answers on a listener until ctx ends.
func serve(ctx context.Context, listener net.Listener, handler http.Handler) {
	server := &http.Server{ReadHeaderTimeout: 10 * time.Second, Handler: handler}
	go func() {
		<-ctx.Done()
		server.Close()
	}()
	go func() {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			slog.Error("a stand-in for the outside world ended", "error", err)
		}
	}()
}

// readOnly is a folder that nobody writes to.
type readOnly struct{ webdav.Dir }

func (readOnly) Mkdir(context.Context, string, os.FileMode) error { return os.ErrPermission }
func (readOnly) RemoveAll(context.Context, string) error          { return os.ErrPermission }
func (readOnly) Rename(context.Context, string, string) error     { return os.ErrPermission }
func (r readOnly) OpenFile(ctx context.Context, name string, flag int, perm os.FileMode) (webdav.File, error) {
	if flag&(os.O_WRONLY|os.O_RDWR|os.O_CREATE|os.O_TRUNC) != 0 {
		return nil, os.ErrPermission
	}
	return r.Dir.OpenFile(ctx, name, flag, perm)
}
