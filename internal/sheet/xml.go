package sheet

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"strconv"
	"unicode/utf8"
)

// event is what a scanner has come to.
type event uint8

const (
	opens event = iota + 1
	closes
	text
)

var errXML = errors.New("its XML is not well-formed")

const (
	longestTag = 1 << 20 // bytes of one tag with its attributes
	deepest    = 256     // elements in elements
)

// scanner reads the elements and texts of an XML document one after the other, much faster than a decoder that makes values of them.
// Names come without their prefix. It knows no document types: a document that declares one is refused, so that entities can neither
// grow nor reach outside (XML 1.0, section 4; OWASP, XML External Entity Prevention).
type scanner struct {
	in    *bufio.Reader
	name  []byte // of the element
	tag   []byte // its attributes as they are written
	text  []byte // of the last text
	empty bool   // the element that was opened closes next
	depth int
}

func newScanner(in io.Reader) *scanner { return &scanner{in: bufio.NewReaderSize(in, 64<<10)} }

// next goes to the next element or text; io.EOF behind the last. Texts of blanks alone between elements are told like others.
func (s *scanner) next() (event, error) {
	if s.empty {
		s.empty = false
		s.depth--
		return closes, nil
	}
	for {
		c, err := s.in.Peek(1)
		if err == io.EOF && s.depth > 0 {
			return 0, fmt.Errorf("%w: it ends too early", errXML)
		}
		if err != nil {
			return 0, err
		}
		if c[0] != '<' {
			if err := s.readText(); err != nil {
				return 0, err
			}
			return text, nil
		}
		if e, err := s.readTag(); e != 0 || err != nil {
			return e, err
		}
	}
}

// readText reads up to the next tag.
func (s *scanner) readText() error {
	s.text = s.text[:0]
	for {
		part, err := s.in.ReadSlice('<')
		if len(s.text)+len(part) > largestTexts {
			return ErrTooLarge
		}
		s.text = append(s.text, part...)
		switch err {
		case nil:
			s.text = s.text[:len(s.text)-1]
			if err := s.in.UnreadByte(); err != nil {
				return err
			}
			s.text, err = unescaped(s.text)
			return err
		case bufio.ErrBufferFull:
		case io.EOF:
			s.text, err = unescaped(s.text)
			return err
		default:
			return err
		}
	}
}

// readTag reads one tag; 0 for what is neither element nor text.
func (s *scanner) readTag() (event, error) {
	ahead, _ := s.in.Peek(9)
	switch {
	case bytes.HasPrefix(ahead, []byte("<!--")):
		return 0, s.skip("-->")
	case bytes.HasPrefix(ahead, []byte("<![CDATA[")):
		if _, err := s.in.Discard(9); err != nil {
			return 0, err
		}
		s.text = s.text[:0]
		err := s.until("]]>", func(b []byte) { s.text = append(s.text, b...) })
		return text, err
	case bytes.HasPrefix(ahead, []byte("<!")):
		return 0, fmt.Errorf("%w: it declares a document type", errXML)
	case bytes.HasPrefix(ahead, []byte("<?")):
		return 0, s.skip("?>")
	}
	s.tag = s.tag[:0]
	quote := byte(0)
	for {
		part, err := s.in.ReadSlice('>')
		if err != nil && err != bufio.ErrBufferFull {
			return 0, fmt.Errorf("%w: a tag is not closed", errXML)
		}
		for _, c := range part {
			switch {
			case quote == 0 && (c == '"' || c == '\''):
				quote = c
			case c == quote:
				quote = 0
			}
		}
		if s.tag = append(s.tag, part...); len(s.tag) > longestTag {
			return 0, ErrTooLarge
		}
		if err == nil && quote == 0 {
			break
		}
	}
	tag := s.tag[1 : len(s.tag)-1]
	if len(tag) > 0 && tag[0] == '/' {
		s.name = local(bytes.TrimRight(tag[1:], " \t\r\n"))
		if s.depth--; s.depth < 0 {
			return 0, fmt.Errorf("%w: an element is closed that is not open", errXML)
		}
		return closes, nil
	}
	if s.empty = len(tag) > 0 && tag[len(tag)-1] == '/'; s.empty {
		tag = tag[:len(tag)-1]
	}
	end := bytes.IndexAny(tag, " \t\r\n")
	if end < 0 {
		end = len(tag)
	}
	s.name, s.tag = local(tag[:end]), tag[end:]
	if s.depth++; s.depth > deepest {
		return 0, fmt.Errorf("%w: its elements stand too deep", errXML)
	}
	return opens, nil
}

