package page

import (
	"bufio"
	"bytes"
	"strings"
)

// Robots is what a host's robots.txt allows. The zero one allows all. Source: RFC 9309.
type Robots struct {
	rules []robotsRule
}

type robotsRule struct {
	path  string
	allow bool
}

// maxRobots is how much of a robots.txt is read, in bytes: 500 KiB, as RFC 9309, section 2.5, has it at least.
const maxRobots = 500 << 10

// ReadRobots reads a robots.txt for a robot of a name: the groups that name it, else those for all.
func ReadRobots(text []byte, name string) Robots {
	name = strings.ToLower(name)
	var own, others Robots
	named, inRules, ours, everybodys := false, false, false, false
	lines := bufio.NewScanner(bytes.NewReader(text[:min(len(text), maxRobots)]))
	lines.Buffer(nil, maxRobots+1)
	lines.Split(scanAnyLine)
	for lines.Scan() {
		line, _, _ := strings.Cut(strings.TrimPrefix(lines.Text(), "\uFEFF"), "#")
		key, value, ok := strings.Cut(line, ":")
		if !ok {
			continue
		}
		value = strings.TrimSpace(value)
		switch strings.ToLower(strings.TrimSpace(key)) {
		case "user-agent":
			if inRules { // a new group begins
				ours, everybodys, inRules = false, false, false
			}
			product := strings.ToLower(value)
			if at := strings.IndexFunc(product, func(r rune) bool { return r != '-' && r != '_' && (r < 'a' || r > 'z') }); at > 0 {
				product = product[:at] // a product token is letters, - and _; what follows is none of it
			}
			ours = ours || product == name
			named = named || product == name
			everybodys = everybodys || value == "*"
		case "allow", "disallow":
			inRules = true
			if value == "" {
				continue
			}
			rule := robotsRule{escaped(value), strings.EqualFold(strings.TrimSpace(key), "allow")}
			if ours {
				own.rules = append(own.rules, rule)
			}
			if everybodys {
				others.rules = append(others.rules, rule)
			}
		}
	}
	if named {
		return own
	}
	return others
}

// scanAnyLine splits at line feeds and carriage returns.
func scanAnyLine(data []byte, atEOF bool) (int, []byte, error) {
	if at := bytes.IndexAny(data, "\r\n"); at >= 0 {
		return at + 1, data[:at], nil
	}
	if atEOF && len(data) > 0 {
		return len(data), data, nil
	}
	return 0, nil, nil
}

// Allows reports whether a path with its query may be asked for, and by which line: the longest that fits, an allowing one before a
// disallowing one as long. robots.txt itself always may be.
func (r Robots) Allows(path string) (ok bool, line string) {
	if path = escaped(path); path == "" {
		path = "/"
	}
	if path == "/robots.txt" {
		return true, ""
	}
	ok = true
	long := -1
	for _, rule := range r.rules {
		if fits(rule.path, path) && (len(rule.path) > long || len(rule.path) == long && rule.allow) {
			long, ok = len(rule.path), rule.allow
			line = "Disallow: " + rule.path
			if ok {
				line = "Allow: " + rule.path
			}
		}
	}
	return ok, line
}

// fits reports whether a path begins with a pattern, in which * is anything and a $ at its end the end. Cost: the product of their lengths.
func fits(pattern, path string) bool {
	pattern, ends := strings.CutSuffix(pattern, "$")
	parts := strings.Split(pattern, "*")
	if !strings.HasPrefix(path, parts[0]) {
		return false
	}
	rest := path[len(parts[0]):]
	for i, part := range parts[1:] {
		if ends && i == len(parts)-2 {
			return strings.HasSuffix(rest, part)
		}
		at := strings.Index(rest, part)
		if at < 0 {
			return false
		}
		rest = rest[at+len(part):]
	}
	return !ends || rest == ""
}

// escaped is a path in the form in which paths are compared: bytes beyond ASCII in percent form, unreserved ones not, hex digits in upper case
// (RFC 9309, section 2.2.2; RFC 3986, section 2.3).
func escaped(path string) string {
	const hex = "0123456789ABCDEF"
	var b strings.Builder
	for i := 0; i < len(path); i++ {
		c := path[i]
		if c == '%' && i+2 < len(path) {
			high, low := strings.IndexByte(hex, upper(path[i+1])), strings.IndexByte(hex, upper(path[i+2]))
			if high >= 0 && low >= 0 {
				if decoded := byte(high<<4 | low); isUnreserved(decoded) {
					b.WriteByte(decoded)
				} else {
					b.WriteByte('%')
					b.WriteByte(hex[high])
					b.WriteByte(hex[low])
				}
				i += 2
				continue
			}
		}
		if c >= 0x80 {
			b.WriteByte('%')
			b.WriteByte(hex[c>>4])
			b.WriteByte(hex[c&15])
			continue
		}
		b.WriteByte(c)
	}
	return b.String()
}

func upper(c byte) byte {
	if c >= 'a' && c <= 'z' {
		return c - 'a' + 'A'
	}
	return c
}

func isUnreserved(c byte) bool {
	return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '-' || c == '.' || c == '_' || c == '~'
}
