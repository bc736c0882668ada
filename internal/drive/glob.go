package drive

import (
	"regexp"
	"strings"
)

// Glob is a pattern over paths: * stands for anything within a folder, ** across folders, ? for one letter.
type Glob struct{ match *regexp.Regexp }

// NewGlob reads a pattern; the empty one matches everything.
func NewGlob(pattern string) Glob {
	if pattern == "" {
		return Glob{}
	}
	var b strings.Builder
	b.WriteString(`(?s)\A`)
	for rest := pattern; rest != ""; {
		switch {
		case strings.HasPrefix(rest, "**/"):
			b.WriteString(`(?:.*/)?`)
			rest = rest[3:]
		case strings.HasPrefix(rest, "**"):
			b.WriteString(`.*`)
			rest = rest[2:]
		case rest[0] == '*':
			b.WriteString(`[^/]*`)
			rest = rest[1:]
		case rest[0] == '?':
			b.WriteString(`[^/]`)
			rest = rest[1:]
		default:
			end := strings.IndexAny(rest, "*?")
			if end < 0 {
				end = len(rest)
			}
			b.WriteString(regexp.QuoteMeta(rest[:end]))
			rest = rest[end:]
		}
	}
	b.WriteString(`\z`)
	re, err := regexp.Compile(b.String())
	if err != nil { // a pattern that is no UTF-8 matches itself alone
		re = regexp.MustCompile(`\A` + regexp.QuoteMeta(strings.ToValidUTF8(pattern, "")) + `\z`)
	}
	return Glob{re}
}

// Matches reports whether a path is meant.
func (g Glob) Matches(path string) bool { return g.match == nil || g.match.MatchString(path) }
