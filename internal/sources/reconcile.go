package sources

import (
	"context"

	"ambrosa/internal/jobs"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Reconciling is the kind of work that puts a drive beside all pictures; its subject is the source.
const Reconciling = "reconcile"

// Ignored marks a file of a drive that is not collected any more.
const Ignored = "ignored"

// beside puts what lies on a drive, as it was listed, beside all pictures: by what came from there before, else by name, else by size where
// only one picture has it. It costs a pass over all arrivals.
const beside = `INSERT INTO reconciled (source_id, item, n, path, bytes, modified, what, arrival_id)
WITH there AS (SELECT DISTINCT ON (l.item) l.*, lower(regexp_replace(l.path, '^.*/', '')) AS name FROM listing l WHERE l.delivery_id = $2 ORDER BY l.item),
here AS (SELECT a.id, a.asset_id, s.bytes, lower(regexp_replace(a.path, '^.*/', '')) AS name FROM arrival a JOIN asset s ON s.id = a.asset_id),
came AS (SELECT t.item, (SELECT max(a.id) FROM arrival a WHERE a.asset_id = r.asset_id) AS id,
    CASE WHEN t.sum <> '' AND r.sum <> '' THEN t.sum = r.sum ELSE t.bytes = r.bytes AND t.modified IS NOT DISTINCT FROM r.modified END AS same
    FROM there t JOIN remote_file r ON r.source_id = $1 AND r.item = t.item AND r.asset_id IS NOT NULL),
named AS (SELECT DISTINCT ON (t.item) t.item, h.id, h.bytes = t.bytes AS same FROM there t JOIN here h ON h.name = t.name ORDER BY t.item, (h.bytes = t.bytes) DESC, h.id DESC),
sized AS (SELECT t.item, max(h.id) AS id FROM there t JOIN here h ON h.bytes = t.bytes WHERE t.bytes > 0 GROUP BY t.item HAVING count(DISTINCT h.asset_id) = 1)
SELECT $1, t.item, row_number() OVER (ORDER BY t.path), t.path, t.bytes, t.modified,
    CASE WHEN c.item IS NOT NULL THEN CASE WHEN c.same THEN 'same' ELSE 'differs' END WHEN m.item IS NOT NULL THEN CASE WHEN m.same THEN 'same' ELSE 'differs' END
        WHEN z.item IS NOT NULL THEN 'elsewhere' ELSE 'only_there' END, coalesce(c.id, m.id, z.id)
FROM there t LEFT JOIN came c ON c.item = t.item LEFT JOIN named m ON m.item = t.item LEFT JOIN sized z ON z.item = t.item`

// Reconcile asks for a drive to be put beside all pictures. ErrNotCollected where the source is none.
func (s *Sources) Reconcile(ctx context.Context, person, id int64) error {
	return s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		of, err := q.LockSource(ctx, id)
		switch {
		case err != nil:
			return err
		case of.RemovedAt != nil:
			return pgx.ErrNoRows
		case of.Kind != string(Drive):
			return ErrNotCollected
		}
		return s.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Reconciling, Subject: id, Title: of.Name, Person: person})
	})
}

// reconcile does the work: it lists the drive, and compares it as a whole.
func (s *Sources) reconcile(ctx context.Context, id int64) error {
	of, err := s.Store.SourceByID(ctx, id)
	if err != nil {
		return err
	}
	d, err := s.drive(ctx, of)
	if err != nil {
		return trouble(err, of.Name)
	}
	there := &folder{Drive: d, name: of.Name}
	defer there.close()
	listing := -id // those of visits have the numbers of deliveries
	_, _, err = s.enlist(ctx, listing, onlyPictures{there}, func(listed) bool { return true }, func(found int64) error {
		return s.Jobs.StepWith(ctx, Reconciling, id, found, 0, nil)
	})
	if err != nil {
		return err
	}
	return s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "ANALYZE listing"); err != nil {
			return err
		}
		if err := q.ClearReconciled(ctx, id); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, beside, id, listing); err != nil {
			return err
		}
		if err := q.ReconcileRest(ctx, id); err != nil {
			return err
		}
		if err := q.ClearListing(ctx, listing); err != nil {
			return err
		}
		return s.Jobs.Finish(ctx, q, tx, Reconciling, id)
	})
}

// onlyPictures is a drive of which only what is named like a picture is told.
type onlyPictures struct{ *folder }

func (p onlyPictures) list(ctx context.Context, found func(listed) error) ([]string, error) {
	return p.folder.list(ctx, func(l listed) error {
		if !isPicture(l.path) {
			return nil
		}
		return found(l)
	})
}

// Ignore has files of a drive, as it was put beside the pictures last, not collected any more, or again.
func (s *Sources) Ignore(ctx context.Context, id int64, items []string, ignored bool) error {
	if !ignored {
		return s.Store.UnmarkRemote(ctx, query.UnmarkRemoteParams{Source: id, Items: items})
	}
	_, err := s.Store.MarkRemote(ctx, query.MarkRemoteParams{Source: id, Items: items, Mark: Ignored})
	return err
}
