package drive

import (
	"cmp"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"net"
	"time"

	"ambrosa/internal/fetch"

	"golang.org/x/crypto/ssh"
)

// errSeen ends a handshake of which only the host's key was wanted.
var errSeen = errors.New("seen")

// hostKey asks a host for its key before anything secret is said to it, compares its fingerprint with the one that was given, and returns it
// as the library pins it: the connections that follow take no other.
func (d *Drive) hostKey(ctx context.Context, o Options) (pinned string, err error) {
	address := net.JoinHostPort(d.Spec.Values["host"], cmp.Or(d.Spec.Values["port"], "22"))
	conn, err := o.Door.Dial(ctx, "tcp", address)
	if err != nil {
		if errors.Is(err, fetch.ErrRefused) {
			return "", err
		}
		return "", ErrNoAnswer
	}
	defer conn.Close()
	if err := conn.SetDeadline(time.Now().Add(answer)); err != nil {
		return "", ErrNoAnswer
	}
	var key ssh.PublicKey
	_, _, _, err = ssh.NewClientConn(conn, address, &ssh.ClientConfig{User: d.Spec.Values["user"], HostKeyCallback: func(_ string, _ net.Addr, k ssh.PublicKey) error {
		key = k
		return errSeen
	}})
	if key == nil {
		return "", fmt.Errorf("%w: %s", ErrNoAnswer, d.told(err))
	}
	fingerprint := ssh.FingerprintSHA256(key)
	switch {
	case d.Spec.HostKey == "":
		if o.Seen != nil {
			o.Seen(fingerprint)
		}
	case d.Spec.HostKey != fingerprint:
		return "", fmt.Errorf("%w: %s", ErrHostKey, fingerprint)
	}
	return key.Type() + " " + base64.StdEncoding.EncodeToString(key.Marshal()), nil
}
