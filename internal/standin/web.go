package standin

import (
	"bytes"
	"context"
	"log/slog"
	"net"
	"net/http"
	"time"
)

// Page is what a web server answers at a path.
type Page struct {
	Bytes  []byte
	Status int // 0 for 200
	Header map[string]string
	Wait   <-chan struct{} // what it waits for before it answers; nil for nothing
}

// Web answers as suppliers' web servers do, on loopback, until ctx ends. Answer gives what is at a path, nil where there is nothing. It
// returns where it listens.
func Web(ctx context.Context, answer func(r *http.Request) *Page) (address string, err error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	serve(ctx, listener, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		p := answer(r)
		if p == nil {
			http.NotFound(w, r)
			return
		}
		if p.Wait != nil {
			select {
			case <-p.Wait:
			case <-r.Context().Done():
				return
			}
		}
		for name, value := range p.Header {
			w.Header().Set(name, value)
		}
		if p.Status == 0 { // with parts, and with what is as it was
			http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(p.Bytes))
			return
		}
		w.WriteHeader(p.Status)
		if _, err := w.Write(p.Bytes); err != nil {
			slog.Debug("the stand-in could not answer", "error", err)
		}
	}))
	return listener.Addr().String(), nil
}
