package drive

import (
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"net"
	"time"

	"golang.org/x/crypto/ssh"
)

// errSeen ends a handshake of which only the host's key was wanted.
var errSeen = errors.New("seen")

// hostKey asks a host for its key before anything secret is said to it, compares its fingerprint with the one that was given, and returns it
// as the library pins it: the connections that follow take no other.
func (d *Drive) hostKey(ctx context.Context, o Options) (pinned string, err error) {
	address := d.Address.Host
	if _, _, err := net.SplitHostPort(address); err != nil {
		address = net.JoinHostPort(address, "22")
	}
	conn, err := o.Door.Dial(ctx, "tcp", address)
	if err != nil {
		return "", ErrNoAnswer
	}
	defer conn.Close()
	if err := conn.SetDeadline(time.Now().Add(answer)); err != nil {
		return "", ErrNoAnswer
	}
	var key ssh.PublicKey
	_, _, _, err = ssh.NewClientConn(conn, address, &ssh.ClientConfig{User: d.Address.User, HostKeyCallback: func(_ string, _ net.Addr, k ssh.PublicKey) error {
		key = k
		return errSeen
	}})
	if key == nil {
		return "", fmt.Errorf("%w: %s", ErrNoAnswer, d.told(err))
	}
	fingerprint := ssh.FingerprintSHA256(key)
	switch {
	case o.HostKey == "":
		if o.Seen != nil {
			o.Seen(fingerprint)
		}
	case o.HostKey != fingerprint:
		return "", fmt.Errorf("%w: %s", ErrHostKey, fingerprint)
	}
	return key.Type() + " " + base64.StdEncoding.EncodeToString(key.Marshal()), nil
}
