package page

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// ErrNoRule is returned where no rule explains all examples.
var ErrNoRule = errors.New("no rule explains all examples")

// Example is the address of a small picture, and that of the large one of the same picture.
type Example struct {
	Small string `json:"small" maxLength:"4096"`
	Large string `json:"large" maxLength:"4096"`
}

// Step is one part of an address that a rule changes. From is what is taken out and By what is put there instead; a run of digits in From
// that is written # stands for any number. Before and Behind are what stands at its sides; empty at an end of the address. In says which
// part of the address it is in.
type Step struct {
	In     Part   `json:"in" maxLength:"20"`
	Before string `json:"before" maxLength:"4096"`
	From   string `json:"from" maxLength:"4096"`
	By     string `json:"by" maxLength:"4096"`
	Behind string `json:"behind" maxLength:"4096"`
	Last   bool   `json:"last"` // where it fits at several places, the last is meant and not the first
}

// Part is a part of an address.
type Part string

// Parts of an address, as RFC 3986 names them; the name is the last segment of the path without its extension.
const (
	Scheme    Part = "scheme"
	Host      Part = "host"
	Path      Part = "path"
	Name      Part = "name"
	Extension Part = "extension"
	Query     Part = "query"
)

// Rule leads from the addresses of small pictures to those of large ones, by steps in the order of the address.
type Rule struct {
	Steps []Step `json:"steps"`
}

// address is an address in its parts; put together they are it again.
type address struct{ scheme, host, path, name, extension, query string }

var addressParts = regexp.MustCompile(`^([a-zA-Z][a-zA-Z0-9+.-]*:)?(//[^/?#]*)?([^?#]*/)?([^/?#]*?)(\.[a-zA-Z0-9]{1,5})?([?#].*)?$`)

// split takes an address apart. Source: RFC 3986, appendix B, with the last segment in two.
func split(text string) (a address, ok bool) {
	m := addressParts.FindStringSubmatch(text)
	if m == nil {
		return a, false
	}
	return address{m[1], m[2], m[3], m[4], m[5], m[6]}, true
}

func (a address) part(p Part) string {
	return map[Part]string{Scheme: a.scheme, Host: a.host, Path: a.path, Name: a.name, Extension: a.extension, Query: a.query}[p]
}

var parts = []Part{Scheme, Host, Path, Name, Extension, Query}

// token is a run of letters, a run of digits, or one other character.
var token = regexp.MustCompile(`[0-9]+|\pL+|.`)

func tokens(text string) []string { return token.FindAllString(text, -1) }

// hunk is where two addresses differ: some tokens of the small one, and what stands there in the large one.
type hunk struct {
	in             Part
	from, by       []string
	before, behind []string // tokens of the small one's part at its sides
}

// hunks are where two addresses differ, part by part.
func hunks(e Example) (all []hunk, ok bool) {
	small, okSmall := split(e.Small)
	large, okLarge := split(e.Large)
	if !okSmall || !okLarge {
		return nil, false
	}
	for _, p := range parts {
		all = append(all, differ(p, tokens(small.part(p)), tokens(large.part(p)))...)
	}
	return all, true
}

// differ aligns two lists of tokens by their longest common subsequence and returns the gaps. Cost: the product of their lengths.
func differ(in Part, a, b []string) (all []hunk) {
	long := make([][]int, len(a)+1)
	for i := range long {
		long[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			if a[i] == b[j] {
				long[i][j] = long[i+1][j+1] + weight(a[i])
			}
			long[i][j] = max(long[i][j], long[i+1][j], long[i][j+1])
		}
	}
	for i, j := 0, 0; i < len(a) || j < len(b); {
		if i < len(a) && j < len(b) && a[i] == b[j] {
			i, j = i+1, j+1
			continue
		}
		fromI, fromJ := i, j
		for (i < len(a) || j < len(b)) && !(i < len(a) && j < len(b) && a[i] == b[j] && long[i][j] == long[i+1][j+1]+weight(a[i])) {
			if j == len(b) || i < len(a) && long[i+1][j] >= long[i][j+1] {
				i++
			} else {
				j++
			}
		}
		all = append(all, hunk{in: in, from: a[fromI:i], by: b[fromJ:j], before: a[:fromI], behind: a[i:]})
	}
	return all
}

