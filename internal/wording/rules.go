// Package wording makes the texts of pictures on their owners by the house's rules: for plans that place pictures, and as plans of their
// own.
package wording

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ambrosa/core/wording"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	texts "ambrosa/internal/subject/wording"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

var (
	// ErrCase is returned for a case that there is not.
	ErrCase = errors.New("there is no such case; there are upper, lower, title and sentence")
	// ErrTwice is returned for a second rule for the same owners, text and language.
	ErrTwice = errors.New("there is a rule for these owners, this text and this language already; change that one")
	// ErrBranch is returned for a category that is not there.
	ErrBranch = errors.New("there is no such category")
)

// Wording keeps rules and makes texts.
type Wording struct {
	Store  *store.Store
	Ledger *ledger.Ledger
	shelf  shelf
	hues   hues
}

// New makes texts for the plans of a ledger.
func New(s *store.Store, l *ledger.Ledger) *Wording {
	w := &Wording{Store: s, Ledger: l}
	l.Register(texts.Subject{})
	l.Complete = w.Complete
	return w
}

// Rule is a rule as it is kept.
type Rule struct {
	ID          int64
	Kind        string
	Branch      int64
	BranchTitle string
	Language    string
	Field       wording.Field
	Pattern     string
	Most        int
	Case        string
	Person      string
	ChangedAt   time.Time
}

// Rules are those of the house with a number above one, by number, at most so many.
func (w *Wording) Rules(ctx context.Context, after, most int64) ([]Rule, error) {
	rows, err := w.Store.WordingRules(ctx, query.WordingRulesParams{After: after, Most: &most})
	all := make([]Rule, len(rows))
	for i, r := range rows {
		all[i] = Rule{ID: r.ID, Kind: r.Kind, Branch: r.Branch, BranchTitle: r.BranchTitle, Language: r.Language, Field: wording.Field(r.Field), Pattern: r.Pattern,
			Most: int(r.Most), Case: r.LetterCase, Person: r.Person, ChangedAt: r.ChangedAt}
	}
	return all, err
}

// Read reads a rule's pattern. Errors: those of core/wording, ErrCase.
func (r Rule) Read() (*wording.Pattern, error) {
	p, err := wording.Parse(r.Pattern, r.Field, r.Language)
	if err != nil {
		return nil, err
	}
	if !wording.IsCase(r.Case) {
		return nil, fmt.Errorf("%q: %w", r.Case, ErrCase)
	}
	if _, err := wording.InOrder(map[wording.Field]*wording.Pattern{r.Field: p}); err != nil {
		return nil, err
	}
	p.Limit, p.Case = r.Most, r.Case
	return p, nil
}

// Save keeps a rule, a new one where its ID is 0, and returns its number. Errors: those of Read, wording.ErrLoop with others, ErrTwice,
// ErrBranch, pgx.ErrNoRows.
func (w *Wording) Save(ctx context.Context, person int64, r Rule) (int64, error) {
	p, err := r.Read()
	if err != nil {
		return 0, err
	}
	if err := w.goesWith(ctx, r, p); err != nil {
		return 0, err
	}
	add := query.AddWordingRuleParams{Kind: r.Kind, Branch: orNil(r.Branch), Language: p.Language.String(), Field: string(r.Field), Pattern: r.Pattern,
		Most: int32(r.Most), LetterCase: r.Case, ChangedBy: &person}
	if r.ID == 0 {
		id, err := w.Store.AddWordingRule(ctx, add)
		return id, said(err)
	}
	n, err := w.Store.SetWordingRule(ctx, query.SetWordingRuleParams{ID: r.ID, Kind: add.Kind, Branch: add.Branch, Language: add.Language, Field: add.Field,
		Pattern: add.Pattern, Most: add.Most, LetterCase: add.LetterCase, ChangedBy: add.ChangedBy})
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return r.ID, said(err)
}

// goesWith reports wording.ErrLoop where a rule and others of its language name each other in a circle.
func (w *Wording) goesWith(ctx context.Context, r Rule, p *wording.Pattern) error {
	rules, err := w.rules(ctx, w.Store.Queries)
	if err != nil {
		return err
	}
	patterns := map[wording.Field]*wording.Pattern{}
	for _, other := range rules {
		if other.ID != r.ID && other.Pattern.Language == p.Language && (other.Kind == "" || r.Kind == "" || other.Kind == r.Kind) {
			patterns[other.Pattern.Field] = other.Pattern
		}
	}
	patterns[r.Field] = p
	_, err = wording.InOrder(patterns)
	return err
}

// said is what a fault of the database means.
func said(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		switch pg.Code { // PostgreSQL, appendix A
		case "23505":
			return ErrTwice
		case "23503":
			return ErrBranch
		}
	}
	return err
}

// Remove removes a rule. pgx.ErrNoRows.
func (w *Wording) Remove(ctx context.Context, id int64) error {
	n, err := w.Store.RemoveWordingRule(ctx, id)
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}

// rules are the rules, ready to be chosen from.
func (w *Wording) rules(ctx context.Context, q *query.Queries) ([]wording.Rule, error) {
	rows, err := q.WordingRules(ctx, query.WordingRulesParams{}) // a few dozen
	if err != nil {
		return nil, err
	}
	rules := make([]wording.Rule, 0, len(rows))
	for _, r := range rows {
		p, err := (Rule{Field: wording.Field(r.Field), Language: r.Language, Pattern: r.Pattern, Most: int(r.Most), Case: r.LetterCase}).Read()
		if err != nil {
			return nil, fmt.Errorf("rule %d: %w", r.ID, err)
		}
		rules = append(rules, wording.Rule{ID: r.ID, Kind: r.Kind, Branch: r.Branch, Pattern: p})
	}
	return rules, nil
}

func orNil(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}
