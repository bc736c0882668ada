package drive

import (
	"errors"
	"fmt"
	"net"
	"net/url"
	"path"
	"strings"
)

var (
	// ErrAddress is returned for an address of no drive.
	ErrAddress = errors.New("this is no address of a drive")
	// ErrSecretInAddress is returned for an address with a password in it, which would stand in histories and lists of processes.
	ErrSecretInAddress = errors.New("an address must hold no password")
)

// Address is where a drive is.
type Address struct {
	Kind string // webdav, http, sftp, ftp, smb, s3, local
	User string // of S3 the id of the key
	Host string // with its port; empty for a local folder
	Root string // the folder
	url  string // of WebDAV and HTTP
	// Endpoint is the server of S3; empty for the usual one.
	Endpoint string
}

// schemes are how addresses begin, and the kinds they stand for.
var schemes = map[string]string{"webdav": "webdav", "webdavs": "webdav", "http": "http", "https": "http", "sftp": "sftp", "ftp": "ftp", "smb": "smb", "s3": "s3", "file": "local"}

// Parse reads an address: webdav://user@host:port/folder (webdavs:// for https), http(s)://host/folder/ of a server that lists its files,
// sftp://, ftp://, smb://host/share/folder, s3://KEYID@bucket/prefix?endpoint=…, file:///folder. Errors: ErrAddress, ErrSecretInAddress.
func Parse(text string) (Address, error) {
	u, err := url.Parse(text)
	if err != nil {
		return Address{}, ErrAddress // the library's error would tell the address, and what may be secret in it
	}
	a := Address{Kind: schemes[u.Scheme], User: u.User.Username(), Host: u.Host, Root: u.Path}
	if _, secret := u.User.Password(); secret {
		return a, ErrSecretInAddress
	}
	if a.Kind == "" || a.Kind != "local" && a.Host == "" || a.Kind == "local" && (a.Host != "" || a.Root == "") {
		return a, fmt.Errorf("%w: %q", ErrAddress, u.Redacted())
	}
	switch a.Kind {
	case "webdav", "http":
		scheme := "http"
		if strings.HasSuffix(u.Scheme, "s") {
			scheme = "https"
		}
		a.url = (&url.URL{Scheme: scheme, Host: u.Host, Path: strings.TrimSuffix(u.Path, "/") + "/"}).String()
		a.Root = ""
	case "ftp", "smb":
		a.Root = strings.Trim(u.Path, "/") // from where one is after signing in
	case "s3":
		a.Root, a.Host, a.Endpoint = path.Join(u.Host, u.Path), "", u.Query().Get("endpoint")
	}
	return a, nil
}

// String is the address without what may be secret.
func (a Address) String() string {
	switch a.Kind {
	case "webdav", "http":
		return a.url
	case "local":
		return a.Root
	case "s3":
		return "s3://" + a.Root
	}
	return a.Kind + "://" + path.Join(a.Host, a.Root)
}

// Spec is the drive at an address. secret is the password, or S3's secret key.
func (a Address) Spec(secret string) Spec {
	s := Spec{Kind: a.Kind, Root: a.Root, Values: map[string]string{}, Secrets: map[string]string{}}
	host, port, err := net.SplitHostPort(a.Host)
	if err != nil {
		host, port = strings.Trim(a.Host, "[]"), ""
	}
	switch a.Kind {
	case "webdav":
		s.Values["url"], s.Values["user"], s.Secrets["pass"] = a.url, a.User, secret
	case "http":
		s.Values["url"] = a.url
	case "sftp", "ftp", "smb":
		s.Values["host"], s.Values["port"], s.Values["user"], s.Secrets["pass"] = host, port, a.User, secret
	case "s3":
		s.Values["access_key_id"], s.Values["endpoint"], s.Secrets["secret_access_key"] = a.User, a.Endpoint, secret
	}
	return s
}
