// Package standin is the simulated outside world that ships with the demo: what a supplier's servers would answer.
package standin

import (
	"context"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"time"
)

// Web answers as suppliers' web servers do, on loopback, until ctx ends. Pictures gives the bytes at a path, nil where there is nothing.
// It returns where it listens.
func Web(ctx context.Context, pictures func(path string) []byte) (address string, err error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	server := &http.Server{ReadHeaderTimeout: 10 * time.Second, Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		b := pictures(r.URL.Path)
		if b == nil {
			http.NotFound(w, r)
			return
		}
		w.Header().Set("Content-Type", http.DetectContentType(b))
		if _, err := w.Write(b); err != nil {
			slog.Debug("the stand-in could not answer", "error", err)
		}
	})}
	go func() {
		<-ctx.Done()
		server.Close()
	}()
	go func() {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			slog.Error("the stand-in for suppliers' servers ended", "error", err)
		}
	}()
	return listener.Addr().String(), nil
}
