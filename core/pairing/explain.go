package pairing

import (
	"strconv"
	"strings"
	"sync"

	"ambrosa/core/names"
)

// explain is one sentence for people: what was met, what was folded, what the name says besides, and what doubt is left.
func explain(r *Reading, doubt string) string {
	if len(r.Folded) == 0 && r.Role == "" && doubt == "" && r.Differs == "" {
		said := saying{r.Fit, r.Field, names.NoNumber}
		if r.Number != nil {
			said.number = *r.Number
		}
		if sentence, often := sayings()[said]; often {
			return sentence
		}
		return said.sentence()
	}
	var b strings.Builder
	b.WriteString(plain[r.Fit])
	b.WriteString(fieldName(r.Field))
	if r.Differs != "" {
		b.WriteString(": ")
		b.WriteString(r.Differs)
	}
	if len(r.Folded) > 0 {
		b.WriteString(", but for ")
		b.WriteString(strings.Join(r.Folded, " and "))
	}
	b.WriteByte('.')
	if r.Number != nil {
		b.WriteString(" Number ")
		b.WriteString(strconv.Itoa(*r.Number))
		b.WriteByte('.')
	}
	if r.Role != "" {
		b.WriteString(" Shows the ")
		b.WriteString(r.Role)
		b.WriteByte('.')
	}
	if doubt != "" {
		b.WriteByte(' ')
		b.WriteString(doubt)
	}
	return b.String()
}

// saying is a reading of which nothing else is to be said.
type saying struct {
	fit    Fit
	field  Field
	number int
}

func (s saying) sentence() string {
	if s.number == names.NoNumber {
		return plain[s.fit] + fieldName(s.field) + "."
	}
	return plain[s.fit] + fieldName(s.field) + ". Number " + strconv.Itoa(s.number) + "."
}

// sayings are those that most names of a delivery share, so that a million of them cost little.
var sayings = sync.OnceValue(func() map[saying]string {
	said := map[saying]string{}
	for fit := range plain {
		for _, field := range []Field{SKU, Barcode, Code, Title} {
			for n := names.NoNumber; n < 100; n++ {
				s := saying{fit, field, n}
				said[s] = s.sentence()
			}
		}
	}
	return said
})

var plain = map[Fit]string{
	Whole:  "The name is the ",
	Within: "The name holds the ",
	Folder: "The folder is the ",
	Part:   "The name is a part of the ",
	Words:  "The name has the words of the ",
	Near:   "The name is nearly the ",
}

// leftOut is how many more owners have the key that a verdict's rivals contest.
func (ix *Index) leftOut(v *verdict) int {
	more := int(ix.more[v.best.key])
	for _, m := range v.rivals {
		more += int(ix.more[m.key])
	}
	return more
}

func sameKey(owners int) string { return strconv.Itoa(owners) + " owners have this key." }
