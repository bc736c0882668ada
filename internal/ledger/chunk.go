package ledger

import (
	"context"
	"errors"
	"slices"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/internal/jobs"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// One transaction makes so many changes, of so many bytes: enough that the statements' own cost vanishes, few enough that a
// stop is felt at once and that they fit in memory.
const (
	chunkLines = 2000
	chunkBytes = 8 << 20
)

// apply works through a run's plan. Each chunk and its ledger lines commit together, so it can be ended
// anywhere and taken up again at the first line not yet in the ledger.
func (l *Ledger) apply(ctx context.Context, run int64) error {
	for more := true; more; {
		var err error
		if more, err = l.chunk(ctx, run); err != nil {
			return err
		}
	}
	return nil
}

// tries is how often a chunk is begun again that the database ended because others waited for it in a circle.
const tries = 5

// chunk applies the next changes of a run and reports whether there are more. jobs.ErrStopped where it was asked to stop.
func (l *Ledger) chunk(ctx context.Context, run int64) (more bool, err error) {
	for try := 1; ; try++ {
		more, err = l.once(ctx, run)
		if !circular(err) || try == tries {
			return more, err
		}
	}
}

// circular reports whether the database ended a transaction that would succeed if it were begun again. Source: PostgreSQL,
// appendix A, codes 40001 and 40P01.
func circular(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "40P01" || pg.Code == "40001")
}

// chunk is one on its way.
type chunk struct {
	ledger *Ledger
	q      *query.Queries
	tx     pgx.Tx
	run    query.LockRunRow
	rows   []row
	left   map[int32]message.Message
}

func (l *Ledger) once(ctx context.Context, run int64) (more bool, err error) {
	ahead, err := l.outside(ctx, run)
	if err != nil {
		return false, err
	}
	stopped := false
	err = l.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		at, err := q.LockRun(ctx, run)
		if err != nil {
			return err
		}
		if state := jobs.State(at.State); state.Over() {
			return nil
		} else if state == jobs.Stopping {
			stopped, err = l.Jobs.Step(ctx, q, tx, Work, run, int64(at.Done), int64(at.Changes), 0)
			return err
		}
		c := &chunk{ledger: l, q: q, tx: tx, run: at, left: map[int32]message.Message{}}
		if ahead != nil {
			if ahead.run.Done != at.Done { // another process has done them meanwhile
				more = true
				return nil
			}
			c.rows, c.left = ahead.rows, ahead.left
		} else if c.rows, err = l.next(ctx, tx, at); err != nil {
			return err
		}
		if err := c.make(ctx); err != nil {
			return err
		}
		if err := c.enter(ctx); err != nil {
			return err
		}
		done := at.Done
		if len(c.rows) > 0 {
			done = c.rows[len(c.rows)-1].Seq
		}
		if stopped, err = l.Jobs.Step(ctx, q, tx, Work, run, int64(done), int64(at.Changes), 0); err != nil {
			return err
		}
		if more = done < at.Changes && len(c.rows) > 0; !more {
			err = l.Jobs.Finish(ctx, q, tx, Work, run)
		}
		killpoint.Pass(killpoint.ChunkWritten)
		return err
	})
	if err == nil {
		killpoint.Pass(killpoint.ChunkCommitted)
		if stopped && more {
			err = jobs.ErrStopped
		}
	}
	return more && !stopped, err
}

// row is a line as it is kept.
type row struct {
	change.Change
	undoes *int32
}

// read reads the next lines of a run, as many and as large as a chunk may be, but one at least. By hand, as it ends in the middle
// of the answer where the lines are large.
func read(ctx context.Context, tx pgx.Tx, at query.LockRunRow) ([]row, error) {
	found, err := tx.Query(ctx, `SELECT seq, subject, subject_id, before, after, undoes FROM plan_change
		WHERE plan_id = $1 AND seq > $2 AND seq <= $2 + $3::int ORDER BY seq`, at.PlanID, at.Done, chunkLines)
	if err != nil {
		return nil, err
	}
	defer found.Close()
	var rows []row
	for bytes := 0; found.Next(); {
		var r row
		if err := found.Scan(&r.Seq, &r.Subject, &r.ID, &r.Before, &r.After, &r.undoes); err != nil {
			return nil, err
		}
		if bytes += len(r.Before) + len(r.After); bytes > chunkBytes && len(rows) > 0 {
			break
		}
		rows = append(rows, r)
	}
	found.Close()
	return rows, found.Err()
}

