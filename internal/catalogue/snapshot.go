package catalogue

import (
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"ambrosa/core/colour"
	"ambrosa/core/pairing"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"golang.org/x/sync/singleflight"
)

// Snapshot is the catalogue's owners as they stood at one version, ready to be paired with. It is shared: nobody changes it.
type Snapshot struct {
	Version int64
	Index   *pairing.Index
	Colours map[int64]string   // a variant's colour word
	Others  map[int64][]string // by product, the colour words of its variants
	Parent  map[int64]int64    // of every owner; 0 for none
	owners  []pairing.Owner    // with their own keys, but without those of options
	keyed   []pairing.Owner    // with those, as they are indexed
	options map[int64][]option // of those that have some
	whole   time.Time          // when all owners were read last
	kinds   *kinds
}

// kinds are a snapshot's owners of some kinds alone, made once where they are asked for.
type kinds struct {
	mu sync.Mutex
	of map[string]*Snapshot
}

// What kinds of owners a delivery is for.
const (
	Everything = ""
	Products   = "products" // and their variants
	Categories = "categories"
)

// Of is the snapshot with owners of some kinds alone, so that equal numbers do not meet across kinds. Cost: indexing them, once.
func (s *Snapshot) Of(which string) *Snapshot {
	if which == Everything {
		return s
	}
	s.kinds.mu.Lock()
	defer s.kinds.mu.Unlock()
	if some := s.kinds.of[which]; some != nil {
		return some
	}
	some := *s
	some.keyed, some.Parent = nil, map[int64]int64{}
	for _, o := range s.keyed {
		if (o.Kind == pairing.Category) == (which == Categories) {
			some.keyed = append(some.keyed, o)
			some.Parent[o.ID] = o.Parent
		}
	}
	some.Index = pairing.NewIndex(some.keyed)
	s.kinds.of[which] = &some
	return &some
}

// option is one option of an owner: what tells variants apart.
type option struct{ name, value string }

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

const (
	// mostChanged is the share of all owners, one in so many, up to which those that changed are read alone.
	mostChanged = 4
	// wholeAgain is when all owners are read again, whatever changed: well before the log of changes is cleared.
	wholeAgain = 24 * time.Hour
	logDays    = 7
)