// skip goes on behind the next such end.
func (s *scanner) skip(end string) error { return s.until(end, func([]byte) {}) }

func (s *scanner) until(end string, use func([]byte)) error {
	var held []byte
	for {
		part, err := s.in.ReadSlice(end[len(end)-1])
		held = append(held, part...)
		if bytes.HasSuffix(held, []byte(end)) {
			use(held[:len(held)-len(end)])
			return nil
		}
		if keep := len(end); len(held) > 64<<10 {
			use(held[:len(held)-keep])
			held = append(held[:0], held[len(held)-keep:]...)
		}
		if err != nil && err != bufio.ErrBufferFull {
			return fmt.Errorf("%w: it ends too early", errXML)
		}
	}
}

// attribute is an attribute of the element that was opened, by its name without prefix; ok is false where it has none.
func (s *scanner) attribute(name string) (value string, ok bool) {
	raw, ok := s.raw(name)
	if !ok {
		return "", false
	}
	plain, err := unescaped(append([]byte(nil), raw...))
	return string(plain), err == nil
}

// raw is like attribute, without what stands for other letters, in memory that stands until the next event.
func (s *scanner) raw(name string) ([]byte, bool) {
	rest := s.tag
	for {
		rest = bytes.TrimLeft(rest, " \t\r\n")
		eq := bytes.IndexByte(rest, '=')
		if eq < 0 {
			return nil, false
		}
		here := local(bytes.TrimRight(rest[:eq], " \t\r\n"))
		rest = bytes.TrimLeft(rest[eq+1:], " \t\r\n")
		if len(rest) == 0 || rest[0] != '"' && rest[0] != '\'' {
			return nil, false
		}
		end := bytes.IndexByte(rest[1:], rest[0])
		if end < 0 {
			return nil, false
		}
		if string(here) == name {
			return rest[1 : 1+end], true
		}
		rest = rest[end+2:]
	}
}

// skipElement goes behind the end of the element that was just opened.
func (s *scanner) skipElement() error {
	for depth := s.depth - 1; s.depth > depth; {
		if _, err := s.next(); err != nil {
			return err
		}
	}
	return nil
}

// local is a name without its prefix.
func local(name []byte) []byte { return name[bytes.IndexByte(name, ':')+1:] }

// unescaped puts letters for the five entities and for character references; line ends are LF. Source: XML 1.0, sections 2.11,
// 4.1, 4.6. It works in place.
func unescaped(b []byte) ([]byte, error) {
	if bytes.IndexByte(b, '\r') >= 0 {
		b = bytes.ReplaceAll(bytes.ReplaceAll(b, []byte("\r\n"), []byte("\n")), []byte("\r"), []byte("\n"))
	}
	at := bytes.IndexByte(b, '&')
	if at < 0 {
		return b, nil
	}
	out := b[:at]
	for rest := b[at:]; len(rest) > 0; {
		if rest[0] != '&' {
			end := bytes.IndexByte(rest, '&')
			if end < 0 {
				end = len(rest)
			}
			out, rest = append(out, rest[:end]...), rest[end:]
			continue
		}
		end := bytes.IndexByte(rest[:min(len(rest), 12)], ';')
		if end < 0 {
			return nil, fmt.Errorf("%w: an entity is not closed", errXML)
		}
		r, ok := reference(string(rest[1:end]))
		if !ok {
			return nil, fmt.Errorf("%w: an unknown entity", errXML)
		}
		out, rest = utf8.AppendRune(out, r), rest[end+1:]
	}
	return out, nil
}

func reference(name string) (rune, bool) {
	switch name {
	case "lt":
		return '<', true
	case "gt":
		return '>', true
	case "amp":
		return '&', true
	case "quot":
		return '"', true
	case "apos":
		return '\'', true
	}
	if len(name) < 2 || name[0] != '#' {
		return 0, false
	}
	base, digits := 10, name[1:]
	if digits[0] == 'x' {
		base, digits = 16, digits[1:]
	}
	n, err := strconv.ParseUint(digits, base, 21)
	return rune(n), err == nil && utf8.ValidRune(rune(n))
}