// next returns the next lines of a run. Lines that do work outside come by themselves, in their batches.
func (l *Ledger) next(ctx context.Context, tx pgx.Tx, at query.LockRunRow) ([]row, error) {
	rows, err := read(ctx, tx, at)
	if err != nil || len(rows) == 0 {
		return rows, err
	}
	first, most := rows[0].Subject, len(rows)
	outside, is := l.subjects[first].(Outside)
	if is {
		most = min(most, max(outside.Batch(), 1))
	}
	for i, r := range rows[:most] {
		_, other := l.subjects[r.Subject].(Outside)
		if is && r.Subject != first || !is && other {
			return rows[:i], nil
		}
	}
	return rows[:most], nil
}

// outside does what the next lines do outside the database, where they do, and returns those lines; else nil. What already stands
// in the way of a line leaves it alone before anything is done for it.
func (l *Ledger) outside(ctx context.Context, run int64) (*chunk, error) {
	if !l.hasOutside {
		return nil, nil
	}
	name, err := l.Store.NextSubject(ctx, run)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	subject, is := l.subjects[name].(Outside)
	if err != nil || !is {
		return nil, err
	}
	c := &chunk{ledger: l, left: map[int32]message.Message{}}
	var can []change.Change
	err = l.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) (err error) {
		if c.run, err = q.LockRun(ctx, run); err != nil {
			return err
		}
		if state := jobs.State(c.run.State); state.Over() || state == jobs.Stopping {
			return nil
		}
		if c.rows, err = l.next(ctx, tx, c.run); err != nil {
			return err
		}
		c.q, c.tx = q, tx
		if can, err = c.free(ctx); err == nil {
			can, err = l.unchanged(ctx, tx, can, c.left)
		}
		return err
	})
	if err != nil || len(c.rows) == 0 {
		return nil, err
	}
	if len(can) == 0 {
		return c, nil
	}
	left, err := subject.Do(ctx, can)
	c.leave(left)
	killpoint.Pass(killpoint.OutsideDone)
	return c, err
}

func (c *chunk) leave(lines []Left) {
	for _, l := range lines {
		c.left[l.Seq] = l.Message
	}
}

// make makes the changes in their order, together as far as they are of one subject. All that they write or rely on is locked
// first, in one order for everybody, so that two runs wait for each other and never in a circle.
func (c *chunk) make(ctx context.Context) error {
	changes, err := c.free(ctx)
	if err != nil {
		return err
	}
	var locks []Lock
	for group := range groups(changes) {
		s, err := c.ledger.subject(group[0].Subject)
		if err != nil {
			return err
		}
		locks = append(locks, s.Locks(group)...)
	}
	if err := lock(ctx, c.tx, locks); err != nil {
		return err
	}
	topics := map[string]bool{}
	for group := range groups(changes) {
		s := c.ledger.subjects[group[0].Subject]
		can, err := c.ledger.unchanged(ctx, c.tx, group, c.left)
		if err != nil {
			return err
		}
		if len(can) == 0 {
			continue
		}
		left, err := s.Write(ctx, c.tx, can)
		if err != nil {
			return err
		}
		c.leave(left)
		made := slices.DeleteFunc(can, func(one change.Change) bool { _, is := c.left[one.Seq]; return is })
		if len(made) == 0 {
			continue
		}
		for _, topic := range s.Topics(made) {
			topics[topic] = true
		}
	}
	for topic := range topics {
		if err := store.Notify(ctx, c.tx, store.Notice(topic)); err != nil {
			return err
		}
	}
	return nil
}

