package sources

import (
	"context"
	"fmt"
	"net"
	"net/url"
	"path/filepath"
	"slices"
	"strings"

	"ambrosa/internal/drive"
	"ambrosa/internal/fetch"
)

// Anywhere is the host by which an admin allows a protocol at every host that the whole world reaches.
const Anywhere = "*"

// hostDoor dials for one drive. At a host that an admin named, a private network is allowed; loopback and the addresses that tell secrets
// need the operator's leave there, too.
type hostDoor struct {
	door    *fetch.Door
	allowed []string
}

func (d hostDoor) Dial(ctx context.Context, network, address string) (net.Conn, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("%w: %q", fetch.ErrRefused, address)
	}
	if slices.ContainsFunc(d.allowed, func(a string) bool { return a != Anywhere && covers(a, host) }) {
		return d.door.Inside().Dial(ctx, network, address)
	}
	if slices.Contains(d.allowed, Anywhere) {
		return d.door.Dial(ctx, network, address)
	}
	return nil, fmt.Errorf("%w: %w: %s", fetch.ErrRefused, ErrHost, host)
}

// covers reports whether an allowed host means a host: itself, or, as *.example, all below.
func covers(allowed, host string) bool {
	allowed, host = strings.ToLower(allowed), strings.ToLower(strings.TrimSuffix(host, "."))
	if below, ok := strings.CutPrefix(allowed, "*."); ok {
		return strings.HasSuffix(host, "."+below)
	}
	return allowed == host
}

// HostOf is where a drive is: a host, Anywhere for one of a cloud, empty for a folder of the server.
func HostOf(spec drive.Spec) string {
	of := ""
	switch spec.Kind {
	case "local":
		return ""
	case "webdav", "http":
		of = spec.Values["url"]
	case "s3":
		of = spec.Values["endpoint"]
	default:
		if host := spec.Values["host"]; host != "" {
			return strings.Trim(host, "[]")
		}
	}
	if u, err := url.Parse(of); err == nil && u.Hostname() != "" {
		return u.Hostname()
	}
	if of != "" && !strings.Contains(of, "/") { // an endpoint without its scheme
		host, _, _ := strings.Cut(of, ":")
		return host
	}
	return Anywhere
}

// door is what a drive is dialled through. Errors: ErrHost, ErrFolder.
func (s *Sources) door(ctx context.Context, spec drive.Spec) (drive.Dialer, error) {
	if spec.Kind == "local" {
		return hostDoor{door: s.Door}, s.allowsFolder(spec.Root)
	}
	allowed, err := s.Store.HostsOfKind(ctx, spec.Kind)
	if err != nil {
		return nil, err
	}
	host := HostOf(spec)
	if !slices.Contains(allowed, Anywhere) && !slices.ContainsFunc(allowed, func(a string) bool { return covers(a, host) }) {
		return nil, fmt.Errorf("%w: %s", ErrHost, host)
	}
	return hostDoor{s.Door, allowed}, nil
}

// allowsFolder returns ErrFolder for a folder of the server that is not below one that its operator allows, links followed.
func (s *Sources) allowsFolder(folder string) error {
	if !filepath.IsAbs(folder) {
		return ErrFolder
	}
	real, err := filepath.EvalSymlinks(folder)
	if err != nil {
		real = filepath.Clean(folder)
	}
	for _, allowed := range s.Folders {
		if below, err := filepath.EvalSymlinks(allowed); err == nil && (real == below || strings.HasPrefix(real, strings.TrimSuffix(below, "/")+"/")) {
			return nil
		}
	}
	return ErrFolder
}
