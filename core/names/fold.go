package names

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Span is a half-open range of byte offsets, end exclusive.
type Span struct{ Start, End int }

// Empty reports whether the span covers nothing.
func (s Span) Empty() bool { return s.End <= s.Start }

// Token is a run of letters or a run of digits. Folded is its text after NFKC and case folding;
// Span is where it stands, in bytes of the text that was given.
type Token struct {
	Folded string
	Span   Span
	Digits bool
}

// Tokens splits text at separators and at every boundary between letters and digits, and folds each
// piece by compatibility (NFKC, UAX #15) and case (full folding, Unicode chapter 3.13). Everything that is
// neither letter, mark nor digit separates. offset is added to every span, so that a part of a path keeps
// its place in the whole. Cost: linear in the text.
func Tokens(text string, offset int) []Token { return AppendTokens(nil, text, offset) }

// AppendTokens appends what Tokens returns.
func AppendTokens(tokens []Token, text string, offset int) []Token {
	traits := byte(0)
	for i := range len(text) {
		traits |= traitsOf[text[i]]
	}
	switch {
	case traits == 0:
		return asciiTokens(tokens, text, offset)
	case traits == capital:
		return asciiTokens(tokens, strings.ToLower(text), offset)
	}
	if plain, at := percentDecoded(text); at != nil {
		first := len(tokens)
		tokens = appendFolded(tokens, plain, 0)
		for i := range tokens[first:] {
			t := &tokens[first+i]
			t.Span = Span{offset + at[t.Span.Start], offset + at[t.Span.End]}
		}
		return tokens
	}
	return appendFolded(tokens, text, offset)
}

// appendFolded reads text in which nothing is encoded. What one character folds to may be several tokens, as in ㎥; they have
// its span then.
func appendFolded(tokens []Token, text string, offset int) []Token {
	var folded strings.Builder
	var span Span
	var kind script
	flush := func() {
		if folded.Len() > 0 {
			tokens = append(tokens, Token{folded.String(), span, kind == digit})
			folded.Reset()
		}
	}
	for from := 0; from < len(text); {
		to := from + norm.NFKC.NextBoundaryInString(text[from:], true)
		segment := norm.NFKC.String(text[from:to])
		if strings.ContainsRune(segment, '\u2044') {
			segment = text[from:to] // ½ is one sign, neither 1 and 2 nor 12
		}
		circled := isCircled(text[from:to])
		if circled {
			flush() // K7① is number 1 of K7
		}
		for _, r := range caseFold(segment) {
			if isTimes(r) && between(text[:from], text[to:]) {
				r = 'x'
			}
			is := scriptOf(r)
			if r == 'ー' && (folded.Len() == 0 || kind != hiragana && kind != katakana || span.End != offset+from) {
				is = separator // no kana before it that it could lengthen: it is written for a hyphen
			}
			switch is {
			case separator:
				flush()
			case invisible:
				// Joiners and direction marks are not seen; a name that carries one is read without it.
			default:
				if is == mark || r == 'ー' {
					if is = kind; folded.Len() == 0 || kind == digit {
						is = alphabet
					}
				}
				if is != kind {
					flush()
				}
				if folded.Len() == 0 {
					span.Start, kind = offset+from, is
				}
				if is == digit {
					r = asciiDigit(r)
				}
				folded.WriteRune(r)
				span.End = offset + to
			}
		}
		if circled {
			flush()
		}
		from = to
	}
	flush()
	return tokens
}

// isCircled reports whether a text begins with a number in a circle or the like (Unicode blocks Enclosed Alphanumerics,
// Dingbats, Enclosed CJK Letters and Months).
func isCircled(text string) bool {
	r, _ := utf8.DecodeRuneInString(text)
	return '①' <= r && r <= '⓿' || '❶' <= r && r <= '➓' || '㉑' <= r && r <= '㊿'
}

// script is what kind of character one is, as far as tokens part at it.
type script uint8

const (
	separator script = iota
	invisible
	mark
	digit
	alphabet
	hiragana
	katakana
	han
)

func scriptOf(r rune) script {
	switch {
	case r < utf8.RuneSelf:
		switch asciiClass(byte(r)) {
		case classDigit:
			return digit
		case classLetter:
			return alphabet
		}
		if 'A' <= r && r <= 'Z' {
			return alphabet
		}
		return separator
	case unicode.IsDigit(r):
		return digit
	case unicode.IsLetter(r):
		switch {
		case unicode.Is(unicode.Hiragana, r):
			return hiragana
		case unicode.Is(unicode.Katakana, r), r == 'ー':
			return katakana
		case unicode.Is(unicode.Han, r):
			return han
		}
		return alphabet
	case unicode.IsMark(r):
		return mark
	case unicode.Is(unicode.Cf, r):
		return invisible
	case unicode.Is(unicode.No, r):
		return alphabet
	}
	return separator
}

