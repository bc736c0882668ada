package people

import (
	"strings"
	"unicode"

	"ambrosa/core/names"

	"github.com/mtibben/confusables"
	"golang.org/x/text/unicode/norm"
)

// maxName is how many characters a name may have.
const maxName = 60

// cleanName returns a name in its one form: compatibility folded (NFKC), single spaces. ErrName where it holds other than
// letters and what is written on them, digits, spaces and . - _ '.
func cleanName(name string) (string, error) {
	name = strings.Join(strings.Fields(norm.NFKC.String(name)), " ")
	if name == "" || len([]rune(name)) > maxName || len(names.Tokens(name, 0)) == 0 {
		return "", ErrName
	}
	for _, r := range name {
		if !unicode.IsLetter(r) && !unicode.IsMark(r) && !unicode.IsDigit(r) && !strings.ContainsRune(" .-_'", r) {
			return "", ErrName
		}
	}
	return name, nil
}

// looksLike is the same for two names that people take for one: folded as file names are, letters that look alike made
// one. Source: the skeletons of Unicode Technical Standard #39, section 4.
func looksLike(name string) string {
	return confusables.Skeleton(names.Canonical(names.Tokens(name, 0)))
}
