package names

import (
	"strconv"
	"strings"
)

// Sense is what some tokens of a name say besides any key. A key that is met inside one may stand there by chance.
type Sense uint8

const (
	NoSense    Sense = iota
	Date             // 2024-05-13, 13.5.24, 14. Januar 2025, 10-2024; with the time of day that may follow it
	Year             // 2024
	Counter          // IMG_0412, DSC01234, PXL_20240131_101500123, 100_4711: what a camera or program counts
	Resolution       // 1920x1080, 1200px, 1080p, 4K, 300dpi, @2x
	Paper            // A4, DIN A3
	Lens             // 50mm, f2.8, ISO 400
	Version          // v2, rev 3
	Order            // PO 4500123, Bestellung 4711
	Identifier       // (01), (10)LOT: GS1 application identifiers, but for the trade item number itself
	View             // A1N1: how GS1 names say what a picture shows
)

var senses = [...]string{"", "may_be_date", "may_be_year", "may_be_counter", "may_be_resolution", "may_be_paper", "may_be_lens",
	"may_be_version", "may_be_order", "may_be_identifier", "may_be_view"}

// Code is the message that says what it may be; empty for NoSense.
func (s Sense) Code() string { return senses[s] }

// SenseAt returns what begins at token i and how many tokens it takes; NoSense and 0 where nothing does. path is the text that
// the tokens' spans point into. Unless it says otherwise, common practice, no source.
func (l Lexicon) SenseAt(path string, tokens []Token, i int) (Sense, int) {
	if n := uuid(path, tokens, i); n > 0 {
		return Counter, n
	}
	if !tokens[i].Digits {
		return l.wordSense(path, tokens, i)
	}
	if n := size(path, tokens, i); n > 0 {
		return Resolution, n
	}
	if n, sense := l.moment(path, tokens, i); n > 0 {
		return sense, n
	}
	t := tokens[i]
	if bracketed(path, t) && len(t.Folded) >= 2 && len(t.Folded) <= 4 && t.Span.End+1 < len(path) &&
		classes[path[t.Span.End+1]] != classSeparator && strings.Contains(path, "(01)") {
		return l.identifier(path, tokens, i)
	}
	if i+1 >= len(tokens) {
		return NoSense, 0
	}
	next := tokens[i+1]
	glued := touch(t, next)
	scale := t.Span.Start > 0 && path[t.Span.Start-1] == '@'
	switch next.Folded {
	case "dpi", "ppi", "px", "pixel":
		return Resolution, 2
	case "x":
		if glued && (scale || path[next.Span.Start] == 'x' && isWidth(t.Folded) && (i+2 == len(tokens) || !touch(next, tokens[i+2]))) {
			return Resolution, 2 // @2x, 800x
		}
	case "w", "h":
		// As source sets write a picture's width (HTML, section 4.8.4.2): in small letters, and of a size that pictures have.
		if glued && (scale || path[next.Span.Start] == next.Folded[0] && isWidth(t.Folded)) {
			return Resolution, 2
		}
	case "p", "i":
		if glued && lines[t.Folded] {
			return Resolution, 2
		}
	case "k":
		if glued && (t.Folded == "2" || t.Folded == "4" || t.Folded == "8") && !glues(tokens, i) {
			return Resolution, 2
		}
	case "mm":
		if len(t.Folded) <= 3 && !glues(tokens, i) {
			return Lens, 2
		}
	}
	if next.Digits && i == 0 && len(t.Folded) == 3 && t.Folded[0] != '0' && len(next.Folded) == 4 && gap(path, t, next) == "_" {
		return Counter, 2 // a folder's number and a picture's, as DCF has them
	}
	return NoSense, 0
}

// wordSense returns what begins with a word.
func (l Lexicon) wordSense(path string, tokens []Token, i int) (Sense, int) {
	t := tokens[i]
	if i+1 >= len(tokens) {
		return NoSense, 0
	}
	word := l[t.Folded]
	if word.has(Camera | Dated) {
		if n := l.camera(path, tokens, i, word); n > 0 {
			return Counter, n
		}
	}
	if word.has(Month) {
		if n := l.monthFirst(path, tokens, i); n > 0 {
			return Date, n
		}
	}
	if word.has(OrderWord) {
		if n := l.order(tokens, i); n > 0 {
			return Order, n
		}
	}
	next := tokens[i+1]
	if !next.Digits {
		if next.Folded == "a" && (t.Folded == "din" || t.Folded == "iso") && isPaper(tokens, i+1) {
			return Paper, 3
		}
		return NoSense, 0
	}
	glued := touch(t, next)
	switch {
	case word.has(VersionWord) && len(next.Folded) <= 3 && (glued || len(t.Folded) > 1):
		if i+2 < len(tokens) && tokens[i+2].Digits && gap(path, next, tokens[i+2]) == "." {
			return Version, 3 // v1.2
		}
		return Version, 2
	case t.Folded == "a" && isPaper(tokens, i) && !glues(tokens, i):
		return Paper, 2
	case t.Folded == "iso" && len(next.Folded) >= 2 && len(next.Folded) <= 5:
		return Lens, 2
	case t.Folded == "f" && !glues(tokens, i) && i+2 < len(tokens) && tokens[i+2].Digits && len(next.Folded) <= 2 &&
		len(tokens[i+2].Folded) == 1 && gap(path, next, tokens[i+2]) == ".":
		return Lens, 3
	case glued && t.Folded == "e" && !glues(tokens, i) && len(next.Folded) >= 10 && len(next.Folded) <= 13:
		return Counter, 2 // the moment of an edit, as content programs add it
	case glued && t.Folded == "x" && !glues(tokens, i) && isWidth(next.Folded):
		return Resolution, 2
	case glued && len(t.Folded) == 1 && !glues(tokens, i):
		if n := view(tokens[i:]); n > 0 {
			return View, n
		}
	}
	return NoSense, 0
}

