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

// AppendTokens appends what Tokens gives.
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
		tokens = AppendTokens(tokens, plain, 0)
		for i := range tokens[first:] {
			t := &tokens[first+i]
			t.Span = Span{offset + at[t.Span.Start], offset + at[t.Span.End]}
		}
		return tokens
	}
	var folded strings.Builder
	var span Span
	var digits bool
	flush := func() {
		if folded.Len() > 0 {
			tokens = append(tokens, Token{folded.String(), span, digits})
			folded.Reset()
		}
	}
	for from := 0; from < len(text); {
		to := from + norm.NFKC.NextBoundaryInString(text[from:], true)
		for _, r := range caseFold(norm.NFKC.String(text[from:to])) {
			switch {
			case unicode.IsDigit(r), unicode.IsLetter(r), unicode.IsMark(r):
				isDigit := unicode.IsDigit(r)
				if isDigit != digits {
					flush()
				}
				if folded.Len() == 0 {
					span.Start, digits = offset+from, isDigit
				}
				if isDigit {
					r = asciiDigit(r)
				}
				folded.WriteRune(r)
				span.End = offset + to
			case unicode.Is(unicode.Cf, r):
				// Joiners and direction marks are invisible; a name that carries one is read without it.
			default:
				flush()
			}
		}
		from = to
	}
	flush()
	return tokens
}

// percentDecoded reads %20 and the like (RFC 3986, section 2.1) as the bytes they mean, once. at gives for each
// byte, and for the end, where it stood in the text; nil where there was nothing to decode.
func percentDecoded(text string) (plain string, at []int) {
	if !strings.Contains(text, "%") {
		return text, nil
	}
	b := make([]byte, 0, len(text))
	decoded := false
	for i := 0; i < len(text); i++ {
		at = append(at, i)
		if i+2 < len(text) && text[i] == '%' {
			if v, err := strconv.ParseUint(text[i+1:i+3], 16, 8); err == nil && v != '%' {
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

// asciiDigit gives 0 to 9 for a decimal digit of any script. Every script's digits zero to nine stand in one run of ten
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
