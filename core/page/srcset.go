package page

import (
	"strconv"
	"strings"
)

// Source is one candidate of a srcset: an address, with its width in pixels or its density where that is said.
type Source struct {
	Address string
	Width   int
	Density float64
}

// blank are the characters that HTML takes for blanks. Source: WHATWG Infra, ASCII whitespace.
const blank = "\t\n\f\r "

// ReadSrcset reads a srcset attribute. Source: WHATWG HTML, section 4.8.4.3.10, parsing a srcset attribute; candidates with descriptors
// that can't be read are left out, as there.
func ReadSrcset(text string) (all []Source) {
	for {
		text = strings.TrimLeft(text, blank+",")
		if text == "" {
			return all
		}
		end := strings.IndexAny(text, blank)
		if end < 0 {
			end = len(text)
		}
		address, rest := text[:end], text[end:]
		s := Source{Address: strings.TrimRight(address, ",")}
		if s.Address == address {
			descriptors, behind := cutDescriptors(rest)
			rest = behind
			if !s.describe(descriptors) {
				text = rest
				continue
			}
		}
		if text = rest; s.Address != "" {
			all = append(all, s)
		}
	}
}

// cutDescriptors cuts at the next comma that is not in parentheses.
func cutDescriptors(text string) (descriptors, behind string) {
	deep := 0
	for i, r := range text {
		switch {
		case r == '(':
			deep++
		case r == ')' && deep > 0:
			deep--
		case r == ',' && deep == 0:
			return text[:i], text[i+1:]
		}
	}
	return text, ""
}

// describe reads descriptors: a width, a density, or a width and a height to come.
func (s *Source) describe(descriptors string) bool {
	height := false
	for _, d := range strings.FieldsFunc(descriptors, func(r rune) bool { return strings.ContainsRune(blank, r) }) {
		number, kind := d[:len(d)-1], d[len(d)-1]
		switch kind {
		case 'w':
			n, err := strconv.ParseUint(number, 10, 31)
			if err != nil || n == 0 || s.Width > 0 || s.Density > 0 {
				return false
			}
			s.Width = int(n)
		case 'x':
			f, err := strconv.ParseFloat(number, 64)
			if err != nil || f < 0 || s.Width > 0 || s.Density > 0 || height || strings.HasPrefix(number, "+") {
				return false
			}
			s.Density = f
		case 'h':
			n, err := strconv.ParseUint(number, 10, 31)
			if err != nil || n == 0 || height || s.Density > 0 {
				return false
			}
			height = true
		default:
			return false
		}
	}
	return !height || s.Width > 0
}

// Largest is the candidate that promises most pixels; the first of those that promise the same. ok is false for none.
func Largest(all []Source) (best Source, ok bool) {
	for _, s := range all {
		if !ok || s.Width > best.Width || s.Width == best.Width && s.Density > best.Density {
			best, ok = s, true
		}
	}
	return best, ok
}
