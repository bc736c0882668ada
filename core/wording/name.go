package wording

import (
	"fmt"
	"strings"

	"github.com/gosimple/slug"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/norm"
)

// Slug makes a file name of a text: lower-case ASCII letters and digits with hyphens between, by the language's own rules where it has
// some (ä is ae in German, a elsewhere), at most so many characters, cut between words. Empty where nothing of the text can be written so.
func Slug(text string, lang language.Tag, most int) string {
	base, _ := lang.Base()
	name := slug.MakeLang(norm.NFKC.String(text), base.String())
	name = strings.Trim(strings.Join(strings.FieldsFunc(name, func(r rune) bool { return r == '_' || r == '-' }), "-"), "-")
	most = min(most, mostName)
	if len(name) <= most {
		return name
	}
	if at := strings.LastIndexByte(name[:most+1], '-'); at > most/2 {
		return name[:at]
	}
	return strings.Trim(name[:most], "-")
}

// Free is a name that nobody has: itself, or with the first free number from 2 behind it.
func Free(name string, taken func(string) bool) string {
	for n, free := 2, name; ; n++ {
		if !taken(free) {
			return free
		}
		free = Numbered(name, n)
	}
}

// Numbered is a file name with a number behind it.
func Numbered(name string, n int) string { return fmt.Sprintf("%s-%d", name, n) }
