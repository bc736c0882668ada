// Package wording makes the texts of pictures from patterns: alt text, title, caption, description and published file name; and
// tells what is wrong with a text.
package wording

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/language"
)

var (
	// ErrPattern is returned for a pattern that can't be read. The error says where and why.
	ErrPattern = errors.New("the pattern can't be read")
	// ErrLoop is returned for patterns that name each other in a circle.
	ErrLoop = errors.New("the patterns name each other in a circle")
	// ErrLanguage is returned for a language that is no tag of BCP 47.
	ErrLanguage = errors.New("the language is no tag of BCP 47, such as en, de or pt-BR")
	// ErrField is returned for a field that no text of a picture has.
	ErrField = errors.New("there is no such text; there are alt, title, caption, description and file_name")
)

// Field is which text of a picture is meant.
type Field string

const (
	Alt         Field = "alt"
	Title       Field = "title"
	Caption     Field = "caption"
	Description Field = "description"
	FileName    Field = "file_name" // without extension
)

// Fields are all texts of a picture, in the order they are offered.
var Fields = []Field{Alt, Title, Caption, Description, FileName}

// Bounds of patterns and of what they make.
const (
	MostPattern = 1000 // characters of a pattern
	MostText    = 2000 // characters of a text
	mostName    = 100  // characters of a file name
	deepest     = 8    // brackets within each other
)

// Pattern is how a text is made.
//
//	{product.title}                   a field
//	{variant.colour|plain}            what stands behind | where the field is empty; it may hold fields again
//	{product.title:upper:max 40}      upper, lower, title or sentence case; at most 40 characters, cut between words
//	{number:00}                       a number with at least so many digits
//	{product.title}[, {role}]         what stands in brackets is left out where a field in it is empty
//	\{ \} \[ \] \| \: \\              these characters themselves
type Pattern struct {
	Source   string
	Field    Field
	Language language.Tag // for case, file names and fields that are there in several languages
	Case     string       // of the whole text: upper, lower, title, sentence; empty for as it is
	Limit    int          // characters of the whole text; 0 for no other bound than MostText
	parts    []part
}

// part is a piece of a pattern: a text, a field, or what is left out where a field in it is empty.
type part struct {
	text     string
	field    string // empty for none
	acts     []act
	instead  [][]part // tried in turn where the field is empty
	optional []part   // nil for none
}

// act is what is done with a field's text.
type act struct {
	name string // upper, lower, title, sentence, max, digits
	n    int
}

// Parse reads a pattern for a field in a language; an empty one is English. Errors: ErrPattern, ErrLanguage, ErrField.
func Parse(source string, field Field, tag string) (*Pattern, error) {
	if !slices.Contains(Fields, field) {
		return nil, fmt.Errorf("%q: %w", field, ErrField)
	}
	lang, err := Language(tag)
	if err != nil {
		return nil, err
	}
	if !utf8.ValidString(source) || utf8.RuneCountInString(source) > MostPattern {
		return nil, fmt.Errorf("%w: it has more than %d characters", ErrPattern, MostPattern)
	}
	r := reader{runes: []rune(source)}
	parts, err := r.parts("", 0)
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(source) == "" {
		return nil, fmt.Errorf("%w: it is empty", ErrPattern)
	}
	return &Pattern{Source: source, Field: field, Language: lang, parts: parts}, nil
}

// Language reads a language by BCP 47 (RFC 5646), in its canonical form; English for none. ErrLanguage.
func Language(tag string) (language.Tag, error) {
	if tag == "" {
		return language.English, nil
	}
	t, err := language.Parse(tag)
	if err != nil || t == language.Und {
		return t, fmt.Errorf("%q: %w", tag, ErrLanguage)
	}
	return t, nil
}

// IsCase reports whether there is such a case for a whole text; empty leaves it as it is.
func IsCase(name string) bool {
	return name == "" || slices.Contains([]string{"upper", "lower", "title", "sentence"}, name)
}

