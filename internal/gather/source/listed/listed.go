// Package listed is the source of pictures that a list names: at addresses, or lying in the list's own file.
package listed

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"path"
	"strconv"
	"strings"

	"ambrosa/core/message"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive"
)

// Entry is one picture that a list names.
type Entry struct {
	Address string // of a web server; or of a cell, in which the picture lies
	Part    string // of the list's file, where the picture lies in it
	Row     int    // that names it first
	SKU     string // whose it is, as the row says
}

// List is what names pictures.
type List interface {
	// Name is what people call it.
	Name() string
	// Count is how many pictures it names, as far as that is known.
	Count() int64
	// Each tells them in the order of the rows, those behind a row.
	Each(ctx context.Context, after int, visit func(Entry) error) error
	// Part opens a part of the list's file.
	Part(name string) (io.ReadCloser, error)
	Close() error
}

// Source is what one list names.
type Source struct {
	Open   func(context.Context) (List, error)
	Fetch  *fetch.Fetcher
	Limits source.Limits
}

var _ source.Source = (*Source)(nil)

// Check tells whether the list is there.
func (s *Source) Check(ctx context.Context) error {
	list, err := s.Open(ctx)
	if err != nil {
		return err
	}
	return list.Close()
}

// origin is where a picture came from, as it is kept.
type origin struct {
	Address string `json:"address"`
	Row     int    `json:"row"`
}

// Walk shows the pictures in the order in which the list names them; one that is named twice comes once. A cursor is a row. Memory grows
// with the addresses.
func (s *Source) Walk(ctx context.Context, from source.Cursor, tell func(source.Progress) error, visit func(source.Item) error) error {
	list, err := s.Open(ctx)
	if err != nil {
		return err
	}
	defer list.Close()
	if err := tell(source.Progress{Items: list.Count()}); err != nil {
		return err
	}
	after, _ := strconv.Atoi(string(from)) // the empty cursor is the beginning
	seen := map[string]bool{}
	return list.Each(ctx, after-1, func(e Entry) error {
		if seen[e.Address] {
			return nil
		}
		seen[e.Address] = true
		kept, err := json.Marshal(origin{e.Address, e.Row})
		if err != nil {
			return err
		}
		sum := sha256.Sum256([]byte(e.Address)) // an address may be longer than a key of the database
		it := source.Item{ID: hex.EncodeToString(sum[:16]), Path: pathOf(e), Bytes: -1, From: kept, Next: source.Cursor(strconv.Itoa(e.Row)),
			Open: func(ctx context.Context) (io.ReadCloser, error) { return s.open(ctx, list, e) }}
		if e.SKU != "" {
			it.Said = []source.Said{{Field: "sku", Text: e.SKU, By: fmt.Sprintf("%s, row %d", list.Name(), e.Row)}}
		}
		return visit(it)
	})
}

// pathOf is what a picture is called: see PathOf; or the cell that it lies in.
func pathOf(e Entry) string {
	if e.Part != "" {
		name, _ := archive.EntryName(strings.TrimPrefix(e.Address, "cell:")+path.Ext(e.Part), nil)
		return name
	}
	return PathOf(e.Address)
}

// PathOf is what a picture at an address is called: the file's name in it, in folders named for the server.
func PathOf(address string) string {
	name := ""
	if u, err := url.Parse(address); err == nil {
		name = u.Hostname() + "/" + strings.Trim(path.Clean("/"+u.Path), "/")
	}
	name, _ = archive.EntryName(strings.TrimLeft(name, "/"), nil)
	return name
}

// open opens one picture. Errors: a *source.Problem where the picture can't be had.
func (s *Source) open(ctx context.Context, list List, e Entry) (io.ReadCloser, error) {
	if e.Part != "" {
		r, err := list.Part(e.Part)
		if err != nil {
			return nil, source.NewProblem(source.Damaged, "cell_picture_unreadable", "cell", strings.TrimPrefix(e.Address, "cell:"))
		}
		return r, nil
	}
	answer, err := Ask(ctx, s.Fetch, fetch.Request{URL: e.Address, Bytes: s.Limits.EntryBytes})
	if err != nil {
		return nil, err
	}
	return answer.Body, nil
}

// Ask asks for a picture at an address. Errors: a *source.Problem where it can't be had, ctx's.
func Ask(ctx context.Context, f *fetch.Fetcher, ask fetch.Request) (*fetch.Response, error) {
	answer, err := f.Get(ctx, ask)
	switch {
	case err == nil:
		return answer, nil
	case ctx.Err() != nil:
		return nil, ctx.Err()
	}
	return nil, &source.Problem{Fault: source.Unreachable, Says: Failure(err, ask.URL)}
}

// Failure is what an error of fetching an address says to people.
func Failure(err error, address string) message.Message {
	for _, of := range []struct {
		err  error
		code string
	}{{fetch.ErrRefused, "fetch_refused"}, {fetch.ErrAddress, "fetch_address"}, {fetch.ErrRedirects, "fetch_redirects"}, {fetch.ErrLarge, "fetch_large"},
		{fetch.ErrSlow, "fetch_slow"}} {
		if errors.Is(err, of.err) {
			return message.New(of.code, "address", address)
		}
	}
	if errors.Is(err, fetch.ErrStatus) {
		_, status, _ := strings.Cut(err.Error(), fetch.ErrStatus.Error()+" ")
		return message.New("fetch_status", "address", address, "status", status)
	}
	return message.New("fetch_failed", "address", address)
}
