// Package people knows who uses the product: passwords, sessions, access tokens and roles.
package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"ambrosa/internal/store"
	"ambrosa/internal/store/query"

	"github.com/alexedwards/argon2id"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

var (
	// ErrSignIn is returned for a wrong name or password, without saying which.
	ErrSignIn = errors.New("name or password is wrong")
	// ErrTooMany is returned after too many wrong attempts, whatever the password.
	ErrTooMany = errors.New("too many wrong attempts; try again in a quarter of an hour")
	// ErrUnknown is returned for a session or token that is not, or no longer, good.
	ErrUnknown = errors.New("sign in first")
	// ErrTaken is returned for a name that somebody has.
	ErrTaken = errors.New("somebody has this name already")
	// ErrWeak is returned for a password that is too short.
	ErrWeak = fmt.Errorf("a password has at least %d characters", minPassword)
	// ErrRole is returned for an unknown role.
	ErrRole = errors.New("a role is viewer, editor or admin")
	// ErrName is returned for an empty or overlong name.
	ErrName = errors.New("a name has 1 to 60 characters")
)

const (
	minPassword  = 10
	sessionLasts = 14 * 24 * time.Hour
	maxFailures  = 8 // within a quarter of an hour, for one name and for one address
)

// Role says what a person may do; each may do what those before it may.
type Role string

const (
	Viewer Role = "viewer"
	Editor Role = "editor"
	Admin  Role = "admin"
)

var rank = map[Role]int{Viewer: 1, Editor: 2, Admin: 3}

// May reports whether the role includes another.
func (r Role) May(needed Role) bool { return rank[r] >= rank[needed] }

// Person is who is signed in. CSRF is the word that a session's changing requests must carry; a token's
// requests carry none, as no browser sends a token by itself.
type Person struct {
	ID   int64
	Name string
	Role Role
	CSRF string
}

// Register is where people are kept.
type Register struct{ Store *store.Store }

// Add adds a person. Errors: ErrName, ErrWeak, ErrRole, ErrTaken.
func (r *Register) Add(ctx context.Context, name, password string, role Role) (int64, error) {
	name = strings.TrimSpace(name)
	switch {
	case name == "" || len([]rune(name)) > 60:
		return 0, ErrName
	case len([]rune(password)) < minPassword:
		return 0, ErrWeak
	case rank[role] == 0:
		return 0, ErrRole
	}
	hash, err := argon2id.CreateHash(password, argon2id.DefaultParams)
	if err != nil {
		return 0, err
	}
	id, err := r.Store.AddPerson(ctx, query.AddPersonParams{Name: name, PasswordHash: hash, Role: string(role)})
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23505" {
		return 0, ErrTaken
	}
	return id, err
}

// SignIn gives a new session's word for a name and password. from is the address asked from. Errors:
// ErrSignIn, ErrTooMany.
func (r *Register) SignIn(ctx context.Context, name, password, from string) (session string, person Person, err error) {
	subjects := []string{"name:" + strings.ToLower(strings.TrimSpace(name)), "from:" + from}
	for _, s := range subjects {
		failures, err := r.Store.CountSigninFailures(ctx, s)
		if err != nil {
			return "", Person{}, err
		}
		if failures >= maxFailures {
			return "", Person{}, ErrTooMany
		}
	}
	row, err := r.Store.PersonByName(ctx, strings.TrimSpace(name))
	hash := row.PasswordHash
	if errors.Is(err, pgx.ErrNoRows) {
		hash = nobody() // the same work for an unknown name, so that time doesn't tell who is here
	} else if err != nil {
		return "", Person{}, err
	}
	right, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return "", Person{}, err
	}
	if !right || row.ID == 0 {
		for _, s := range subjects {
			if err := r.Store.AddSigninFailure(ctx, s); err != nil {
				return "", Person{}, err
			}
		}
		return "", Person{}, ErrSignIn
	}
	if err := r.Store.ForgetSigninFailures(ctx, subjects[0]); err != nil {
		return "", Person{}, err
	}
	session, csrf := secret(), secret()
	err = r.Store.AddSession(ctx, query.AddSessionParams{TokenHash: digest(session), PersonID: row.ID, Csrf: csrf, ExpiresAt: time.Now().Add(sessionLasts)})
	return session, Person{row.ID, row.Name, Role(row.Role), csrf}, err
}

// nobody is the hash of a password that nobody has.
var nobody = sync.OnceValue(func() string {
	hash, err := argon2id.CreateHash(secret(), argon2id.DefaultParams)
	if err != nil {
		panic(err) // only where the system has no randomness
	}
	return hash
})

// BySession gives who a session belongs to, or ErrUnknown.
func (r *Register) BySession(ctx context.Context, session string) (Person, error) {
	row, err := r.Store.SessionPerson(ctx, digest(session))
	if errors.Is(err, pgx.ErrNoRows) {
		return Person{}, ErrUnknown
	}
	return Person{row.ID, row.Name, Role(row.Role), row.Csrf}, err
}

// SignOut ends a session.
func (r *Register) SignOut(ctx context.Context, session string) error {
	return r.Store.EndSession(ctx, digest(session))
}

// tokenPrefix makes a token recognisable to those who search texts for leaked ones.
const tokenPrefix = "ambrosa_"

// MakeToken makes an access token; its text is given once and kept only as a hash.
func (r *Register) MakeToken(ctx context.Context, person int64, name string) (id int64, token string, err error) {
	if name = strings.TrimSpace(name); name == "" || len([]rune(name)) > 60 {
		return 0, "", ErrName
	}
	token = tokenPrefix + secret()
	row, err := r.Store.AddToken(ctx, query.AddTokenParams{PersonID: person, Name: name, TokenHash: digest(token)})
	return row.ID, token, err
}

// ByToken gives who a token belongs to, or ErrUnknown.
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