// view is how many tokens a GS1 view takes that they begin with, 0 where they begin with none: the kind of picture, the side that is seen, the
// angle, and the state of the packaging, which is a digit or a letter, as in C1N1 and A1CA (GS1 Product Image Specification Standard, section
// 2, from memory).
func view(t []Token) int {
	if len(t) < 3 || !touch(t[0], t[1]) || !touch(t[1], t[2]) || !t[1].Digits || len(t[1].Folded) != 1 || !strings.Contains("abcdefhm", t[0].Folded) {
		return 0
	}
	angle := t[2].Folded
	switch {
	case angle == "" || !strings.Contains("clrnd", angle[:1]):
	case len(angle) == 2 && strings.Contains("abcdefghjklm", angle[1:]) && (len(t) == 3 || !touch(t[2], t[3])):
		return 3
	case len(angle) == 1 && len(t) > 3 && touch(t[2], t[3]) && t[3].Digits && len(t[3].Folded) == 1:
		return 4
	}
	return 0
}

// sides are those of a GS1 view by its digit (from memory, as above).
var sides = map[string]string{"1": "front", "2": "side", "3": "top", "7": "back", "8": "side", "9": "bottom"}

func isPaper(tokens []Token, i int) bool {
	if i+1 >= len(tokens) || !tokens[i+1].Digits || !touch(tokens[i], tokens[i+1]) {
		return false
	}
	d := tokens[i+1].Folded
	return len(d) == 1 && d[0] <= '6' && (i+2 >= len(tokens) || !touch(tokens[i+1], tokens[i+2]))
}

// glues reports whether token i stands against the one before it, with no separator.
func glues(tokens []Token, i int) bool { return i > 0 && touch(tokens[i-1], tokens[i]) }

// lines are the heights that films have.
var lines = words("240 360 480 540 576 600 720 768 900 1080 1200 1440 1600 2160 4320")

func isWidth(digits string) bool {
	n, err := strconv.Atoi(digits)
	return err == nil && len(digits) >= 3 && n >= 100 && n <= 8192 && (n%10 == 0 || n%16 == 0)
}

// order reads an order's number: a word for it, perhaps another that says number, then digits.
func (l Lexicon) order(tokens []Token, i int) int {
	n := 1
	for n < 3 && i+n < len(tokens) && !tokens[i+n].Digits && (l.has(tokens[i+n].Folded, Label) || tokens[i+n].Folded == "no" ||
		tokens[i+n].Folded == "number") {
		n++
	}
	if i+n < len(tokens) && tokens[i+n].Digits && len(tokens[i+n].Folded) >= 3 {
		return n + 1
	}
	return 0
}

// identifier reads an application identifier in brackets and, but for a trade item number, the value behind it up to the
// next bracket (GS1 General Specifications, section 3 and figure 7.8.3, from memory).
func (l Lexicon) identifier(path string, tokens []Token, i int) (Sense, int) {
	if t := tokens[i].Folded; t == "01" || t == "02" {
		return Identifier, 1
	}
	n := 1
	for i+n < len(tokens) && !strings.ContainsAny(gap(path, tokens[i+n-1], tokens[i+n]), "(_ ") {
		n++
	}
	return Identifier, n
}

// uuid reads 3f2504e0-4f89-11d3-9a0c-0305e82c3301, as programs call what has no name (RFC 9562, section 4).
func uuid(path string, tokens []Token, i int) int {
	const length = 36
	at := tokens[i].Span.Start
	if len(path)-at < length || path[at+8] != '-' || path[at+13] != '-' || path[at+18] != '-' || path[at+23] != '-' || glues(tokens, i) {
		return 0
	}
	for k := range length {
		c := path[at+k] | 0x20
		if dash := k == 8 || k == 13 || k == 18 || k == 23; !dash && !('0' <= path[at+k] && path[at+k] <= '9') && !('a' <= c && c <= 'f') {
			return 0
		}
	}
	n := 0
	for i+n < len(tokens) && tokens[i+n].Span.End <= at+length {
		n++
	}
	return n
}

