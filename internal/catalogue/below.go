package catalogue

import (
	"context"

	"ambrosa/internal/store"

	"github.com/jackc/pgx/v5"
)

// Below returns a category and all that stand in it, however deep; an empty list for category 0, which is none. pgx.ErrNoRows where the
// category is not there.
func Below(ctx context.Context, s *store.Store, category int64) ([]int64, error) {
	if category == 0 {
		return []int64{}, nil
	}
	ids, err := s.CategoriesBelow(ctx, category)
	if err == nil && len(ids) == 0 {
		err = pgx.ErrNoRows
	}
	return ids, err
}
