package names

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Spelling says how a text without umlauts and accents may be written for one with them.
type Spelling uint8

const (
	AsWritten Spelling = iota
	Expanded           // ä as ae, ø as oe, å as aa (DIN 5007-2 for ä, ö, ü; the others common practice, no source)
	Bare               // ä as a: the sign alone is gone
	Dropped            // the whole letter is gone
)

// Spell returns a folded text in a spelling, and whether that differs from what was given. ASCII never does.
func Spell(folded string, as Spelling) (spelled string, differs bool) {
	at := 0
	for at < len(folded) && folded[at] < 0x80 {
		at++
	}
	if at == len(folded) || as == AsWritten {
		return folded, false
	}
	var b strings.Builder
	for _, r := range norm.NFC.String(folded) {
		plain, latin := bareLetter(r)
		switch {
		case r < 0x80 || !latin:
			b.WriteRune(r)
			continue
		case as == Expanded && expansions[r] != "":
			b.WriteString(expansions[r])
		case as != Dropped:
			b.WriteString(plain)
		}
		differs = true
	}
	return b.String(), differs
}

var expansions = map[rune]string{'ä': "ae", 'ö': "oe", 'ü': "ue", 'ø': "oe", 'å': "aa", 'æ': "ae", 'œ': "oe"}

// letters are those that no decomposition gives.
var letters = map[rune]string{'ø': "o", 'æ': "a", 'œ': "o", 'ł': "l", 'đ': "d", 'ð': "d", 'ı': "i", 'þ': "th", 'ħ': "h"}

// bareLetter is a Latin letter without its signs; latin is false where it has none.
func bareLetter(r rune) (plain string, latin bool) {
	if plain, ok := letters[r]; ok {
		return plain, true
	}
	if r < 0x80 || !unicode.Is(unicode.Latin, r) {
		return "", false
	}
	if d := norm.NFD.String(string(r))[0]; d < 0x80 {
		return string(rune(d)), true
	}
	return "", false
}
