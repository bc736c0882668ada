package wording

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/norm"
)

// Record is what is known of one picture on one owner, by field. A field of another language carries it behind its name:
// product.title.de.
type Record map[string]string

// Common are the fields that every record may have; options of a variant are variant.NAME, attributes of an owner product.NAME.
var Common = []string{"label", "role", "number", "product.title", "product.sku", "product.barcode", "product.code", "variant.title", "variant.sku",
	"variant.barcode", "category.title", "category.path", "category.code", "supplier", "alt", "title", "caption", "description"}

// value is a field in a language: in that language, else in its base language, else as it is.
func (r Record) value(field string, lang language.Tag) (string, bool) {
	if text := r[field+"."+strings.ToLower(lang.String())]; text != "" {
		return text, true
	}
	if base, _ := lang.Base(); r[field+"."+base.String()] != "" {
		return r[field+"."+base.String()], true
	}
	text, there := r[field]
	return text, there
}

// filling is one text on its way.
type filling struct {
	*Pattern
	record  Record
	unknown bool // a field is named that there is not
	holes   bool // a field was empty
	left    int  // characters that may still be written
}

// Fill makes a text. unknown tells that the pattern names a field that is neither common nor in the record, and nothing is to stand
// instead. Values are data: what looks like a pattern in them stays as it is. Cost: linear in the text, which is at most MostText long.
func (p *Pattern) Fill(record Record) (text string, unknown bool) {
	f := filling{Pattern: p, record: record, left: 4 * MostText}
	text, _ = f.fill(p.parts, false)
	text = tidy(text, f.holes)
	text = inCase(text, p.Case, p.Language)
	most := MostText
	if p.Limit > 0 {
		most = min(most, p.Limit)
	}
	if p.Field == FileName {
		return Slug(text, p.Language, most), f.unknown
	}
	return cut(norm.NFC.String(text), most), f.unknown
}

// fill writes parts and tells whether a field was empty. foreseen says that it is left out then.
func (f *filling) fill(parts []part, foreseen bool) (string, bool) {
	var b strings.Builder
	hole := false
	for _, p := range parts {
		switch {
		case p.optional != nil:
			if text, empty := f.fill(p.optional, true); !empty {
				b.WriteString(text)
			} else {
				f.holes = true
			}
		case p.field != "":
			text, empty := f.field(p, foreseen)
			hole = hole || empty
			b.WriteString(text)
		default:
			b.WriteString(f.room(p.text))
		}
	}
	return b.String(), hole
}

func (f *filling) field(p part, foreseen bool) (text string, empty bool) {
	text, there := f.record.value(p.field, f.Language)
	if !there && !foreseen && len(p.instead) == 0 && !slices.Contains(Common, p.field) {
		f.unknown = true
	}
	if text = strings.TrimSpace(text); text != "" {
		for _, a := range p.acts {
			text = a.do(text, f.Language)
		}
		return f.room(text), false
	}
	for _, other := range p.instead {
		if text, empty := f.fill(other, true); !empty && strings.TrimSpace(text) != "" {
			return text, false
		}
	}
	f.holes = true
	return "", true
}

// room is as much of a text as may still be written.
func (f *filling) room(text string) string {
	if len(text) > f.left {
		text = cut(text, f.left/utf8.UTFMax)
	}
	f.left -= len(text)
	return text
}

func (a act) do(text string, lang language.Tag) string {
	switch a.name {
	case "max":
		return cut(text, a.n)
	case "digits":
		if n, err := strconv.ParseUint(text, 10, 32); err == nil {
			return fmt.Sprintf("%0*d", a.n, n)
		}
		return text
	}
	return inCase(text, a.name, lang)
}

// inCase writes a text in a case, by the rules of its language. A sentence begins with a capital and goes on as it is.
func inCase(text, name string, lang language.Tag) string {
	switch name {
	case "upper":
		return cases.Upper(lang).String(text)
	case "lower":
		return cases.Lower(lang).String(text)
	case "title":
		return cases.Title(lang, cases.NoLower).String(text)
	case "sentence":
		_, n := utf8.DecodeRuneInString(text)
		return cases.Upper(lang).String(text[:n]) + text[n:]
	}
	return text
}

var (
	loose   = regexp.MustCompile(` +([,;.!?)\]])`)
	doubled = regexp.MustCompile(`([,;|/–·])( ?[,;|/–·])+`)
	hollow  = regexp.MustCompile(`\( ?\)|\[ ?\]`)
)

// tidy takes away what an empty field leaves behind, and blanks that are too many. It changes nothing else.
func tidy(text string, holes bool) string {
	text = strings.Join(strings.Fields(text), " ")
	if !holes {
		return text
	}
	text = hollow.ReplaceAllString(text, "")
	text = doubled.ReplaceAllString(loose.ReplaceAllString(text, "$1"), "$1")
	text = strings.Join(strings.Fields(text), " ")
	return strings.Trim(text, " ,;:|/–·-")
}

// cut shortens a text to so many characters: between words where there are some, never within what is one character to the eye.
func cut(text string, most int) string {
	runes := []rune(text)
	if len(runes) <= most {
		return text
	}
	end := most
	for end > 0 && (joins(runes[end]) || runes[end-1] == zeroWidthJoiner) {
		end--
	}
	if at := lastBlank(runes[:end]); !unicode.IsSpace(runes[end]) && at > end/2 {
		end = at
	}
	return strings.TrimRight(string(runes[:end]), " ,;:|/–·-")
}

const zeroWidthJoiner = '\u200d'

// joins reports whether a rune belongs to the one before it. Source: Unicode UAX #29, grapheme cluster boundaries, rules GB9 and GB9a,
// in brief.
func joins(r rune) bool {
	return unicode.IsMark(r) || r == zeroWidthJoiner || unicode.Is(unicode.Variation_Selector, r) || 0x1f3fb <= r && r <= 0x1f3ff
}

func lastBlank(runes []rune) int {
	for i := len(runes) - 1; i >= 0; i-- {
		if unicode.IsSpace(runes[i]) {
			return i
		}
	}
	return -1
}
