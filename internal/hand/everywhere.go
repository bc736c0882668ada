package hand

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"

	core "ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
)

var (
	// ErrSiblings is returned for owners that do not stand side by side.
	ErrSiblings = errors.New("they do not stand at the same place; only what stands side by side has an order")
	// ErrRule is returned for a house rule that there is not.
	ErrRule = errors.New("there is no such house rule")
)

// Search says which owners are meant: of a kind, those in and below a category, that a text finds, that have no picture.
type Search struct {
	Kind    string // category or product
	Below   int64
	Text    string
	Without bool
}

// Find returns the numbers of the owners that are meant. pgx.ErrNoRows where the category is not there. Cost: of categories all, as there
// are few; of products by what the search finds.
func (h *Hand) Find(ctx context.Context, s Search) ([]int64, error) {
	p := query.OwnersMeantParams{Kind: s.Kind, Owners: []int64{}, Likes: []string{}, Without: s.Without}
	var err error
	if p.Categories, err = catalogue.Below(ctx, h.Store, s.Below); err != nil {
		return nil, err
	}
	if s.Below != 0 && s.Kind == core.Category { // below it, not itself
		p.Categories = slices.DeleteFunc(p.Categories, func(id int64) bool { return id == s.Below })
		if len(p.Categories) == 0 {
			return nil, nil
		}
	}
	switch {
	case s.Text == "":
	case s.Kind == core.Category:
		p.Likes = Likes(s.Text)
	default:
		found, err := catalogue.SearchProducts(ctx, h.Store, s.Text)
		if err != nil || len(found) == 0 {
			return nil, err
		}
		p.Owners = found
	}
	return h.Store.OwnersMeant(ctx, p)
}

// Page returns a page of the owners that are meant, behind one of them: their numbers, where the next begins, and how many there are in
// all.
func (h *Hand) Page(ctx context.Context, s Search, after string, most int) (ids []int64, next string, total int, err error) {
	all, err := h.Find(ctx, s)
	if err != nil {
		return nil, "", 0, err
	}
	total = len(all)
	if last, err := strconv.ParseInt(after, 10, 64); err == nil {
		all = all[slices.Index(all, last)+1:]
	}
	if len(all) > most {
		all = all[:most]
		next = strconv.FormatInt(all[most-1], 10)
	}
	return all, next, total, nil
}

// Likes are patterns for the words of a text, as the database compares them with lower-case texts; empty for none.
func Likes(text string) []string {
	all := []string{}
	for _, word := range strings.Fields(strings.ToLower(text)) {
		all = append(all, "%"+store.EscapeLike(word)+"%")
	}
	return all
}

// Everywhere keeps the plan that gives one picture to all owners meant, under a house rule, and returns its number. Errors:
// ErrRule, ledger.ErrNothingToDo, pgx.ErrNoRows. Cost: by the owners that are meant.
func (h *Hand) Everywhere(ctx context.Context, person int64, title string, s Search, asset int64, rule placement.Rule) (int64, error) {
	if !slices.Contains(placement.Rules, rule) {
		return 0, ErrRule
	}
	owners, err := h.Find(ctx, s)
	if err != nil {
		return 0, err
	}
	wishes := make(map[int64][]placement.Wish, len(owners))
	one := []placement.Wish{{Picture: placement.Picture{Asset: asset}}}
	for _, id := range owners {
		wishes[id] = one
	}
	return h.keep(ctx, person, title, owners, wishes, rule)
}

// Offered keeps the plan that gives categories without a picture the main picture of the product that stands first in them, or below
// them, and returns its number; some alone where they are named.
func (h *Hand) Offered(ctx context.Context, person int64, title string, some []int64) (int64, error) {
	offers, err := h.Offers(ctx)
	if err != nil {
		return 0, err
	}
	var owners []int64
	wishes := map[int64][]placement.Wish{}
	for _, o := range offers {
		if len(some) == 0 || slices.Contains(some, o.Category) {
			owners = append(owners, o.Category)
			wishes[o.Category] = []placement.Wish{{Picture: placement.Picture{Asset: o.Asset}}}
		}
	}
	return h.keep(ctx, person, title, owners, wishes, placement.OnlyWhereEmpty)
}

// Offer is a picture that a category without one could have.
type Offer struct {
	Category, Product, Asset int64
	Sha                      string
}

// Offers are the pictures that categories without one could have, by category. Cost: the main pictures of the products, and all
// categories.
func (h *Hand) Offers(ctx context.Context) ([]Offer, error) {
	rows, err := h.Store.CategoryOffers(ctx)
	all := make([]Offer, len(rows))
	for i, r := range rows {
		all[i] = Offer{r.Category, r.Product, r.Asset, r.Sha}
	}
	return all, err
}

func (h *Hand) keep(ctx context.Context, person int64, title string, owners []int64, wishes map[int64][]placement.Wish, rule placement.Rule) (int64, error) {
	var changes []change.Change
	gone := 0
	for some := range slices.Chunk(owners, atOnce) {
		standing, err := pictures.Placed(ctx, h.Store.Queries, some)
		if err != nil {
			return 0, err
		}
		for _, c := range placement.Plan(some, standing, wishes, rule) {
			changes = append(changes, c)
			gone += len(placement.Gone(standing[c.ID], placement.Apply(standing[c.ID], wishes[c.ID], rule)))
		}
	}
	d := ledger.Draft{Kind: PlanKind, Title: title, Person: person}
	if gone > 0 {
		d.Counts = map[string]int{"gone": gone}
	}
	return h.Ledger.Keep(ctx, d, changes)
}

// atOnce is how many owners are read together.
const atOnce = 10_000
