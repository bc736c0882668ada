package people

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/alexedwards/argon2id"
	"github.com/jackc/pgx/v5"
)

var (
	// ErrLastAdmin is returned for a change after which nobody could look after people.
	ErrLastAdmin = errors.New("this is the last admin who can sign in; make somebody else an admin first")
	// ErrFormer is returned for a change of somebody whose name was removed.
	ErrFormer = errors.New("the name of this person was removed; add a new person instead")
)

// Former is what somebody is called whose name was removed on their wish.
func Former(id int64) string { return fmt.Sprintf("former person %d", id) }

// change changes a person under a lock, and tells in the audit list. The last admin stays one.
func (r *Register) change(ctx context.Context, by, id int64, code string, data map[string]any, to func(p *query.ChangePersonParams)) error {
	return r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		// Admins are changed one after the other, so that two can't make each other the last.
		if _, err := tx.Exec(ctx, "SELECT pg_advisory_xact_lock(hashtext('people'))"); err != nil {
			return err
		}
		was, err := q.LockPerson(ctx, id)
		if err != nil {
			return err
		}
		if was.Name == Former(id) {
			return ErrFormer
		}
		p := query.ChangePersonParams{ID: id, Name: was.Name, Role: was.Role, EndedAt: was.EndedAt}
		to(&p)
		if p.Role != string(Admin) || p.EndedAt != nil {
			others, err := q.CountAdmins(ctx, id)
			if err != nil {
				return err
			}
			if others == 0 && was.Role == string(Admin) && was.EndedAt == nil {
				return ErrLastAdmin
			}
		}
		if err := q.ChangePerson(ctx, p); err != nil {
			return err
		}
		if p.EndedAt != nil {
			if err := q.RevokeTokens(ctx, id); err != nil {
				return err
			}
			if err := endSessions(ctx, q, tx, id, nil); err != nil {
				return err
			}
		}
		return audit(ctx, q, by, id, code, data)
	})
}

// SetRole changes what somebody may do, at once. Errors: ErrRole, ErrLastAdmin, ErrFormer.
func (r *Register) SetRole(ctx context.Context, by, id int64, role Role) error {
	if rank[role] == 0 {
		return ErrRole
	}
	return r.change(ctx, by, id, roleChanged, map[string]any{"role": role}, func(p *query.ChangePersonParams) { p.Role = string(role) })
}

// Deactivate ends somebody's sessions and tokens and lets them sign in no more; what they did stays under their name, or, on their
// wish, under none. Errors: ErrLastAdmin, ErrFormer.
func (r *Register) Deactivate(ctx context.Context, by, id int64, withoutName bool) error {
	code := deactivated
	if withoutName {
		code = anonymised
	}
	return r.change(ctx, by, id, code, nil, func(p *query.ChangePersonParams) {
		now := time.Now()
		p.EndedAt = &now
		if withoutName {
			p.Name = Former(id)
		}
	})
}

// Activate lets somebody sign in again. Errors: ErrFormer.
func (r *Register) Activate(ctx context.Context, by, id int64) error {
	return r.change(ctx, by, id, activated, nil, func(p *query.ChangePersonParams) { p.EndedAt = nil })
}

// EndSessions signs somebody out everywhere.
func (r *Register) EndSessions(ctx context.Context, by, id int64) error {
	return r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if err := endSessions(ctx, q, tx, id, nil); err != nil {
			return err
		}
		return audit(ctx, q, by, id, sessionsEnded, nil)
	})
}

// endSessions ends a person's sessions but for one, and tells who listens by them.
func endSessions(ctx context.Context, q *query.Queries, tx pgx.Tx, person int64, but []byte) error {
	if but == nil {
		but = []byte{}
	}
	n, err := q.EndSessions(ctx, query.EndSessionsParams{PersonID: person, But: but})
	if err != nil || n == 0 {
		return err
	}
	return store.Notify(ctx, tx, store.Topic(store.SessionEnded, 0))
}

// SetPassword changes a person's own password and ends their other sessions. Errors: ErrSignIn where the old one is wrong, ErrTooMany,
// ErrWeak, ErrBusy.
func (r *Register) SetPassword(ctx context.Context, id int64, session, old, new string) error {
	if len([]rune(new)) < minPassword {
		return ErrWeak
	}
	row, err := r.Store.PersonByID(ctx, id)
	if err != nil {
		return err
	}
	right, err := compare(ctx, old, row.PasswordHash)
	if err != nil {
		return err
	}
	if !right {
		return ErrPassword
	}
	hash, err := argon2id.CreateHash(new, argon2id.DefaultParams)
	if err != nil {
		return err
	}
	return r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if err := q.SetPassword(ctx, query.SetPasswordParams{ID: id, PasswordHash: hash}); err != nil {
			return err
		}
		if err := endSessions(ctx, q, tx, id, digest(session)); err != nil {
			return err
		}
		return audit(ctx, q, id, id, passwordChanged, nil)
	})
}