// groups yields consecutive changes of one subject.
func groups(changes []change.Change) func(yield func([]change.Change) bool) {
	return func(yield func([]change.Change) bool) {
		for from := 0; from < len(changes); {
			to := from + 1
			for to < len(changes) && changes[to].Subject == changes[from].Subject {
				to++
			}
			if !yield(changes[from:to]) {
				return
			}
			from = to
		}
	}
}

// free returns the changes that are neither held, nor taken back by another undo, nor left alone already.
func (c *chunk) free(ctx context.Context) ([]change.Change, error) {
	seqs := make([]int32, len(c.rows))
	var undoes []int32
	for i, r := range c.rows {
		seqs[i] = r.Seq
		if r.undoes != nil {
			undoes = append(undoes, *r.undoes)
		}
	}
	if c.run.Holds {
		held, err := c.q.HeldLines(ctx, query.HeldLinesParams{PlanID: c.run.PlanID, Seqs: seqs})
		if err != nil {
			return nil, err
		}
		for _, h := range held {
			if c.left[h.Seq], err = kept(h.Code, h.Data); err != nil {
				return nil, err
			}
		}
	}
	undone := map[int32]bool{}
	if c.run.Undoes != nil {
		lines, err := c.q.UndoneLines(ctx, query.UndoneLinesParams{RunID: *c.run.Undoes, Seqs: undoes})
		if err != nil {
			return nil, err
		}
		for _, seq := range lines {
			undone[seq] = true
		}
	}
	changes := make([]change.Change, 0, len(c.rows))
	for _, r := range c.rows {
		if r.undoes != nil && undone[*r.undoes] {
			c.left[r.Seq] = message.New("undone_already")
		}
		if _, is := c.left[r.Seq]; !is {
			changes = append(changes, r.Change)
		}
	}
	return changes, nil
}

// unchanged returns those changes of one subject whose thing stands as the plan found it, and notes of the others what stands
// against them.
func (l *Ledger) unchanged(ctx context.Context, tx pgx.Tx, group []change.Change, left map[int32]message.Message) ([]change.Change, error) {
	if len(group) == 0 {
		return nil, nil
	}
	s, err := l.subject(group[0].Subject)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(group))
	for i, one := range group {
		ids[i] = one.ID
	}
	standing, err := s.Standing(ctx, tx, ids)
	if err != nil {
		return nil, err
	}
	can := make([]change.Change, 0, len(group))
	for _, one := range group {
		if code := one.Conflict(standing[one.ID], s.Same); code != "" {
			left[one.Seq] = message.New(string(code))
		} else {
			can = append(can, one)
		}
	}
	return can, nil
}

// enter writes what became of each line, and, where it takes another run's lines back, that they are.
func (c *chunk) enter(ctx context.Context) error {
	if len(c.rows) == 0 {
		return nil
	}
	made, left := make([]int32, 0, len(c.rows)), make([]query.EnterLeftParams, 0, len(c.left))
	leave := make([]int32, 0, len(c.left))
	for _, r := range c.rows {
		why, is := c.left[r.Seq]
		if !is {
			made = append(made, r.Seq)
			continue
		}
		data, err := object(why.Data)
		if err != nil {
			return err
		}
		leave = append(leave, r.Seq)
		left = append(left, query.EnterLeftParams{RunID: c.run.ID, Seq: r.Seq, Code: why.Code, Data: data})
	}
	err := c.q.EnterLines(ctx, query.EnterLinesParams{Run: c.run.ID, First: c.rows[0].Seq, Last: c.rows[len(c.rows)-1].Seq, Leave: leave})
	if err != nil {
		return err
	}
	if len(left) > 0 {
		if _, err := c.q.EnterLeft(ctx, left); err != nil {
			return err
		}
	}
	if c.run.Undoes != nil {
		if err := c.q.SettleUndo(ctx, query.SettleUndoParams{Run: c.run.ID, Seqs: made}); err != nil {
			return err
		}
	}
	return c.q.AddToRun(ctx, query.AddToRunParams{ID: c.run.ID, Applied: int32(len(made)), LeftAlone: int32(len(left))})
}
