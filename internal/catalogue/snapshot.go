package catalogue

import (
	"context"
	"slices"
	"strconv"
	"sync"

	"ambrosa/core/colour"
	"ambrosa/core/pairing"
	"ambrosa/internal/store"

	"golang.org/x/sync/singleflight"
)

// Snapshot is the catalogue's owners as they stood at one version, ready to be paired with. It is shared: nobody changes it.
type Snapshot struct {
	Version int64
	Index   *pairing.Index
	Colours map[int64]string   // a variant's colour word
	Others  map[int64][]string // by product, the colour words of its variants
	Parent  map[int64]int64    // of every owner; 0 for none
}

// Has reports whether the catalogue has an owner.
func (s *Snapshot) Has(owner int64) bool {
	_, ok := s.Parent[owner]
	return ok
}

// Snapshots keeps the last snapshot, for all who pair.
type Snapshots struct {
	Store *store.Store

	mu     sync.Mutex
	last   *Snapshot
	flight singleflight.Group
}

// At gives the owners at a version of the catalogue, indexed once for all who ask. Cost: where the version is new, reading and
// indexing all owners.
func (s *Snapshots) At(ctx context.Context, version int64) (*Snapshot, error) {
	s.mu.Lock()
	last := s.last
	s.mu.Unlock()
	if last != nil && last.Version == version {
		return last, nil
	}
	// Who waits for the reading of another still ends when nobody waits for the answer any more.
	made := s.flight.DoChan(strconv.FormatInt(version, 10), func() (any, error) {
		fresh, err := s.read(context.WithoutCancel(ctx), version)
		if err == nil {
			s.mu.Lock()
			s.last = fresh
			s.mu.Unlock()
		}
		return fresh, err
	})
	select {
	case r := <-made:
		if r.Err != nil {
			return nil, r.Err
		}
		return r.Val.(*Snapshot), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

func (s *Snapshots) read(ctx context.Context, version int64) (*Snapshot, error) {
	rows, err := s.Store.AllOwners(ctx)
	if err != nil {
		return nil, err
	}
	snap := &Snapshot{Version: version, Colours: map[int64]string{}, Others: map[int64][]string{}, Parent: map[int64]int64{}}
	owners := make([]pairing.Owner, 0, len(rows))
	attributes := map[string][]string{}
	options := make([]map[string]string, len(rows))
	for i, row := range rows {
		c, err := store.CatalogueOwner(row)
		if err != nil {
			return nil, err
		}
		o := pairing.Owner{ID: c.ID, Kind: pairing.Kind(c.Kind), Parent: c.Parent, Keys: []pairing.Key{
			{Field: pairing.SKU, Text: c.SKU}, {Field: pairing.Barcode, Text: c.Barcode}, {Field: pairing.Title, Text: c.Title}}}
		if c.Code != "" {
			o.Keys = append(o.Keys, pairing.Key{Field: pairing.Code, Text: c.Code})
		}
		if o.Kind == pairing.Category {
			o.Parent = 0 // a category stands beside its parent, it is no variant of it
		}
		options[i] = c.Options
		for name, value := range c.Options {
			o.Also = append(o.Also, value)
			attributes[name] = append(attributes[name], value)
			if o.Kind == pairing.Variant && IsColour(name, value) {
				snap.Colours[o.ID] = value
				snap.Others[o.Parent] = append(snap.Others[o.Parent], value)
			}
		}
		slices.Sort(o.Also)
		snap.Parent[o.ID] = o.Parent
		owners = append(owners, o)
	}
	for name, values := range attributes {
		if !pairing.TellsApart(values) {
			continue
		}
		for i := range owners {
			if value := options[i][name]; value != "" {
				owners[i].Keys = append(owners[i].Keys, pairing.Key{Field: pairing.Field(name), Text: value})
			}
		}
	}
	snap.Index = pairing.NewIndex(owners)
	return snap, nil
}

// colourOptions are the names of an option that says a colour, whatever its value. Common practice, no source.
var colourOptions = map[string]bool{"colour": true, "color": true, "farbe": true, "couleur": true, "colore": true, "kleur": true}

// IsColour reports whether an option says a colour.
func IsColour(option, value string) bool {
	if colourOptions[option] {
		return true
	}
	_, named := colour.Named(value)
	return named
}
