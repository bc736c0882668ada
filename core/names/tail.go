package names

import (
	"strconv"
	"strings"
)

// Notation says how a number is written.
type Notation uint8

const (
	Unnumbered Notation = iota
	Plain               // -1, _2, .4
	Padded              // _01, -002
	Bracketed           // (3)
	Worded              // alt2, image-5
	Lettered            // a to z
)

// NoNumber stands where a tail carries none.
const NoNumber = -1

// Tail is what the tokens beside a key say. Rest holds the tokens that are neither number, role nor mark: where
// it is empty the key was the whole name.
type Tail struct {
	Number     int // NoNumber where there is none
	NumberSpan Span
	Notation   Notation
	Role       string
	Rest       []int // places among the tokens given
}

// ReadTail reads the tokens that follow a key in a name, path being the text their spans point into: a number as -1,
// _02, (3), .4 or a word with a number (alt2), or one trailing letter a to z; a role; marks. A number has at most
// three digits, four where it is padded with zeros, as dates, sizes and camera counters are longer, and stands right
// behind the key or at the end: elsewhere it belongs to other words. Common practice, no source.
func (l Lexicon) ReadTail(path string, tokens []Token) Tail {
	tail := Tail{Number: NoNumber}
	for i := 0; i < len(tokens); i++ {
		if skip := l.noNumber(path, tokens, i); skip > 0 {
			i += skip - 1
			continue
		}
		t := tokens[i]
		last := i == len(tokens)-1
		next := Token{}
		if !last {
			next = tokens[i+1]
		}
		switch {
		case t.Digits && tail.Number == NoNumber && short(t.Folded) && (len(tail.Rest) == 0 || last) && !joined(path, tokens, i):
			tail.number(path, t, Plain)
		case t.Digits && tail.Number != NoNumber && bracketed(path, t):
			// A browser's " (1)" after a number: the second download of the same picture.
		case !t.Digits && l.NumberWords[t.Folded] && next.Digits && tail.Number == NoNumber && short(next.Folded):
			i++
			tail.number(path, next, Worded)
		case !t.Digits && l.Roles[t.Folded] != "":
			if tail.Role == "" {
				tail.Role = l.Roles[t.Folded]
			}
		case !t.Digits && l.Marks[t.Folded]:
			if copied[t.Folded] && (next.Digits && len(next.Folded) <= 2 || of[next.Folded]) {
				i++ // "copy (2)" counts the copies, "copy of" goes before the name
			}
		case !t.Digits && version[t.Folded] && next.Digits && len(next.Folded) <= 3 && (t.Span.End == next.Span.Start || len(t.Folded) > 1):
			i++
		case !t.Digits && last && tail.Number == NoNumber && len(tail.Rest) == 0 && len(t.Folded) == 1 && 'a' <= t.Folded[0] && t.Folded[0] <= 'z':
			tail.Number, tail.NumberSpan, tail.Notation = int(t.Folded[0]-'a')+1, t.Span, Lettered
		default:
			tail.Rest = append(tail.Rest, i)
		}
	}
	return tail
}

// copied are the marks that a counter may follow, of what "copy of" ends in. Common practice, no source.
var (
	copied  = words("copy kopie copie copia kopi duplicate")
	of      = words("of von de di")
	version = words("v ver version rev r")
)

func (tail *Tail) number(path string, t Token, as Notation) {
	n, err := strconv.Atoi(t.Folded)
	if err != nil {
		return
	}
	switch {
	case as == Worded:
	case bracketed(path, t):
		as = Bracketed
	case t.Folded[0] == '0' && len(t.Folded) > 1:
		as = Padded
	}
	tail.Number, tail.NumberSpan, tail.Notation = n, t.Span, as
}

// short reports whether digits may number a picture.
func short(digits string) bool {
	return len(digits) <= 3 || len(digits) == 4 && digits[0] == '0'
}

// joined reports whether a digit token stands without a separator against what follows, as in 1200x1200
// or 2x: then it is a size or a scale, not a number.
func joined(path string, tokens []Token, i int) bool {
	t := tokens[i]
	if i+1 < len(tokens) && tokens[i+1].Span.Start == t.Span.End {
		return len(tokens[i+1].Folded) > 1 || i+2 < len(tokens) || tokens[i+1].Folded == "x"
	}
	return t.Span.Start > 0 && path[t.Span.Start-1] == '@'
}

func bracketed(path string, t Token) bool {
	if t.Span.Start == 0 || t.Span.End >= len(path) {
		return false
	}
	switch path[t.Span.Start-1] {
	case '(':
		return path[t.Span.End] == ')'
	case '[':
		return path[t.Span.End] == ']'
	}
	return strings.HasSuffix(path[:t.Span.Start], "（")
}

// Core is the tokens of a name before what reads as its tail: what would be the key if the name were nothing
// but key, number, role and marks. At least the first token stays.
func (l Lexicon) Core(path string, tokens []Token) []Token {
	for i := 1; i < len(tokens); i++ {
		if tail := l.ReadTail(path, tokens[i:]); len(tail.Rest) == 0 {
			return tokens[:i]
		}
	}
	return tokens
}
