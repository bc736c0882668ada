package api

import (
	"net/netip"
	"net/url"
	"path"
	"strings"
	"unicode/utf8"

	"github.com/gofiber/fiber/v2"
)

// plainAddress refuses addresses that hold no text (400), and those that only look like one of the interface's: in
// other case, with doubled slashes or needless escapes (404). What is routed and what is checked is then one and the same.
func plainAddress(c *fiber.Ctx) error {
	raw := c.Path()
	decoded, err := url.PathUnescape(raw)
	if err != nil || !isText(decoded) {
		return errNoText
	}
	if query, err := url.QueryUnescape(string(c.Request().URI().QueryString())); err != nil || !isText(query) {
		return errNoText
	}
	clean := strings.ToLower(path.Clean("/" + decoded))
	if (clean == "/api" || strings.HasPrefix(clean, "/api/")) && !strings.HasPrefix(raw, "/api/") || strings.Contains(raw, "//") {
		return errNoAddress
	}
	return c.Next()
}

var (
	errNoText    = fiber.NewError(fiber.StatusBadRequest, "The request holds bytes that are no text: NUL, or no UTF-8.")
	errNoAddress = fiber.NewError(fiber.StatusNotFound, "There is no such address.")
)

// isText reports whether a text from outside can be kept and compared: UTF-8 without NUL.
func isText(s string) bool { return utf8.ValidString(s) && !strings.ContainsRune(s, 0) }

// Proxies are the networks of the proxies before this server. Only their word counts for who asks.
type Proxies []netip.Prefix

// caller is the address a request came from: that of the connection, or, where a trusted proxy made it, the last one in
// X-Forwarded-For that is no trusted proxy itself.
func (p Proxies) caller(c *fiber.Ctx) netip.Addr {
	remote, ok := netip.AddrFromSlice(c.Context().RemoteIP())
	if !ok {
		return netip.Addr{}
	}
	remote = remote.Unmap()
	hops := strings.Split(c.Get(fiber.HeaderXForwardedFor), ",")
	for i := len(hops) - 1; i >= 0 && p.trusts(remote); i-- {
		hop, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
		if err != nil {
			break
		}
		remote = hop.Unmap()
	}
	return remote
}

func (p Proxies) trusts(a netip.Addr) bool {
	for _, n := range p {
		if n.Contains(a) {
			return true
		}
	}
	return false
}
