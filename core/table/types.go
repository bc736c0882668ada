package table

import (
	"slices"
	"strings"
	"time"

	"ambrosa/core/message"
)

// Type is what the cells of an option or attribute are. Values are kept as they are written, whatever their type.
type Type string

const (
	TextType    Type = "text"
	NumberType  Type = "number"
	YesNoType   Type = "yes_no"
	DateType    Type = "date"
	AddressType Type = "address"
	ListType    Type = "list" // several values in a cell
)

// Types are all types, in the order in which they are offered.
var Types = []Type{TextType, NumberType, YesNoType, DateType, AddressType, ListType}

// dates are how dates are written. Sources: ISO 8601, and what is common in the languages whose headers are read (common practice, no
// source).
var dates = []string{time.DateOnly, "2006-01-02 15:04:05", time.RFC3339, "2.1.2006", "2.1.06", "2/1/2006", "1/2/2006", "2-1-2006", "2006/1/2", "2 Jan 2006", "Jan 2, 2006"}

func isDate(s string) bool {
	return slices.ContainsFunc(dates, func(layout string) bool { _, err := time.Parse(layout, s); return err == nil })
}

// listed reports whether a cell holds several values, and which.
func listed(s string) bool { return strings.ContainsAny(s, ";|\n") && !IsAddress(s) }

// fewest is how many cells must agree for a type to be found out.
const fewest = 3

// TypeOf finds out what a column's cells are: what all of its first cells can be. A number with zeros before it is a code, and so a text.
func TypeOf(below []Row, column int) Type {
	held := samples(below, column)
	if len(held) < fewest {
		return TextType
	}
	all := func(is func(string) bool) bool { return count(held, is) == len(held) }
	switch {
	case all(func(s string) bool { return isFlag(s) && len(s) > 1 }):
		return YesNoType
	case all(isDate):
		return DateType
	case all(func(s string) bool {
		_, ok := ReadNumber(s)
		return ok && (len(s) < 2 || s[0] != '0' || s[1] < '0' || s[1] > '9')
	}):
		return NumberType
	case all(IsAddress):
		return AddressType
	case count(held, listed)*2 > len(held):
		return ListType
	}
	return TextType
}

// readTyped checks a cell of an option or attribute against the column's type. It stops no row: the text is kept.
func (c *Checker) readTyped(at cellAt) {
	wrong := ""
	switch c.types[at.column] {
	case NumberType:
		text := at.Text
		if at.Kind == Number && at.Stored != "" {
			text = at.Stored
		}
		if _, ok := ReadNumber(text); !ok {
			wrong = "table_number_unreadable"
		}
	case DateType:
		if at.Kind != Date && !isDate(at.Text) {
			wrong = "table_date_unreadable"
		}
	case YesNoType:
		if at.Kind != Boolean && !isFlag(at.Text) {
			wrong = "table_flag_unreadable"
		}
	case AddressType:
		if why := refused(at.Text); why != "" {
			c.tell(at, AddressRefused, message.New("table_address_refused", "address", at.Text, "why", why))
		}
	}
	if wrong != "" {
		c.tell(at, NumberUnreadable, message.New(wrong, "value", shortened(at.Text)))
	}
}
