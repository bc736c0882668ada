package table

import (
	"net/netip"
	"net/url"
	"regexp"
	"strings"
)

// pictureFormula is a formula that shows a picture or leads to an address, with the address as its first argument.
var pictureFormula = regexp.MustCompile(`(?i)^(?:_xlfn\.|of:=?)*(?:image|hyperlink|bild)\s*\(\s*"((?:[^"]|"")*)"`)

// Address is the address in a formula that shows a picture; empty where there is none.
func Address(formula string) string {
	if m := pictureFormula.FindStringSubmatch(strings.TrimPrefix(formula, "=")); m != nil {
		return strings.ReplaceAll(m[1], `""`, `"`)
	}
	return ""
}

var scheme = regexp.MustCompile(`^(?i)[a-z][a-z0-9+.-]{1,30}:`)

// IsAddress reports whether a text is an address rather than a file's name. A letter and a colon are a drive of a desktop.
func IsAddress(s string) bool {
	return strings.Contains(s, "://") || strings.HasPrefix(s, "//") || strings.HasPrefix(strings.ToLower(s), "www.") ||
		scheme.MatchString(s) && !fileLike.MatchString(s)
}

// refused says why an address is not one that pictures are fetched from; empty where it may be. Only what can be seen of the address
// itself is looked at; where it leads is looked at when it is fetched.
func refused(address string) string {
	u, err := url.Parse(address)
	switch {
	case err != nil || u.Host == "" && (u.Scheme == "http" || u.Scheme == "https"):
		return "address_form"
	case u.Scheme != "http" && u.Scheme != "https":
		return "address_scheme"
	case u.User != nil:
		return "address_password"
	}
	host := strings.ToLower(strings.TrimSuffix(u.Hostname(), "."))
	if host == "localhost" || strings.HasSuffix(host, ".localhost") {
		return "address_private"
	}
	if ip, err := netip.ParseAddr(host); err == nil {
		if ip = ip.Unmap(); !ip.IsGlobalUnicast() || ip.IsPrivate() {
			return "address_private"
		}
	}
	return ""
}

// Lies is a picture that a row names by address, or that lies in one of its cells: Part is then its part of the file.
type Lies struct{ Address, Part string }

// Addresses are the pictures that a row names by address, also in formulas, and those that lie in its cells, in the order of the columns.
// Addresses that are refused are left out.
func Addresses(r Row, fields Assignment) (all []Lies) {
	for column, cell := range r.Cells {
		if cell.Picture != "" {
			all = append(all, Lies{Place(r.Number, column), cell.Picture})
		}
		if !fields[column].saysPictures() {
			continue
		}
		text := cell.Text
		if address := Address(cell.Formula); address != "" {
			text = address
		}
		for _, name := range Split(text) {
			if IsAddress(name) && refused(name) == "" {
				all = append(all, Lies{Address: name})
			}
		}
	}
	return all
}