// IsCamera reports whether a name is nothing but what a camera, telephone or program called it: it says nothing of any owner.
func (l Lexicon) IsCamera(path string, tokens []Token) bool {
	counted, dated, program := false, false, false
	for i := 0; i < len(tokens); {
		t := tokens[i]
		sense, n := l.SenseAt(path, tokens, i)
		switch {
		case sense == Counter:
			counted = true
		case sense == Date:
			// With a time of day, or another word of a program, it is when the picture was taken.
			counted = counted || dated || program || n > 1 && l.timed(tokens[i:i+n])
			dated = true
		case sense != NoSense && sense != Year:
		case l.has(t.Folded, Program):
			program = true
			counted = counted || dated
			n = 1
		case l.has(t.Folded, Mark|At) || t.Folded == "a":
			n = 1
		case t.Digits && (counted || dated || program) && (bracketed(path, t) || dated && len(t.Folded) <= 6):
			n = 1
		default:
			return false
		}
		i += max(n, 1)
	}
	return counted
}

// timed reports whether a date's tokens hold a time of day.
func (l Lexicon) timed(tokens []Token) bool {
	digits := 0
	for _, t := range tokens {
		if t.Digits {
			digits += len(t.Folded)
		}
	}
	return digits > 8
}

// camera returns how many tokens from i on are a camera's word and its counter: IMG_0412, DSC01234, PXL_20240131_101500.
func (l Lexicon) camera(path string, tokens []Token, i int, is Word) int {
	word := 1
	if tokens[i+1].Folded == "e" && i+2 < len(tokens) && touch(tokens[i+1], tokens[i+2]) {
		word = 2 // IMG_E1234, an edited one
	}
	at := i + word
	if !tokens[at].Digits || len(tokens[at].Folded) < 4 {
		return 0
	}
	if date, _ := l.moment(path, tokens, at); date > 1 || date == 1 && len(tokens[at].Folded) > 4 {
		n := word + date
		if date == 1 && i+n < len(tokens) && tokens[i+n].Digits && len(tokens[i+n].Folded) == 6 {
			n++ // a program's number, where it is no time of day
		}
		if i+n+1 < len(tokens) && tokens[i+n].Folded == "wa" && tokens[i+n+1].Digits {
			n += 2 // IMG-20240513-WA0003
		}
		return n
	}
	if is.has(Dated) || tokens[i].Folded == "mg" && !beginsWithBar(path, tokens[i].Span.Start) {
		return 0
	}
	// Cameras count to 9999 or 99999 and begin again, but for the one letter that takes seven digits.
	if digits := len(tokens[at].Folded); tokens[i].Folded == "p" && digits != 7 || tokens[i].Folded != "p" && digits > 5 {
		return 0
	}
	return word + 1
}

// beginsWithBar reports whether a word stands at the beginning of a name behind an underscore, as in _MG_1234.
func beginsWithBar(path string, at int) bool {
	return at > 0 && path[at-1] == '_' && afterSlash(path, at-1) == at-1
}

// CutsSize reports whether a run that ends with token i takes the beginning of a size or a scale: T-100 and @2x are
// not T-100-2.
func (l Lexicon) CutsSize(path string, tokens []Token, i int) bool {
	if !tokens[i].Digits || i+1 >= len(tokens) {
		return false
	}
	scale := tokens[i].Span.Start > 0 && path[tokens[i].Span.Start-1] == '@'
	return scale && tokens[i+1].Folded == "x" || size(path, tokens, i) > 0
}

// size reads 1200x1200, 1200 × 900 px: two numbers of three to five digits that stand against no letter, or of two with
// what says that they are pixels.
func size(path string, tokens []Token, i int) int {
	t := tokens[i]
	if len(t.Folded) < 2 || len(t.Folded) > 5 || glues(tokens, i) {
		return 0
	}
	end := 0
	switch {
	case i+2 < len(tokens) && tokens[i+1].Folded == "x" && tokens[i+2].Digits && len(tokens[i+2].Folded) >= 2 && len(tokens[i+2].Folded) <= 5:
		end = i + 3
	case i+1 < len(tokens) && tokens[i+1].Digits && len(t.Folded) >= 3 && len(tokens[i+1].Folded) >= 3 && gap(path, t, tokens[i+1]) == "*":
		end = i + 2
	default:
		return 0
	}
	if end < len(tokens) && (tokens[end].Folded == "px" || tokens[end].Folded == "pixel") {
		return end + 1 - i
	}
	if len(t.Folded) < 3 || len(tokens[end-1].Folded) < 3 {
		return 0
	}
	return end - i
}

// gap is the text between two tokens; empty where they touch, or where one character is both.
func gap(path string, a, b Token) string {
	if a.Span.End >= b.Span.Start {
		return ""
	}
	return path[a.Span.End:b.Span.Start]
}

func touch(a, b Token) bool { return a.Span.End >= b.Span.Start }
