// Package people knows who uses the product: passwords, sessions, access tokens and roles.
package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"net/netip"
	"strings"
	"sync"
	"time"

	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/alexedwards/argon2id"
	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/semaphore"
	"golang.org/x/text/unicode/norm"
)

var (
	// ErrSignIn is returned for a wrong name or password, without saying which.
	ErrSignIn = errors.New("name or password is wrong")
	// ErrTooMany is returned after too many wrong attempts for one name from one network, whatever the password.
	ErrTooMany = errors.New("too many wrong attempts; try again in a quarter of an hour")
	// ErrUnknown is returned for a session or token that is not, or no longer, good.
	ErrUnknown = errors.New("sign in first")
	// ErrTaken is returned for a name that somebody has.
	ErrTaken = errors.New("this name is taken already")
	// ErrWeak is returned for a password that is too short.
	ErrWeak = fmt.Errorf("a password has at least %d characters", minPassword)
	// ErrRole is returned for an unknown role.
	ErrRole = errors.New("a role is viewer, editor or admin")
	// ErrName is returned for a name that is empty, too long, or holds other characters.
	ErrName = errors.New("a name has 1 to 60 letters, digits, spaces and . - _ '")
	// ErrNobody is returned for a name that nobody has.
	ErrNobody = errors.New("nobody is called")
	// ErrPassword is returned where a person's present password is wrong.
	ErrPassword = errors.New("the present password is wrong")
	// ErrBusy is returned where too many sign in at the same moment.
	ErrBusy = errors.New("many people sign in at this moment; try again in a few seconds")
)

const (
	minPassword  = 10
	sessionLasts = 14 * 24 * time.Hour
	maxFailures  = 8 // within a quarter of an hour, for one name from one network
	mostHashed   = 2 // passwords at once: each takes 64 MiB and a core
	hashingWait  = 10 * time.Second
)

// Role says what a person may do; each may do what those before it may.
type Role string

const (
	Anybody Role = "anybody" // who has not signed in may do what needs this; nobody has it
	Viewer  Role = "viewer"
	Editor  Role = "editor"
	Admin   Role = "admin"
)

var rank = map[Role]int{Viewer: 1, Editor: 2, Admin: 3}

// May reports whether the role includes another.
func (r Role) May(needed Role) bool { return rank[r] >= rank[needed] }

// Person is who is signed in. CSRF is the token that a session's changing requests must carry; a token's
// requests carry none, as no browser sends a token by itself.
type Person struct {
	ID   int64
	Name string
	Role Role
	CSRF string
}

// Register is where people are kept.
type Register struct{ Store *store.Store }

// hashing bounds the memory that signing in can take, over all registers of the process.
var hashing = semaphore.NewWeighted(mostHashed)

// Add adds a person; by is who does it, 0 for the command line. Errors: ErrName, ErrWeak, ErrRole, ErrTaken, also for a name that
// looks like another's.
func (r *Register) Add(ctx context.Context, by int64, name, password string, role Role) (id int64, err error) {
	if name, err = cleanName(name); err != nil {
		return 0, err
	}
	switch {
	case len([]rune(password)) < minPassword:
		return 0, ErrWeak
	case rank[role] == 0:
		return 0, ErrRole
	}
	hash, err := argon2id.CreateHash(password, argon2id.DefaultParams)
	if err != nil {
		return 0, err
	}
	err = r.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "LOCK TABLE person IN SHARE ROW EXCLUSIVE MODE"); err != nil {
			return err
		}
		others, err := q.PeopleNames(ctx)
		if err != nil {
			return err
		}
		for _, other := range others {
			if looksLike(other) == looksLike(name) {
				return fmt.Errorf("%w, or one that looks like it: %s", ErrTaken, other)
			}
		}
		if id, err = q.AddPerson(ctx, query.AddPersonParams{Name: name, PasswordHash: hash, Role: string(role)}); err != nil {
			return err
		}
		return audit(ctx, q, by, id, added, map[string]any{"role": role})
	})
	return id, err
}

// SignIn returns the token of a new session for a name and password. from is the address asked from. An attempt is counted
// before the password is looked at, so that many at once are no more than one after the other. Errors: ErrSignIn,
// ErrTooMany, ErrBusy.
func (r *Register) SignIn(ctx context.Context, name, password string, from netip.Addr) (session string, person Person, err error) {
	name = norm.NFKC.String(strings.TrimSpace(name))
	subject := looksLike(name) + "@" + network(from)
	attempt, err := r.Store.AddSigninAttempt(ctx, subject)
	if err != nil {
		return "", Person{}, err
	}
	attempts, err := r.Store.CountSigninAttempts(ctx, subject)
	if err != nil {
		return "", Person{}, err
	}
	if attempts > maxFailures {
		// One that was not looked at does not lengthen the wait.
		return "", Person{}, errors.Join(ErrTooMany, r.Store.DropSigninAttempt(ctx, attempt))
	}
	row, err := r.Store.PersonByName(ctx, name)
	hash := row.PasswordHash
	if errors.Is(err, pgx.ErrNoRows) {
		hash = nobody() // the same work for an unknown name, so that time doesn't tell who is here
	} else if err != nil {
		return "", Person{}, err
	}
	right, err := compare(ctx, password, hash)
	if errors.Is(err, ErrBusy) {
		return "", Person{}, errors.Join(err, r.Store.DropSigninAttempt(ctx, attempt))
	}
	if err != nil {
		return "", Person{}, err
	}
	if !right || row.ID == 0 || row.EndedAt != nil {
		return "", Person{}, ErrSignIn
	}
	if err := r.Store.ForgetSigninAttempts(ctx, subject); err != nil {
		return "", Person{}, err
	}
	session, csrf := secret(), secret()
	err = r.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		err := q.AddSession(ctx, query.AddSessionParams{TokenHash: digest(session), PersonID: row.ID, Csrf: csrf, ExpiresAt: time.Now().Add(sessionLasts)})
		if err != nil {
			return err
		}
		return audit(ctx, q, row.ID, row.ID, signedIn, map[string]any{"from": network(from)})
	})
	return session, Person{ID: row.ID, Name: row.Name, Role: Role(row.Role), CSRF: csrf}, err
}

