package pairing

import (
	"slices"
	"strconv"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/names"
)

// Theirs is the field of a supplier's own codes, as a source's cross-reference has them.
const Theirs Field = "theirs"

// Statement is what a list, a page or a code in the photo says of a file: a field's text. By says who says so.
type Statement struct {
	Field Field
	Text  string
	By    string
	Weak  bool // worth a look: what it names is likely at best
	Photo bool // a code in the photo says it; By is what it says
}

// Place is the field of a statement that says at which place among its owner's pictures a file stands.
const Place Field = "number"

// state weighs what is said of a file beside what its name is worth. It is sure where it names one owner; where the name stands for
// another for sure, both compete.
func (s *Study) state(working *hand, file int, c *Claim) {
	if s.skip[file] {
		return
	}
	defer s.place(file, c)
	defer s.inPhoto(working, file, c)
	for _, said := range s.files[file].Said {
		if said.Field == Place || said.Photo {
			continue
		}
		found, _ := s.index.named(working, s.lexicon, said)
		if len(found) == 0 {
			continue
		}
		if len(found) > 1 {
			*c = Claim{Grade: Contested, Candidates: found[:min(len(found), maxSaid)], Doubt: message.New("doubt_said_several", "text", said.Text)}
			return
		}
		one := found[0]
		switch {
		case c.Reading != nil && c.Reading.Owner == one.Owner:
			c.Reading.Said = said.By
			c.Grade, c.Doubt = Sure, message.Message{}
		case c.Grade == Sure && c.Reading != nil && said.Weak: // the name knows better
		case c.Grade == Sure && c.Reading != nil:
			*c = Claim{Grade: Contested, Candidates: []Reading{one, *c.Reading}, Doubt: message.New("doubt_said_differs", "by", said.By, "text", said.Text)}
		default:
			if c.Reading != nil {
				one.Number, one.Role = c.Reading.Number, c.Reading.Role
			}
			*c = Claim{Grade: Sure, Reading: &one}
		}
		return
	}
}

// place takes over at which place a file is said to stand; and what is only worth a look is no more than likely, whatever its name is: who says so
// gave the name, too.
func (s *Study) place(file int, c *Claim) {
	if c.Reading == nil || c.Grade != Sure && c.Grade != Likely {
		return
	}
	for _, said := range s.files[file].Said {
		if said.Weak && c.Grade == Sure {
			c.Grade, c.Doubt = Likely, message.New("doubt_said_weak", "by", said.By)
		}
		if n, err := strconv.Atoi(said.Text); said.Field == Place && err == nil && n > 0 {
			one := *c.Reading
			one.Number = &n
			c.Reading = &one
		}
	}
}

// named are the owners that a statement names, with their places in the index: each reads as a whole key of its field does in a name.
func (ix *Index) named(working *hand, lexicon names.Lexicon, said Statement) (found []Reading, at []int32) {
	text := strings.NewReplacer("/", "-", "\\", "-").Replace(strings.TrimSpace(said.Text))
	n := working.reader.Read(text)
	for _, m := range ix.read(working, n, lexicon) {
		key := &ix.keys[m.key]
		if m.fit != byWhole || m.from != 0 || int(m.to) != len(n.Tokens) || ix.fields[key.field] != said.Field {
			continue
		}
		owner := ix.owners[key.owner].ID
		if slices.ContainsFunc(found, func(r Reading) bool { return r.Owner == owner }) {
			continue
		}
		found = append(found, Reading{Owner: owner, Field: said.Field, Key: ix.text(m.key), Fit: Whole, Score: 1, Said: said.By})
		at = append(at, key.owner)
	}
	return found, at
}

// CodeOf is the code that a name begins with, in the form in which codes are compared: the name less number, role and marks. Empty where it
// holds no digit, as a code mostly does.
func CodeOf(path string) string {
	n := names.Read(path)
	for i := 1; i <= len(n.Tokens); i++ {
		code := n.Tokens[:i]
		if slices.ContainsFunc(code, func(t names.Token) bool { return t.Digits }) && len(names.Trade.ReadTail(n.Path, n.Tokens[i:]).Rest) == 0 {
			return names.Canonical(code)
		}
	}
	return ""
}
