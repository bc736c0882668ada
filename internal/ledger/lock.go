package ledger

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"github.com/jackc/pgx/v5"
)

// classLock is the first number of the advisory locks of classes as a whole; the second is the class's place.
const classLock = 953

// lock takes locks: class by class, in each the class as a whole first, then its rows by number, those that are written before
// those that only must stay. A row asked for twice is locked once, as strongly as it was asked for.
func lock(ctx context.Context, tx pgx.Tx, locks []Lock) error {
	strong := map[string]map[int64]bool{}
	for _, l := range locks {
		if !slices.Contains(classes, l.Class) {
			return fmt.Errorf("there is no class of locks %q", l.Class)
		}
		if strong[l.Class] == nil {
			strong[l.Class] = map[int64]bool{}
		}
		strong[l.Class][l.ID] = strong[l.Class][l.ID] || !l.Share
	}
	for place, class := range classes {
		ids := strong[class]
		if alone, asked := ids[0]; asked {
			how := "pg_advisory_xact_lock_shared"
			if alone {
				how = "pg_advisory_xact_lock"
			}
			if _, err := tx.Exec(ctx, "SELECT "+how+"($1, $2)", classLock, place); err != nil {
				return err
			}
			delete(ids, 0)
		}
		written := slices.Sorted(maps.Keys(ids))
		shared := slices.Clone(written)
		written = slices.DeleteFunc(written, func(id int64) bool { return !ids[id] })
		shared = slices.DeleteFunc(shared, func(id int64) bool { return ids[id] })
		for _, some := range []struct {
			ids []int64
			how string
		}{{written, "NO KEY UPDATE"}, {shared, "SHARE"}} {
			if len(some.ids) == 0 {
				continue
			}
			if _, err := tx.Exec(ctx, "SELECT FROM "+class+" WHERE id = ANY ($1) ORDER BY id FOR "+some.how, some.ids); err != nil {
				return err
			}
		}
	}
	return nil
}
