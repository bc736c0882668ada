package names

import (
	"strconv"
	"strings"
)

// Tail is what the tokens after a key say. Rest holds the tokens that are neither number, role nor mark:
// where it is empty the key was the whole name.
type Tail struct {
	Number     *int
	NumberSpan Span
	Role       string
	Rest       []Token
}

// roles are the words by which suppliers say what a picture shows. Common practice, no source.
var roles = map[string]string{
	"front": "front", "vorne": "front", "vorderseite": "front", "avant": "front", "face": "front", "frontal": "front",
	"back": "back", "rear": "back", "hinten": "back", "rueckseite": "back", "rückseite": "back", "arriere": "back", "dos": "back",
	"side": "side", "seite": "side", "left": "side", "right": "side", "cote": "side",
	"detail": "detail", "closeup": "detail", "macro": "detail", "zoom": "detail",
	"packed": "packed", "pack": "packed", "packshot": "packed", "box": "packed", "verpackung": "packed",
	"top": "top", "oben": "top", "bottom": "bottom", "unten": "bottom",
	"main": "main", "hero": "main", "lifestyle": "lifestyle", "scene": "lifestyle",
}

// numberWords stand before a number without meaning more than "picture". Common practice, no source.
var numberWords = map[string]bool{
	"alt": true, "img": true, "image": true, "pic": true, "photo": true, "bild": true, "foto": true, "view": true, "nr": true, "no": true,
	"p": true, "shot": true, "angle": true, "ansicht": true, "vue": true, "pos": true, "picture": true, "pict": true,
}

// marks are words that are not part of anything. Common practice, no source.
var marks = map[string]bool{"copy": true, "kopie": true, "copie": true, "final": true, "web": true, "edit": true}

// ReadTail reads the tokens that follow a key in a name, path being the text their spans point into: a
// number as -1, _02, (3), .4 or a word with a number (alt2), or one trailing letter a to z; a role; marks.
// A number has at most three digits, as pixel sizes, dates and camera counters are longer, and stands right
// behind the key or at the end: elsewhere it belongs to other words. Common practice, no source.
func ReadTail(path string, tokens []Token) Tail {
	var tail Tail
	for i := 0; i < len(tokens); i++ {
		if skip := noNumber(path, tokens[i:]); skip > 0 {
			i += skip - 1
			continue
		}
		t := tokens[i]
		last := i == len(tokens)-1
		switch {
		case t.Digits && tail.Number == nil && len(t.Folded) <= 3 && (len(tail.Rest) == 0 || last) && !joined(path, tokens, i):
			tail.setNumber(t)
		case !t.Digits && numberWords[t.Folded] && i+1 < len(tokens) && tokens[i+1].Digits && tail.Number == nil && len(tokens[i+1].Folded) <= 3:
			i++
			tail.setNumber(tokens[i])
		case !t.Digits && roles[t.Folded] != "" && tail.Role == "":
			tail.Role = roles[t.Folded]
		case marks[t.Folded]:
		case t.Folded == "v" && i+1 < len(tokens) && tokens[i+1].Digits && t.Span.End == tokens[i+1].Span.Start:
			i++
		case t.Digits && i+1 < len(tokens) && tokens[i+1].Folded == "x" && strings.HasPrefix(path[max(t.Span.Start-1, 0):], "@"):
			i++
		case t.Digits && tail.Number != nil && bracketed(path, t):
			// A browser's " (1)" after a number: the second download of the same picture.
		case !t.Digits && last && tail.Number == nil && len(t.Folded) == 1 && 'a' <= t.Folded[0] && t.Folded[0] <= 'z':
			n := int(t.Folded[0]-'a') + 1
			tail.Number, tail.NumberSpan = &n, t.Span
		default:
			tail.Rest = append(tail.Rest, t)
		}
	}
	return tail
}

// cameras are the words that cameras and telephones put before their counter. Common practice, no source.
var cameras = map[string]bool{"img": true, "dsc": true, "dscf": true, "dscn": true, "pxl": true, "mvi": true, "imgp": true, "pict": true, "photo": true, "image": true}

