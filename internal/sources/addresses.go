package sources

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"strings"
	"time"

	"ambrosa/core/page"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	list "ambrosa/internal/gather/source/listed"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// MostAddresses is how many addresses a source of them holds.
const MostAddresses = 1_000_000

// Address is one address of a source, and whose picture is there, where that is known.
type Address struct {
	Address string
	SKU     string
}

// ReadAddresses reads addresses out of a text: one a line, with the SKU before or behind it, parted by a tab, a semicolon, a comma or blanks.
// Lines without an address are returned as they are, but empty ones, and a first one, which may be a header.
func ReadAddresses(text string) (all []Address, wrong []string) {
	first := true
	for line := range strings.Lines(text) {
		line = strings.Trim(line, " \t\r\n\uFEFF")
		if line == "" {
			continue
		}
		a, ok := readAddress(line)
		if ok {
			all = append(all, a)
		} else if !first {
			wrong = append(wrong, line)
		}
		first = false
	}
	return all, wrong
}

func readAddress(line string) (a Address, ok bool) {
	at := strings.Index(strings.ToLower(line), "http")
	if at < 0 {
		return a, false
	}
	const parting = " \t;,\"'"
	before := strings.Trim(line[:at], parting)
	rest := line[at:]
	end := strings.IndexAny(rest, "\t ;\"")
	if comma := strings.LastIndexByte(rest, ','); end < 0 && before == "" && comma >= 0 && !strings.ContainsAny(rest[comma:], "/=&?.%") {
		end = comma // a comma may stand in an address; what looks like a code behind the last is none of it
	}
	behind := ""
	if end >= 0 {
		rest, behind = rest[:end], strings.Trim(rest[end:], parting)
	}
	if !page.IsWebAddress(rest) {
		return a, false
	}
	if before == "" {
		before = behind
	}
	return Address{rest, before}, true
}

// SetAddresses gives a source of addresses those that it has from now on.
func (s *Sources) SetAddresses(ctx context.Context, by Asker, id int64, all []Address) error {
	of, err := s.mine(ctx, by, id)
	if err != nil {
		return err
	}
	if of.Kind != string(Addresses) || len(all) > MostAddresses {
		return ErrSettings
	}
	rows := make([]query.SetAddressesParams, len(all))
	for i, a := range all {
		rows[i] = query.SetAddressesParams{SourceID: id, Row: int32(i + 1), Address: plain(a.Address), Sku: plain(a.SKU)}
	}
	return s.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if err := q.ClearAddresses(ctx, id); err != nil {
			return err
		}
		_, err := q.SetAddresses(ctx, rows)
		return err
	})
}

// addresses is a list of them that is visited.
type addresses struct {
	*Sources
	of query.Source
}

func (*addresses) close() {}

func (*addresses) ready(context.Context, []string) error { return nil }

func (a *addresses) list(ctx context.Context, found func(listed) error) ([]string, error) {
	for after := int32(0); ; {
		rows, err := a.Store.Addresses(ctx, query.AddressesParams{SourceID: a.of.ID, After: after, Most: portion})
		if err != nil || len(rows) == 0 {
			return nil, err
		}
		for _, r := range rows {
			after = r.Row
			if err := found(listed{path: r.Address, bytes: -1, sku: r.Sku}); err != nil {
				return nil, err
			}
		}
	}
}

// open asks for an address, only if what is there changed since it was asked for last.
func (a *addresses) open(of query.VisitToFetchRow) source.Item {
	it := source.Item{Path: list.PathOf(of.Path), Bytes: -1, Version: of.Sum}
	if of.Sku != "" {
		it.Said = []source.Said{{Field: "sku", Text: of.Sku, By: a.of.Name}}
	}
	if from, err := json.Marshal(cameFrom{Address: of.Path}); err == nil {
		it.From = from
	}
	ask := fetch.Request{URL: of.Path, Bytes: a.Gatherer.Limits.EntryBytes, ETag: strings.TrimPrefix(of.Sum, etag)}
	if of.Modified != nil {
		ask.Since = *of.Modified
	}
	it.Open = a.opening(ask, cameFrom{Address: of.Path})
	return it
}

// opening asks for a picture at an address when it is opened, and says where it came from.
func (s *Sources) opening(ask fetch.Request, from cameFrom) func(context.Context) (io.ReadCloser, error) {
	return func(ctx context.Context) (io.ReadCloser, error) {
		answer, err := list.Ask(ctx, s.Fetch, ask)
		if err != nil {
			return nil, err
		}
		if answer.Unchanged {
			return nil, errors.Join(source.ErrUnchanged, answer.Body.Close())
		}
		return &answered{answer.Body, from, answer}, nil
	}
}

// etag begins a checksum that is a server's own.
const etag = "etag:"

// cameFrom is where a picture came from, as it is kept with its arrival.
type cameFrom struct {
	Address  string     `json:"address,omitempty"`
	Page     string     `json:"page,omitempty"`    // on which it stands
	Licence  string     `json:"licence,omitempty"` // that a service states for it
	Path     string     `json:"path,omitempty"`    // on a drive
	Sum      string     `json:"sum,omitempty"`
	Modified *time.Time `json:"modified,omitempty"`
}

// answered is what came from an address, and what the server there said of it.
type answered struct {
	io.ReadCloser
	from   cameFrom
	answer *fetch.Response
}

func (a *answered) Origin() json.RawMessage {
	from := a.from
	if a.answer.ETag != "" {
		from.Sum = etag + plain(a.answer.ETag)
	}
	if !a.answer.Modified.IsZero() {
		from.Modified = &a.answer.Modified
	}
	b, err := json.Marshal(from)
	if err != nil {
		return nil
	}
	return b
}