// weight makes words and numbers count more than what stands between them, so that a hunk does not end at a hyphen.
func weight(t string) int {
	if c := t[0]; c >= 0x80 || c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z' {
		return 2 + len(t)
	}
	return 1
}

// Infer finds the rule that explains all examples: the tightest that does. ErrNoRule where none does, and where there is no example. Cost:
// by the examples, each by the square of its length.
func Infer(examples []Example) (Rule, error) {
	if len(examples) == 0 {
		return Rule{}, ErrNoRule
	}
	var of [][]hunk
	for _, e := range examples {
		all, ok := hunks(e)
		if !ok || len(all) == 0 || len(of) > 0 && len(all) != len(of[0]) {
			return Rule{}, ErrNoRule
		}
		of = append(of, all)
	}
	r := Rule{}
	for n := range of[0] {
		same := make([]hunk, len(of))
		for i := range of {
			same[i] = of[i][n]
		}
		s, ok := general(same)
		if !ok {
			return Rule{}, ErrNoRule
		}
		r.Steps = append(r.Steps, s)
	}
	if r.explains(examples) {
		return r, nil
	}
	for n := range r.Steps { // a part that also stands before is meant where it stands last
		r.Steps[n].Last = true
		if r.explains(examples) {
			return r, nil
		}
	}
	return Rule{}, ErrNoRule
}

func (r Rule) explains(examples []Example) bool {
	return !slices.ContainsFunc(examples, func(e Example) bool {
		got, ok := r.Apply(e.Small)
		return !ok || got != e.Large
	})
}

// general is the step that does what hunks of all examples do. What is put in must be the same in all; of what is taken out numbers may
// differ, and words where they stand alone between the same neighbours.
func general(same []hunk) (s Step, ok bool) {
	h := same[0]
	s = Step{In: h.in, By: strings.Join(h.by, "")}
	for _, o := range same[1:] {
		if o.in != h.in || strings.Join(o.by, "") != s.By || len(o.from) != len(h.from) {
			return s, false
		}
	}
	for i := range h.from {
		t, size := h.from[i], h.isSize(i)
		for _, o := range same[1:] {
			if size = size || isNumber(t) && isNumber(o.from[i]) && o.from[i] != t; o.from[i] != t && !(isNumber(t) && isNumber(o.from[i])) {
				return s, false
			}
		}
		if size {
			t = "#"
		}
		s.From += escape(t, size)
	}
	s.Before, s.Behind = shared(same, func(h hunk) string { return last(h.before) }), shared(same, func(h hunk) string { return next(h.behind) })
	if s.From == "" && s.Before == "" && s.Behind == "" && h.in == Name {
		s.Last = len(h.before) > 0 // put in at the end of the name, whatever that is
	}
	return s, true
}

// sizeWords stand beside numbers that say a size. Common practice, no source.
var sizeWords = map[string]bool{"x": true, "×": true, "px": true, "w": true, "h": true, "s": true, "sx": true, "sy": true, "sw": true, "sh": true, "width": true,
	"height": true, "size": true, "maxwidth": true, "maxheight": true, "wid": true, "hei": true, "imwidth": true}

// isSize reports whether the i-th token that a hunk takes out is a number that says a size: beside an x or a px, or behind a w, h or
// size, with one sign between at most. Another picture has another size there, so any number is meant.
func (h hunk) isSize(i int) bool {
	if !isNumber(h.from[i]) {
		return false
	}
	before, behind := slices.Concat(h.before, h.from[:i]), slices.Concat(h.from[i+1:], h.behind)
	word := func(t string) bool { return sizeWords[strings.ToLower(t)] }
	if word(last(before)) || word(next(behind)) {
		return true
	}
	n := len(before)
	return n >= 2 && strings.Contains("=_-:", before[n-1]) && word(before[n-2])
}