// IsCamera reports whether a name is nothing but what a camera called it: it says nothing of any owner.
func IsCamera(tokens []Token) bool {
	return len(tokens) >= 2 && len(tokens) <= 4 && cameras[tokens[0].Folded] && tokens[1].Digits && len(tokens[1].Folded) >= 4
}

// noNumber gives how many tokens at the beginning look like numbers and are none: a date, written together or
// in three parts; a size in pixels (1200x1200); a resolution (300dpi). Common practice, no source.
func noNumber(path string, tokens []Token) int {
	t := tokens[0]
	if !t.Digits {
		return 0
	}
	touch := func(a, b Token) bool { return a.Span.End == b.Span.Start }
	switch {
	case len(t.Folded) == 8 && isDate(t.Folded[:4], t.Folded[4:6], t.Folded[6:]):
		return 1
	case len(tokens) >= 3 && len(t.Folded) == 4 && tokens[1].Digits && tokens[2].Digits && isDate(t.Folded, tokens[1].Folded, tokens[2].Folded):
		return 3
	case len(tokens) >= 3 && tokens[1].Folded == "x" && tokens[2].Digits && touch(t, tokens[1]) && touch(tokens[1], tokens[2]) && len(t.Folded) >= 2:
		if len(tokens) >= 4 && tokens[3].Folded == "px" {
			return 4
		}
		return 3
	case len(tokens) >= 2 && (tokens[1].Folded == "dpi" || tokens[1].Folded == "px" || tokens[1].Folded == "ppi"):
		return 2
	}
	return 0
}

func isDate(year, month, day string) bool {
	y, errY := strconv.Atoi(year)
	m, errM := strconv.Atoi(month)
	d, errD := strconv.Atoi(day)
	return errY == nil && errM == nil && errD == nil && len(month) <= 2 && len(day) <= 2 && y >= 1990 && y < 2100 && m >= 1 && m <= 12 && d >= 1 && d <= 31
}

// Core is the tokens of a name before what reads as its tail: what would be the key if the name were nothing
// but key, number, role and marks. At least the first token stays.
func Core(path string, tokens []Token) []Token {
	for i := 1; i < len(tokens); i++ {
		if tail := ReadTail(path, tokens[i:]); len(tail.Rest) == 0 {
			return tokens[:i]
		}
	}
	return tokens
}

func (tail *Tail) setNumber(t Token) {
	n, err := strconv.Atoi(asciiDigits(t.Folded))
	if err != nil {
		tail.Rest = append(tail.Rest, t)
		return
	}
	tail.Number, tail.NumberSpan = &n, t.Span
}

// joined reports whether a digit token stands without a separator against what follows, as in 1200x1200
// or 2x: then it is a size or a scale, not a number.
func joined(path string, tokens []Token, i int) bool {
	t := tokens[i]
	if i+1 < len(tokens) && tokens[i+1].Span.Start == t.Span.End && !(len(tokens[i+1].Folded) == 1 && i+2 == len(tokens) && tokens[i+1].Folded != "x") {
		return true
	}
	return t.Span.Start > 0 && path[t.Span.Start-1] == '@'
}

func bracketed(path string, t Token) bool {
	return t.Span.Start > 0 && path[t.Span.Start-1] == '(' && t.Span.End < len(path) && path[t.Span.End] == ')'
}

// asciiDigits turns the decimal digits of any script into 0-9. NFKC has folded the full-width ones.
func asciiDigits(s string) string {
	if isASCII(s) {
		return s
	}
	return strings.Map(func(r rune) rune {
		for zero := r; zero > r-10; zero-- {
			// Unicode keeps every script's digits zero to nine in one run of ten (The Unicode Standard, 4.6).
			if decimalZeros[zero] {
				return '0' + (r - zero)
			}
		}
		return r
	}, s)
}

// decimalZeros are the zeros of the scripts met in file names: Arabic-Indic, its eastern form, Devanagari,
// Bengali, Thai.
var decimalZeros = map[rune]bool{'٠': true, '۰': true, '०': true, '০': true, '๐': true}
