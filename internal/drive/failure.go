package drive

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"strings"

	"github.com/rclone/rclone/fs"
)

// Plain is an error of the library as one of this package's, on one line, and without the secret.
func (d *Drive) Plain(err error) error {
	switch {
	case err == nil, errors.Is(err, context.Canceled):
		return err
	case errors.Is(err, fs.ErrorDirNotFound), errors.Is(err, fs.ErrorObjectNotFound), errors.Is(err, os.ErrNotExist), errors.Is(err, fs.ErrorIsFile):
		return ErrNoFolder
	case errors.Is(err, ErrHostKey):
		return err
	}
	if refused := d.route.refused(); refused != nil {
		return refused
	}
	text := d.told(err)
	lower := strings.ToLower(text)
	var network net.Error
	switch {
	case holds(lower, "x509:", "tls: failed to verify"):
		return fmt.Errorf("%w: %s", ErrCertificate, text)
	case holds(lower, "507 ", "insufficient storage", "no space left", "quota", "552 ", "disk full", "status_disk_full"):
		return fmt.Errorf("%w: %s", ErrFull, text)
	case errors.Is(err, os.ErrPermission), holds(lower, "permission denied", "read-only file system", "550 permission"):
		return fmt.Errorf("%w: %s", ErrDenied, text)
	case holds(lower, "401", "unable to authenticate", "530 ", "login incorrect", "logon failure", "logon is invalid", "signaturedoesnotmatch", "invalidaccesskeyid", "accessdenied", "403 forbidden"):
		return ErrSignIn
	case holds(lower, "550 ", "501 ", "nosuchbucket", "bad_network_name", "share not found", "404"):
		return ErrNoFolder
	case errors.As(err, &network), holds(lower, "connection refused", "no such host", "i/o timeout", "no route to host", "connection reset", "eof"):
		return ErrNoAnswer
	}
	return fmt.Errorf("%w: %s", ErrDrive, text)
}

func holds(text string, some ...string) bool {
	for _, s := range some {
		if strings.Contains(text, s) {
			return true
		}
	}
	return false
}

// told is what an error says, on one line, without the secret in any of the forms in which it may stand there.
func (d *Drive) told(err error) string {
	text := strings.Join(strings.Fields(err.Error()), " ")
	for _, secret := range d.Spec.Secrets {
		if secret == "" {
			continue
		}
		for _, form := range []string{secret, url.QueryEscape(secret), url.PathEscape(secret), fmt.Sprintf("%q", secret)} {
			text = strings.ReplaceAll(text, form, "…")
		}
	}
	return strings.ReplaceAll(text, d.route.secret, "…")
}
