package pairing

import (
	"sync"

	"ambrosa/core/message"
	"ambrosa/core/names"
)

// Why says for people how a name was read: what was met, what differs, what the name says besides, and what doubt is left; or why
// nobody has it. What it returns is shared: nobody changes it.
func (c *Claim) Why() []message.Message {
	switch {
	case c.Reading != nil:
		return explain(c.Reading, c.Doubt)
	case c.Doubt.Code == "" && len(c.Candidates) > 0:
		return append([]message.Message{message.New("nearest_none")}, explain(&c.Candidates[0], c.Doubt)...)
	}
	return []message.Message{c.Doubt}
}

// Lowered is what lowers the grade, in one message: the doubt, or what differs; none where nothing does.
func (c *Claim) Lowered() message.Message {
	if c.Doubt.Code == "" && c.Reading != nil {
		return c.Reading.Differs
	}
	return c.Doubt
}

// Same reports whether two claims show the same.
func (c *Claim) Same(o *Claim) bool {
	a, b := c.Reading, o.Reading
	if c.Grade != o.Grade || !c.Doubt.Same(o.Doubt) || (a == nil) != (b == nil) || a != nil && !a.same(b) ||
		len(c.Candidates) != len(o.Candidates) {
		return false
	}
	for i := range c.Candidates {
		if !c.Candidates[i].same(&o.Candidates[i]) {
			return false
		}
	}
	return true
}

// same compares what a reading is made from and what it shows beside that; its sentences follow from those.
func (r *Reading) same(o *Reading) bool {
	return r.Owner == o.Owner && r.Said == o.Said && r.Photo == o.Photo && r.Slate == o.Slate && r.Field == o.Field && r.Fit == o.Fit && r.Key == o.Key && r.NameSpan == o.NameSpan &&
		r.KeySpan == o.KeySpan && r.Role == o.Role && numberIn(r) == numberIn(o) && r.Differs.Same(o.Differs)
}

// numberIn is the number a name was read for; names.NoNumber where there is none.
func numberIn(r *Reading) int {
	if r.Number == nil {
		return names.NoNumber
	}
	return *r.Number
}

func explain(r *Reading, doubt message.Message) []message.Message {
	if len(r.Folded) == 0 && r.Said == "" && r.Photo == "" && r.Role == "" && doubt.Code == "" && r.Differs.Code == "" {
		if said, often := sayings()[saying{r.Fit, r.Field, numberIn(r)}]; often {
			return said
		}
	}
	var said []message.Message
	if r.Said != "" {
		said = append(said, message.New("said_by", "by", r.Said, "key", r.Key))
	}
	if r.Slate != "" {
		said = append(said, message.New("said_by_slate", "slate", r.Slate, "code", r.Photo))
	} else if r.Photo != "" {
		said = append(said, message.New("said_in_photo", "code", r.Photo))
	}
	if r.Said == "" && r.Photo == "" || !r.NameSpan.Empty() {
		said = append(said, keyMet(r.Fit, r.Field))
	}
	if r.Differs.Code != "" {
		said = append(said, r.Differs)
	}
	for _, code := range r.Folded {
		said = append(said, message.New(code))
	}
	if r.Number != nil {
		said = append(said, message.New("picture_number", "number", *r.Number))
	}
	if r.Role != "" {
		said = append(said, message.New("shows_"+r.Role))
	}
	if doubt.Code != "" {
		said = append(said, doubt)
	}
	return said
}

// keyMet says which key a name was read for and how.
func keyMet(fit Fit, field Field) message.Message {
	switch field {
	case SKU, Barcode, Code, Title, Theirs:
		return message.New("met_" + string(fit) + "_" + string(field))
	}
	return message.New("met_"+string(fit), "field", string(field))
}

// saying is a reading of which nothing else is to be said.
type saying struct {
	fit    Fit
	field  Field
	number int
}

// sayings are those that most names of a delivery share, so that a million of them cost little.
var sayings = sync.OnceValue(func() map[saying][]message.Message {
	all := map[saying][]message.Message{}
	for _, fit := range Fits {
		for _, field := range []Field{SKU, Barcode, Code, Title, Theirs} {
			for n := names.NoNumber; n < 100; n++ {
				said := []message.Message{keyMet(fit, field)}
				if n != names.NoNumber {
					said = append(said, message.New("picture_number", "number", n))
				}
				all[saying{fit, field, n}] = said
			}
		}
	}
	return all
})

// leftOut is how many more owners have the key that a verdict's rivals contest.
func (ix *Index) leftOut(v *verdict) int {
	more := int(ix.more[v.best.key])
	for _, m := range v.rivals {
		more += int(ix.more[m.key])
	}
	return more
}
