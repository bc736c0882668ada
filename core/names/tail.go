package names

import (
	"slices"
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
func (l Lexicon) ReadTail(path string, tokens []Token) Tail { return l.readTail(path, tokens, false) }

// readTail is ReadTail; onlyTail gives up at the first token that is none of these.
func (l Lexicon) readTail(path string, tokens []Token, onlyTail bool) Tail {
	tail := Tail{Number: NoNumber}
	for i := 0; i < len(tokens); i++ {
		if sense, skip := l.SenseAt(path, tokens, i); skip > 0 {
			if sense == View && tail.Role == "" {
				tail.Role = sides[tokens[i+1].Folded]
			}
			i += skip - 1
			continue
		}
		t := tokens[i]
		var word Word
		if !t.Digits {
			word = l.Of(t.Folded)
		}
		last := i == len(tokens)-1
		next := Token{}
		if !last {
			next = tokens[i+1]
		}
		switch {
		case t.Digits && short(t.Folded) && !last && l.counts(next.Folded) && (next.Folded[0] >= 0x80 || touch(t, next)):
			if i++; tail.Number == NoNumber {
				tail.number(path, t, Worded) // 2枚目, 3番
			}
			if role := l[l.behindCounted(next.Folded)].Role; tail.Role == "" {
				tail.Role = role
			}
		case t.Digits && tail.Number == NoNumber && short(t.Folded) && (len(tail.Rest) == 0 || last) && (!joined(path, tokens, i) ||
			l.countsTo(tokens, i)) && !Added(path, t):
			tail.number(path, t, Plain)
			if l.countsTo(tokens, i) {
				i += 2 // 2 of 9
			}
		case t.Digits && tail.Number != NoNumber && bracketed(path, t):
			// A browser's " (1)" after a number: the second download of the same picture.
		case !t.Digits && (word.has(NumberWord) || isPage(path, t)) && next.Digits && tail.Number == NoNumber && short(next.Folded):
			i++
			tail.number(path, next, Worded)
			if i+1 < len(tokens) && l.counts(tokens[i+1].Folded) {
				i++ // 第3张
			} else if l.countsTo(tokens, i) {
				i += 2
			}
		case word.Role != "":
			if tail.Role == "" {
				tail.Role = word.Role
			}
		case word.has(Label) || word.has(Program) && len(t.Folded) > 2:
		case word.has(Mark):
			if word.has(Copied) && (next.Digits && len(next.Folded) <= 2 || l.has(next.Folded, OfWord)) {
				i++ // "copy (2)" counts the copies, "copy of" goes before the name
			}
		case !t.Digits && last && tail.Number == NoNumber && len(tail.Rest) == 0 && len(t.Folded) == 1 && 'a' <= t.Folded[0] &&
			t.Folded[0] <= 'z' && !Added(path, t):
			tail.Number, tail.NumberSpan, tail.Notation = int(t.Folded[0]-'a')+1, t.Span, Lettered
		default:
			if tail.Rest = append(tail.Rest, i); onlyTail {
				return tail
			}
		}
	}
	return tail
}

// Added reports whether a plus or an ampersand stands before a token: PK-10+20 shows two products, and 20 is no number.
func Added(path string, t Token) bool {
	before := strings.TrimRight(path[:t.Span.Start], " ")
	if before == "" {
		return false
	}
	switch before[len(before)-1] {
	case '+', '&':
		return true
	}
	return strings.HasSuffix(before, "＋") || strings.HasSuffix(before, "＆") || strings.HasSuffix(before, "%2B") ||
		strings.HasSuffix(before, "%26")
}

// counts reports whether a word behind a number makes it one: 枚目, or with a role behind it 枚目正面.
func (l Lexicon) counts(word string) bool {
	rest := l.behindCounted(word)
	return rest != word && (rest == "" || l[rest].Role != "" || l.has(rest, Mark))
}

// counting are the words that count, the longer first.
var counting = func() (all []string) {
	for word, is := range Trade {
		if is.has(Counted) {
			all = append(all, word)
		}
	}
	slices.Sort(all)
	return all
}()

// countsTo reports whether a number of so many follows token i, as in 1von3.
func (l Lexicon) countsTo(tokens []Token, i int) bool {
	return i+2 < len(tokens) && l.has(tokens[i+1].Folded, OfWord) && tokens[i+2].Digits
}

// behindCounted is what follows the word that counts; the word itself where it is none.
func (l Lexicon) behindCounted(word string) string {
	if word == "" || word[0] < 0x80 {
		if Trade.has(word, Counted) {
			return ""
		}
		return word
	}
	rest := word
	for _, counted := range counting {
		if after, ok := strings.CutPrefix(word, counted); ok && len(after) < len(rest) {
			rest = after
		}
	}
	return rest
}

// isPage reports whether a letter is the short form of page before a number: S. 3, p. 3.
func isPage(path string, t Token) bool {
	return (t.Folded == "s" || t.Folded == "p") && t.Span.End < len(path) && path[t.Span.End] == '.'
}

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
	if i+1 < len(tokens) && touch(t, tokens[i+1]) && tokens[i+1].Folded[0] < 0x80 {
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

// longestTail is how many tokens a tail may have: longer ones are no tails.
const longestTail = 24

// Core is the tokens of a name before what reads as its tail: what would be the key if the name were nothing
// but key, number, role and marks. At least the first token stays.
func (l Lexicon) Core(path string, tokens []Token) []Token {
	for i := max(1, len(tokens)-longestTail); i < len(tokens); i++ {
		if tail := l.readTail(path, tokens[i:], true); len(tail.Rest) == 0 {
			return tokens[:i]
		}
	}
	return tokens
}
