package table

import (
	"regexp"
	"strings"
)

// ReferenceDigits is how many hex digits of a picture's SHA-256 a reference holds.
const ReferenceDigits = 16

// reference is a name that holds the picture itself: front#3fa9c2d1b2c4aa07.jpg.
var reference = regexp.MustCompile(`#([0-9a-f]{16})\.[A-Za-z]+$`)

// Refer is how a table names a picture, so that it is found again: by its file's name, where that is read as one name and is no other
// picture's, else with the beginning of its SHA-256 in it. sha is in hex, format the extension that fits its bytes.
func Refer(name, sha, format string, alone bool) string {
	if alone && fileLike.MatchString(name) && !IsAddress(name) && !reference.MatchString(name) && !strings.ContainsAny(name, "|\n\r\t") &&
		strings.TrimSpace(name) == name && strings.ToValidUTF8(name, "") == name {
		if one := Split(name); len(one) == 1 && one[0] == name {
			return name
		}
	}
	stem := name
	if at := fileLike.FindStringIndex(name); at != nil {
		stem = name[:at[0]]
	}
	stem = strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune("|;,/\\#:", r) {
			return '_'
		}
		return r
	}, strings.ToValidUTF8(stem, "_"))
	return strings.TrimSpace(stem) + "#" + sha[:ReferenceDigits] + "." + format
}

// ReferenceList is how several pictures stand in one cell.
func ReferenceList(names []string) string { return strings.Join(names, " | ") }