// compare compares a password with its hash, a few at a time.
func compare(ctx context.Context, password, hash string) (bool, error) {
	wait, cancel := context.WithTimeout(ctx, hashingWait)
	defer cancel()
	if err := hashing.Acquire(wait, 1); err != nil {
		return false, ErrBusy
	}
	defer hashing.Release(1)
	return argon2id.ComparePasswordAndHash(password, hash)
}

// network is what an address shares with its neighbours: a /24 of IPv4, a /64 of IPv6, which one household or office has.
// Common practice, no source.
func network(a netip.Addr) string {
	bits := 64
	if a.Is4() || a.Is4In6() {
		a, bits = a.Unmap(), 24
	}
	p, err := a.Prefix(bits)
	if err != nil {
		return ""
	}
	return p.String()
}

// nobody is the hash of a password that nobody has.
var nobody = sync.OnceValue(func() string {
	hash, err := argon2id.CreateHash(secret(), argon2id.DefaultParams)
	if err != nil {
		panic(err) // only where the system has no randomness
	}
	return hash
})

// BySession returns who a session belongs to, or ErrUnknown.
func (r *Register) BySession(ctx context.Context, session string) (Person, error) {
	row, err := r.Store.SessionPerson(ctx, digest(session))
	if errors.Is(err, pgx.ErrNoRows) {
		return Person{}, ErrUnknown
	}
	return Person{row.ID, row.Name, Role(row.Role), row.Csrf}, err
}

// SignOut ends a session, and tells who listens by it.
func (r *Register) SignOut(ctx context.Context, session string) error {
	ended, err := r.Store.EndSession(ctx, digest(session))
	if err != nil || len(ended) == 0 {
		return err
	}
	return store.Notify(ctx, r.Store.Pool, store.Topic(store.SessionEnded, 0))
}

// tokenPrefix makes a token recognisable to those who search texts for leaked ones.
const tokenPrefix = "ambrosa_"

// MakeToken makes an access token; its text is given once and kept only as a hash.
func (r *Register) MakeToken(ctx context.Context, person int64, name string) (id int64, token string, err error) {
	if name = strings.TrimSpace(name); name == "" || len([]rune(name)) > 60 {
		return 0, "", ErrName
	}
	token = tokenPrefix + secret()
	err = r.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		row, err := q.AddToken(ctx, query.AddTokenParams{PersonID: person, Name: name, TokenHash: digest(token)})
		if err != nil {
			return err
		}
		id = row.ID
		return audit(ctx, q, person, person, tokenMade, map[string]any{"name": name})
	})
	return id, token, err
}

// RevokeToken ends one of a person's tokens; pgx.ErrNoRows where they have no such.
func (r *Register) RevokeToken(ctx context.Context, person, token int64) error {
	return r.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		n, err := q.RevokeToken(ctx, query.RevokeTokenParams{ID: token, PersonID: person})
		if err != nil {
			return err
		}
		if n == 0 {
			return pgx.ErrNoRows
		}
		return audit(ctx, q, person, person, tokenRevoked, nil)
	})
}

// ByName returns a person by name. ErrNobody where nobody is called so.
func (r *Register) ByName(ctx context.Context, name string) (Person, error) {
	row, err := r.Store.PersonByName(ctx, norm.NFKC.String(strings.TrimSpace(name)))
	if errors.Is(err, pgx.ErrNoRows) {
		return Person{}, fmt.Errorf("%w %q", ErrNobody, name)
	}
	return Person{ID: row.ID, Name: row.Name, Role: Role(row.Role)}, err
}

// ByToken returns who a token belongs to, or ErrUnknown.
func (r *Register) ByToken(ctx context.Context, token string) (Person, error) {
	row, err := r.Store.TokenPerson(ctx, digest(token))
	if errors.Is(err, pgx.ErrNoRows) {
		return Person{}, ErrUnknown
	}
	return Person{ID: row.ID, Name: row.Name, Role: Role(row.Role)}, err
}

// secret is 256 random bits; a fast hash is enough to keep it by, as it can't be guessed.
func secret() string {
	var b [32]byte
	rand.Read(b[:])
	return base64.RawURLEncoding.EncodeToString(b[:])
}

func digest(s string) []byte {
	sum := sha256.Sum256([]byte(s))
	return sum[:]
}

// noticeDays is how long what ended is told.
const noticeDays = 60

// Clear removes the sessions that ran out, the attempts to sign in that count no more, and old notices.
func (r *Register) Clear(ctx context.Context) error {
	return errors.Join(r.Store.ClearPeople(ctx), r.Store.ClearNotices(ctx, noticeDays))
}
