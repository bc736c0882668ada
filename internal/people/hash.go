package people

import (
	"context"

	"github.com/alexedwards/argon2id"
)

// Hash is a password as it is kept, by Argon2id.
func Hash(password string) (string, error) {
	return argon2id.CreateHash(password, argon2id.DefaultParams)
}

// Compare compares a password with its hash, a few at a time. ErrBusy where too many are compared.
func Compare(ctx context.Context, password, hash string) (bool, error) {
	return compare(ctx, password, hash)
}
