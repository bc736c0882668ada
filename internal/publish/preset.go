package publish

import (
	"context"
	"encoding/json"
	"errors"

	"ambrosa/core/channel"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// ErrListName is returned for a saved list without a name.
var ErrListName = errors.New("a saved list needs a name")

// SaveList saves a list under a name, for other channels; one of that name is replaced. Errors: ErrListName, channel.ErrChannel.
func (p *Publish) SaveList(ctx context.Context, person int64, name string, l channel.List) (int64, error) {
	name, ok := cleanName(name)
	if !ok {
		return 0, ErrListName
	}
	if err := l.Check(); err != nil {
		return 0, err
	}
	says, err := json.Marshal(l)
	if err != nil {
		return 0, err
	}
	return p.Store.SaveListPreset(ctx, query.SaveListPresetParams{Name: name, Says: says, Person: person})
}

// RemoveList removes a saved list; the channels that were begun with it keep theirs. Errors: pgx.ErrNoRows.
func (p *Publish) RemoveList(ctx context.Context, id int64) error {
	n, err := p.Store.RemoveListPreset(ctx, id)
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}
