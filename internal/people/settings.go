package people

import (
	"context"
	"encoding/json"
	"errors"

	"ambrosa/core/change"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// mostSettings is how many bytes a person's settings may have.
const mostSettings = 32 << 10

// ErrSettings is returned for settings that are no object or too many.
var ErrSettings = errors.New("settings are a JSON object of at most 32 kB")

// Settings are what a person set for themselves: theme, density, keys, language, columns. What they mean is the screens' own.
func (r *Register) Settings(ctx context.Context, person int64) (json.RawMessage, error) {
	return r.Store.Settings(ctx, person)
}

// Set changes some of a person's settings by a merge patch (RFC 7396). Errors: ErrSettings.
func (r *Register) Set(ctx context.Context, person int64, patch json.RawMessage) (now json.RawMessage, err error) {
	err = r.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		was, err := q.LockSettings(ctx, person)
		if err != nil {
			return err
		}
		if now, err = change.Merge(was, patch); err != nil {
			return ErrSettings
		}
		var object map[string]json.RawMessage
		if json.Unmarshal(now, &object) != nil || object == nil || len(now) > mostSettings {
			return ErrSettings
		}
		return q.SetSettings(ctx, query.SetSettingsParams{ID: person, Settings: now})
	})
	return now, err
}