func isNumber(t string) bool { return t != "" && strings.Trim(t, "0123456789") == "" }

// escape writes a token so that # stands for numbers alone.
func escape(t string, any bool) string {
	if any || t != "#" && t != `\` {
		return t
	}
	return `\` + t
}

func last(tokens []string) string {
	if len(tokens) == 0 {
		return ""
	}
	return tokens[len(tokens)-1]
}

func next(tokens []string) string {
	if len(tokens) == 0 {
		return ""
	}
	return tokens[0]
}

// shared is what all say; empty where they differ.
func shared(same []hunk, of func(hunk) string) string {
	text := of(same[0])
	for _, h := range same[1:] {
		if of(h) != text {
			return ""
		}
	}
	if isNumber(text) || len(text) > 0 && weight(text) > 1 && len(same) == 1 {
		return "" // a number, or a word of a single example, is the picture's own
	}
	return text
}

// Apply returns the address of the large picture. ok is false where a step finds nothing to change.
func (r Rule) Apply(small string) (large string, ok bool) {
	a, ok := split(small)
	if !ok || len(r.Steps) == 0 {
		return "", false
	}
	of := map[Part]string{}
	for _, p := range parts {
		of[p] = a.part(p)
	}
	// From behind, so that what one step puts in is not taken for what another looks for.
	for _, s := range slices.Backward(r.Steps) {
		changed, did := s.on(of[s.In])
		if !did {
			return "", false
		}
		of[s.In] = changed
	}
	for _, p := range parts {
		large += of[p]
	}
	return large, large != small
}

// on makes a step in a part of an address.
func (s Step) on(text string) (string, bool) {
	if s.From == "" && s.Before == "" && s.Behind == "" {
		if s.Last || s.In != Name {
			return text + s.By, true
		}
		return s.By + text, true
	}
	places := s.pattern().FindAllStringSubmatchIndex(text, -1)
	if len(places) == 0 {
		return text, false
	}
	at := places[0]
	if s.Last {
		at = places[len(places)-1]
	}
	return text[:at[2]] + s.By + text[at[3]:], true
}

// pattern is what a step looks for: its own part is the first group. A word is met as a whole, not within another.
func (s Step) pattern() *regexp.Regexp {
	var b strings.Builder
	if s.Before != "" {
		b.WriteString(regexp.QuoteMeta(s.Before))
	} else if s.From != "" && startsWord(s.From) {
		b.WriteString(`(?:^|[^0-9\pL])`)
	}
	b.WriteString("(")
	escaped := false
	for _, r := range s.From {
		switch {
		case r == '\\' && !escaped:
			escaped = true
			continue
		case r == '#' && !escaped:
			b.WriteString("[0-9]+")
		default:
			b.WriteString(regexp.QuoteMeta(string(r)))
		}
		escaped = false
	}
	b.WriteString(")")
	if s.Behind != "" {
		b.WriteString(regexp.QuoteMeta(s.Behind))
	} else if s.From != "" {
		b.WriteString(`(?:$|[^0-9\pL]|\b)`)
	}
	return regexp.MustCompile(b.String())
}

func startsWord(from string) bool { return from[0] == '#' || weight(from) > 1 }

// String says a rule in words.
func (r Rule) String() string {
	var all []string
	for _, s := range r.Steps {
		switch {
		case s.From == "":
			all = append(all, fmt.Sprintf("put %q into the %s", s.By, s.In))
		case s.By == "":
			all = append(all, fmt.Sprintf("take %q out of the %s", s.From, s.In))
		default:
			all = append(all, fmt.Sprintf("in the %s put %q in the place of %q", s.In, s.By, s.From))
		}
	}
	return strings.Join(all, "; ")
}
