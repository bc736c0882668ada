package sources

import (
	"context"
	"encoding/json"
	"net/url"
	"time"

	"ambrosa/core/page"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Guide is a version of how a source's pages are read.
type Guide struct {
	Version int
	Guide   page.Guide
	Person  string
	At      time.Time
}

// SetGuide keeps a new version of a source's guide and returns its number. page.ErrGuide for one that can't be, ErrNotMine.
func (s *Sources) SetGuide(ctx context.Context, by Asker, id int64, guide page.Guide) (version int, err error) {
	of, err := s.mine(ctx, by, id)
	if err != nil {
		return 0, err
	}
	if of.Kind != string(Pages) {
		return 0, ErrSettings
	}
	if err := guide.Check(); err != nil {
		return 0, err
	}
	kept, err := json.Marshal(guide)
	if err != nil {
		return 0, err
	}
	err = s.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if _, err := q.LockSource(ctx, id); err != nil { // two who keep one at once get two numbers
			return err
		}
		n, err := q.AddGuide(ctx, query.AddGuideParams{Source: id, Guide: kept, By: by.Person})
		version = int(n)
		return err
	})
	return version, err
}

// GuideOf is a source's guide: a version, or with 0 the latest. pgx.ErrNoRows where there is none.
func (s *Sources) GuideOf(ctx context.Context, id int64, version int) (g Guide, err error) {
	row, err := s.Store.GuideOf(ctx, query.GuideOfParams{Source: id, Version: int32(version)})
	if err != nil {
		return g, err
	}
	g = Guide{Version: int(row.Version), Person: row.Person, At: row.At}
	return g, json.Unmarshal(row.Guide, &g.Guide)
}

// GuideFor is the guide by which pages of an address's host are read; ok is false where nobody made one.
func (s *Sources) GuideFor(ctx context.Context, address string) (page.Guide, bool) {
	at, err := url.Parse(address)
	if err != nil || at.Host == "" {
		return page.Guide{}, false
	}
	row, err := s.Store.GuideForHost(ctx, at.Host)
	if err != nil {
		return page.Guide{}, false // without one, pages are read all the same
	}
	var g page.Guide
	return g, json.Unmarshal(row, &g) == nil
}
