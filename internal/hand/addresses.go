package hand

import (
	"context"
	"encoding/json"
	"errors"
	"io"

	"ambrosa/core/page"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/listed"
)

// SourceKind is the kind of deliveries that are fetched from addresses which a person gave for owners.
const SourceKind = "hand"

// MostAddresses is how many a person may give at once.
const MostAddresses = 100

// ErrAddress is returned for what is no address of a picture.
var ErrAddress = errors.New("it is no address that pictures are fetched from; it begins with http:// or https:// and has no name or password in it")

// collected is what a delivery keeps of its addresses.
type collected struct {
	Kind      string   `json:"kind"`
	Addresses []string `json:"addresses"`
}

// Collecting fetches pictures from addresses.
type Collecting struct {
	Gatherer *gather.Gatherer
	Fetch    *fetch.Fetcher
}

// Collect begins a delivery of the pictures at addresses and returns its number. ErrAddress.
func (c *Collecting) Collect(ctx context.Context, person int64, title string, addresses []string) (int64, error) {
	for _, a := range addresses {
		if !page.IsWebAddress(a) {
			return 0, ErrAddress
		}
	}
	of, err := json.Marshal(collected{SourceKind, addresses})
	if err != nil {
		return 0, err
	}
	return c.Gatherer.Collect(ctx, title, of, person)
}

// Source opens the source of such a delivery.
func (c *Collecting) Source(_ int64, of json.RawMessage) (source.Source, error) {
	var from collected
	if err := json.Unmarshal(of, &from); err != nil {
		return nil, err
	}
	return &listed.Source{Fetch: c.Fetch, Limits: c.Gatherer.Limits, Open: func(context.Context) (listed.List, error) {
		return list(from.Addresses), nil
	}}, nil
}

// list is addresses as what names pictures.
type list []string

func (list) Name() string { return "" }

func (l list) Count() int64 { return int64(len(l)) }

func (l list) Each(_ context.Context, after int, visit func(listed.Entry) error) error {
	for i, address := range l {
		if i+1 <= after {
			continue
		}
		if err := visit(listed.Entry{Address: address, Row: i + 1}); err != nil {
			return err
		}
	}
	return nil
}

func (list) Part(string) (io.ReadCloser, error) { return nil, source.ErrGone }

func (list) Close() error { return nil }