func isTimes(r rune) bool { return r == '×' || r == '✕' || r == '✖' || r == '⨯' }

// between reports whether a digit stands at both sides, spaces apart: × is the letter x there, as keyboards write it.
func between(before, behind string) bool {
	before, behind = strings.TrimRight(before, " "), strings.TrimLeft(behind, " ")
	return before != "" && behind != "" && asciiClass(before[len(before)-1]) == classDigit && asciiClass(behind[0]) == classDigit
}

// mostEncoded is how often a name is decoded: programs encode what another has encoded.
const mostEncoded = 4

// percentDecoded reads %20 and the like (RFC 3986, section 2.1) as the bytes they mean, again where they were encoded again.
// at returns for each byte, and for the end, where it stood in the text; nil where there was nothing to decode.
func percentDecoded(text string) (plain string, at []int) {
	plain = text
	for range mostEncoded {
		once, from := decodedOnce(plain)
		if from == nil {
			break
		}
		if at != nil {
			for i, f := range from {
				from[i] = at[f]
			}
		}
		plain, at = once, from
	}
	return plain, at
}

func decodedOnce(text string) (plain string, at []int) {
	if !strings.Contains(text, "%") {
		return text, nil
	}
	b := make([]byte, 0, len(text))
	decoded := false
	for i := 0; i < len(text); i++ {
		at = append(at, i)
		if i+2 < len(text) && text[i] == '%' {
			if v, err := strconv.ParseUint(text[i+1:i+3], 16, 8); err == nil {
				b = append(b, byte(v))
				i += 2
				decoded = true
				continue
			}
		}
		b = append(b, text[i])
	}
	if !decoded {
		return text, nil
	}
	return string(b), append(at, len(text))
}

func caseFold(segment string) string {
	if len(segment) == 1 {
		return strings.ToLower(segment)
	}
	return cases.Fold().String(segment)
}

const (
	classSeparator = iota
	classLetter
	classDigit
)

func asciiClass(c byte) int {
	switch {
	case '0' <= c && c <= '9':
		return classDigit
	case 'a' <= c && c <= 'z', 'A' <= c && c <= 'Z':
		return classLetter
	}
	return classSeparator
}

// Traits of bytes say how a text is read.
const (
	capital byte = 1 << iota
	encoded
	beyondASCII
)

var traitsOf = func() (of [256]byte) {
	for c := 'A'; c <= 'Z'; c++ {
		of[c] = capital
	}
	of['%'] = encoded
	for c := utf8.RuneSelf; c < 256; c++ {
		of[c] = beyondASCII
	}
	return of
}()

// asciiTokens is the path almost every name takes: offsets before and after folding are the same, so
// tokens are slices of one lower-cased copy.
func asciiTokens(tokens []Token, lower string, offset int) []Token {
	if tokens == nil {
		count, before := 0, classSeparator
		for i := range len(lower) {
			class := classes[lower[i]]
			if class != before && class != classSeparator {
				count++
			}
			before = class
		}
		tokens = make([]Token, 0, count)
	}
	for i := 0; i < len(lower); {
		class := classes[lower[i]]
		start := i
		for i++; i < len(lower) && classes[lower[i]] == class; i++ {
		}
		if class != classSeparator {
			tokens = append(tokens, Token{lower[start:i], Span{offset + start, offset + i}, class == classDigit})
		}
	}
	return tokens
}

var classes = func() (of [256]int) {
	for c := range of {
		of[c] = asciiClass(byte(c))
	}
	return of
}()

// Canonical joins tokens into the text by which names and keys are compared: separators are dropped, but
// one is kept where two digit runs meet, so that T-100-2 and T-1002 stay different.
func Canonical(tokens []Token) string {
	var b strings.Builder
	for i, t := range tokens {
		if i > 0 && t.Digits && tokens[i-1].Digits {
			b.WriteByte('-')
		}
		b.WriteString(t.Folded)
	}
	return b.String()
}

// asciiDigit returns 0 to 9 for a decimal digit of any script. Every script's digits zero to nine stand in one run of ten
// (The Unicode Standard, section 4.6), and the ranges of the general category Nd begin with a zero.
func asciiDigit(r rune) rune {
	if r < utf8.RuneSelf {
		return r
	}
	for _, in := range unicode.Nd.R16 {
		if rune(in.Lo) <= r && r <= rune(in.Hi) {
			return '0' + (r-rune(in.Lo))%10
		}
	}
	for _, in := range unicode.Nd.R32 {
		if rune(in.Lo) <= r && r <= rune(in.Hi) {
			return '0' + (r-rune(in.Lo))%10
		}
	}
	return r
}
