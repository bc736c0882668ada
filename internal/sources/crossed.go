package sources

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"ambrosa/core/pairing"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Entry is one line of a cross-reference: a supplier's code, and the SKU of whom it means.
type Entry struct {
	Code      string
	SKU       string
	Confirmed int // how often people paired so by hand
}

// MostEntries is how many lines are added to a cross-reference at once.
const MostEntries = 200_000

// AddEntries adds lines to a source's cross-reference and returns how many, and SKUs that the catalogue does not have, the first few.
func (s *Sources) AddEntries(ctx context.Context, person, id int64, entries []Entry) (added int64, unknown []string, err error) {
	if len(entries) > MostEntries {
		return 0, nil, ErrSettings
	}
	add := query.AddCrossedParams{Source: id, Person: person, Codes: []string{}, Skus: []string{}, Confirmed: []int32{}}
	seen := map[[2]string]bool{}
	for _, e := range entries {
		code, sku := strings.TrimSpace(plain(e.Code)), strings.TrimSpace(plain(e.SKU))
		if code == "" || sku == "" || seen[[2]string{code, sku}] {
			continue
		}
		seen[[2]string{code, sku}] = true
		add.Codes, add.Skus, add.Confirmed = append(add.Codes, code), append(add.Skus, sku), append(add.Confirmed, int32(e.Confirmed))
	}
	err = s.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if _, err := q.LockSource(ctx, id); err != nil {
			return err
		}
		if added, err = q.AddCrossed(ctx, add); err != nil {
			return err
		}
		if unknown, err = q.UnknownSKUs(ctx, query.UnknownSKUsParams{Skus: add.Skus, Most: 20}); err != nil {
			return err
		}
		return touched(ctx, q, id)
	})
	return added, unknown, err
}

// RemoveEntries removes the lines of some codes, of all where none is named.
func (s *Sources) RemoveEntries(ctx context.Context, id int64, codes []string) (n int64, err error) {
	if codes == nil {
		codes = []string{}
	}
	err = s.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if n, err = q.RemoveCrossed(ctx, query.RemoveCrossedParams{Source: id, Codes: codes}); err != nil {
			return err
		}
		return touched(ctx, q, id)
	})
	return n, err
}

// touched has the benches of the source's deliveries paired anew.
func touched(ctx context.Context, q *query.Queries, id int64) error {
	if err := q.TouchReferences(ctx, id); err != nil {
		return err
	}
	return q.TouchSourceBenches(ctx, &id)
}

// mostHand is how many decisions are looked through for lines that a cross-reference could learn.
const mostHand = 100_000

// Learnt are lines that a source's cross-reference could learn: what people paired by hand, where the name holds a code that is no line yet.
// The most often confirmed first.
func (s *Sources) Learnt(ctx context.Context, id int64) ([]Entry, error) {
	rows, err := s.Store.HandPaired(ctx, query.HandPairedParams{Source: &id, Most: mostHand})
	if err != nil {
		return nil, err
	}
	keys, err := s.Store.CrossKeys(ctx, id)
	if err != nil {
		return nil, err
	}
	known := map[string]bool{}
	for _, k := range keys {
		known[pairing.CodeOf(k.Code)] = true
	}
	counts := map[Entry]int{}
	for _, r := range rows {
		if code := pairing.CodeOf(r.Path); code != "" && !known[code] && code != pairing.CodeOf(r.Sku) && r.Sku != "" {
			counts[Entry{Code: code, SKU: r.Sku}]++
		}
	}
	all := make([]Entry, 0, len(counts))
	for e, n := range counts {
		e.Confirmed = n
		all = append(all, e)
	}
	slices.SortFunc(all, func(a, b Entry) int {
		return cmp.Or(cmp.Compare(b.Confirmed, a.Confirmed), cmp.Compare(a.Code, b.Code), cmp.Compare(a.SKU, b.SKU))
	})
	return all, nil
}

// ReadEntries reads lines of their code and our SKU, parted by a tab, a semicolon or a comma; what has no two parts is left out.
func ReadEntries(text string) (all []Entry) {
	for line := range strings.Lines(text) {
		line = strings.Trim(line, " \r\n\uFEFF")
		for _, parting := range []string{"\t", ";", ","} {
			code, sku, ok := strings.Cut(line, parting)
			if ok {
				sku, _, _ = strings.Cut(sku, parting)
				all = append(all, Entry{Code: strings.Trim(code, ` "`), SKU: strings.Trim(sku, ` "`)})
				break
			}
		}
	}
	return all
}
