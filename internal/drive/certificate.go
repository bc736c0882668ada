package drive

import (
	"context"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"strings"
)

// CertificatePrint is the fingerprint of a certificate: SHA256: and 64 hex digits of its DER bytes.
func CertificatePrint(der []byte) string {
	sum := sha256.Sum256(der)
	return "SHA256:" + hex.EncodeToString(sum[:])
}

// trusted speaks TLS over a connection with a host whose certificate is known by its fingerprint; nothing else of it is looked at.
func trusted(ctx context.Context, c net.Conn, address, fingerprint string) (net.Conn, error) {
	host, _, _ := net.SplitHostPort(address)
	spoken := tls.Client(c, &tls.Config{
		ServerName: host, MinVersion: tls.VersionTLS12,
		InsecureSkipVerify: true, // the fingerprint is what is verified
		VerifyPeerCertificate: func(raw [][]byte, _ [][]*x509.Certificate) error {
			if len(raw) == 0 || !strings.EqualFold(CertificatePrint(raw[0]), fingerprint) {
				return fmt.Errorf("%w: it is another one now", ErrCertificate)
			}
			return nil
		},
	})
	if err := spoken.HandshakeContext(ctx); err != nil {
		c.Close()
		return nil, err
	}
	return spoken, nil
}

// speak is the address that the library is told: without TLS where we speak that for it, so that a certificate can be trusted by its
// fingerprint alone.
func (d *Drive) speak(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "https" || d.Spec.Certificate == "" {
		return address
	}
	if u.Port() == "" {
		u.Host = net.JoinHostPort(u.Hostname(), "443")
	}
	d.spoken = u.Host
	u.Scheme = "http"
	return u.String()
}

// CertificateOf asks a host for its certificate's fingerprint, for a person to look at. It is not trusted by that. address is host:port.
func CertificateOf(ctx context.Context, door Dialer, address string) (fingerprint string, err error) {
	c, err := door.Dial(ctx, "tcp", address)
	if err != nil {
		return "", ErrNoAnswer
	}
	defer c.Close()
	errLooked := errors.New("looked at")
	host, _, _ := net.SplitHostPort(address)
	err = tls.Client(c, &tls.Config{ServerName: host, InsecureSkipVerify: true, // it is only looked at; nothing is said to it
		VerifyPeerCertificate: func(raw [][]byte, _ [][]*x509.Certificate) error {
			if len(raw) > 0 {
				fingerprint = CertificatePrint(raw[0])
			}
			return errLooked
		}}).HandshakeContext(ctx)
	if fingerprint == "" {
		return "", fmt.Errorf("%w: %w", ErrNoAnswer, err)
	}
	return fingerprint, nil
}
