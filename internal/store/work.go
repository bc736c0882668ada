package store

import (
	"context"

	"github.com/jackc/pgx/v5"
)

// WorkCount is how much there is of one kind of work in one state.
type WorkCount struct {
	Of, Kind, State string
	Count           int64
}

// WorkCounts counts the queue and the jobs by their state. Written by hand: the queue's table is made by its library.
func (s *Store) WorkCounts(ctx context.Context) ([]WorkCount, error) {
	rows, err := s.Pool.Query(ctx, `SELECT 'queue', kind, state::text, count(*) FROM river_job WHERE state <> 'completed' GROUP BY kind, state
		UNION ALL SELECT 'job', kind, state, count(*) FROM job GROUP BY kind, state`)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[WorkCount])
}