// At returns the owners at a version of the catalogue, indexed once for all who ask. Cost: where the version is new, reading the
// owners that changed since the last, and indexing all.
func (s *Snapshots) At(ctx context.Context, version int64) (*Snapshot, error) {
	s.mu.Lock()
	last := s.last
	s.mu.Unlock()
	if last != nil && last.Version == version {
		return last, nil
	}
	// Who waits for the reading of another still ends when nobody waits for the answer any more.
	made := s.flight.DoChan(strconv.FormatInt(version, 10), func() (any, error) {
		fresh, err := s.next(context.WithoutCancel(ctx), last, version)
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

// next is the snapshot of a version: what changed since the last is read, or all where that is little less.
func (s *Snapshots) next(ctx context.Context, last *Snapshot, version int64) (*Snapshot, error) {
	snap := &Snapshot{Version: version, options: map[int64][]option{}}
	var ids []int64
	if last != nil && last.Version < version && time.Since(last.whole) < wholeAgain {
		most := len(last.owners) / mostChanged
		changed, err := s.Store.ChangedOwners(ctx, query.ChangedOwnersParams{Since: last.Version, Most: int32(most + 1)})
		if err != nil {
			return nil, err
		}
		if len(changed) <= most {
			ids = append(make([]int64, 0, len(changed)), changed...)
			snap.takeOver(last, ids)
		}
	}
	if ids == nil {
		snap.whole = time.Now()
	}
	rows, err := s.Store.KeyedOwners(ctx, ids)
	if err != nil {
		return nil, err
	}
	if snap.owners == nil {
		snap.owners = make([]pairing.Owner, 0, len(rows))
	}
	for i := range rows {
		if err := snap.add(&rows[i]); err != nil {
			return nil, err
		}
	}
	if ids != nil && snap.says(last, ids) {
		same := *last // what names are read for did not change
		same.Version = version
		return &same, nil
	}
	snap.index()
	return snap, nil
}

// says reports whether some owners are read for the same as in another snapshot, of which all others were taken over.
func (s *Snapshot) says(last *Snapshot, some []int64) bool {
	if len(s.owners) != len(last.owners) {
		return false
	}
	was := make(map[int64]*pairing.Owner, len(some))
	for _, id := range some {
		was[id] = nil
	}
	for i := range last.owners {
		if _, changed := was[last.owners[i].ID]; changed {
			was[last.owners[i].ID] = &last.owners[i]
		}
	}
	read := s.owners[len(s.owners)-min(len(some), len(s.owners)):] // they stand last
	for i := range read {
		now, old := &read[i], was[read[i].ID]
		if old == nil || !reflect.DeepEqual(now, old) || !reflect.DeepEqual(s.options[now.ID], last.options[now.ID]) {
			return false
		}
	}
	return true
}

// takeOver takes over all owners but some of another snapshot.
func (s *Snapshot) takeOver(last *Snapshot, but []int64) {
	s.whole = last.whole
	changed := make(map[int64]bool, len(but))
	for _, id := range but {
		changed[id] = true
	}
	s.owners = make([]pairing.Owner, 0, len(last.owners)+len(but))
	for _, o := range last.owners {
		if !changed[o.ID] {
			s.owners = append(s.owners, o)
		}
	}
	for id, of := range last.options {
		if !changed[id] {
			s.options[id] = of
		}
	}
}

func (s *Snapshot) add(row *query.KeyedOwnersRow) error {
	o := pairing.Owner{ID: row.ID, Kind: pairing.Kind(row.Kind), Parent: row.Parent, Keys: []pairing.Key{
		{Field: pairing.SKU, Text: row.Sku}, {Field: pairing.Barcode, Text: row.Barcode}, {Field: pairing.Title, Text: row.Title}}}
	if row.Code != "" {
		o.Keys = append(o.Keys, pairing.Key{Field: pairing.Code, Text: row.Code})
	}
	o.Keys = slices.Clip(o.Keys) // what is added for an index must not stand here
	if o.Kind == pairing.Category {
		o.Parent = 0 // a category stands beside its parent, it is no variant of it
	}
	if string(row.Options) != "{}" {
		options := map[string]string{}
		if err := json.Unmarshal(row.Options, &options); err != nil {
			return fmt.Errorf("options of %s: %w", row.Sku, err)
		}
		for name, value := range options {
			s.options[o.ID] = append(s.options[o.ID], option{name, value})
			o.Also = append(o.Also, value)
		}
		slices.SortFunc(s.options[o.ID], func(a, b option) int { return strings.Compare(a.name, b.name) })
		slices.Sort(o.Also)
	}
	s.owners = append(s.owners, o)
	return nil
}

// Crossed is the snapshot with more keys of some owners: those of a supplier's own. Cost: indexing all owners once more.
func (s *Snapshot) Crossed(keys map[int64][]string) *Snapshot {
	owners := slices.Clone(s.keyed)
	for i := range owners {
		o := &owners[i]
		for _, text := range keys[o.ID] {
			o.Keys = append(slices.Clip(o.Keys), pairing.Key{Field: pairing.Theirs, Text: text})
		}
	}
	crossed := *s
	crossed.Index = pairing.NewIndex(owners)
	return &crossed
}

// index makes of the owners what is looked up in them.
func (s *Snapshot) index() {
	s.Colours, s.Others, s.Parent = map[int64]string{}, map[int64][]string{}, make(map[int64]int64, len(s.owners))
	values := map[string][]string{}
	for i := range s.owners {
		o := &s.owners[i]
		s.Parent[o.ID] = o.Parent
		for _, of := range s.options[o.ID] {
			values[of.name] = append(values[of.name], of.value)
			if o.Kind == pairing.Variant && IsColour(of.name, of.value) {
				s.Colours[o.ID] = of.value
				s.Others[o.Parent] = append(s.Others[o.Parent], of.value)
			}
		}
	}
	telling := map[string]bool{}
	for name, of := range values {
		telling[name] = pairing.TellsApart(of)
	}
	owners := s.owners
	for i := range s.owners {
		for _, of := range s.options[s.owners[i].ID] {
			if !telling[of.name] || of.value == "" {
				continue
			}
			if &owners[0] == &s.owners[0] {
				owners = slices.Clone(s.owners)
			}
			owners[i].Keys = append(owners[i].Keys, pairing.Key{Field: pairing.Field(of.name), Text: of.value})
		}
	}
	s.keyed, s.Index, s.kinds = owners, pairing.NewIndex(owners), &kinds{of: map[string]*Snapshot{}}
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

// ClearLog removes old lines of the log of owners. An index that is older is made of all owners anew.
func ClearLog(ctx context.Context, s *store.Store) error { return s.ClearOwnerLog(ctx, logDays) }
