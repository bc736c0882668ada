package pairing

import (
	"strconv"
	"strings"
)

// explain is one sentence for people: what was met, what was folded, what the name says besides, and what doubt is left.
func explain(r *Reading, doubt string) string {
	if len(r.Folded) == 0 && r.Role == "" && doubt == "" && r.Differs == "" {
		if r.Number == nil {
			return plain[r.Fit] + fieldName(r.Field) + "."
		}
		return plain[r.Fit] + fieldName(r.Field) + ". Number " + strconv.Itoa(*r.Number) + "."
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

var plain = map[Fit]string{
	Whole:  "The name is the ",
	Within: "The name holds the ",
	Folder: "The folder is the ",
	Part:   "The name is a part of the ",
	Words:  "The name has the words of the ",
	Near:   "The name is nearly the ",
}

func sameKey(owners int) string { return strconv.Itoa(owners) + " owners have this key." }
