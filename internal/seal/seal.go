// Package seal keeps secrets so that who reads the database alone can't read them.
package seal

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// ErrKey is returned where a secret was sealed with another key.
var ErrKey = errors.New("the secret was kept with another key; give the server its AMBROSA_KEY, or enter the secret again")

// Keeper seals and opens, with AES-256-GCM (NIST SP 800-38D) and a nonce by chance.
type Keeper struct{ aead cipher.AEAD }

// New makes a keeper of a passphrase. Where that is empty, of the key that is kept in a file, which is made where it is not there.
func New(passphrase, file string) (*Keeper, error) {
	key := []byte(passphrase)
	if passphrase == "" {
		var err error
		if key, err = keptKey(file); err != nil {
			return nil, fmt.Errorf("the key of secrets: %w", err)
		}
	}
	sum := sha256.Sum256(append([]byte("ambrosa secrets\n"), key...))
	block, err := aes.NewCipher(sum[:])
	if err != nil {
		return nil, err
	}
	aead, err := cipher.NewGCM(block)
	return &Keeper{aead}, err
}

func keptKey(file string) ([]byte, error) {
	key, err := os.ReadFile(file)
	if !errors.Is(err, fs.ErrNotExist) {
		if err == nil && len(key) < 32 {
			err = fmt.Errorf("%s is cut off", filepath.Base(file))
		}
		return key, err
	}
	key = make([]byte, 32)
	rand.Read(key)
	part, err := os.CreateTemp(filepath.Dir(file), ".key-*") // only its owner may read it
	if err != nil {
		return nil, err
	}
	defer os.Remove(part.Name())
	_, err = part.Write(key)
	if err = errors.Join(err, part.Sync(), part.Close()); err != nil {
		return nil, err
	}
	if err := os.Link(part.Name(), file); errors.Is(err, fs.ErrExist) { // another process was first
		return keptKey(file)
	} else if err != nil {
		return nil, err
	}
	return key, nil
}

// Seal returns a secret as it is kept. of names what it belongs to: it opens for that alone.
func (k *Keeper) Seal(secret []byte, of string) []byte {
	nonce := make([]byte, k.aead.NonceSize())
	rand.Read(nonce)
	return k.aead.Seal(nonce, nonce, secret, []byte(of))
}

// Open returns a secret. ErrKey where it was sealed with another key, or for something else.
func (k *Keeper) Open(sealed []byte, of string) ([]byte, error) {
	n := k.aead.NonceSize()
	if len(sealed) < n {
		return nil, ErrKey
	}
	secret, err := k.aead.Open(nil, sealed[:n], sealed[n:], []byte(of))
	if err != nil {
		return nil, ErrKey
	}
	return secret, nil
}
