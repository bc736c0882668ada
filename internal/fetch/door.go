// Package fetch is the one door through which addresses that come from outside are reached: tables, pages, lists, webhooks,
// lookups and mail. What leads into the server's own networks is refused when it is dialled, after the name was looked up.
package fetch

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"syscall"
	"time"
)

// ErrRefused is returned for an address that leads into a network that is not reached from here.
var ErrRefused = errors.New("the address is in a network that is not allowed")

// refused are the networks that no address from outside may lead to. Source: IANA IPv4 and IPv6 Special-Purpose Address
// Registries (RFC 6890), as of RFC 9637, and the multicast ranges of RFC 5771 and RFC 4291, all from memory. The services that
// tell machines of a cloud their secrets (169.254.169.254, fd00:ec2::254, 100.100.100.200) lie within.
var refused = []struct {
	what     string
	networks []netip.Prefix
}{
	{"this host", prefixes("0.0.0.0/8 ::/128")},
	{"loopback", prefixes("127.0.0.0/8 ::1/128")},
	{"private", prefixes("10.0.0.0/8 172.16.0.0/12 192.168.0.0/16 fc00::/7 fec0::/10")},
	{"shared", prefixes("100.64.0.0/10")},
	{"link-local", prefixes("169.254.0.0/16 fe80::/10")},
	{"reserved", prefixes("192.0.0.0/24 192.0.2.0/24 192.88.99.0/24 198.18.0.0/15 198.51.100.0/24 203.0.113.0/24 240.0.0.0/4 " +
		"100::/64 2001::/23 2001:db8::/32 3fff::/20 5f00::/16")},
	{"multicast", prefixes("224.0.0.0/4 ff00::/8")},
	// An IPv4 address in an IPv6 one leads where the IPv4 one does, past every rule for it.
	{"IPv4-in-IPv6", prefixes("::/96 ::ffff:0:0:0/96 64:ff9b::/96 64:ff9b:1::/48 2002::/16")},
}

// metadata are addresses of such services within networks that are private or shared otherwise.
var (
	metadata  = netip.MustParsePrefix("100.100.100.200/32")
	metadata6 = netip.MustParsePrefix("fd00:ec2::/32")
)

func prefixes(list string) (all []netip.Prefix) {
	for _, text := range strings.Fields(list) {
		all = append(all, netip.MustParsePrefix(text))
	}
	return all
}

// Door dials addresses that come from outside.
type Door struct {
	Allow    []netip.Prefix // networks that an operator allows all the same
	Resolver *net.Resolver  // nil for the system's
	// Hosts are names that lead elsewhere than they say, as host:port: to what stands in for the world outside. Nothing else of them is
	// checked.
	Hosts map[string]string
	// inside says that private networks are allowed: for hosts that an admin named.
	inside bool
}

// Inside is the same door, for hosts that an admin named: it leads into private networks, too, and still not to this host itself, nor to
// addresses that tell machines their secrets.
func (d *Door) Inside() *Door {
	inside := *d
	inside.inside = true
	return &inside
}

// Everywhere is a door for addresses that the operator gives, on the command line: it leads to every network.
func Everywhere() *Door {
	return &Door{Allow: prefixes("0.0.0.0/0 ::/0")}
}

// dialTime is how long one address may take to answer.
const dialTime = 15 * time.Second

// Dial connects. Every address that the name leads to is checked when it is dialled, so that a name which changes between two
// look-ups gains nothing. Errors: ErrRefused, and those of net.
func (d *Door) Dial(ctx context.Context, network, address string) (net.Conn, error) {
	if host, _, err := net.SplitHostPort(address); err == nil && d.Hosts[host] != "" {
		return (&net.Dialer{Timeout: dialTime}).DialContext(ctx, network, d.Hosts[host])
	}
	dialer := net.Dialer{Timeout: dialTime, Resolver: d.Resolver, ControlContext: func(_ context.Context, _, address string, _ syscall.RawConn) error {
		return d.check(address)
	}}
	return dialer.DialContext(ctx, network, address)
}

// check returns ErrRefused where an address, of numbers and a port, is none that may be dialled.
func (d *Door) check(address string) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return fmt.Errorf("%w: %q is no address of numbers", ErrRefused, address)
	}
	ip := at.Addr().Unmap().WithZone("")
	for _, network := range d.Allow {
		if network.Contains(ip) {
			return nil
		}
	}
	for _, r := range refused {
		if d.inside && (r.what == "private" || r.what == "shared") && !metadata.Contains(ip) && !metadata6.Contains(ip) {
			continue
		}
		for _, network := range r.networks {
			if network.Contains(ip) {
				return fmt.Errorf("%w: %s is %s; who runs the server may allow it by AMBROSA_ALLOW_NETWORKS", ErrRefused, ip, r.what)
			}
		}
	}
	return nil
}

// ParseNetworks reads networks such as 10.0.0.0/8, and single addresses.
func ParseNetworks(list []string) (all []netip.Prefix, err error) {
	for _, text := range list {
		text = strings.TrimSpace(text)
		network, err := netip.ParsePrefix(text)
		if err != nil {
			one, err := netip.ParseAddr(text)
			if err != nil {
				return nil, fmt.Errorf("%q is no network, such as 10.0.0.0/8, and no address", text)
			}
			network = netip.PrefixFrom(one, one.BitLen())
		}
		all = append(all, network.Masked())
	}
	return all, nil
}

// RoundTripper asks over connections that a dial makes, which is one of a door: for what passes requests of others on. Nothing is kept open.
func RoundTripper(dial func(ctx context.Context, network, address string) (net.Conn, error)) http.RoundTripper {
	return &http.Transport{DialContext: dial, DisableKeepAlives: true, DisableCompression: true, ResponseHeaderTimeout: dialTime}
}