// Names are the fields that a pattern names, each once.
func (p *Pattern) Names() []string {
	var all []string
	var walk func([]part)
	walk = func(some []part) {
		for _, one := range some {
			if one.field != "" && !slices.Contains(all, one.field) {
				all = append(all, one.field)
			}
			for _, other := range one.instead {
				walk(other)
			}
			walk(one.optional)
		}
	}
	walk(p.parts)
	return all
}

// reader reads a pattern.
type reader struct {
	runes []rune
	at    int
}

func (r *reader) wrong(format string, args ...any) error {
	return fmt.Errorf("%w: character %d: %s", ErrPattern, r.at+1, fmt.Sprintf(format, args...))
}

// parts reads up to one of the characters in end, which is left, or to the pattern's end where there is none.
func (r *reader) parts(end string, depth int) (all []part, err error) {
	if depth > deepest {
		return nil, r.wrong("there are more than %d brackets within each other", deepest)
	}
	var text strings.Builder
	flush := func() {
		if text.Len() > 0 {
			all = append(all, part{text: text.String()})
			text.Reset()
		}
	}
	for ; r.at < len(r.runes); r.at++ {
		c := r.runes[r.at]
		switch {
		case strings.ContainsRune(end, c):
			flush()
			return all, nil
		case c == '\\' && r.at+1 < len(r.runes):
			r.at++
			text.WriteRune(r.runes[r.at])
		case c == '{':
			flush()
			one, err := r.field(depth + 1)
			if err != nil {
				return nil, err
			}
			all = append(all, one)
		case c == '[':
			flush()
			r.at++
			some, err := r.parts("]", depth+1)
			if err != nil {
				return nil, err
			}
			all = append(all, part{optional: append(make([]part, 0, len(some)), some...)})
		case c == '}', c == ']':
			return nil, r.wrong("%c closes nothing; write \\%c for the character itself", c, c)
		default:
			text.WriteRune(c)
		}
	}
	if end != "" {
		return nil, r.wrong("%c is missing", []rune(end)[len([]rune(end))-1])
	}
	flush()
	return all, nil
}

// field reads a field from its opening bracket to its closing one, on which it ends.
func (r *reader) field(depth int) (one part, err error) {
	r.at++
	from := r.at
	for r.at < len(r.runes) && !strings.ContainsRune("|}{[]", r.runes[r.at]) {
		r.at++
	}
	head := strings.Split(string(r.runes[from:r.at]), ":")
	if one.field = Name(head[0]); one.field == "" {
		return one, r.wrong("{ names no field")
	}
	for _, text := range head[1:] {
		a, err := readAct(text)
		if err != nil {
			return one, r.wrong("%v", err)
		}
		one.acts = append(one.acts, a)
	}
	for r.at < len(r.runes) && r.runes[r.at] == '|' {
		r.at++
		other, err := r.parts("|}", depth)
		if err != nil {
			return one, err
		}
		one.instead = append(one.instead, other)
	}
	if r.at == len(r.runes) || r.runes[r.at] != '}' {
		return one, r.wrong("} is missing")
	}
	return one, nil
}

func readAct(text string) (a act, err error) {
	text = strings.ToLower(strings.TrimSpace(text))
	switch {
	case text != "" && IsCase(text):
		return act{name: text}, nil
	case text != "" && strings.Trim(text, "0") == "" && len(text) <= 9:
		return act{"digits", len(text)}, nil
	}
	if _, err := fmt.Sscanf(text, "max %d", &a.n); err == nil && a.n > 0 {
		a.name = "max"
		return a, nil
	}
	return a, fmt.Errorf("%q is none of upper, lower, title, sentence, max 40, 00", text)
}

// Name is how a field's name is compared: without case, and without blanks around it.
func Name(field string) string { return strings.ToLower(strings.TrimSpace(field)) }
